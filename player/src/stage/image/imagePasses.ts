import { LENS_NEUTRAL } from "@bumbrel/core/kinds/always";
import {
  BlendFunction,
  BloomEffect,
  DepthOfFieldEffect,
  EffectComposer,
  EffectPass,
  LUT3DEffect,
  type Pass,
  RenderPass,
  SMAAEffect,
  SMAAPreset,
} from "postprocessing";
import {
  type Data3DTexture,
  HalfFloatType,
  type PerspectiveCamera,
  type Scene,
  Vector3,
  type WebGLRenderer,
} from "three";
import type { LensLook } from "../objects/lens";
import { DifferencePass } from "../passes/differencePass";
import { FeedbackPass } from "../passes/feedbackPass";
import { FinishEffect } from "../passes/finishEffect";
import { LayerPass } from "../passes/layerPass";
import { MeanLightPass } from "../passes/meanLightPass";
import { SoftPass } from "../passes/softPass";
import type { ImageLayer } from "./imageLayer";
import type { OcclusionPass } from "./occlusion";
import { type DrawnStep, QUALITY } from "./quality";
import type { ToneMappingMode } from "./toneMapping";

/** Selects the passes that are made; each can still be switched off from frame to frame. */
export interface PassChoice {
  quality: DrawnStep;
  toneMapping: ToneMappingMode;
  /** Maps colours at the end. */
  lut: Data3DTexture | undefined;
  hasDifference: boolean;
  hasSoft: boolean;
  hasOcclusion: boolean;
  hasFocus: boolean;
  /** Layers over the finished image, in order. */
  layers: readonly ImageLayer[];
}

const NO_EFFECTS: Partial<LensLook> = (() => {
  const { lift, gamma, gain, ...numbers } = LENS_NEUTRAL;
  return {
    ...numbers,
    occlusion: 0,
    lift: new Vector3(lift, lift, lift),
    gamma: new Vector3(gamma, gamma, gamma),
    gain: new Vector3(gain, gain, gain),
  };
})();

/** Bloom of the library is weaker than the light it is made from. */
const BLOOM_STRENGTH = 1.6;
/** Sizes of the image that bloom is blurred in, each half the one before, where the image has so many. */
const BLOOM_LEVELS = 7;
/** Blur of what is out of focus at a defocus of 1, in pixels of an image 1080 pixels high. */
const MOST_BLUR = 12;
const BLUR_HEIGHT = 1080;

/** The passes an image goes through: occlusion, soft particles, difference, focus, bloom, feedback, mean light, finish, layers. */
export class ImagePasses {
  readonly feedback = new FeedbackPass();
  private readonly composer: EffectComposer;
  private readonly occlusion: OcclusionPass | undefined;
  private readonly focus: { pass: EffectPass; effect: DepthOfFieldEffect } | undefined;
  private readonly bloom: { pass: EffectPass; effect: BloomEffect };
  private readonly meanLight: MeanLightPass;
  private readonly finish: FinishEffect;
  private readonly lut: LUT3DEffect | undefined;
  private readonly last: Pass;
  private readonly layers: LayerPass[];
  /** At the lowest steps nothing but what is laid over the picture is drawn. */
  private readonly plainLook: LensLook | undefined;
  private height = 1;
  private readonly bloomShare: number;

