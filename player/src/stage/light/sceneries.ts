import { hashed } from "@bumbrel/core/dsp/maths/hash";

type Rgb = readonly [number, number, number];

/** A lamp, window or glow in the surroundings. Angles in degrees: `turn` 0 is behind the viewer's target, 90 right. */
interface Panel {
  turn: number;
  height: number;
  /** Half its width and half its height. */
  wide: number;
  high: number;
  /** Width of its soft edge, as a share of its size. */
  soft: number;
  light: Rgb;
}

/** Surroundings that light a stage: linear light by height, and panels. */
interface Scenery {
  /** Light from straight down (−1) over the horizon (0) to straight up (1), in order. */
  heights: readonly (readonly [at: number, light: Rgb])[];
  panels: readonly Panel[];
}

const lamps = (count: number, seed: number, light: Rgb): Panel[] =>
  Array.from({ length: count }, (_, i) => ({
    turn: 360 * hashed(seed, i),
    height: -1 + 5 * hashed(seed + 1, i),
    wide: 1.2 + 1.6 * hashed(seed + 2, i),
    high: 1.2 + 1.2 * hashed(seed + 3, i),
    soft: 0.6,
    light: light.map((one) => one * (0.4 + 1.2 * hashed(seed + 4, i))) as unknown as Rgb,
  }));

export const SCENERIES = {
  /** Night: a cool sky and a moon, warm lamps along the water and a lit quay. */
  harbour: {
    heights: [
      [-1, [0.02, 0.035, 0.04]],
      [-0.08, [0.05, 0.075, 0.08]],
      [0, [0.3, 0.24, 0.17]],
      [0.12, [0.11, 0.15, 0.19]],
      [0.5, [0.07, 0.11, 0.16]],
      [1, [0.1, 0.15, 0.22]],
    ],
    panels: [
      { turn: -50, height: 48, wide: 16, high: 14, soft: 0.7, light: [5.2, 6.2, 7.4] },
      { turn: 128, height: 24, wide: 26, high: 12, soft: 0.8, light: [4.6, 3.0, 1.5] },
      { turn: -140, height: 12, wide: 30, high: 7, soft: 0.8, light: [2.2, 1.5, 0.9] },
      ...lamps(34, 5, [26, 15, 6]),
    ],
  },
  /** A low sun under a clear sky. */
  dawn: {
    heights: [
      [-1, [0.16, 0.13, 0.12]],
      [-0.05, [0.5, 0.34, 0.28]],
      [0, [1.5, 0.95, 0.68]],
      [0.12, [1.05, 0.78, 0.72]],
      [0.4, [0.5, 0.56, 0.75]],
      [1, [0.25, 0.36, 0.62]],
    ],
    panels: [
      { turn: 60, height: 9, wide: 5, high: 5, soft: 0.5, light: [60, 36, 18] },
      { turn: 60, height: 8, wide: 40, high: 14, soft: 1, light: [2.2, 1.2, 0.6] },
    ],
  },
  /** Soft boxes in a grey room. */
  studio: {
    heights: [
      [-1, [0.1, 0.1, 0.105]],
      [0, [0.22, 0.22, 0.23]],
      [1, [0.36, 0.36, 0.37]],
    ],
    panels: [
      { turn: -55, height: 38, wide: 24, high: 20, soft: 0.25, light: [7.5, 7.3, 7] },
      { turn: 70, height: 22, wide: 12, high: 30, soft: 0.25, light: [4.5, 4.6, 4.8] },
      { turn: 180, height: 15, wide: 34, high: 9, soft: 0.3, light: [3, 3.1, 3.3] },
      { turn: 0, height: 86, wide: 40, high: 20, soft: 0.4, light: [3.2, 3.2, 3.2] },
    ],
  },
  /** A room with lamps under its ceiling and a window in the evening. */
  indoor: {
    heights: [
      [-1, [0.14, 0.09, 0.06]],
      [-0.3, [0.2, 0.14, 0.1]],
      [0.3, [0.34, 0.27, 0.2]],
      [1, [0.55, 0.48, 0.4]],
    ],
    panels: [
      { turn: 30, height: 62, wide: 16, high: 9, soft: 0.5, light: [11, 8, 5] },
      { turn: -120, height: 58, wide: 16, high: 9, soft: 0.5, light: [9, 6.6, 4.2] },
      { turn: -75, height: 14, wide: 20, high: 22, soft: 0.08, light: [2.6, 3.6, 5] },
      { turn: 150, height: 8, wide: 10, high: 12, soft: 0.8, light: [4, 2.6, 1.4] },
    ],
  },
} as const satisfies Record<string, Scenery>;
export type SceneryName = keyof typeof SCENERIES;

