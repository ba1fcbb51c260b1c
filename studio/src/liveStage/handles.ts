import type { RestValue } from "@bumbrel/core/document/scene";
import type { Stage } from "@bumbrel/player/stage/stage";
import {
  type CylinderGeometry,
  Euler,
  Matrix4,
  type Mesh,
  Object3D,
  OctahedronGeometry,
  Quaternion,
  SphereGeometry,
  Vector3,
} from "three";
import { TransformControls } from "three/examples/jsm/controls/TransformControls.js";

export type HandleMode = "move" | "turn" | "size";
const MODES = { move: "translate", turn: "rotate", size: "scale" } as const;
/** Steps things snap to. */
const SNAP = { moveM: 0.25, turnDegrees: 15, size: 0.1 };
const DEGREES = Math.PI / 180;
/** Axes in the interface's own colours: right, up, towards the viewer. */
const COLOURS = { x: 0xff8a70, y: 0x4fd1a5, z: 0x6cb6ff, active: 0xe3b563 };

/** Something handles move. */
export interface Handled {
  id: string;
  position: readonly number[] | undefined;
  rotation: readonly number[] | undefined;
  scale: readonly number[] | undefined;
}
export type Moved = Record<string, Partial<Record<"position" | "rotation" | "scale", RestValue>>>;

/**
 * Handles on the stage that move, turn and size what is chosen. They begin where the first of them stands; the others
 * go along by as much.
 */
export class Handles {
  private readonly stage: Stage;
  private readonly controls: TransformControls;
  private readonly proxy = new Object3D();
  private readonly onMoved: (moved: Moved) => void;
  private handled: readonly Handled[] = [];
  private readonly stop: () => void;
  private readonly startPlace = new Vector3();
  private readonly startTurn = new Quaternion();
  private readonly unparent = new Matrix4();
  isDragging = false;
  /** Just let go: the press that ends a drag chooses nothing. */
  justDragged = false;

  /** @param onHold  tells when a drag of a handle begins and ends */
  constructor(
    stage: Stage,
    onMoved: (moved: Moved) => void,
    onDone: () => void,
    onHold: (isHeld: boolean) => void,
  ) {
    this.stage = stage;
    this.onMoved = onMoved;
    this.controls = new TransformControls(stage.camera, stage.canvas);
    this.controls.setColors(COLOURS.x, COLOURS.y, COLOURS.z, COLOURS.active);
    this.controls.setSize(0.75);
    beOurs(this.controls.getHelper());
    stage.overlay.add(this.proxy, this.controls.getHelper());
    // It is seen, and pointed at, through whatever the stage is seen through.
    this.stop = stage.beforeRender(() => {
      this.controls.camera = stage.camera;
    });
    this.controls.addEventListener("change", stage.redraw);
    this.controls.addEventListener("objectChange", () => this.moved());
    this.controls.addEventListener("dragging-changed", ({ value }) => {
      this.isDragging = value === true;
      this.justDragged = true;
      onHold(this.isDragging);
      if (value) {
        this.startPlace.copy(this.proxy.position);
        this.startTurn.copy(this.proxy.quaternion);
      } else onDone();
    });
  }

  setMode(mode: HandleMode): void {
    this.controls.setMode(MODES[mode]);
    this.controls.setSpace(mode === "move" ? "world" : "local");
    this.stage.redraw();
  }

  setSnapping(snaps: boolean): void {
    this.controls.setTranslationSnap(snaps ? SNAP.moveM : null);
    this.controls.setRotationSnap(snaps ? SNAP.turnDegrees * DEGREES : null);
    this.controls.setScaleSnap(snaps ? SNAP.size : null);
  }

  /**
   * Takes hold of objects, or lets go of all.
   *
   * @param parentRoot  where the group stands that the first of them is in
   */
  hold(handled: readonly Handled[], parentRoot: Float32Array | undefined): void {
    if (this.isDragging) return;
    this.handled = handled;
    const [first] = handled;
    const root = first && this.stage.rootOf(first.id);
    if (!first?.position || !root) {
      this.controls.detach();
      this.stage.redraw();
      return;
    }
    const parent = parentRoot ? new Matrix4().fromArray(parentRoot) : new Matrix4();
    this.unparent.copy(parent).invert();
    // From where it rests, not from where a strand has moved it to.
    this.proxy.position.fromArray([...first.position]).applyMatrix4(parent);
    this.proxy.rotation.set(...turnOf(first));
    this.proxy.scale.fromArray([...(first.scale ?? [1, 1, 1])]);
    this.controls.attach(this.proxy);
    this.stage.redraw();
  }

  private moved(): void {
    const { proxy, handled, unparent } = this;
    const place = proxy.position.clone().applyMatrix4(unparent);
    const shift = place.clone().sub(this.startPlace.clone().applyMatrix4(unparent));
    const turn = this.startTurn.clone().invert().premultiply(proxy.quaternion);
    const [first] = handled;
    const moved: Moved = {};
    for (const one of handled) {
      const change: Moved[string] = {};
      const mode = this.controls.getMode();
      if (mode === "translate" && one.position) {
        const [x, y, z] = one.position;
        change.position = tidy(one === first ? place.toArray() : [x + shift.x, y + shift.y, z + shift.z]);
      }
      if (mode === "rotate" && one.rotation) {
        const quaternion = new Quaternion().setFromEuler(new Euler(...turnOf(one))).premultiply(turn);
        const { x, y, z } = new Euler().setFromQuaternion(quaternion);
        change.rotation = tidy([x / DEGREES, y / DEGREES, z / DEGREES]);
      }
      if (mode === "scale" && one.scale && first.scale) {
        const by = [0, 1, 2].map((axis) => proxy.scale.getComponent(axis) / (first.scale![axis] || 1));
        change.scale = tidy(one.scale.map((old, axis) => Math.max(0, old * by[axis])));
      }
      if (Object.keys(change).length > 0) moved[one.id] = change;
    }
    this.onMoved(moved);
  }

  dispose(): void {
    this.stop();
    this.controls.detach();
    this.controls.dispose();
    this.stage.overlay.remove(this.proxy, this.controls.getHelper());
  }
}

/** Ends of the handles in our own look: beads for moving, diamonds for sizing, on hairlines. */
function beOurs(helper: Object3D): void {
  helper.traverse((part) => {
    const { geometry } = part as Mesh;
    if (!geometry) return;
    geometry.computeBoundingSphere();
    const { center } = geometry.boundingSphere!;
    const isEnd = (geometry as CylinderGeometry).parameters?.radiusTop === 0;
    const isBlock = geometry.type === "BoxGeometry" && geometry.boundingSphere!.radius < BLOCK_SIZE;
    const shape = isEnd
      ? new SphereGeometry(0.032, 16, 12)
      : isBlock
        ? new OctahedronGeometry(0.05)
        : undefined;
    if (!shape) return;
    geometry.dispose();
    (part as Mesh).geometry = shape.translate(center.x, center.y, center.z);
  });
}
/** Parts of the handles that are blocks are smaller than this, in the library's units. */
const BLOCK_SIZE = 0.09;

const turnOf = ({ rotation }: Handled): [number, number, number] => {
  const [x, y, z] = rotation ?? [0, 0, 0];
  return [x * DEGREES, y * DEGREES, z * DEGREES];
};
const tidy = (numbers: number[]) =>
  numbers.map((one) => Math.round(one * 1000) / 1000) as [number, number, number];
