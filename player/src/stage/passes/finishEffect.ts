import { BlendFunction, Effect, EffectAttribute } from "postprocessing";
import { type Texture, Uniform, Vector3 } from "three";
import { TONE_MAPPING_CALL, type ToneMappingMode } from "../image/toneMapping";
import type { LensLook } from "../objects/lens";
import { MEAN_LEVEL } from "./meanLightPass";

const SHADER = `
#include <tonemapping_pars_fragment>
uniform float fringing; uniform float vignette; uniform float exposure; uniform float temperature;
uniform sampler2D meanLight; uniform float autoExposure; uniform float saturation; uniform float contrast; uniform vec3 lift; uniform vec3 gamma; uniform vec3 gain;

void mainImage(const in vec4 inputColor, const in vec2 uv, out vec4 outputColor) {
  vec2 away = uv - 0.5;
  vec3 seen = inputColor.rgb;
  if (fringing > 0.0) {
    vec2 apart = away * dot(away, away) * fringing * 0.12;
    seen.r = texture2D(inputBuffer, uv - apart).r;
    seen.b = texture2D(inputBuffer, uv + apart).b;
  }
  if (autoExposure > 0.0) {
    vec2 mean = textureLod(meanLight, vec2(0.5), MEAN_LEVEL).rg;
    seen *= exp2(autoExposure * (log2(MIDDLE_GREY) - mean.r / mean.g));
  }
  seen *= exposure * (1.0 - vignette * smoothstep(0.12, 0.62, dot(away, away) * 1.25));
  // Warmer light has more red and less blue, and as much green.
  seen *= vec3(1.0 + 0.35 * temperature, 1.0, 1.0 - 0.35 * temperature);
  seen = seen * gain + lift * max(vec3(0.0), 1.0 - seen);
  seen = pow(max(seen, vec3(0.0)), 1.0 / gamma);
  seen = 0.18 * pow(seen / 0.18, vec3(contrast));
  float light = dot(seen, vec3(0.2126, 0.7152, 0.0722));
  seen = max(vec3(0.0), mix(vec3(light), seen, saturation));
  outputColor = vec4(TONE_MAPPING(seen), inputColor.a);
}`;

/** Luminance that automatic exposure brings the mean light to. */
const MIDDLE_GREY = 0.18;

/** The lens and the film: fringing, vignette, exposure, grading and tone mapping, in one go. */
export class FinishEffect extends Effect {
  /** @param meanLight  see {@link MeanLightPass} */
  constructor(mode: ToneMappingMode, meanLight: Texture) {
    super("FinishEffect", SHADER.replace("TONE_MAPPING", TONE_MAPPING_CALL[mode]), {
      blendFunction: BlendFunction.SRC,
      attributes: EffectAttribute.CONVOLUTION,
      defines: new Map([
        ["MEAN_LEVEL", MEAN_LEVEL.toFixed(1)],
        ["MIDDLE_GREY", String(MIDDLE_GREY)],
      ]),
      uniforms: new Map<string, Uniform>([
        ["fringing", new Uniform(0)],
        ["vignette", new Uniform(0)],
        ["meanLight", new Uniform(meanLight)],
        ["autoExposure", new Uniform(0)],
        ["exposure", new Uniform(1)],
        ["temperature", new Uniform(0)],
        ["saturation", new Uniform(1)],
        ["contrast", new Uniform(1)],
        ["lift", new Uniform(new Vector3())],
        ["gamma", new Uniform(new Vector3(1, 1, 1))],
        ["gain", new Uniform(new Vector3(1, 1, 1))],
      ]),
    });
  }

  set(look: LensLook): void {
    const { uniforms } = this;
    const set = (key: string, value: number) => {
      uniforms.get(key)!.value = value;
    };
    set("exposure", 2 ** look.exposure);
    for (const key of [
      "autoExposure",
      "fringing",
      "vignette",
      "temperature",
      "saturation",
      "contrast",
    ] as const)
      set(key, look[key]);
    for (const key of ["lift", "gamma", "gain"] as const)
      (uniforms.get(key)!.value as Vector3).copy(look[key]);
  }
}