const DEGREES = Math.PI / 180;

/** Light that arrives from a direction (a unit vector), as linear RGB written to `out`. */
export function lightFrom(name: SceneryName, x: number, y: number, z: number, out: Float64Array): void {
  const { heights, panels }: Scenery = SCENERIES[name];
  const pitch = Math.asin(Math.min(1, Math.max(-1, y))) / DEGREES;
  const yaw = Math.atan2(x, -z) / DEGREES;
  const at = pitch / 90;
  let i = 0;
  while (i < heights.length - 2 && at > heights[i + 1][0]) i++;
  const [[from, low], [to, high]] = [heights[i], heights[i + 1]];
  const t = Math.min(1, Math.max(0, (at - from) / (to - from)));
  for (let c = 0; c < 3; c++) out[c] = low[c] + (high[c] - low[c]) * t;
  for (const panel of panels) {
    // Near the zenith a turn covers less and less of the way round.
    const across = Math.abs(((yaw - panel.turn + 540) % 360) - 180) * Math.cos(pitch * DEGREES);
    const u = across / panel.wide;
    const v = Math.abs(pitch - panel.height) / panel.high;
    // Round the softer it is, a rectangle the sharper.
    const power = panel.soft > 0.5 ? 2 : 6;
    const away = (u ** power + v ** power) ** (1 / power);
    const cover = 1 - smooth((away - (1 - panel.soft)) / panel.soft);
    if (cover > 0) for (let c = 0; c < 3; c++) out[c] += panel.light[c] * cover;
  }
}

const smooth = (t: number) => {
  const x = Math.min(1, Math.max(0, t));
  return x * x * (3 - 2 * x);
};

/**
 * The whole of a scenery, as a sheet with the way round from left to right and the heights from bottom to top.
 *
 * @returns linear RGBA, `width` × `width / 2` pixels, rows from bottom to top
 */
export function panoramaOf(name: SceneryName, width: number): Float32Array {
  const height = width / 2;
  const out = new Float32Array(width * height * 4);
  const light = new Float64Array(3);
  for (let row = 0; row < height; row++) {
    const pitch = ((row + 0.5) / height - 0.5) * Math.PI;
    for (let column = 0; column < width; column++) {
      // As three.js reads a panorama: u = atan2(z, x) / 2π + ½.
      const angle = ((column + 0.5) / width - 0.5) * 2 * Math.PI;
      const [x, z] = [Math.cos(angle) * Math.cos(pitch), Math.sin(angle) * Math.cos(pitch)];
      lightFrom(name, x, Math.sin(pitch), z, light);
      const at = (row * width + column) * 4;
      out.set(light, at);
      out[at + 3] = 1;
    }
  }
  return out;
}

/**
 * The light of a panorama on matte surfaces, as nine spherical harmonics (Ramamoorthi & Hanrahan 2001).
 *
 * @param pixels  as {@link panoramaOf} gives them
 * @returns 9 × RGB, in the order and with the factors that three.js's light probes have
 */
export function harmonicsOf(pixels: Float32Array, width: number): Float32Array {
  const height = pixels.length / 4 / width;
  const out = new Float32Array(27);
  for (let row = 0; row < height; row++) {
    const pitch = ((row + 0.5) / height - 0.5) * Math.PI;
    const area = ((2 * Math.PI) / width) * (Math.PI / height) * Math.cos(pitch);
    const y = Math.sin(pitch);
    for (let column = 0; column < width; column++) {
      const angle = ((column + 0.5) / width - 0.5) * 2 * Math.PI;
      const [x, z] = [Math.cos(angle) * Math.cos(pitch), Math.sin(angle) * Math.cos(pitch)];
      const basis = [
        0.282095,
        0.488603 * y,
        0.488603 * z,
        0.488603 * x,
        1.092548 * x * y,
        1.092548 * y * z,
        0.315392 * (3 * z * z - 1),
        1.092548 * x * z,
        0.546274 * (x * x - y * y),
      ];
      const at = (row * width + column) * 4;
      for (let k = 0; k < 9; k++) {
        for (let c = 0; c < 3; c++) out[k * 3 + c] += basis[k] * pixels[at + c] * area;
      }
    }
  }
  return out;
}
