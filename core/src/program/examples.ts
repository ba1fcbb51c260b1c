import type { ProgramKind } from "./kinds";

/** A short program to begin with, or to learn from. */
export interface ProgramExample {
  kind: ProgramKind;
  label: string;
  help: string;
  code: string;
}

/** Worked programs; each is compiled by a test and shown in the docs. */
export const PROGRAM_EXAMPLES = {
  rising: {
    kind: "surface",
    label: "Rising hills",
    help: "Hills that wander over the surface and rise with a strand.",
    code: `// What can be set from outside: name, limits, default, unit and help.
uniform float height; // 0 to 0.5, default 0.1: How far the surface rises.
uniform vec3 tint; // colour, default #ff8a5a: Colour of what has risen.
uniform Strand beat; // What makes it rise.

void move(inout Point p) {
  float hills = noiseAt(p.place * 5.0 + time * 0.3);
  p.place += p.normal * height * hills * (0.3 + valueOf(beat));
}

void paint(inout Surface s) {
  float hills = noiseAt(s.place * 5.0 + time * 0.3);
  s.colour = mix(s.colour, tint, hills);
  s.emission = tint * hills * valueOf(beat);
}
`,
  },
  levelBar: {
    kind: "surface",
    label: "Level bar",
    help: "Fills from the foot with a strand, from one colour to another.",
    code: `uniform Strand level; // The strand that fills it.
uniform vec3 low; // colour, default #2f8f83: Colour at the foot.
uniform vec3 high; // colour, default #ffd27a: Colour at the top.
uniform float glow; // 0 to 4, default 1: Light of what is filled.

void paint(inout Surface s) {
  float height = s.place.y + 0.5;
  float filled = step(height, valueOf(level));
  vec3 ink = mix(low, high, height);
  s.colour = mix(s.colour * 0.15, ink, filled);
  s.emission = ink * filled * glow;
}
`,
  },
  peakBars: {
    kind: "surface",
    label: "Bars with peak caps",
    help: "A row of bars by a fan; a cap stays where each bar was highest and falls.",
    code: `uniform Fan bands; // The row that it shows.
uniform int bars; // 4 to 64, default 24: How many bars there are.
uniform float fall; // 0.2 to 4, default 1.2, s: Time in which a cap falls.
uniform vec3 tint; // colour, default #63bdce: Colour of the bars.

void paint(inout Surface s) {
  float at = s.uv.x * float(bars);
  float share = (floor(at) + 0.5) / float(bars);
  float inside = step(abs(fract(at) - 0.5), 0.38);
  float level = bandOf(bands, share);
  float cap = level;
  for (int i = 1; i <= 24; i++) {
    float ago = fall * float(i) / 24.0;
    cap = max(cap, bandBefore(bands, share, ago) - ago / fall);
  }
  float bar = inside * step(s.uv.y, level);
  float line = inside * step(abs(s.uv.y - cap), 0.01);
  s.colour = s.colour * 0.1;
  s.emission = tint * bar + vec3(line);
}
`,
  },
  lastSeconds: {
    kind: "surface",
    label: "Landscape of the last seconds",
    help: "A sheet that rises with a fan, whose past runs away along it.",
    code: `uniform Fan bands; // The row that shapes it.
uniform float height; // 0 to 1, default 0.3: Height of a level of 1.
uniform float lasting; // 0.5 to 10, default 4, s: How much of the past is seen.
uniform vec3 peak; // colour, default #ffcf6b: Colour of peaks.

float levelAt(vec2 uv) {
  return bandBefore(bands, uv.x, (1.0 - uv.y) * lasting);
}

void move(inout Point p) {
  p.place += p.normal * height * levelAt(p.uv);
}

void paint(inout Surface s) {
  float level = levelAt(s.uv);
  s.colour = mix(s.colour * 0.4, peak, level);
  s.emission = peak * level * level * s.uv.y;
}
`,
  },
  spectrumBall: {
    kind: "surface",
    label: "Ball of the spectrum",
    help: "A ball whose surface stands out by the spectrum of a sound, low at the foot.",
    code: `uniform Sound music; // The sound whose spectrum it shows.
uniform float amount; // 0 to 4, default 1: How far it stands out.
uniform vec3 tint; // colour, default #e88bc1: Colour of what stands out.

float levelAt(vec2 uv) {
  // The finer the ripples, the more the ball looks like a burr.
  float ripple = 0.6 + 0.4 * sin(uv.x * 75.4);
  return sqrt(spectrumAt(music, 50.0 * pow(160.0, uv.y))) * ripple;
}

void move(inout Point p) {
  p.place += p.normal * amount * 0.5 * levelAt(p.uv);
}

void paint(inout Surface s) {
  float level = levelAt(s.uv);
  s.colour = mix(s.colour, tint, level);
  s.emission = tint * level * 2.0;
}
`,
  },
  dissolve: {
    kind: "surface",
    label: "Dissolve",
    help: "Eaten away by grains as a strand falls, with a glowing edge.",
    code: `uniform Strand presence; // At 1 all of it is there.
uniform float rest; // 0 to 1, default 0.3: Share that is there in silence.
uniform float grain; // 1 to 30, default 8: How fine it falls apart.
uniform vec3 edge; // colour, default #ff8a3c: Colour of the edge.

void paint(inout Surface s) {
  float there = mix(rest, 1.05, valueOf(presence));
  float left = there - noiseAt(s.place * grain + s.chance * 20.0);
  s.opacity = left > 0.0 ? 1.0 : 0.0;
  s.emission = edge * 3.0 * smoothstep(0.08, 0.0, left);
}
`,
  },
  rings: {
    kind: "surface",
    label: "Rings by frequency",
    help: "Rings about the middle, low ones inside, each as bright as its band.",
    code: `uniform Fan bands; // The row that it shows, its lowest band inside.
uniform float width; // 0.02 to 0.5, default 0.12: Width of the rings.
uniform vec3 inner; // colour, default #ff7a5a: Colour of low bands.
uniform vec3 outer; // colour, default #63bdce: Colour of high bands.

void paint(inout Surface s) {
  float away = length(s.uv - 0.5) * 2.0;
  float ring = floor(away / width);
  float share = (ring + 0.5) * width;
  float line = smoothstep(0.5, 0.38, abs(fract(away / width) - 0.5));
  float level = away < 1.0 ? bandOf(bands, share) : 0.0;
  s.colour *= 0.1;
  s.emission = mix(inner, outer, share) * level * level * line * 2.0;
}
`,
  },
  waveformTube: {
    kind: "surface",
    label: "Waveform tube",
    help: "A tube or long box that swings with the waveform of a sound.",
    code: `uniform Sound music; // The sound that it follows.
uniform float swing; // 0 to 4, default 1: Excursion at full scale.
uniform float span; // 1 to 20, default 12, ms: Length of the sound that is seen at once.

void move(inout Point p) {
  float wave = waveAt(music, (p.uv.x - 0.5) * span);
  // It stays where it is at both ends.
  p.place.y += swing * wave * sin(p.uv.x * 3.14159);
}

void paint(inout Surface s) {
  s.emission += s.colour * abs(waveAt(music, (s.uv.x - 0.5) * span)) * 2.0;
}
`,
  },
  tiles: {
    kind: "surface",
    label: "Tiles by place",
    help: "Tiles that lie still on the stage, each lit by a band of its own.",
    code: `uniform Fan bands; // The row that lights the tiles.
uniform float size; // 0.05 to 2, default 0.25, m: Width of a tile.
uniform int pattern; // scattered | low to high, default scattered: Which band lights which tile.
uniform vec3 tint; // colour, default #ffd27a: Colour of lit tiles.

void paint(inout Surface s) {
  vec3 tile = floor(s.stage / size + 0.001);
  float share = pattern == 0 ? randomAt(tile) : fract(length(tile) * 0.083);
  float level = bandOf(bands, share);
  // Edges along the surface; across it there is only one tile.
  vec3 inside = abs(fract(s.stage / size + 0.001) - 0.5) * step(abs(s.normal), vec3(0.7));
  float line = step(0.47, max(inside.x, max(inside.y, inside.z)));
  s.colour = mix(s.colour, vec3(0.02), line);
  s.emission = tint * level * level * (1.0 - line) * 1.5;
}
`,
  },
} as const satisfies Record<string, ProgramExample>;
export type ProgramExampleName = keyof typeof PROGRAM_EXAMPLES;
