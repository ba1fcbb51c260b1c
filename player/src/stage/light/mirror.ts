import {
  LinearFilter,
  LinearMipmapLinearFilter,
  Matrix4,
  type Object3D,
  type PerspectiveCamera,
  PlaneGeometry,
  type Scene,
  type ShaderMaterial,
  Vector2,
  type WebGLRenderer,
} from "three";
import { Reflector } from "three/examples/jsm/objects/Reflector.js";
import { SOFT_LAYER } from "../image/layers";

/** Draws the stage as it is mirrored in a level surface. */
export class Mirror {
  readonly uniforms = {
    mirrorMap: { value: null as unknown },
    /** From places on the stage to places on the mirror's image. */
    mirrorPlaces: { value: new Matrix4() },
  };
  private readonly reflector: Reflector;
  private readonly size = new Vector2();
  private readonly unplace = new Matrix4();

  constructor() {
    this.reflector = new Reflector(new PlaneGeometry(1, 1), {
      textureWidth: 2,
      textureHeight: 2,
      multisample: 0,
    });
    const { texture } = this.reflector.getRenderTarget();
    // Rough surfaces read a smaller, softer image.
    texture.generateMipmaps = true;
    texture.minFilter = LinearMipmapLinearFilter;
    texture.magFilter = LinearFilter;
    this.reflector.rotation.x = -Math.PI / 2;
    this.uniforms.mirrorMap.value = texture;
  }

  /**
   * @param surface  what mirrors: it is not seen in its own reflection
   * @param share  pixels along each side, as a share of the image's
   */
  draw(
    renderer: WebGLRenderer,
    stage: Scene,
    eye: PerspectiveCamera,
    surface: Object3D,
    share: number,
  ): void {
    const { reflector, size, unplace } = this;
    renderer.getDrawingBufferSize(size).multiplyScalar(share).floor().max(LEAST);
    const target = reflector.getRenderTarget();
    if (target.width !== size.x || target.height !== size.y) target.setSize(size.x, size.y);
    reflector.position.copy(surface.position);
    reflector.updateMatrixWorld();
    const camera = reflector.getReflectionCamera(eye) as PerspectiveCamera;
    camera.layers.mask = eye.layers.mask;
    camera.layers.enable(SOFT_LAYER);
    camera.userData.isMirror = true;
    const material = reflector.material as ShaderMaterial;
    surface.visible = false;
    reflector.onBeforeRender(renderer, stage, eye, reflector.geometry, material, null as never);
    surface.visible = true;
    this.uniforms.mirrorPlaces.value.multiplyMatrices(
      material.uniforms.textureMatrix.value as Matrix4,
      unplace.copy(reflector.matrixWorld).invert(),
    );
  }

  dispose(): void {
    this.reflector.dispose();
    this.reflector.geometry.dispose();
  }
}
const LEAST = new Vector2(2, 2);
