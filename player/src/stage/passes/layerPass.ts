import { Pass } from "postprocessing";
import {
  type DepthTexture,
  type PerspectiveCamera,
  ShaderMaterial,
  type Texture,
  Vector2,
  type WebGLRenderer,
  type WebGLRenderTarget,
} from "three";
import type { ImageLayer } from "../image/imageLayer";
import { SCREEN_VERTEX } from "../image/screenVertex";

/** One {@link ImageLayer} as a pass over the finished picture. */
export class LayerPass extends Pass {
  readonly layer: ImageLayer;
  private readonly eye: PerspectiveCamera;
  private readonly material: ShaderMaterial;
  private readonly own = {
    pictureMap: { value: null as Texture | null },
    depthMap: { value: null as Texture | null },
    clipRange: { value: new Vector2() },
    pictureSize: { value: new Vector2() },
  };

  constructor(layer: ImageLayer, eye: PerspectiveCamera) {
    super("LayerPass");
    this.layer = layer;
    this.eye = eye;
    this.needsDepthTexture = layer.readsDepth;
    this.material = new ShaderMaterial({
      uniforms: { ...layer.uniforms, ...this.own, amount: layer.amount },
      vertexShader: SCREEN_VERTEX,
      fragmentShader: layer.fragment,
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
    });
    this.fullscreenMaterial = this.material;
  }

  override setDepthTexture(depth: DepthTexture | Texture): void {
    this.own.depthMap.value = depth as Texture;
  }

  override render(
    renderer: WebGLRenderer,
    inputBuffer: WebGLRenderTarget,
    outputBuffer: WebGLRenderTarget,
  ): void {
    const { own, eye, material } = this;
    own.pictureMap.value = inputBuffer.texture;
    own.clipRange.value.set(eye.near, eye.far);
    own.pictureSize.value.set(inputBuffer.width, inputBuffer.height);
    material.uniformsNeedUpdate = true;
    renderer.setRenderTarget(this.renderToScreen ? null : outputBuffer);
    renderer.render(this.scene, this.camera);
  }

  override dispose(): void {
    this.material.dispose();
    super.dispose();
  }
}
