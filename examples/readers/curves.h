/* Reads Bumbrel's baked curves (docs/curves.md): strands at 100 numbers a second, with their cues. C99, no dependencies. */
#ifndef BUMBREL_CURVES_H
#define BUMBREL_CURVES_H
#include <stddef.h>
#include <stdint.h>

typedef struct { double time_s; float strength; } curve_cue;

typedef struct {
  char *id, *name;    /* UTF-8 */
  int width;          /* numbers a frame: 1, or the bands of a fan */
  uint32_t frames;
  float *values;      /* frame after frame, width numbers each */
  float loop_s;       /* seconds after which they repeat; 0 if they do not */
  uint32_t cue_count;
  curve_cue *cues;    /* in order of time */
} curve;

typedef struct { double length_s; int count; curve *curves; } curve_set;

/* 0 when all went well; else *why says what is wrong. Give it back with curves_free. */
int curves_read(const uint8_t *bytes, size_t length, curve_set *out, const char **why);
void curves_free(curve_set *set);
/* The number of a band at a time: a straight line between frames, the ends beyond them, or round again. */
float curve_at(const curve *c, double time_s, int band);
#endif
