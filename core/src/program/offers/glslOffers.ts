import {
  MEMORY_COLUMNS,
  MEMORY_ROWS,
  REMEMBERED_S,
  SPECTRUM_HIGH_HZ,
  SPECTRUM_LOW_HZ,
  WAVE_SAMPLES,
} from "./memory";

/** Something that GLSL programs may use. */
export interface Offer {
  name: string;
  /** How it is declared or called. */
  signature: string;
  /** Meaning, with its unit. */
  help: string;
  /** Its code; none for what the player declares by itself. */
  code?: string;
}

/**
 * Names that GLSL programs of every kind may use, in the order it is declared: the one table that the shader, completion and
 * docs read. Levels are 0 to 1 as the strand shapes them; of spectra they are shares of full scale.
 */
export const GLSL_OFFERS: readonly Offer[] = [
  { name: "time", signature: "float time", help: "Seconds on the tape." },
  {
    name: "valueBefore",
    signature: "float valueBefore(Strand strand, float seconds)",
    help: "The number of a strand as it was up to 10 s ago.",
    code: `float valueBefore(Strand strand, float seconds) {
  return strand < 0 ? 0.0 : numberBefore(strand, seconds);
}`,
  },
  {
    name: "valueOf",
    signature: "float valueOf(Strand strand)",
    help: "The number of a strand now, 0 to 1.",
    code: "float valueOf(Strand strand) { return valueBefore(strand, 0.0); }",
  },
  {
    name: "bandsOf",
    signature: "int bandsOf(Fan fan)",
    help: "How many bands a fan has.",
    code: "int bandsOf(Fan fan) { return fan.y; }",
  },
  {
    name: "bandBefore",
    signature: "float bandBefore(Fan fan, float share, float seconds)",
    help: "A fan’s number as it was up to 10 s ago, from its lowest band at 0 to its highest at 1.",
    code: `float bandBefore(Fan fan, float share, float seconds) {
  if (fan.y < 1) return 0.0;
  float at = clamp(share, 0.0, 1.0) * float(fan.y - 1);
  int low = int(at);
  int high = min(low + 1, fan.y - 1);
  return mix(numberBefore(fan.x + low, seconds), numberBefore(fan.x + high, seconds), fract(at));
}`,
  },
  {
    name: "bandOf",
    signature: "float bandOf(Fan fan, float share)",
    help: "A fan’s number now, from its lowest band at 0 to its highest at 1.",
    code: "float bandOf(Fan fan, float share) { return bandBefore(fan, share, 0.0); }",
  },
  {
    name: "shareAt",
    signature: "float shareAt(Fan fan, float hz)",
    help: "Where a frequency lies among a fan’s bands, 0 to 1.",
    code: `float shareAt(Fan fan, float hz) {
  if (fan.y < 2) return 0.0;
  int low = 0;
  int high = fan.y - 1;
  for (int i = 0; i < 10; i++) {
    int middle = (low + high) / 2;
    if (hzOf(fan.x + middle) > hz) high = middle; else low = middle;
  }
  float from = hzOf(fan.x + low);
  float to = hzOf(fan.x + high);
  float between = to > from ? clamp((hz - from) / (to - from), 0.0, 1.0) : 0.0;
  return (float(low) + between * float(high - low)) / float(fan.y - 1);
}`,
  },
  {
    name: "bandAt",
    signature: "float bandAt(Fan fan, float hz)",
    help: "A fan’s number now at a frequency in Hz.",
    code: "float bandAt(Fan fan, float hz) { return bandBefore(fan, shareAt(fan, hz), 0.0); }",
  },
  {
    name: "spectrumBefore",
    signature: "float spectrumBefore(Sound sound, float hz, float seconds)",
    help: "Level of a sound at a frequency in Hz, as it was up to 10 s ago: a share of full scale.",
    code: `float spectrumBefore(Sound sound, float hz, float seconds) {
  return sound < 0 ? 0.0 : spectrumAtRow(sound, log(max(hz, 1.0) / ${SPECTRUM_LOW_HZ}.0) / log(${SPECTRUM_HIGH_HZ / SPECTRUM_LOW_HZ}.0), seconds);
}`,
  },
  {
    name: "spectrumAt",
    signature: "float spectrumAt(Sound sound, float hz)",
    help: "Level of a sound at a frequency in Hz, now: a share of full scale.",
    code: "float spectrumAt(Sound sound, float hz) { return spectrumBefore(sound, hz, 0.0); }",
  },
  {
    name: "waveAt",
    signature: "float waveAt(Sound sound, float milliseconds)",
    help: "Sample of a sound up to 10 ms before (negative) or after now, −1 to 1.",
    code: `float waveAt(Sound sound, float milliseconds) {
  return sound < 0 ? 0.0 : waveAtSample(sound, milliseconds * 48.0);
}`,
  },
  {
    name: "randomAt",
    signature: "float randomAt(vec3 place)",
    help: "A random number from 0 to 1, always the same at a place.",
    code: `float randomAt(vec3 place) {
  vec3 p = fract(place * vec3(0.1031, 0.1030, 0.0973));
  p += dot(p, p.yxz + 33.33);
  return fract((p.x + p.y) * p.z);
}`,
  },
  {
    name: "noiseAt",
    signature: "float noiseAt(vec3 place)",
    help: "Smooth noise from 0 to 1, with one hill in each unit.",
    code: `float noiseAt(vec3 place) {
  vec3 i = floor(place);
  vec3 f = fract(place);
  f = f * f * (3.0 - 2.0 * f);
  vec2 o = vec2(0.0, 1.0);
  return mix(
    mix(mix(randomAt(i), randomAt(i + o.yxx), f.x), mix(randomAt(i + o.xyx), randomAt(i + o.yyx), f.x), f.y),
    mix(mix(randomAt(i + o.xxy), randomAt(i + o.yxy), f.x), mix(randomAt(i + o.xyy), randomAt(i + o.yyy), f.x), f.y),
    f.z);
}`,
  },
];

