import {
  type DirectionalLight,
  type Object3D,
  PCFShadowMap,
  type PerspectiveCamera,
  type PointLight,
  type SpotLight,
  Vector3,
  type WebGLRenderer,
} from "three";
import type { QualitySpending } from "../image/quality";

/** A light that can cast shadows. */
export interface ShadowLight {
  light: DirectionalLight | SpotLight | PointLight;
  /** Property that shows and hides it. */
  root: Object3D;
  /** True if the scene asks for its shadows. */
  castsShadows: boolean;
}

/** Half the width of what a far light throws shadows on, metres: at least, and at most. */
const [LEAST_M, MOST_M] = [4, 80];
/** How far from what is looked at a far light's shadows begin. */
const BACK_M = 120;

/**
 * Gives shadows to the first lights that want them, as many as the quality has room for, and keeps those of lights from
 * far away round what the camera looks at.
 */
export class Shadows {
  private readonly renderer: WebGLRenderer;
  private readonly centre = new Vector3();
  private readonly way = new Vector3();

  constructor(renderer: WebGLRenderer) {
    this.renderer = renderer;
    renderer.shadowMap.type = PCFShadowMap;
    renderer.shadowMap.autoUpdate = false;
  }

  /** Readies the shadows of the next image. */
  prepare(lights: readonly ShadowLight[], eye: PerspectiveCamera, { shadows }: QualitySpending): void {
    let left = shadows.lights;
    let lampsLeft = shadows.lamps;
    let isAny = false;
    for (const { light, root, castsShadows } of lights) {
      const isLamp = (light as PointLight).isPointLight === true;
      const casts =
        castsShadows && root.visible && light.intensity > 0 && left > 0 && (!isLamp || lampsLeft > 0);
      light.castShadow = casts;
      if (!casts) continue;
      isAny = true;
      left--;
      if (isLamp) lampsLeft--;
      const { shadow } = light;
      const pixels = isLamp ? shadows.pixels / 4 : shadows.pixels;
      if (shadow.mapSize.x !== pixels) {
        shadow.mapSize.set(pixels, pixels);
        shadow.map?.dispose();
        shadow.map = null;
      }
      if ((light as DirectionalLight).isDirectionalLight) this.follow(light as DirectionalLight, eye);
    }
    const { shadowMap } = this.renderer;
    shadowMap.enabled = isAny;
    shadowMap.needsUpdate = isAny;
  }

  /** Moves the shadow of a light from far away to what the camera looks at, in whole pixels so that it does not swim. */
  private follow(light: DirectionalLight, eye: PerspectiveCamera): void {
    const { centre, way } = this;
    const distanceM = Math.min(MOST_M, (eye.userData.targetM as number | undefined) ?? 10);
    eye.getWorldDirection(way);
    centre.copy(eye.position).addScaledVector(way, distanceM);
    const half = Math.min(MOST_M, Math.max(LEAST_M, distanceM * 1.2));
    const { camera } = light.shadow;
    if (camera.right !== half) {
      camera.left = -half;
      camera.right = half;
      camera.top = half;
      camera.bottom = -half;
      camera.near = 0.5;
      camera.far = 2 * BACK_M;
      camera.updateProjectionMatrix();
    }
    // The light shines towards the origin from where it stands; its shadow looks the same way at the centre.
    way.copy(light.userData.from as Vector3).normalize();
    const pixel = (2 * half) / light.shadow.mapSize.x;
    const snap = (one: number) => Math.round(one / pixel) * pixel;
    centre.set(snap(centre.x), snap(centre.y), snap(centre.z));
    light.target.position.copy(centre);
    light.position.copy(centre).addScaledVector(way, BACK_M);
    light.target.updateMatrixWorld();
    light.updateMatrixWorld();
  }
}
