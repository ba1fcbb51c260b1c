import { LENS_NEUTRAL } from "@bumbrel/core/kinds/always";
import {
  CustomToneMapping,
  type Data3DTexture,
  FogExp2,
  NeutralToneMapping,
  type PerspectiveCamera,
  type Scene,
  Vector2,
  type Vector3,
  type WebGLRenderer,
} from "three";
import type { LensLook } from "../objects/lens";
import type { ImageLayer } from "./imageLayer";
import type { ImagePasses, PassChoice } from "./imagePasses";
import type { OcclusionPass } from "./occlusion";
import { type DrawnStep, QUALITY } from "./quality";

/** Steps of the image's memory a second, however often the screen draws. */
export const FEEDBACK_HZ = 60;
/** A remainder of an image below this share is not seen, */
const UNSEEN = 1 / 255;
/** and its memory is rolled forward over this many steps at most: two seconds. */
const MAX_PRE_ROLL_STEPS = 120;

/** Features that a scene's image needs, from its document and from everything its strands may do. */
export interface ImageNeeds {
  hasDifference: boolean;
  hasSoft: boolean;
  hasOcclusion: boolean;
  hasFocus: boolean;
  lut: Data3DTexture | undefined;
  layers: readonly ImageLayer[];
}

/**
 * Draws a frame: straight to the screen, or through the passes that the lens has any use for. Their code is loaded when
 * it is needed first; until then the image is drawn without them.
 *
 * Feedback is stepped {@link FEEDBACK_HZ} times a second. After a seek the memory is empty; it is as it would be without
 * the seek after {@link FramePipeline.stepsToForget} steps.
 */
export class FramePipeline {
  private readonly renderer: WebGLRenderer;
  private readonly scene: Scene;
  private readonly onArrival: () => void;
  private readonly fog = new FogExp2(0, 0);
  private code: { passes: typeof ImagePasses; occlusion?: typeof OcclusionPass } | undefined;
  private loading = 0;
  /** True if the code of the passes could not be loaded. */
  private isWithout = false;
  private passes: ImagePasses | undefined;
  private made: (PassChoice & { eye: PerspectiveCamera }) | undefined;
  private quality: DrawnStep = "desktop";
  private size = new Vector2(1, 1);
  private pixelRatio = 1;
  private needs: ImageNeeds = {
    hasDifference: false,
    hasSoft: false,
    hasOcclusion: false,
    hasFocus: false,
    lut: undefined,
    layers: [],
  };

  /** @param onArrival  called when the code of the passes has come */
  constructor(renderer: WebGLRenderer, scene: Scene, onArrival: () => void) {
    this.renderer = renderer;
    this.scene = scene;
    this.onArrival = onArrival;
  }

  get isLoaded(): boolean {
    return this.loading === 0;
  }

  setQuality(quality: DrawnStep): void {
    if (quality === this.quality) return;
    this.quality = quality;
    this.resize(this.size.x, this.size.y, this.pixelRatio);
  }

  get spending() {
    return QUALITY[this.quality];
  }

  setNeeds(needs: ImageNeeds): void {
    this.needs = needs;
  }

  /** @param pixelRatio  device pixels in a CSS pixel */
  resize(width: number, height: number, pixelRatio: number): void {
    this.size.set(width, height);
    this.pixelRatio = pixelRatio;
    this.renderer.setPixelRatio(pixelRatio * this.spending.pixels);
    this.renderer.setSize(width, height, false);
    this.passes?.resize(width, height);
  }

  /** True if the image goes through any pass before it is on the screen. */
  isComposed(look: LensLook | undefined): boolean {
    if (this.needs.hasDifference || this.needs.layers.length > 0) return true;
    if (!look || !this.spending.effects) return false;
    return (
      NEUTRAL.some(([key, off]) => (key !== "defocus" || this.hasFocus) && !isAt(look[key], off)) ||
      this.needs.lut !== undefined ||
      (this.hasOcclusion && look.occlusion > 0) ||
      this.hasSoft
    );
  }

  private get hasOcclusion(): boolean {
    return this.needs.hasOcclusion && this.spending.occlusion !== "none";
  }
  private get hasFocus(): boolean {
    return this.needs.hasFocus && this.spending.focus;
  }
  /** True if particles fade where they touch things. */
  get hasSoft(): boolean {
    return (
      this.needs.hasSoft && this.spending.softParticles && this.spending.effects && this.code !== undefined
    );
  }

  hasFeedback(look: LensLook | undefined): boolean {
    return look !== undefined && look.feedback > 0 && this.spending.effects;
  }