/** Reading the textures of numbers, as the functions above do. */
const READING = `
#define Strand int
#define Fan ivec2
#define Sound int
uniform float time;
uniform highp sampler2D numbersMap;
uniform highp sampler2D bandsMap;
uniform highp sampler2D spectrumMap0;
uniform highp sampler2D spectrumMap1;
uniform highp sampler2D wavesMap;
float fourth(vec4 four, int column) { return four[column & 3]; }
float rowBefore(float seconds) { return time * 100.0 - clamp(seconds, 0.0, ${REMEMBERED_S}.0) * 100.0; }
float numberAtRow(int column, int row) {
  return row < 0 ? 0.0 : fourth(texelFetch(numbersMap, ivec2(column >> 2, row & ${MEMORY_ROWS - 1}), 0), column);
}
float numberBefore(int column, float seconds) {
  float at = rowBefore(seconds);
  int row = int(floor(at));
  return mix(numberAtRow(column, row), numberAtRow(column, row + 1), at - float(row));
}
float hzOf(int column) { return fourth(texelFetch(bandsMap, ivec2(column >> 2, 0), 0), column); }
float levelAtRow(int sound, int band, int row) {
  ivec2 at = ivec2(band >> 2, row & ${MEMORY_ROWS - 1});
  if (row < 0) return 0.0;
  return fourth(sound == 0 ? texelFetch(spectrumMap0, at, 0) : texelFetch(spectrumMap1, at, 0), band);
}
float spectrumAtRow(int sound, float share, float seconds) {
  float band = clamp(share, 0.0, 1.0) * ${MEMORY_COLUMNS - 1}.0;
  int low = int(band);
  int high = min(low + 1, ${MEMORY_COLUMNS - 1});
  float at = rowBefore(seconds);
  int row = int(floor(at));
  float before = mix(levelAtRow(sound, low, row), levelAtRow(sound, high, row), fract(band));
  float after = mix(levelAtRow(sound, low, row + 1), levelAtRow(sound, high, row + 1), fract(band));
  return mix(before, after, at - float(row));
}
float sampleIn(int index, int sound) { return fourth(texelFetch(wavesMap, ivec2(index >> 2, sound), 0), index); }
float waveAtSample(int sound, float samples) {
  float at = clamp(samples + ${WAVE_SAMPLES / 2}.0, 0.0, ${WAVE_SAMPLES - 1}.0);
  int low = int(at);
  int high = min(low + 1, ${WAVE_SAMPLES - 1});
  return mix(sampleIn(low, sound), sampleIn(high, sound), fract(at));
}`;

