import type { Stage } from "@bumbrel/player/stage/stage";
import { type Box3, PerspectiveCamera, Sphere, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

/** How far a key moves what is looked at, in pixels. */
const KEY_PX = 40;
/** A thing that is framed fills this share of the image. */
const FILLS = 0.6;

/** Position and target of a camera. */
export interface Viewpoint {
  position: [number, number, number];
  target: [number, number, number];
}

/**
 * Looking round on the stage without changing the scene: dragging orbits, the wheel comes nearer, dragging with the
 * other button or with Shift moves along; on touch screens one finger orbits and two move and zoom.
 */
export class Looking {
  private readonly stage: Stage;
  private readonly eye = new PerspectiveCamera();
  private readonly controls: OrbitControls;
  private readonly onChange: (isLooking: boolean) => void;

  constructor(stage: Stage, onChange: (isLooking: boolean) => void) {
    this.stage = stage;
    this.onChange = onChange;
    this.controls = new OrbitControls(this.eye, stage.canvas);
    this.controls.keyPanSpeed = KEY_PX;
    this.controls.minDistance = 0.05;
    this.controls.maxDistance = 800;
    this.controls.listenToKeyEvents(stage.canvas);
    // Begin at the scene's current camera.
    this.controls.addEventListener("start", () => this.follow());
    stage.canvas.addEventListener("keydown", this.followKey, { capture: true });
    this.controls.addEventListener("change", () => {
      if (!this.isLooking) this.begin();
      this.stage.redraw();
    });
    this.follow();
  }

  get isLooking(): boolean {
    return this.stage.looker !== undefined;
  }

  /** While something else is dragged on the stage, such as a handle, it is not looked round. */
  setEnabled(isEnabled: boolean): void {
    this.controls.enabled = isEnabled;
  }

  private readonly followKey = () => this.follow();

  /** Takes over the place of the scene's camera, unless somebody looks round already. */
  private follow(): void {
    if (this.isLooking) return;
    const { camera } = this.stage;
    this.eye.copy(camera, false);
    const distance = (camera.userData.targetM as number | undefined) ?? 10;
    const way = camera.getWorldDirection(new Vector3());
    this.controls.target.copy(camera.position).addScaledVector(way, distance);
    this.eye.updateProjectionMatrix();
  }

  private begin(): void {
    this.stage.looker = this.eye;
    this.onChange(true);
  }

  /** Back to the scene's camera. */
  stop(): void {
    this.stage.looker = undefined;
    this.follow();
    this.onChange(false);
  }

  get viewpoint(): Viewpoint {
    const tidy = ({ x, y, z }: Vector3): [number, number, number] =>
      [x, y, z].map((one) => Math.round(one * 1000) / 1000) as [number, number, number];
    return { position: tidy(this.eye.position), target: tidy(this.controls.target) };
  }

  /** Comes so near to what a box encloses that it fills most of the image, from the side that is looked at now. */
  frame(box: Box3): void {
    if (box.isEmpty()) return;
    this.follow();
    const { center, radius } = box.getBoundingSphere(new Sphere());
    const height = Math.tan((this.eye.fov * Math.PI) / 360);
    const narrow = Math.min(1, this.eye.aspect);
    const distance = Math.max(0.2, radius / (height * narrow * FILLS));
    const way = this.eye.position.clone().sub(this.controls.target).normalize();
    this.controls.target.copy(center);
    this.eye.position.copy(center).addScaledVector(way, distance);
    if (!this.isLooking) this.begin();
    this.controls.update();
    this.stage.redraw();
  }

  dispose(): void {
    this.stage.looker = undefined;
    this.stage.canvas.removeEventListener("keydown", this.followKey, { capture: true });
    this.controls.dispose();
  }
}
