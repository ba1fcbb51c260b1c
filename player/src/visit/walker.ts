import type { Bodies } from "@bumbrel/core/simulate/bodies/bodies";

/** Acceleration of somebody who falls, and the fastest they get: it is a scene, not a flight. */
const FALL = 9.81;
const FASTEST_FALL = 12;
/** Longer frames are taken for this long: nobody wants to be elsewhere after a pause. */
const LONGEST_S = 0.4;

/** Steering of a walking visitor: ahead and to the right, −1 to 1 each. */
export interface Steering {
  ahead: number;
  right: number;
}

type Point = [number, number, number];

/** A visitor who walks: at eye height, along solid things, up steps and down again. */
export class Walker {
  x = 0;
  y = 0;
  z = 0;
  /** Degrees; 0 looks away from the viewer, 90 to the left. */
  yaw = 0;
  pitch = 0;
  private falling = 0;
  private hasArrived = false;

  /** Puts the feet somewhere; whoever would stick in something solid there is put on top of it once it is there. */
  stand([x, y, z]: readonly [number, number, number], yaw: number): void {
    Object.assign(this, { x, y, z, yaw, pitch: 0, falling: 0, hasArrived: false });
  }

  /** Turns by an angle, degrees; nobody looks further up or down than straight. */
  turn(yaw: number, pitch: number): void {
    this.yaw = (this.yaw + yaw) % 360;
    this.pitch = Math.max(-89, Math.min(89, this.pitch + pitch));
  }

  /**
   * Walks for some time.
   *
   * @param speed  m/s
   * @param height  of the visitor, metres
   * @param floorY  where the floor is in a scene without solid things
   * @param bodies  solid things; `coming` while they are not there: nobody moves before what they stand on exists
   */
  walk(
    { ahead, right }: Steering,
    speed: number,
    passedS: number,
    height: number,
    floorY: number,
    bodies: Bodies | undefined | "coming",
  ): void {
    if (bodies === "coming") return;
    const s = Math.min(LONGEST_S, passedS);
    const length = Math.max(1, Math.hypot(ahead, right));
    const [sine, cosine] = [Math.sin((this.yaw * Math.PI) / 180), Math.cos((this.yaw * Math.PI) / 180)];
    const by = speed * s;
    const dx = ((-sine * ahead + cosine * right) / length) * by;
    const dz = ((-cosine * ahead - sine * right) / length) * by;
    const falling = Math.min(FASTEST_FALL, this.falling + FALL * s);
    const wanted: Point = [this.x + dx, this.y - falling * s, this.z + dz];
    if (bodies) {
      const got = bodies.walk(wanted, height);
      // Until the visitor is in the world as well, they stay.
      if (!got) return;
      const from: Point = [this.x, this.y, this.z];
      let feet = this.hasArrived ? got.feet : from;
      let isLifted = false;
      if (!bodies.isFree(feet, height)) {
        // A long frame can end inside a wall: a walker who had room before stays there instead of being put on top of it.
        if (this.hasArrived && bodies.isFree(from, height)) feet = from;
        else {
          const free = bodies.onTop(feet, height);
          isLifted = free[1] > feet[1];
          feet = free;
        }
      }
      this.falling = got.stands || isLifted ? 0 : falling;
      this.hasArrived = true;
      [this.x, this.y, this.z] = feet;
    } else {
      [this.x, this.y, this.z] = wanted;
      this.falling = falling;
    }
    if (this.y <= floorY) {
      this.y = floorY;
      this.falling = 0;
    }
  }
}
