import { ShaderChunk } from "three";

export type ToneMappingMode = "filmic" | "neutral";

/**
 * Light above 1 grows with the logarithm only, all three colours alike: a red glow stays red, however strong it is.
 */
const KEEP_HUE = `
vec3 keepHue(vec3 colour) {
  float peak = max(colour.r, max(colour.g, colour.b));
  return peak > 1.0 ? colour * ((1.0 + 1.2 * log(peak)) / peak) : colour;
}`;

// three.js leaves this function to whoever uses it; its own ones, which it calls, come before it.
const EMPTY = "vec3 CustomToneMapping( vec3 color ) { return color; }";
ShaderChunk.tonemapping_pars_fragment = ShaderChunk.tonemapping_pars_fragment.replace(
  EMPTY,
  `${KEEP_HUE}
vec3 CustomToneMapping(vec3 color) { return AgXToneMapping(keepHue(color * toneMappingExposure) / toneMappingExposure); }`,
);

/** The function of each mode in three.js's shaders. */
export const TONE_MAPPING_CALL: Record<ToneMappingMode, string> = {
  filmic: "CustomToneMapping",
  neutral: "NeutralToneMapping",
};

type Rgb = [number, number, number];
const times = (m: readonly number[], [x, y, z]: Rgb): Rgb => [
  m[0] * x + m[3] * y + m[6] * z,
  m[1] * x + m[4] * y + m[7] * z,
  m[2] * x + m[5] * y + m[8] * z,
];
// AgX as three.js has it, by Troy Sobotka and Benjamin Wrensch; matrices column by column.
const TO_REC2020 = [0.6274, 0.0691, 0.0164, 0.3293, 0.9195, 0.088, 0.0433, 0.0113, 0.8956];
const FROM_REC2020 = [1.6605, -0.1246, -0.0182, -0.5876, 1.1329, -0.1006, -0.0728, -0.0083, 1.1187];
const INSET = [
  0.856627153315983, 0.137318972929847, 0.11189821299995, 0.0951212405381588, 0.761241990602591,
  0.0767994186031903, 0.0482516061458583, 0.101439036467562, 0.811302368396859,
];
const OUTSET = [
  1.1271005818144368, -0.1413297634984383, -0.14132976349843826, -0.11060664309660323, 1.157823702216272,
  -0.11060664309660294, -0.016493938717834573, -0.016493938717834257, 1.2519364065950405,
];
const [MIN_EV, MAX_EV] = [-12.47393, 4.026069];

function contrast(x: number): number {
  const x2 = x * x;
  const x4 = x2 * x2;
  return 15.5 * x4 * x2 - 40.14 * x4 * x + 31.96 * x4 - 6.868 * x2 * x + 0.4298 * x2 + 0.1191 * x - 0.00232;
}

/** AgX of linear RGB, as the shader computes it, for light up to 1. */
function agx(colour: Rgb): Rgb {
  const curved = times(INSET, times(TO_REC2020, colour)).map((one) => {
    const ev = Math.log2(Math.max(one, 1e-10));
    return contrast(Math.min(1, Math.max(0, (ev - MIN_EV) / (MAX_EV - MIN_EV))));
  }) as Rgb;
  const shown = times(OUTSET, curved).map((one) => Math.max(0, one) ** 2.2) as Rgb;
  return times(FROM_REC2020, shown).map((one) => Math.min(1, Math.max(0, one))) as Rgb;
}

/** Steps of the search for the light that is shown as a colour. */
const SEARCH_STEPS = 24;
const LEAST = 1e-5;

/**
 * The light that tone mapping shows as a colour: what is to be seen in the very colours it has is drawn in this.
 *
 * @param shown  linear RGB, 0..1
 */
export function lightShownAs(shown: Readonly<Rgb>, mode: ToneMappingMode): Rgb {
  if (mode === "neutral") {
    const least = Math.min(...shown);
    const added = (least < 0.04 ? 0.4 * Math.sqrt(least) : least + 0.04) - least;
    return [shown[0] + added, shown[1] + added, shown[2] + added];
  }
  const light: Rgb = [shown[0], shown[1], shown[2]];
  for (let step = 0; step < SEARCH_STEPS; step++) {
    const now = agx(light);
    for (let i = 0; i < 3; i++) {
      light[i] = Math.min(16, Math.max(LEAST, light[i] * ((shown[i] + LEAST) / (now[i] + LEAST)) ** 0.8));
    }
  }
  return light;
}

/** For tests: AgX as computed here. */
export const filmicOf = agx;
