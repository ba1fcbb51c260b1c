#include "curves.h"
#include <math.h>
#include <stdlib.h>
#include <string.h>

static uint32_t u16(const uint8_t *b) { return (uint32_t)b[0] | (uint32_t)b[1] << 8; }
static uint32_t u32(const uint8_t *b) { return u16(b) | u16(b + 2) << 16; }
static float f32(const uint8_t *b) { uint32_t bits = u32(b); float f; memcpy(&f, &bits, 4); return f; }
static double f64(const uint8_t *b) {
  uint64_t bits = (uint64_t)u32(b) | (uint64_t)u32(b + 4) << 32;
  double d;
  memcpy(&d, &bits, 8);
  return d;
}
static size_t padded(size_t n) { return (n + 3) / 4 * 4; }

static uint32_t crc32_of(const uint8_t *b, size_t n) {
  uint32_t rest = 0xffffffffu;
  for (size_t i = 0; i < n; i++) {
    rest ^= b[i];
    for (int bit = 0; bit < 8; bit++) rest = rest & 1 ? 0xedb88320u ^ (rest >> 1) : rest >> 1;
  }
  return ~rest;
}
static char *text(const uint8_t *b, size_t n) {
  char *out = malloc(n + 1);
  if (out) { memcpy(out, b, n); out[n] = 0; }
  return out;
}
static int read_block(const uint8_t *b, size_t size, curve *c) {
  if (size < 32) return 1;
  size_t id_n = u16(b + 4), name_n = u16(b + 6), order = u16(b + 10);
  c->width = (int)u16(b + 8);
  c->frames = u32(b + 12);
  c->cue_count = u32(b + 16);
  float low = f32(b + 20), high = f32(b + 24);
  c->loop_s = f32(b + 28);
  size_t at = 32 + padded(id_n + name_n), numbers = (size_t)c->frames * (size_t)c->width;
  if (at + 12 * (size_t)c->cue_count + 2 * numbers > size) return 1;
  c->id = text(b + 32, id_n);
  c->name = text(b + 32 + id_n, name_n);
  c->cues = malloc(sizeof *c->cues * (c->cue_count + 1));
  c->values = malloc(sizeof *c->values * (numbers + 1));
  if (!c->id || !c->name || !c->cues || !c->values) return 1;
  for (uint32_t i = 0; i < c->cue_count; i++, at += 12)
    c->cues[i] = (curve_cue){ f64(b + at), f32(b + at + 8) };
  for (int band = 0; band < c->width; band++, at += 2 * (size_t)c->frames) {
    uint32_t before = 0, before_that = 0; /* all sums are modulo 65536 */
    for (uint32_t f = 0; f < c->frames; f++) {
      uint32_t rest = b[at + f] | (uint32_t)b[at + c->frames + f] << 8;
      uint32_t told = order == 0 ? 0 : order == 1 ? before : 2 * before - before_that;
      uint32_t now = (told + ((rest >> 1) ^ (0u - (rest & 1)))) & 0xffff;
      c->values[(size_t)f * (size_t)c->width + (size_t)band] = (float)(low + ((double)high - low) * now / 65535.0);
      before_that = before;
      before = now;
    }
  }
  return 0;
}
int curves_read(const uint8_t *b, size_t length, curve_set *out, const char **why) {
  memset(out, 0, sizeof *out);
  *why = "this is no file of curves";
  if (length < 24 || memcmp(b, "BMBRLCRV", 8) != 0) return 1;
  *why = "its version is not 1";
  if (u16(b + 8) != 1) return 1;
  *why = "it is cut off or was changed";
  if (crc32_of(b, length - 4) != u32(b + length - 4)) return 1;
  out->count = (int)u16(b + 10);
  out->length_s = f64(b + 12);
  out->curves = calloc((size_t)out->count + 1, sizeof *out->curves);
  if (!out->curves) return 1;
  size_t at = 20, end = length - 4;
  for (int i = 0; i < out->count; i++) {
    size_t size = at + 4 <= end ? u32(b + at) : 0;
    if (size < 32 || size > end - at || read_block(b + at, size, &out->curves[i]) != 0) { curves_free(out); return 1; }
    at += size;
  }
  *why = NULL;
  return 0;
}
void curves_free(curve_set *set) {
  for (int i = 0; set->curves && i < set->count; i++) {
    curve *c = &set->curves[i];
    free(c->id); free(c->name); free(c->values); free(c->cues);
  }
  free(set->curves);
  memset(set, 0, sizeof *set);
}
float curve_at(const curve *c, double time_s, int band) {
  if (c->frames == 0) return 0;
  if (c->loop_s > 0 && time_s > 0) time_s = fmod(time_s, c->loop_s);
  double place = time_s * 100.0, last = (double)c->frames - 1;
  if (!(place > 0)) place = 0;
  if (place > last) place = last;
  size_t frame = (size_t)place, next = frame + 1 < c->frames ? frame + 1 : frame;
  float before = c->values[frame * (size_t)c->width + (size_t)band];
  return before + (c->values[next * (size_t)c->width + (size_t)band] - before) * (float)(place - (double)frame);
}