  /** Steps after which nothing is seen of an image; at most two seconds of them. */
  stepsToForget({ feedback }: LensLook): number {
    if (feedback <= 0) return 0;
    if (feedback >= 1) return MAX_PRE_ROLL_STEPS;
    return Math.min(MAX_PRE_ROLL_STEPS, Math.ceil(Math.log(UNSEEN) / Math.log(feedback)));
  }

  get memoryStep(): number | undefined {
    return this.passes?.feedback.memoryStep;
  }

  forget(): void {
    this.passes?.feedback.forget();
  }

  /** Adds the image of a step to the memory without showing it. */
  remember(eye: PerspectiveCamera, look: LensLook, step: number): void {
    if (!this.hasFeedback(look)) return;
    this.setFog(look);
    this.prepare(eye, look)?.render(look, targetDistance(eye), true, step, false);
  }

  /** @param step  number of the step that is shown, for images with feedback */
  render(eye: PerspectiveCamera, look: LensLook | undefined, step?: number): void {
    const { renderer, scene } = this;
    this.setFog(look);
    const hasFeedback = this.hasFeedback(look);
    if (!hasFeedback) this.forget();
    const passes = look && this.isComposed(look) ? this.prepare(eye, look) : undefined;
    if (look && passes) {
      renderer.toneMappingExposure = 1;
      passes.render(look, targetDistance(eye), hasFeedback, step ?? 0, true);
      return;
    }
    renderer.autoClear = true;
    renderer.toneMapping = look?.toneMapping === "neutral" ? NeutralToneMapping : CustomToneMapping;
    renderer.toneMappingExposure = 2 ** (look?.exposure ?? 0);
    renderer.setRenderTarget(null);
    renderer.render(scene, eye);
  }

  /** Sets the fog of the scene, before anything of an image is drawn. */
  setFog(look: LensLook | undefined): void {
    this.fog.density = look?.fog ?? 0;
    if (look) this.fog.color.copy(look.fogColour);
    this.scene.fog = this.fog.density > 0 ? this.fog : null;
  }

  /** The passes for what there is to do; `undefined` while their code is on its way. */
  private prepare(eye: PerspectiveCamera, look: LensLook): ImagePasses | undefined {
    const { code, made, hasOcclusion, quality } = this;
    if (!code || (hasOcclusion && !code.occlusion)) void this.load();
    if (!code) return undefined;
    const choice: PassChoice = {
      ...this.needs,
      quality,
      toneMapping: look.toneMapping,
      hasOcclusion: hasOcclusion && code.occlusion !== undefined,
      hasFocus: this.hasFocus,
      hasSoft: this.hasSoft,
    };
    const isSame =
      made?.eye === eye &&
      (Object.keys(choice) as (keyof PassChoice)[]).every((key) => made[key] === choice[key]);
    if (this.passes && isSame) return this.passes;
    const memory = this.passes;
    this.passes = new code.passes(this.renderer, this.scene, eye, choice, code.occlusion);
    this.made = { ...choice, eye };
    memory?.dispose();
    this.passes.resize(this.size.x, this.size.y);
    return this.passes;
  }

  private async load(): Promise<void> {
    if (this.loading > 0 || this.isWithout) return;
    this.loading++;
    const { hasOcclusion } = this;
    try {
      const [{ ImagePasses }, occlusion] = await Promise.all([
        import("./imagePasses"),
        hasOcclusion ? import("./occlusion") : undefined,
      ]);
      this.code = { passes: ImagePasses, occlusion: occlusion?.OcclusionPass ?? this.code?.occlusion };
    } catch {
      // The scene is shown without them; asking again for each frame would not help.
      this.isWithout = true;
    }
    this.loading--;
    this.onArrival();
  }

  /** Begins to load what the image of a scene will need, before it is drawn first. */
  loadAhead(look: LensLook | undefined): void {
    const isMissing = !this.code || (this.hasOcclusion && !this.code.occlusion);
    if (isMissing && (this.isComposed(look) || (this.needs.hasSoft && this.spending.softParticles)))
      void this.load();
  }

  dispose(): void {
    this.passes?.dispose();
  }
}

type NeutralKey = keyof typeof LENS_NEUTRAL;
const NEUTRAL = Object.entries(LENS_NEUTRAL) as [NeutralKey, number][];
const isAt = (value: number | Vector3, off: number) =>
  typeof value === "number" ? value === off : value.x === off && value.y === off && value.z === off;

/** Metres from the camera to its target. */
const targetDistance = (eye: PerspectiveCamera): number => (eye.userData.targetM as number | undefined) ?? 10;
