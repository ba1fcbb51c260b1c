import { Pass } from "postprocessing";
import {
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  ShaderMaterial,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { SCREEN_VERTEX } from "../image/screenVertex";

const SIDE_PX = 64;
/** The level of the mean image that is one pixel. */
export const MEAN_LEVEL = Math.log2(SIDE_PX);

/**
 * The mean light of the image, as the logarithm to base 2 of its luminance, the middle counting more than the corners.
 * It depends on nothing but the image, so it is the same after a seek, in a film and in what is delivered.
 */
export class MeanLightPass extends Pass {
  private readonly mean = new WebGLRenderTarget(SIDE_PX, SIDE_PX, {
    type: HalfFloatType,
    depthBuffer: false,
    generateMipmaps: true,
    minFilter: LinearMipmapLinearFilter,
    magFilter: LinearFilter,
  });

  constructor() {
    super("MeanLightPass");
    this.needsSwap = false;
    this.fullscreenMaterial = new ShaderMaterial({
      uniforms: { now: { value: null } },
      vertexShader: SCREEN_VERTEX,
      // Logarithm and weight: their means are taken by the smaller levels.
      fragmentShader: `uniform sampler2D now; varying vec2 vUv;
        void main() {
          float sum = 0.0;
          for (int i = 0; i < 16; i++) {
            vec2 at = vUv + (vec2(float(i & 3), float(i >> 2)) - 1.5) / ${SIDE_PX * 4}.0;
            sum += log2(max(0.002, dot(texture2D(now, at).rgb, vec3(0.2126, 0.7152, 0.0722))));
          }
          vec2 away = vUv - 0.5;
          float weight = exp(-6.0 * dot(away, away));
          gl_FragColor = vec4(sum / 16.0 * weight, weight, 0.0, 1.0);
        }`,
      depthTest: false,
      depthWrite: false,
    });
  }

  /** Red over green of its smallest level is the mean. */
  get texture() {
    return this.mean.texture;
  }

  override render(renderer: WebGLRenderer, inputBuffer: WebGLRenderTarget): void {
    (this.fullscreenMaterial as ShaderMaterial).uniforms.now.value = inputBuffer.texture;
    renderer.setRenderTarget(this.mean);
    renderer.render(this.scene, this.camera);
  }

  override dispose(): void {
    this.mean.dispose();
    super.dispose();
  }
}
