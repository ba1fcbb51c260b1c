import type { Pose } from "@bumbrel/core/document/take/poses";
import {
  CapsuleGeometry,
  Group,
  MathUtils,
  Mesh,
  MeshBasicMaterial,
  SphereGeometry,
  TorusGeometry,
} from "three";

const BRASS = 0xe3b563;
const DARK = 0x3a2c20;

/** Mark that shows a visitor their own hand: a short stick with a ring, or a fingertip. */
export class HandMark {
  readonly object = new Group();
  private readonly stick = new Group();
  private readonly fingertip: Mesh;

  constructor() {
    const brass = new MeshBasicMaterial({ color: BRASS });
    const handle = new Mesh(new CapsuleGeometry(0.014, 0.1, 4, 12), new MeshBasicMaterial({ color: DARK }));
    handle.rotation.x = Math.PI / 2;
    handle.position.z = 0.03;
    const ring = new Mesh(new TorusGeometry(0.03, 0.005, 8, 32), brass);
    const head = new Mesh(new SphereGeometry(0.016, 16, 12), brass);
    ring.position.z = -0.02;
    head.position.z = -0.05;
    this.stick.add(handle, ring, head);
    this.fingertip = new Mesh(new SphereGeometry(0.014, 16, 12), brass);
    this.object.add(this.stick, this.fingertip);
    this.object.visible = false;
  }

  /**
   * Shows it.
   *
   * @param scale  metres of the scene for one of the visitor’s
   */
  show({ x, y, z, yaw, pitch, roll }: Pose, scale: number, isFingertip: boolean): void {
    const { object } = this;
    object.position.set(x, y, z);
    object.rotation.set(MathUtils.degToRad(pitch), MathUtils.degToRad(yaw), MathUtils.degToRad(roll), "YXZ");
    object.scale.setScalar(scale);
    object.visible = true;
    this.stick.visible = !isFingertip;
    this.fingertip.visible = isFingertip;
  }

  hide(): void {
    this.object.visible = false;
  }

  dispose(): void {
    this.object.removeFromParent();
    this.object.traverse((part) => {
      if (!(part instanceof Mesh)) return;
      part.geometry.dispose();
      part.material.dispose();
    });
  }
}
