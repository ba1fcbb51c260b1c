import { Pass } from "postprocessing";
import {
  type Camera,
  type DepthTexture,
  Mesh,
  PlaneGeometry,
  type Scene,
  ShaderMaterial,
  type Texture,
  type WebGLRenderer,
  type WebGLRenderTarget,
} from "three";
import { SOFT_LAYER } from "../image/layers";
import { softUniforms } from "../image/softUniforms";

/** Draws what fades where it touches things, over the image, with the depth of the image to read. */
export class SoftPass extends Pass {
  private readonly stage: Scene;
  private readonly eye: Camera;
  /** The image so far: a sheet behind everything else of the layer, drawn in one go with it. */
  private depth: Texture | null = null;
  private readonly below: Mesh<PlaneGeometry, ShaderMaterial>;

  constructor(stage: Scene, eye: Camera) {
    super("SoftPass");
    this.stage = stage;
    this.eye = eye;
    this.needsDepthTexture = true;
    this.below = new Mesh(
      new PlaneGeometry(2, 2),
      new ShaderMaterial({
        uniforms: { image: { value: null } },
        vertexShader:
          "varying vec2 vUv; void main() { vUv = uv; gl_Position = vec4(position.xy, 1.0, 1.0); }",
        fragmentShader:
          "uniform sampler2D image; varying vec2 vUv; void main() { gl_FragColor = texture2D(image, vUv); }",
        depthTest: false,
        depthWrite: false,
        toneMapped: false,
      }),
    );
    this.below.frustumCulled = false;
    this.below.renderOrder = Number.NEGATIVE_INFINITY;
    this.below.layers.set(SOFT_LAYER);
  }

  override setDepthTexture(depth: DepthTexture | Texture): void {
    this.depth = depth as Texture;
  }

  override render(
    renderer: WebGLRenderer,
    inputBuffer: WebGLRenderTarget,
    outputBuffer: WebGLRenderTarget,
  ): void {
    const { eye, stage, below } = this;
    softUniforms.sceneDepth.value = this.depth;
    softUniforms.sceneSize.value.set(inputBuffer.width, inputBuffer.height);
    below.material.uniforms.image.value = inputBuffer.texture;
    const mask = eye.layers.mask;
    eye.layers.set(SOFT_LAYER);
    stage.add(below);
    renderer.setRenderTarget(outputBuffer);
    renderer.clear();
    renderer.render(stage, eye);
    stage.remove(below);
    eye.layers.mask = mask;
  }

  override dispose(): void {
    this.below.geometry.dispose();
    this.below.material.dispose();
    super.dispose();
  }
}