  /** @param makeOcclusion  the class of ambient occlusion, which only those load who need it */
  constructor(
    renderer: WebGLRenderer,
    stage: Scene,
    eye: PerspectiveCamera,
    choice: PassChoice,
    makeOcclusion: typeof OcclusionPass | undefined,
  ) {
    const spending = QUALITY[choice.quality];
    this.bloomShare = spending.bloom;
    this.composer = new EffectComposer(renderer, {
      frameBufferType: HalfFloatType,
      multisampling: spending.samples,
    });
    const add = <P extends Pass>(pass: P): P => {
      this.composer.addPass(pass);
      return pass;
    };
    add(new RenderPass(stage, eye));
    if (choice.hasOcclusion && makeOcclusion) {
      this.occlusion = add(new makeOcclusion(stage, eye));
      this.occlusion.autosetGamma = false;
      const { configuration } = this.occlusion;
      configuration.gammaCorrection = false;
      configuration.halfRes = spending.occlusion !== "high";
      configuration.depthAwareUpsampling = true;
      this.occlusion.setQualityMode(spending.occlusion === "high" ? "High" : "Medium");
    }
    if (choice.hasSoft) add(new SoftPass(stage, eye));
    if (choice.hasDifference) add(new DifferencePass(stage, eye));
    if (choice.hasFocus) {
      const effect = new DepthOfFieldEffect(eye, { bokehScale: 0, resolutionScale: 0.5 });
      this.focus = { effect, pass: add(new EffectPass(eye, effect)) };
    }
    const bloom = new BloomEffect({
      blendFunction: BlendFunction.ADD,
      mipmapBlur: true,
      luminanceSmoothing: 0.15,
      levels: BLOOM_LEVELS,
      resolutionScale: spending.bloom,
    });
    this.bloom = { effect: bloom, pass: add(new EffectPass(eye, bloom)) };
    add(this.feedback);
    this.meanLight = add(new MeanLightPass());
    this.finish = new FinishEffect(choice.toneMapping, this.meanLight.texture);
    this.lut = choice.lut && new LUT3DEffect(choice.lut);
    this.last = add(new EffectPass(eye, this.finish, ...(this.lut ? [this.lut] : [])));
    if (spending.smoothsEdges)
      this.last = add(new EffectPass(eye, new SMAAEffect({ preset: SMAAPreset.MEDIUM })));
    this.layers = choice.layers.map((layer) => add(new LayerPass(layer, eye)));
    this.last = this.layers.at(-1) ?? this.last;
    if (!spending.effects) this.plainLook = {} as LensLook;
  }

  resize(width: number, height: number): void {
    this.composer.setSize(width, height, false);
    this.height = height;
    const rows = Math.max(2, height * this.bloomShare);
    const levels = Math.min(BLOOM_LEVELS, Math.floor(Math.log2(rows)));
    const { mipmapBlurPass } = this.bloom.effect;
    if (levels !== mipmapBlurPass.levels) mipmapBlurPass.levels = levels;
  }

  /** @param toScreen  otherwise the image is only added to the memory */
  render(of: LensLook, targetM: number, hasFeedback: boolean, step: number, toScreen: boolean): void {
    const look = this.plainLook ? Object.assign(this.plainLook, of, NO_EFFECTS) : of;
    const { occlusion, focus, bloom, feedback, finish, last } = this;
    if (occlusion) {
      occlusion.enabled = look.occlusion > 0;
      occlusion.configuration.aoRadius = look.occlusionRadius;
      occlusion.configuration.distanceFalloff = look.occlusionRadius;
      // The library's strength is a power: 3 is dark.
      occlusion.configuration.intensity = 4 * look.occlusion;
    }
    if (focus) {
      focus.pass.enabled = look.defocus > 0;
      focus.effect.bokehScale = (look.defocus * MOST_BLUR * this.height) / BLUR_HEIGHT;
      focus.effect.cocMaterial.focusDistance = look.focusDistance > 0 ? look.focusDistance : targetM;
      focus.effect.cocMaterial.focusRange = look.focusRange;
    }
    bloom.pass.enabled = look.bloom > 0;
    bloom.effect.intensity = look.bloom * BLOOM_STRENGTH;
    // A light backdrop is paper, not a lamp: its light would be spread over all that stands before it.
    bloom.effect.luminanceMaterial.threshold = Math.max(look.bloomFrom, 1.05 * look.backdropLight);
    bloom.effect.mipmapBlurPass.radius = 0.35 + 0.6 * look.bloomReach;
    feedback.enabled = hasFeedback;
    feedback.look = look;
    feedback.step = step;
    this.meanLight.enabled = look.autoExposure > 0;
    finish.set(look);
    if (this.lut) this.lut.blendMode.opacity.value = look.lutAmount;
    // One that changes nothing is left out, but for the last, which is what is seen.
    for (const pass of this.layers) pass.enabled = pass === last || pass.layer.amount.value > 0;
    last.renderToScreen = toScreen;
    this.composer.render(0);
    last.renderToScreen = true;
  }

  dispose(): void {
    this.composer.dispose();
  }
}
