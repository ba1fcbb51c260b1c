/* Prints a file of curves: cc -std=c99 -o print print.c curves.c -lm && ./print numbers.curves 0.5 1.25 */
#include "curves.h"
#include <stdio.h>
#include <stdlib.h>

int main(int argc, char **argv) {
  FILE *file = argc > 1 ? fopen(argv[1], "rb") : NULL;
  if (!file) { fprintf(stderr, "give a file of curves, then times in seconds\n"); return 2; }
  fseek(file, 0, SEEK_END);
  long length = ftell(file);
  rewind(file);
  uint8_t *bytes = malloc((size_t)length + 1);
  if (!bytes || fread(bytes, 1, (size_t)length, file) != (size_t)length) return 2;
  fclose(file);
  curve_set set;
  const char *why;
  if (curves_read(bytes, (size_t)length, &set, &why) != 0) { fprintf(stderr, "%s: %s\n", argv[1], why); return 1; }
  for (int i = 0; i < set.count; i++) {
    const curve *c = &set.curves[i];
    printf("%s\t%d\t%u\t%u", c->name, c->width, (unsigned)c->frames, (unsigned)c->cue_count);
    for (int a = 2; a < argc; a++)
      for (int band = 0; band < c->width; band++) printf("\t%.9g", (double)curve_at(c, atof(argv[a]), band));
    for (uint32_t k = 0; k < c->cue_count; k++) printf("\t%.9g:%.9g", c->cues[k].time_s, (double)c->cues[k].strength);
    printf("\n");
  }
  curves_free(&set);
  free(bytes);
  return 0;
}
