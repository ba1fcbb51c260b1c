import type { Quality } from "@bumbrel/core/scene/document";
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
import type { LensLook } from "./things/lens";

const PLAIN_VERTEX =
  "varying vec2 vUv; void main() { vUv = uv; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }";
/** Feedback is counted in pictures of this length, however often the screen draws. */
const FEEDBACK_HZ = 60;
const CLEAR = new Color(0);

/** What each quality spends: pixels of the screen, pixels of the bloom, samples at edges, and effects at all. */
export const QUALITY_STEPS: Record<
  Quality,
  { pixels: number; bloom: number; samples: number; effects: boolean }
> = {
  full: { pixels: 1, bloom: 0.5, samples: 4, effects: true },
  lighter: { pixels: 0.75, bloom: 0.25, samples: 0, effects: true },
  lightest: { pixels: 0.5, bloom: 0.25, samples: 0, effects: false },
};

/** Things laid over the picture by difference: drawn by themselves, then taken from what is there. */
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

/** Keeps what the picture was, growing, turning and fading, under what it is. */
class FeedbackPass extends Pass {
  private kept = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private next = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private readonly quad: FullScreenQuad;
  private hasKept = false;
  look: LensLook | undefined;
  /** Pictures of a 60th of a second since the last one. */
  pictures = 1;

  constructor() {
    super();
    this.quad = new FullScreenQuad(
      new ShaderMaterial({
        uniforms: {
          now: { value: null },
          kept: { value: null },
          stays: { value: 0 },
          growth: { value: 1 },
          turn: { value: 0 },
          aspect: { value: 1 },
        },
        vertexShader: PLAIN_VERTEX,
        fragmentShader: `uniform sampler2D now; uniform sampler2D kept; uniform float stays; uniform float growth;
          uniform float turn; uniform float aspect; varying vec2 vUv;
          void main() {
            vec2 p = (vUv - 0.5) * vec2(aspect, 1.0) / growth;
            p = mat2(cos(turn), -sin(turn), sin(turn), cos(turn)) * p;
            vec2 at = p / vec2(aspect, 1.0) + 0.5;
            vec3 before = at.x < 0.0 || at.x > 1.0 || at.y < 0.0 || at.y > 1.0 ? vec3(0.0) : texture2D(kept, at).rgb;
            vec4 seen = texture2D(now, vUv);
            gl_FragColor = vec4(max(seen.rgb, before * stays), seen.a);
          }`,
      }),
    );
  }

  override setSize(width: number, height: number): void {
    this.kept.setSize(width, height);
    this.next.setSize(width, height);
    this.forget();
  }

  /** After a seek nothing is left of what was seen elsewhere. */
  forget(): void {
    this.hasKept = false;
  }

  override render(
    renderer: WebGLRenderer,
    writeBuffer: WebGLRenderTarget,
    readBuffer: WebGLRenderTarget,
  ): void {
    const { uniforms } = this.quad.material as ShaderMaterial;
    const look = this.look!;
    uniforms.now.value = readBuffer.texture;
    uniforms.kept.value = this.kept.texture;
    // While time stands still what was kept stays as it is: what is edited meanwhile leaves nothing behind.
    const isStill = this.pictures === 0;
    const pictures = isStill ? 1 : this.pictures;
    uniforms.stays.value = this.hasKept ? look.feedback ** pictures : 0;
    uniforms.growth.value = look.feedbackGrowth ** pictures;
    uniforms.turn.value = ((look.feedbackTurn * Math.PI) / 180) * pictures;
    uniforms.aspect.value = readBuffer.width / readBuffer.height;
    if (isStill && this.hasKept) {
      renderer.setRenderTarget(writeBuffer);
      this.quad.render(renderer);
      return;
    }
    renderer.setRenderTarget(this.next);
    this.quad.render(renderer);
    [this.kept, this.next] = [this.next, this.kept];
    this.hasKept = true;
    uniforms.stays.value = 0;
    uniforms.now.value = this.kept.texture;
    renderer.setRenderTarget(writeBuffer);
    this.quad.render(renderer);
  }

  override dispose(): void {
    this.kept.dispose();
    this.next.dispose();
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
 * Draws the whole picture: straight to the screen, or through bloom, feedback, colour fringing and vignette when any of
 * them is to be seen.
 */
export class Picture {
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
  private lastS = Number.NaN;
  /** Whether anything is laid over by difference. */
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

  /** Whether the picture goes through anything before it is on the screen. */
  isComposed(look: LensLook | undefined): boolean {
    if (this.hasDifference) return true;
    if (!look || !QUALITY_STEPS[this.quality].effects) return false;
    return look.bloom > 0 || look.feedback > 0 || look.fringing > 0 || look.vignette > 0;
  }

  render(camera: Camera, look: LensLook | undefined, timeS: number): void {
    const { renderer, scene, parts } = this;
    const { effects } = QUALITY_STEPS[this.quality];
    this.fog.density = look?.fog ?? 0;
    if (look) this.fog.color.copy(look.fogColour);
    scene.fog = this.fog.density > 0 ? this.fog : null;
    const pictures = (timeS - this.lastS) * FEEDBACK_HZ;
    this.lastS = timeS;
    // Straight on the screen it applies at once; what is composed has it applied by the last pass, which reads it here.
    renderer.toneMapping = NeutralToneMapping;
    if (!look || !this.isComposed(look)) {
      renderer.setRenderTarget(null);
      renderer.render(scene, camera);
      return;
    }
    const composer = this.ensureComposer();
    parts.render.camera = camera;
    parts.difference.camera = camera;
    parts.difference.enabled = this.hasDifference;
    parts.bloom.enabled = effects && look.bloom > 0;
    parts.bloom.strength = look.bloom;
    parts.bloom.radius = look.bloomReach;
    parts.bloom.threshold = look.bloomFrom;
    parts.feedback.enabled = effects && look.feedback > 0;
    parts.feedback.look = look;
    if (!(pictures >= 0 && pictures < FEEDBACK_HZ)) parts.feedback.forget();
    parts.feedback.pictures = Math.min(FEEDBACK_HZ, Math.max(0, pictures || 0));
    parts.finish.enabled = effects && (look.fringing > 0 || look.vignette > 0);
    parts.finish.uniforms.fringing.value = look.fringing;
    parts.finish.uniforms.vignette.value = look.vignette;
    composer.render();
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
