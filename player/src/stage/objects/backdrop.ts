import { settingOf } from "@bumbrel/core/kinds/table";
import type { ColourStop } from "@bumbrel/core/setting/descriptor";
import { Color, Mesh, PlaneGeometry, ShaderMaterial, Texture } from "three";
import { rampTexture } from "../copyMaterial";
import { lightShownAs, type ToneMappingMode } from "../image/toneMapping";
import {
  type Frame,
  numberAt,
  type ObjectSource,
  partsOfReadings,
  type RenderedObject,
} from "../renderedObject";

export interface Backdrop extends RenderedObject {
  /** Light of the horizon: what far things fade into. */
  horizon: Color;
  /** Luminance of the brightest of its colours, clouds and stars aside; 0 where it is drawn as bright as it is set. */
  brightest(): number;
}

const COLOURS = ["top", "horizon", "bottom", "cloudColour"] as const;
const SKY_COLOURS = ["top", "horizon", "bottom"] as const;
const luminance = (r: number, g: number, b: number) => 0.2126 * r + 0.7152 * g + 0.0722 * b;
const NUMBERS = ["horizonSpread", "stars", "twinkle", "clouds", "cloudSize"] as const;
const RAMP_STEPS = 256;

const FRAGMENT = `
uniform vec3 top; uniform vec3 horizon; uniform vec3 bottom; uniform vec3 cloudColour; uniform sampler2D ramp;
uniform sampler2D backdrop; uniform float pictureAmount; uniform float pictureAspect; uniform float screenAspect;
uniform float horizonSpread; uniform float stars; uniform float twinkle; uniform float clouds; uniform float cloudSize;
uniform float cloudShift; uniform float timeS; uniform float seed;
varying vec2 place; varying vec3 way;

float grain(vec2 p) { return fract(sin(dot(p, vec2(12.9898, 78.233))) * 43758.5453); }
vec3 chance3(vec3 p) {
  p = fract(p * vec3(0.1031, 0.1030, 0.0973) + seed * 0.013);
  p += dot(p, p.yxz + 33.33);
  return fract((p.xxy + p.yxx) * p.zyx);
}
float noise(vec2 p) {
  vec2 i = floor(p); vec2 f = fract(p); f = f * f * (3.0 - 2.0 * f);
  float a = chance3(vec3(i, 1.0)).x; float b = chance3(vec3(i + vec2(1.0, 0.0), 1.0)).x;
  float c = chance3(vec3(i + vec2(0.0, 1.0), 1.0)).x; float d = chance3(vec3(i + vec2(1.0, 1.0), 1.0)).x;
  return mix(mix(a, b, f.x), mix(c, d, f.x), f.y);
}

#ifdef SKY
/** Points of light, no smaller than a pixel: smaller ones would come and go as the camera moves. */
vec3 starsAt(vec3 dir) {
  vec3 p = dir * 70.0;
  float pixel = length(fwidth(p));
  vec3 cell = floor(p);
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 8; i++) {
    vec3 at = cell + vec3(float(i & 1), float((i >> 1) & 1), float(i >> 2)) - step(fract(p), vec3(0.5));
    vec3 chance = chance3(at);
    if (chance.x > stars * 0.35) continue;
    vec3 star = at + 0.2 + 0.6 * chance3(at + 7.7);
    float size = 0.05 + 0.07 * chance.y * chance.y;
    float shown = max(size, 0.75 * pixel);
    float light = smoothstep(shown, 0.0, length(p - star)) * (size / shown) * (size / shown);
    float shimmer = 1.0 - twinkle * (0.5 + 0.5 * sin(timeS * (1.5 + 4.0 * chance.z) + 40.0 * chance.y));
    sum += light * shimmer * (0.4 + 2.2 * chance.y * chance.y) * mix(vec3(1.0, 0.85, 0.7), vec3(0.75, 0.87, 1.0), chance.z);
  }
  return sum;
}
float cloudsAt(vec3 dir) {
  vec2 p = dir.xz / (dir.y + 0.16) * 1.6 / cloudSize + vec2(cloudShift, cloudShift * 0.35);
  float sum = 0.0; float share = 0.5;
  for (int i = 0; i < 5; i++) { sum += share * noise(p); p = p * 2.03 + 17.3; share *= 0.5; }
  float from = 1.0 - clouds * 0.85;
  return smoothstep(from * 0.72, from * 0.72 + 0.34, sum) * smoothstep(0.01, 0.16, dir.y);
}
#endif

void main() {
#ifdef SKY
  vec3 dir = normalize(way);
  float up = asin(clamp(dir.y, -1.0, 1.0)) / 1.5707963;
#ifdef RAMP
  vec3 colour = texture2D(ramp, vec2(up * 0.5 + 0.5, 0.5)).rgb;
#else
  vec3 colour = mix(horizon, up > 0.0 ? top : bottom, 1.0 - exp(-3.0 * abs(up) / horizonSpread));
#endif
  float cover = clouds > 0.0 ? cloudsAt(dir) : 0.0;
  if (stars > 0.0 && up > 0.0) colour += starsAt(dir) * smoothstep(0.0, 0.18, up) * (1.0 - 0.9 * cover);
  colour = mix(colour, cloudColour, cover * 0.85);
#else
#ifdef RAMP
  vec3 colour = texture2D(ramp, vec2(place.y, 0.5)).rgb;
#else
  vec3 colour = mix(bottom, top, smoothstep(0.25, 1.0, place.y));
#endif
#endif
  if (pictureAmount > 0.0) {
    vec2 fit = screenAspect > pictureAspect ? vec2(1.0, pictureAspect / screenAspect) : vec2(screenAspect / pictureAspect, 1.0);
    vec4 seen = texture2D(backdrop, (place - 0.5) * fit + 0.5);
    colour = mix(colour, seen.rgb, seen.a * pictureAmount);
  }
  gl_FragColor = vec4(colour, 1.0);
  #include <tonemapping_fragment>
  #include <colorspace_fragment>
  // A grain finer than one step of the screen keeps dark gradients from showing bands.
  gl_FragColor.rgb += (grain(gl_FragCoord.xy) - 0.5) * GRAIN;
}`;

