import { Pass } from "postprocessing";
import {
  type Camera,
  HalfFloatType,
  type Scene,
  ShaderMaterial,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { DIFFERENCE_LAYER } from "../image/layers";
import { SCREEN_VERTEX } from "../image/screenVertex";

/** Draws the objects with difference blending by themselves, then subtracts them from the image. */
export class DifferencePass extends Pass {
  private readonly target = new WebGLRenderTarget(1, 1, { type: HalfFloatType });
  private readonly stage: Scene;
  private readonly eye: Camera;

  constructor(stage: Scene, eye: Camera) {
    super("DifferencePass");
    this.stage = stage;
    this.eye = eye;
    this.fullscreenMaterial = new ShaderMaterial({
      uniforms: { below: { value: null }, over: { value: this.target.texture } },
      vertexShader: SCREEN_VERTEX,
      fragmentShader: `uniform sampler2D below; uniform sampler2D over; varying vec2 vUv;
        void main() {
          vec4 a = texture2D(below, vUv); vec4 b = texture2D(over, vUv);
          gl_FragColor = vec4(abs(a.rgb - b.rgb), a.a);
        }`,
      depthTest: false,
      depthWrite: false,
    });
  }

  override setSize(width: number, height: number): void {
    this.target.setSize(width, height);
  }

  override render(
    renderer: WebGLRenderer,
    inputBuffer: WebGLRenderTarget,
    outputBuffer: WebGLRenderTarget,
  ): void {
    const { eye } = this;
    const mask = eye.layers.mask;
    eye.layers.set(DIFFERENCE_LAYER);
    renderer.setRenderTarget(this.target);
    renderer.setClearColor(0, 0);
    renderer.clear();
    renderer.render(this.stage, eye);
    eye.layers.mask = mask;
    (this.fullscreenMaterial as ShaderMaterial).uniforms.below.value = inputBuffer.texture;
    renderer.setRenderTarget(this.renderToScreen ? null : outputBuffer);
    renderer.render(this.scene, this.camera);
  }

  override dispose(): void {
    this.target.dispose();
    super.dispose();
  }
}
