import {
  DepthTexture,
  LinearFilter,
  LinearMipmapLinearFilter,
  NearestFilter,
  type Object3D,
  OrthographicCamera,
  type PerspectiveCamera,
  type Scene,
  ShaderMaterial,
  Vector3,
  Vector4,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { FullScreenQuad } from "three/examples/jsm/postprocessing/Pass.js";
import { SCREEN_VERTEX } from "../image/screenVertex";

/** Half the width of the region that is looked at, metres: at least, and at most. */
const [LEAST_M, MOST_M] = [3, 40];

/**
 * How near things are above a floor, seen from below it: what stands on it or floats just over it keeps the light from
 * all round away, whatever lamps there are.
 */
export class ContactShadow {
  readonly uniforms = {
    /** Red: 1 where something touches the floor, 0 where nothing is within reach. */
    contactMap: { value: null as unknown },
    /** x and z of the middle of what is looked at, half its width, and the reach, m. */
    contactArea: { value: new Vector4(0, 0, 1, 1) },
  };
  private readonly below = new OrthographicCamera();
  private readonly depth = new WebGLRenderTarget(2, 2, { depthTexture: new DepthTexture(2, 2) });
  private readonly nearness = new WebGLRenderTarget(2, 2, {
    depthBuffer: false,
    generateMipmaps: true,
    minFilter: LinearMipmapLinearFilter,
    magFilter: LinearFilter,
  });
  private readonly quad: FullScreenQuad;
  private readonly way = new Vector3();

  constructor() {
    const { texture, depthTexture } = this.depth;
    texture.minFilter = NearestFilter;
    texture.generateMipmaps = false;
    this.uniforms.contactMap.value = this.nearness.texture;
    this.quad = new FullScreenQuad(
      new ShaderMaterial({
        uniforms: { depth: { value: depthTexture } },
        vertexShader: SCREEN_VERTEX,
        fragmentShader: `uniform sampler2D depth; varying vec2 vUv;
          void main() {
            // The floor is half-way; what is sunk into it touches it.
            float near = clamp(2.0 - 2.0 * texture2D(depth, vUv).r, 0.0, 1.0);
            gl_FragColor = vec4(near * near, 0.0, 0.0, 1.0);
          }`,
        depthTest: false,
        depthWrite: false,
      }),
    );
    // From below, with x to the left and z downwards in the image.
    this.below.up.set(0, 0, -1);
    this.below.near = 0;
  }

  /**
   * @param surface  the floor, which is not seen itself
   * @param reachM  height up to which things count
   * @param pixels  of a side of the region
   */
  draw(
    renderer: WebGLRenderer,
    stage: Scene,
    eye: PerspectiveCamera,
    surface: Object3D,
    reachM: number,
    pixels: number,
  ): void {
    const { below, depth, nearness, way, quad } = this;
    if (depth.width !== pixels) {
      depth.setSize(pixels, pixels);
      nearness.setSize(pixels, pixels);
    }
    const distanceM = (eye.userData.targetM as number | undefined) ?? 10;
    const half = Math.min(MOST_M, Math.max(LEAST_M, distanceM));
    eye.getWorldDirection(way);
    // Moves by whole pixels, so that its edges do not swim.
    const pixelM = (2 * half) / pixels;
    const snap = (one: number) => Math.round(one / pixelM) * pixelM;
    const [x, z] = [snap(eye.position.x + way.x * distanceM), snap(eye.position.z + way.z * distanceM)];
    const y = surface.position.y - reachM;
    below.position.set(x, y, z);
    below.lookAt(x, y + 1, z);
    below.left = -half;
    below.right = half;
    below.top = half;
    below.bottom = -half;
    below.far = 2 * reachM;
    below.updateProjectionMatrix();
    below.updateMatrixWorld();
    this.uniforms.contactArea.value.set(x, z, half, reachM);
    const { visible } = surface;
    surface.visible = false;
    renderer.autoClear = true;
    renderer.setRenderTarget(depth);
    renderer.render(stage, below);
    renderer.setRenderTarget(nearness);
    quad.render(renderer);
    renderer.setRenderTarget(null);
    surface.visible = visible;
  }

  dispose(): void {
    this.depth.dispose();
    this.nearness.dispose();
    (this.quad.material as ShaderMaterial).dispose();
    this.quad.dispose();
  }
}

/** `contactAt(place)`, as GLSL: share of the light from all round that is kept from a place on the floor. */
export const CONTACT_AT = `
uniform sampler2D contactMap; uniform vec4 contactArea;
float contactAt(vec3 place) {
  vec2 at = 0.5 - (place.xz - contactArea.xy) / (2.0 * contactArea.z);
  float reach = 0.5 * contactArea.w / (2.0 * contactArea.z);
  // The softer the sharper image, the fewer places have to be read.
  float level = max(0.0, log2(0.25 * reach * float(textureSize(contactMap, 0).x)));
  float sum = 0.0;
  for (int i = 0; i < 12; i++) {
    float turn = float(i) * 2.3999632;
    sum += textureLod(contactMap, at + reach * sqrt((float(i) + 0.5) / 12.0) * vec2(cos(turn), sin(turn)), level).r;
  }
  float away = max(abs(at.x - 0.5), abs(at.y - 0.5)) * 2.0;
  return sum / 12.0 * (1.0 - smoothstep(0.8, 1.0, away));
}`;
