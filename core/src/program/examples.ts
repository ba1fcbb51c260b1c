import type { ProgramKind } from "./kinds";

/** A short program to begin with, or to learn from. */
export interface ProgramExample {
  kind: ProgramKind;
  label: string;
  help: string;
  /** A number that listens to a sound instead of being made of other strands. */
  hearsSound?: true;
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
  kaleidoscope: {
    kind: "pass",
    label: "Kaleidoscope",
    help: "Folds the picture into mirrored slices that turn with a strand.",
    code: `uniform int slices; // 2 to 24, default 6: How many mirrored slices there are.
uniform float angle; // -180 to 180, default 0, °: How far they are turned.
uniform float turn; // 0 to 180, default 40, °: How far the strand turns them.
uniform Strand beat; // What turns them.

void paint(inout Pixel p) {
  vec2 wide = vec2(p.size.x / p.size.y, 1.0);
  vec2 away = (p.uv - 0.5) * wide;
  float slice = 6.28319 / float(slices);
  float around = atan(away.y, away.x) + radians(angle + turn * valueOf(beat));
  around = abs(mod(around, slice) - 0.5 * slice);
  vec2 seen = length(away) * vec2(cos(around), sin(around)) / wide + 0.5;
  // Beyond an edge the picture is seen in a mirror.
  p.colour = pictureAt(abs(mod(seen + 1.0, 2.0) - 1.0));
}
`,
  },
  fringes: {
    kind: "pass",
    label: "Fringes on hits",
    help: "Pulls red and blue apart where a strand rises, more towards the edges.",
    code: `uniform float reach; // 0 to 0.1, default 0.03: How far apart they are at a full hit.
uniform float scan; // 0 to 1, default 0.25: Depth of the lines.
uniform Strand beat; // What pulls them apart.

void paint(inout Pixel p) {
  float hit = valueOf(beat);
  vec2 apart = (p.uv - 0.5) * reach * hit * 2.0;
  vec3 seen = vec3(pictureAt(p.uv - apart).r, p.colour.g, pictureAt(p.uv + apart).b);
  float line = 0.5 + 0.5 * sin(p.uv.y * p.size.y * 1.5708);
  p.colour = seen * (1.0 - scan * hit * line);
}
`,
  },
  filledSpectrum: {
    kind: "drawing",
    label: "Filled spectrum",
    help: "The spectrum of a sound as a filled hill, with the peaks of the last second above it.",
    code: `interface Exposed {
  music: Sound; // The sound that it shows.
  low: number; // 20 to 1000, default 40, Hz: Frequency at the left.
  high: number; // 1000 to 20000, default 12000, Hz: Frequency at the right.
  foot: Colour; // default #1d6f76: Colour at the foot.
  top: Colour; // default #ffcf6b: Colour at the top.
}

function draw(canvas: Canvas, frame: Frame, set: Exposed) {
  const { width, height } = frame;
  const points = 128;
  const hzAt = (share: number) => set.low * (set.high / set.low) ** share;
  // 60 dB from the foot to the top.
  const heightOf = (level: number) => height * clamp(1 + (20 * Math.log10(level + 1e-9)) / 60, 0, 1);

  const hill = canvas.createLinearGradient(0, height, 0, 0);
  hill.addColorStop(0, set.foot);
  hill.addColorStop(1, set.top);
  canvas.fillStyle = hill;
  canvas.beginPath();
  canvas.moveTo(0, height);
  for (let i = 0; i <= points; i++) {
    canvas.lineTo((i / points) * width, height - heightOf(set.music.level(hzAt(i / points))));
  }
  canvas.lineTo(width, height);
  canvas.fill();

  canvas.strokeStyle = set.top;
  canvas.lineWidth = 2;
  canvas.beginPath();
  for (let i = 0; i <= points; i++) {
    let peak = 0;
    for (let ago = 0; ago <= 1; ago += 0.25) peak = Math.max(peak, set.music.level(hzAt(i / points), ago) * (1 - ago));
    canvas.lineTo((i / points) * width, height - heightOf(peak));
  }
  canvas.stroke();
}
`,
  },
  cornerBoxes: {
    kind: "drawing",
    label: "Nested boxes from a corner",
    help: "Boxes inside each other, one for each band, that grow from a corner.",
    code: `interface Exposed {
  bands: Fan; // The row that it shows, its lowest band outside.
  boxes: Whole; // 2 to 32, default 10: How many boxes there are.
  ink: Colour; // default #ffd27a: Colour of the lines.
  line: number; // 0.5 to 20, default 4: Width of the lines, in pixels.
}

function draw(canvas: Canvas, frame: Frame, set: Exposed) {
  const { width, height } = frame;
  canvas.strokeStyle = set.ink;
  canvas.lineWidth = set.line;
  for (let i = 0; i < set.boxes; i++) {
    const share = i / Math.max(1, set.boxes - 1);
    const level = set.bands.at(share);
    const size = mix(1, 0.12, share) * mix(0.55, 1, level);
    canvas.globalAlpha = mix(0.25, 1, level);
    canvas.strokeRect(set.line, height - set.line, (width - 2 * set.line) * size, -(height - 2 * set.line) * size);
  }
}
`,
  },
  clockHands: {
    kind: "drawing",
    label: "Hits around a dial",
    help: "A hand goes round; each hit of a strand leaves a dot, which fades with the past.",
    code: `interface Exposed {
  beat: Strand; // What leaves dots.
  seconds: number; // 1 to 30, default 8, s: Time for one turn.
  ink: Colour; // default #ffb85c: Colour of the dots.
}

function draw(canvas: Canvas, frame: Frame, set: Exposed) {
  const { width, height, memory, time } = frame;
  const size = Math.min(width, height) / 2;
  const angle = ((time / set.seconds) % 1) * 2 * Math.PI - Math.PI / 2;
  const level = set.beat.value;
  // A hit is where it rises past a half.
  const isHit = level > 0.5 && !memory.wasHigh;
  memory.wasHigh = level > 0.4;
  memory.size = Math.max((memory.size ?? 0) * 0.9, isHit ? level : 0);

  canvas.translate(width / 2, height / 2);
  canvas.fillStyle = set.ink;
  canvas.beginPath();
  canvas.arc(Math.cos(angle) * size * 0.8, Math.sin(angle) * size * 0.8, size * (0.02 + 0.16 * memory.size), 0, 2 * Math.PI);
  canvas.fill();
}
`,
  },
  talkingMouth: {
    kind: "drawing",
    label: "Talking mouth",
    help: "A mouth that opens with the level of a voice and grows wide with its hiss.",
    code: `interface Exposed {
  voice: Strand; // Opens it: the level of a voice from 150 to 4000 Hz.
  hiss: Strand; // Draws it wide, as s and f do: the level from 4 to 10 kHz.
  open: number; // 0.1 to 1, default 0.7: How far it opens at a full level.
  smile: number; // -1 to 1, default 0.25: How far its corners stand up.
  lips: Colour; // default #b5483f: Colour of the lips.
  inside: Colour; // default #2a0d10: Colour behind the teeth.
}

function draw(canvas: Canvas, frame: Frame, set: Exposed) {
  const { width, height } = frame;
  const size = Math.min(width, height);
  const hiss = set.hiss.value;
  // A hiss is made with the teeth nearly closed.
  const open = set.open * set.voice.value * (1 - 0.6 * hiss);
  const across = size * mix(0.3, 0.42, hiss) * (1 - 0.25 * open);
  const down = size * 0.36 * open;
  const lift = -size * 0.12 * set.smile;
  const mouth = (more: number) => {
    canvas.beginPath();
    canvas.moveTo(-across - more, lift);
    canvas.bezierCurveTo(-across * 0.5, -down * 0.7 - more, across * 0.5, -down * 0.7 - more, across + more, lift);
    canvas.bezierCurveTo(across * 0.5, down + size * 0.04 + more, -across * 0.5, down + size * 0.04 + more, -across - more, lift);
    canvas.closePath();
  };
  canvas.translate(width / 2, height / 2);
  mouth(size * 0.05);
  canvas.fillStyle = set.lips;
  canvas.fill();
  mouth(0);
  canvas.fillStyle = set.inside;
  canvas.fill();
  canvas.clip();
  canvas.fillStyle = "#c9676a";
  canvas.beginPath();
  canvas.ellipse(0, down * 0.95 + size * 0.03, across * 0.6, size * 0.12 * open + size * 0.01, 0, 0, 2 * Math.PI);
  canvas.fill();
  canvas.fillStyle = "#f2ead8";
  canvas.fillRect(-across, -down * 0.7 - size * 0.04, across * 2, size * (0.03 + 0.07 * Math.min(1, open * 3)));
}
`,
  },
  barCounter: {
    kind: "number",
    label: "Bar counter",
    help: "Counts the hits of a strand and rises by a step with each; starts over after so many.",
    code: `interface Exposed {
  beats: Whole; // 1 to 16, default 4: Hits in a bar.
  bars: Whole; // 1 to 32, default 4: Bars until it starts over.
  mark: number; // 0 to 1, default 0.5: A hit is where the strand rises past this.
}

// Make it of one strand: the kick, or a clock's beats.
function next(moment: Moment, set: Exposed) {
  const { memory, strands } = moment;
  const level = strands[0]?.value ?? 0;
  if (level > set.mark && !memory.wasHigh) memory.hits = (memory.hits ?? 0) + 1;
  memory.wasHigh = level > set.mark * 0.8;
  const bar = Math.floor(Math.max(0, (memory.hits ?? 0) - 1) / set.beats);
  return (bar % set.bars) / Math.max(1, set.bars - 1);
}
`,
  },
  pitchClasses: {
    kind: "number",
    label: "Twelve pitch classes",
    hearsSound: true,
    help: "A fan of the notes C to B, each the sum of its octaves, against the strongest.",
    code: `interface Exposed {
  low: Whole; // 1 to 8, default 3: Lowest octave that counts.
  high: Whole; // 1 to 8, default 6: Highest octave that counts.
}

const bands = 12;
// A4 is 440 Hz, and the ninth note above C4; these are C0 to B0.
const lowest = Array.from({ length: bands }, (_, note) => 440 * 2 ** ((note - 9) / 12 - 4));

// Let it listen to a sound.
function next(moment: Moment, set: Exposed) {
  const { sound } = moment;
  let strongest = 0;
  const classes = lowest.map((first) => {
    let sum = 0;
    let hz = first * 2 ** set.low;
    for (let octave = set.low; octave <= set.high; octave++, hz *= 2) {
      const level = sound.level(hz);
      sum += level * level;
    }
    if (sum > strongest) strongest = sum;
    return sum;
  });
  // Below -60 dB it is silent.
  return classes.map((sum) => (strongest > 1e-6 ? Math.sqrt(sum / strongest) : 0));
}
`,
  },
} as const satisfies Record<string, ProgramExample>;
export type ProgramExampleName = keyof typeof PROGRAM_EXAMPLES;