/** All that GLSL programs may use, as GLSL. */
export const GLSL_PRELUDE = [READING, ...GLSL_OFFERS.flatMap(({ code }) => code ?? [])].join("\n");

/** A member of what a function of a program is given. */
export type Member = Omit<Offer, "code">;
const shared: Member[] = [
  {
    name: "place",
    signature: "vec3 place",
    help: "Place in the object; 1 is its whole width, height and depth.",
  },
  { name: "uv", signature: "vec2 uv", help: "Place on the surface, 0 to 1 across and up." },
  { name: "at", signature: "vec3 at", help: "Where this copy stands, in metres." },
  { name: "copy", signature: "int copy", help: "Number of this copy, from 0." },
  { name: "share", signature: "float share", help: "This copy’s place in the row of copies, 0 to 1." },
  { name: "chance", signature: "float chance", help: "A random number of this copy, 0 to 1." },
];
/** Members that `move(inout Point p)` is given; place and normal can be changed. */
export const POINT_MEMBERS: readonly Member[] = [
  ...shared,
  {
    name: "normal",
    signature: "vec3 normal",
    help: "The way the surface faces here; found again after moving unless it is set.",
  },
];
/** Members that `paint(inout Surface s)` is given; the first five can be changed. */
export const SURFACE_MEMBERS: readonly Member[] = [
  { name: "colour", signature: "vec3 colour", help: "Colour in light, linear, 0 to 1." },
  { name: "emission", signature: "vec3 emission", help: "Its own light, linear; above 1 it blooms." },
  { name: "roughness", signature: "float roughness", help: "0 is a mirror, 1 is matte." },
  { name: "metalness", signature: "float metalness", help: "0 is paint, 1 is bare metal." },
  { name: "opacity", signature: "float opacity", help: "0 is invisible, 1 hides what is behind." },
  ...shared,
  { name: "normal", signature: "vec3 normal", help: "The way the surface faces, on the stage." },
  { name: "stage", signature: "vec3 stage", help: "Place on the stage, in metres." },
];
/** The functions that a surface program may define: one of them at least. */
export const SURFACE_FUNCTIONS: readonly Member[] = [
  { name: "move", signature: "void move(inout Point p)", help: "Moves the points of the surface." },
  { name: "paint", signature: "void paint(inout Surface s)", help: "Decides how the surface looks." },
];

/** Names that picture passes may use beside {@link GLSL_OFFERS}. */
export const PASS_OFFERS: readonly Offer[] = [
  {
    name: "pictureAt",
    signature: "vec3 pictureAt(vec2 uv)",
    help: "The picture so far, linear, from 0 to 1 across and up.",
    code: "vec3 pictureAt(vec2 uv) { return texture2D(pictureMap, clamp(uv, vec2(0.0), vec2(1.0))).rgb; }",
  },
  {
    name: "depthAt",
    signature: "float depthAt(vec2 uv)",
    help: "How far away what is seen at a place is, in metres.",
    code: `float depthAt(vec2 uv) {
  float depth = texture2D(depthMap, clamp(uv, vec2(0.0), vec2(1.0))).r;
  return clipRange.x * clipRange.y / max(1e-6, clipRange.y - depth * (clipRange.y - clipRange.x));
}`,
  },
];
/** Members that `paint(inout Pixel p)` of a picture pass is given; the first can be changed. */
export const PIXEL_MEMBERS: readonly Member[] = [
  { name: "colour", signature: "vec3 colour", help: "Colour of the picture, linear, 0 to 1." },
  { name: "uv", signature: "vec2 uv", help: "Place in the picture, 0 to 1 across and up." },
  { name: "size", signature: "vec2 size", help: "Width and height of the picture, in pixels." },
  { name: "depth", signature: "float depth", help: "How far away what is seen here is, in metres." },
];
/** The function that a picture pass defines. */
export const PASS_FUNCTIONS: readonly Member[] = [
  { name: "paint", signature: "void paint(inout Pixel p)", help: "Decides the colour of a pixel." },
];