const VERTEX = `
varying vec2 place; varying vec3 way;
void main() {
  place = uv;
  gl_Position = vec4(position.xy, 1.0, 1.0);
  // Direction of this corner of the image: also for cameras of mirrors, whose images are skewed.
  vec3 seen = vec3((position.x + projectionMatrix[2][0]) / projectionMatrix[0][0], (position.y + projectionMatrix[2][1]) / projectionMatrix[1][1], -1.0);
  way = transpose(mat3(viewMatrix)) * seen;
}`;

/**
 * A sheet behind everything that fills the image: a sky or a gradient, with an image over it. Its colours are seen as
 * they are set: it is drawn in the light that tone mapping will show as them.
 */
export function makeBackdrop(source: ObjectSource): Backdrop {
  const { object } = source;
  const toneMapping = (): ToneMappingMode => {
    const lens = source.state.plan.plans.find((plan) => plan.object.kind === "lens");
    return lens ? (settingOf(lens.object, "toneMapping") as ToneMappingMode) : "neutral";
  };
  const id = settingOf(object, "hasPicture") ? settingOf(object, "pictureId") : null;
  const texture = typeof id === "string" ? source.assets.picture(id, false) : undefined;
  const image = texture?.image as { width: number; height: number } | undefined;
  const stops =
    settingOf(object, "colours") === "stops" ? (settingOf(object, "gradient") as ColourStop[]) : undefined;
  const isSky = settingOf(object, "fixedTo") === "sky";
  const ramp = stops && rampTexture(stops);
  const colours = Object.fromEntries(COLOURS.map((key) => [key, new Color()])) as Record<
    (typeof COLOURS)[number],
    Color
  >;
  const uniforms: Record<string, { value: unknown }> = {
    ...Object.fromEntries(COLOURS.map((key) => [key, { value: colours[key] }])),
    ...Object.fromEntries(NUMBERS.map((key) => [key, { value: 0 }])),
    ramp: { value: ramp ?? new Texture() },
    backdrop: { value: texture ?? new Texture() },
    pictureAmount: { value: 0 },
    pictureAspect: { value: image ? image.width / image.height : 1 },
    screenAspect: { value: 1 },
    cloudShift: { value: 0 },
    timeS: { value: 0 },
    seed: { value: settingOf(object, "seed") as number },
  };
  const material = new ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    defines: { ...(isSky && { SKY: "" }), ...(ramp && { RAMP: "" }), GRAIN: "0.0039" },
    uniforms,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
  });
  const geometry = new PlaneGeometry(2, 2);
  const root = new Mesh(geometry, material);
  root.frustumCulled = false;
  root.renderOrder = -1000;
  /** Colours as they are set, and what was last computed for them. */
  const set = new Float64Array(COLOURS.length * 3).fill(-1);
  let mode: ToneMappingMode | undefined;
  let amount = 1;
  const follow = (frame: Frame) => {
    const now = toneMapping();
    const isOther = now !== mode;
    mode = now;
    COLOURS.forEach((key, i) => {
      const [r, g, b] = [0, 1, 2].map((axis) => numberAt(source, frame, key, axis));
      if (!isOther && set[i * 3] === r && set[i * 3 + 1] === g && set[i * 3 + 2] === b) return;
      set.set([r, g, b], i * 3);
      colours[key].setRGB(...lightShownAs([r, g, b], now));
    });
    if (stops && ramp && isOther) shiftRamp(ramp.image.data as Float32Array, stops, now);
    if (ramp && isOther) ramp.needsUpdate = true;
  };
  const horizonOf = () => {
    if (ramp) colours.horizon.fromArray(ramp.image.data as Float32Array, (RAMP_STEPS / 2) * 4);
    return colours.horizon;
  };
  const read = (): Record<string, number | number[]> => ({
    ...Object.fromEntries(COLOURS.map((key, i) => [key, [...set.subarray(i * 3, i * 3 + 3)]])),
    ...Object.fromEntries(NUMBERS.map((key) => [key, uniforms[key].value as number])),
    cloudSpeed: uniforms.cloudShift.value as number,
    pictureAmount: amount,
  });
  const brightest = () => {
    if (mode !== "filmic") return 0;
    if (!ramp)
      return Math.max(...SKY_COLOURS.map((key) => luminance(colours[key].r, colours[key].g, colours[key].b)));
    const { data } = ramp.image as { data: Float32Array };
    let most = 0;
    for (let i = 0; i < data.length; i += 4)
      most = Math.max(most, luminance(data[i], data[i + 1], data[i + 2]));
    return most;
  };
  return {
    root,
    horizon: colours.horizon,
    brightest,
    update(frame) {
      follow(frame);
      horizonOf();
      for (const key of NUMBERS) uniforms[key].value = numberAt(source, frame, key);
      uniforms.timeS.value = frame.timeS;
      const { plan, state } = source;
      if (plan.at.cloudSpeed) {
        uniforms.cloudShift.value =
          0.05 * (state.simulation.integralAt(plan.at.cloudSpeed, frame.timeS, frame.values) % 20_000);
      }
      amount = numberAt(source, frame, "pictureAmount");
      uniforms.pictureAmount.value = texture ? amount : 0;
      uniforms.screenAspect.value = (frame.camera as { aspect?: number }).aspect ?? 1;
    },
    read: (property) => read()[property],
    drawnParts: () => partsOfReadings(read()),
    dispose() {
      geometry.dispose();
      material.dispose();
      ramp?.dispose();
    },
  };
}

/** Replaces the colours of a gradient by the light that is shown as them. */
function shiftRamp(data: Float32Array, stops: readonly ColourStop[], mode: ToneMappingMode): void {
  const fresh = rampTexture(stops).image.data as Float32Array;
  for (let i = 0; i < fresh.length; i += 4) {
    data.set(lightShownAs([fresh[i], fresh[i + 1], fresh[i + 2]], mode), i);
  }
}
