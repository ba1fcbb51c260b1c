import type { Quality } from "@bumbrel/core/document/scene";
import {
  type Camera,
  Color,
  FogExp2,
  HalfFloatType,
  NeutralToneMapping,
  type Scene,
  ShaderMaterial,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { EffectComposer } from "three/examples/jsm/postprocessing/EffectComposer.js";
import { OutputPass } from "three/examples/jsm/postprocessing/OutputPass.js";
import { FullScreenQuad, Pass } from "three/examples/jsm/postprocessing/Pass.js";
import { RenderPass } from "three/examples/jsm/postprocessing/RenderPass.js";
import { ShaderPass } from "three/examples/jsm/postprocessing/ShaderPass.js";
import { UnrealBloomPass } from "three/examples/jsm/postprocessing/UnrealBloomPass.js";
import { DIFFERENCE_LAYER } from "./blending";
import type { LensLook } from "./objects/lens";

const PLAIN_VERTEX =
  "varying vec2 vUv; void main() { vUv = uv; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }";
/** Steps of the image's memory a second, however often the screen draws. */
export const FEEDBACK_HZ = 60;
/** What remains of an image is not seen below this share, */
const UNSEEN = 1 / 255;
/** and its memory is rolled forward over this many steps at most: two seconds. */
const MAX_PRE_ROLL_STEPS = 120;
const CLEAR = new Color(0);

/** What each quality spends: share of the screen's pixels, of the bloom's, samples at edges, and whether it has effects. */
export const QUALITY_STEPS: Record<
  Quality,
  { pixels: number; bloom: number; samples: number; effects: boolean }
> = {
  full: { pixels: 1, bloom: 0.5, samples: 4, effects: true },
  lighter: { pixels: 0.75, bloom: 0.25, samples: 0, effects: true },
  lightest: { pixels: 0.5, bloom: 0.25, samples: 0, effects: false },
};

/** Draws the objects with difference blending by themselves, then subtracts them from the image. */
class DifferencePass extends Pass {
  private readonly target = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private readonly quad: FullScreenQuad;
  private readonly scene: Scene;
  camera: Camera;

  constructor(scene: Scene, camera: Camera) {
    super();
    this.scene = scene;
    this.camera = camera;
    this.quad = new FullScreenQuad(
      new ShaderMaterial({
        uniforms: { below: { value: null }, over: { value: this.target.texture } },
        vertexShader: PLAIN_VERTEX,
        fragmentShader: `uniform sampler2D below; uniform sampler2D over; varying vec2 vUv;
          void main() {
            vec4 a = texture2D(below, vUv); vec4 b = texture2D(over, vUv);
            gl_FragColor = vec4(abs(a.rgb - b.rgb), a.a);
          }`,
      }),
    );
  }

  override setSize(width: number, height: number): void {
    this.target.setSize(width, height);
  }

  override render(
    renderer: WebGLRenderer,
    writeBuffer: WebGLRenderTarget,
    readBuffer: WebGLRenderTarget,
  ): void {
    const { camera } = this;
    const mask = camera.layers.mask;
    camera.layers.set(DIFFERENCE_LAYER);
    renderer.setRenderTarget(this.target);
    renderer.setClearColor(CLEAR, 0);
    renderer.clear();
    renderer.render(this.scene, camera);
    camera.layers.mask = mask;
    const material = this.quad.material as ShaderMaterial;
    material.uniforms.below.value = readBuffer.texture;
    renderer.setRenderTarget(writeBuffer);
    this.quad.render(renderer);
  }

  override dispose(): void {
    this.target.dispose();
    this.quad.dispose();
  }
}

/**
 * Blends the image with the ones before it, which grow, turn and fade. In fixed steps: the memory of step n is the
 * image at n, or where it is brighter the faded memory of step n − 1.
 */
class FeedbackPass extends Pass {
  /** Memory of the last step, and of the one before. */
  private current = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private previous = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private readonly quad: FullScreenQuad;
  private previousStep: number | undefined;
  /** The last step in the memory; `undefined` while it is empty. */
  memoryStep: number | undefined;
  /** The step to add next. */
  step = 0;
  look: LensLook | undefined;

  constructor() {
    super();
    this.quad = new FullScreenQuad(
      new ShaderMaterial({
        uniforms: {
          now: { value: null },
          memory: { value: null },
          remains: { value: 0 },
          growth: { value: 1 },
          turn: { value: 0 },
          aspect: { value: 1 },
        },
        vertexShader: PLAIN_VERTEX,
        fragmentShader: `uniform sampler2D now; uniform sampler2D memory; uniform float remains; uniform float growth;
          uniform float turn; uniform float aspect; varying vec2 vUv;
          void main() {
            vec2 p = (vUv - 0.5) * vec2(aspect, 1.0) / growth;
            p = mat2(cos(turn), -sin(turn), sin(turn), cos(turn)) * p;
            vec2 at = p / vec2(aspect, 1.0) + 0.5;
            vec3 before = at.x < 0.0 || at.x > 1.0 || at.y < 0.0 || at.y > 1.0 ? vec3(0.0) : texture2D(memory, at).rgb;
            vec4 seen = texture2D(now, vUv);
            gl_FragColor = vec4(max(seen.rgb, before * remains), seen.a);
          }`,
      }),
    );
  }

  override setSize(width: number, height: number): void {
    this.current.setSize(width, height);
    this.previous.setSize(width, height);
    this.forget();
  }

  forget(): void {
    this.memoryStep = undefined;
    this.previousStep = undefined;
  }

  override render(
    renderer: WebGLRenderer,
    writeBuffer: WebGLRenderTarget,
    readBuffer: WebGLRenderTarget,
  ): void {
    const { uniforms } = this.quad.material as ShaderMaterial;
    const look = this.look!;
    const { step, memoryStep } = this;
    if (memoryStep !== undefined && step < memoryStep) this.forget();
    // The same step drawn again, after an edit, starts from the step before once more.
    if (memoryStep !== undefined && step > memoryStep) {
      [this.current, this.previous] = [this.previous, this.current];
      this.previousStep = memoryStep;
    }
    const steps = this.previousStep === undefined ? 0 : step - this.previousStep;
    uniforms.now.value = readBuffer.texture;
    uniforms.memory.value = this.previous.texture;
    uniforms.remains.value = steps > 0 ? look.feedback ** steps : 0;
    uniforms.growth.value = look.feedbackGrowth ** steps;
    uniforms.turn.value = ((look.feedbackTurn * Math.PI) / 180) * steps;
    uniforms.aspect.value = readBuffer.width / readBuffer.height;
    renderer.setRenderTarget(this.current);
    this.quad.render(renderer);
    this.memoryStep = step;
    uniforms.remains.value = 0;
    uniforms.now.value = this.current.texture;
    renderer.setRenderTarget(writeBuffer);
    this.quad.render(renderer);
  }

  override dispose(): void {
    this.current.dispose();
    this.previous.dispose();
    this.quad.dispose();
  }
}

const FINISH = {
  name: "finish",
  uniforms: { tDiffuse: { value: null }, fringing: { value: 0 }, vignette: { value: 0 } },
  vertexShader: PLAIN_VERTEX,
  fragmentShader: `uniform sampler2D tDiffuse; uniform float fringing; uniform float vignette; varying vec2 vUv;
    void main() {
      vec2 out_ = vUv - 0.5;
      vec2 apart = out_ * dot(out_, out_) * fringing * 0.12;
      vec4 seen = texture2D(tDiffuse, vUv);
      if (fringing > 0.0) {
        seen.r = texture2D(tDiffuse, vUv - apart).r;
        seen.b = texture2D(tDiffuse, vUv + apart).b;
      }
      seen.rgb *= 1.0 - vignette * smoothstep(0.12, 0.62, dot(out_, out_) * 1.25);
      gl_FragColor = seen;
    }`,
};

/**
 * Draws a frame: straight to the screen, or through bloom, feedback, colour fringing and vignette when the lens has any
 * of them.
 *
 * Feedback is stepped {@link FEEDBACK_HZ} times a second. After a seek the memory is empty; it is as it would be without
 * the seek after {@link FramePipeline.stepsToForget} steps.
 */
export class FramePipeline {
  private readonly renderer: WebGLRenderer;
  private readonly scene: Scene;
  private readonly fog = new FogExp2(0, 0);
  private composer: EffectComposer | undefined;
  private readonly parts: {
    render: RenderPass;
    difference: DifferencePass;
    bloom: UnrealBloomPass;
    feedback: FeedbackPass;
    finish: ShaderPass;
  };
  private quality: Quality = "full";
  private size = new Vector2(1, 1);
  private pixelRatio = 1;
  /** Whether any object has difference blending. */
  hasDifference = false;

  constructor(renderer: WebGLRenderer, scene: Scene, camera: Camera) {
    this.renderer = renderer;
    this.scene = scene;
    this.parts = {
      render: new RenderPass(scene, camera),
      difference: new DifferencePass(scene, camera),
      bloom: new UnrealBloomPass(new Vector2(256, 256), 0, 0.5, 0.8),
      feedback: new FeedbackPass(),
      finish: new ShaderPass(FINISH),
    };
  }

  setQuality(quality: Quality): void {
    if (quality === this.quality) return;
    this.quality = quality;
    this.composer?.dispose();
    this.composer = undefined;
    this.resize(this.size.x, this.size.y, this.pixelRatio);
  }

  /** @param pixelRatio  device pixels in a CSS pixel */
  resize(width: number, height: number, pixelRatio: number): void {
    this.size.set(width, height);
    this.pixelRatio = pixelRatio;
    const ratio = pixelRatio * QUALITY_STEPS[this.quality].pixels;
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(width, height, false);
    this.composer?.setPixelRatio(ratio);
    this.composer?.setSize(width, height);
    this.sizeBloom();
  }

  private sizeBloom(): void {
    const { bloom, pixels } = QUALITY_STEPS[this.quality];
    const share = bloom * pixels * this.pixelRatio;
    this.parts.bloom.setSize(Math.max(2, this.size.x * share * 2), Math.max(2, this.size.y * share * 2));
  }

  /** Whether the image goes through anything before it is on the screen. */
  isComposed(look: LensLook | undefined): boolean {
    if (this.hasDifference) return true;
    if (!look || !QUALITY_STEPS[this.quality].effects) return false;
    return look.bloom > 0 || look.feedback > 0 || look.fringing > 0 || look.vignette > 0;
  }

  hasFeedback(look: LensLook | undefined): boolean {
    return look !== undefined && look.feedback > 0 && QUALITY_STEPS[this.quality].effects;
  }

  /** Steps after which nothing is seen of an image; at most two seconds of them. */
  stepsToForget({ feedback }: LensLook): number {
    if (feedback <= 0) return 0;
    if (feedback >= 1) return MAX_PRE_ROLL_STEPS;
    return Math.min(MAX_PRE_ROLL_STEPS, Math.ceil(Math.log(UNSEEN) / Math.log(feedback)));
  }

  get memoryStep(): number | undefined {
    return this.parts.feedback.memoryStep;
  }

  forget(): void {
    this.parts.feedback.forget();
  }

  /** Adds the image of a step to the memory without showing it. */
  remember(camera: Camera, look: LensLook, step: number): void {
    if (!this.hasFeedback(look)) return;
    const composer = this.prepare(camera, look, step);
    composer.renderToScreen = false;
    composer.render();
    composer.renderToScreen = true;
  }

  /** @param step  number of the step that is shown, for images with feedback */
  render(camera: Camera, look: LensLook | undefined, step?: number): void {
    const { renderer, scene } = this;
    this.setFog(look);
    // Drawn straight to the screen it applies at once; a composed image has it applied by the last pass, which reads it here.
    renderer.toneMapping = NeutralToneMapping;
    if (!this.hasFeedback(look)) this.forget();
    if (!look || !this.isComposed(look)) {
      renderer.setRenderTarget(null);
      renderer.render(scene, camera);
      return;
    }
    this.prepare(camera, look, step ?? 0).render();
  }

  private setFog(look: LensLook | undefined): void {
    this.fog.density = look?.fog ?? 0;
    if (look) this.fog.color.copy(look.fogColour);
    this.scene.fog = this.fog.density > 0 ? this.fog : null;
  }

  private prepare(camera: Camera, look: LensLook, step: number): EffectComposer {
    const { parts } = this;
    const { effects } = QUALITY_STEPS[this.quality];
    this.setFog(look);
    const composer = this.ensureComposer();
    parts.render.camera = camera;
    parts.difference.camera = camera;
    parts.difference.enabled = this.hasDifference;
    parts.bloom.enabled = effects && look.bloom > 0;
    parts.bloom.strength = look.bloom;
    parts.bloom.radius = look.bloomReach;
    parts.bloom.threshold = look.bloomFrom;
    parts.feedback.enabled = this.hasFeedback(look);
    parts.feedback.look = look;
    parts.feedback.step = step;
    parts.finish.enabled = effects && (look.fringing > 0 || look.vignette > 0);
    parts.finish.uniforms.fringing.value = look.fringing;
    parts.finish.uniforms.vignette.value = look.vignette;
    return composer;
  }

  private ensureComposer(): EffectComposer {
    if (this.composer) return this.composer;
    const { samples } = QUALITY_STEPS[this.quality];
    const target = new WebGLRenderTarget(2, 2, { type: HalfFloatType, samples });
    const composer = new EffectComposer(this.renderer, target);
    const { render, difference, bloom, feedback, finish } = this.parts;
    for (const pass of [render, difference, bloom, feedback, finish, new OutputPass()])
      composer.addPass(pass);
    this.composer = composer;
    this.resize(this.size.x, this.size.y, this.pixelRatio);
    return composer;
  }

  dispose(): void {
    this.composer?.dispose();
    for (const pass of Object.values(this.parts)) pass.dispose();
  }
}
