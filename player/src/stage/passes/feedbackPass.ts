import { Pass } from "postprocessing";
import { HalfFloatType, ShaderMaterial, type WebGLRenderer, WebGLRenderTarget } from "three";
import { SCREEN_VERTEX } from "../image/screenVertex";
import type { LensLook } from "../objects/lens";

/**
 * Blends the image with the ones before it, which grow, turn and fade. In fixed steps: the memory of step n is the
 * image at n, or where it is brighter the faded memory of step n − 1.
 */
export class FeedbackPass extends Pass {
  /** Memory of the last step, and of the one before. */
  private current = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private previous = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private previousStep: number | undefined;
  /** The last step in the memory; `undefined` while it is empty. */
  memoryStep: number | undefined;
  /** The step to add next. */
  step = 0;
  look: LensLook | undefined;

  constructor() {
    super("FeedbackPass");
    this.fullscreenMaterial = new ShaderMaterial({
      uniforms: {
        now: { value: null },
        memory: { value: null },
        remains: { value: 0 },
        growth: { value: 1 },
        turn: { value: 0 },
        aspect: { value: 1 },
      },
      vertexShader: SCREEN_VERTEX,
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
      depthTest: false,
      depthWrite: false,
    });
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
    inputBuffer: WebGLRenderTarget,
    outputBuffer: WebGLRenderTarget,
  ): void {
    const { uniforms } = this.fullscreenMaterial as ShaderMaterial;
    const look = this.look!;
    const { step, memoryStep } = this;
    if (memoryStep !== undefined && step < memoryStep) this.forget();
    // The same step drawn again, after an edit, starts from the step before once more.
    if (memoryStep !== undefined && step > memoryStep) {
      [this.current, this.previous] = [this.previous, this.current];
      this.previousStep = memoryStep;
    }
    const steps = this.previousStep === undefined ? 0 : step - this.previousStep;
    uniforms.now.value = inputBuffer.texture;
    uniforms.memory.value = this.previous.texture;
    uniforms.remains.value = steps > 0 ? look.feedback ** steps : 0;
    uniforms.growth.value = look.feedbackGrowth ** steps;
    uniforms.turn.value = ((look.feedbackTurn * Math.PI) / 180) * steps;
    uniforms.aspect.value = inputBuffer.width / inputBuffer.height;
    renderer.setRenderTarget(this.current);
    renderer.render(this.scene, this.camera);
    this.memoryStep = step;
    uniforms.remains.value = 0;
    uniforms.now.value = this.current.texture;
    renderer.setRenderTarget(outputBuffer);
    renderer.render(this.scene, this.camera);
  }

  override dispose(): void {
    this.current.dispose();
    this.previous.dispose();
    super.dispose();
  }
}
