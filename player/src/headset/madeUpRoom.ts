import type { XRDevice } from "iwer";
import {
  AmbientLight,
  BoxGeometry,
  Color,
  Mesh,
  MeshLambertMaterial,
  PerspectiveCamera,
  PointLight,
  Scene,
  WebGLRenderer,
} from "three";

/** A box of the room: middle, size, colour. */
const THINGS: [x: number, y: number, z: number, w: number, h: number, d: number, colour: number][] = [
  [0, -0.05, 0, 6, 0.1, 6, 0x5b4636],
  [0, 2.75, 0, 6, 0.1, 6, 0x30444a],
  [0, 1.35, -3.05, 6, 2.8, 0.1, 0x3b565c],
  [0, 1.35, 3.05, 6, 2.8, 0.1, 0x3b565c],
  [-3.05, 1.35, 0, 0.1, 2.8, 6, 0x35505a],
  [3.05, 1.35, 0, 0.1, 2.8, 6, 0x35505a],
  // A window on the harbour, a rug, a table, a shelf.
  [-0.6, 1.5, -2.98, 1.8, 1.1, 0.02, 0x1d5c63],
  [-0.6, 1.5, -2.97, 0.05, 1.1, 0.03, 0xd8cdb8],
  [0, 0.006, -0.4, 2.4, 0.012, 1.7, 0x8a4a32],
  [1.7, 0.72, -1.7, 1.3, 0.06, 0.8, 0xa37b4f],
  [1.15, 0.35, -1.4, 0.06, 0.7, 0.06, 0x7c5c3a],
  [2.25, 0.35, -1.4, 0.06, 0.7, 0.06, 0x7c5c3a],
  [1.15, 0.35, -2, 0.06, 0.7, 0.06, 0x7c5c3a],
  [2.25, 0.35, -2, 0.06, 0.7, 0.06, 0x7c5c3a],
  [-2.7, 1.2, 1, 0.4, 0.05, 1.8, 0x7c5c3a],
  [-2.7, 1.4, 0.6, 0.25, 0.36, 0.2, 0xe3b563],
];
/** Level things that something can be put on: height, and their extent. */
const SURFACES = [
  { y: 0.75, x: [1.05, 2.35], z: [-2.1, -1.3] },
  { y: 0, x: [-3, 3], z: [-3, 3] },
] as const;

/**
 * A made-up room, seen behind a scene that is met over the camera’s picture of a headset, and felt for with rays: the part of
 * an emulated headset that stands for the world.
 */
export class MadeUpRoom {
  readonly version = "1";
  readonly environmentCanvas: HTMLCanvasElement;
  readonly trackedPlanes = new Set();
  readonly trackedMeshes = new Set();
  private readonly device: XRDevice;
  private readonly scene = new Scene();
  private readonly eye = new PerspectiveCamera();
  private renderer: WebGLRenderer | undefined;

  constructor(device: XRDevice) {
    this.device = device;
    this.environmentCanvas = document.createElement("canvas");
    Object.assign(this.environmentCanvas.style, {
      position: "absolute",
      inset: "0",
      width: "100%",
      height: "100%",
    });
    this.scene.background = new Color(0x24353a);
    for (const [x, y, z, w, h, d, color] of THINGS) {
      const mesh = new Mesh(new BoxGeometry(w, h, d), new MeshLambertMaterial({ color }));
      mesh.position.set(x, y, z);
      this.scene.add(mesh);
    }
    const lamp = new PointLight(0xffe2b8, 14);
    lamp.position.set(0, 2.4, 0);
    this.scene.add(lamp, new AmbientLight(0x9fb8b4, 0.9));
  }

  /** Draws the room as the headset sees it now. */
  render(_time: number): void {
    const { environmentCanvas: canvas, device, eye } = this;
    const { clientWidth: width, clientHeight: height } = canvas;
    if (width === 0 || height === 0) return;
    this.renderer ??= new WebGLRenderer({ canvas, antialias: true });
    this.renderer.setSize(width, height, false);
    const both = device.stereoEnabled;
    eye.fov = (device.fovy * 180) / Math.PI;
    eye.aspect = (both ? width / 2 : width) / height;
    eye.updateProjectionMatrix();
    const { position, quaternion } = device;
    eye.quaternion.set(quaternion.x, quaternion.y, quaternion.z, quaternion.w);
    this.renderer.setScissorTest(both);
    for (const half of both ? [0, 1] : [0]) {
      eye.position.set(position.x, position.y, position.z);
      if (both) {
        eye.translateX((half - 0.5) * device.ipd);
        this.renderer.setViewport((half * width) / 2, 0, width / 2, height);
        this.renderer.setScissor((half * width) / 2, 0, width / 2, height);
      }
      this.renderer.render(this.scene, eye);
    }
  }

  /**
   * Points at which a ray meets the floor or the table, the nearest first.
   *
   * @param ray  a matrix, column by column, that looks along its own −z
   */
  computeHitTestResults(ray: ArrayLike<number>): Float32Array[] {
    const [ox, oy, oz] = [ray[12], ray[13], ray[14]];
    const [dx, dy, dz] = [-ray[8], -ray[9], -ray[10]];
    return SURFACES.flatMap(({ y, x, z }) => {
      const far = (y - oy) / dy;
      if (!(far > 0) || !Number.isFinite(far)) return [];
      const [px, pz] = [ox + dx * far, oz + dz * far];
      if (px < x[0] || px > x[1] || pz < z[0] || pz > z[1]) return [];
      return [{ far, matrix: Float32Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, px, y, pz, 1) }];
    })
      .sort((a, b) => a.far - b.far)
      .map(({ matrix }) => matrix);
  }

  computeDepthBuffer(): null {
    return null;
  }
  loadEnvironment(): void {}
  loadDefaultEnvironment(): void {}
  planesVisible = false;
  boundingBoxesVisible = false;
  meshesVisible = false;
  deleteAll(): void {}
}
