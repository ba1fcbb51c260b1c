import type { Bodies } from "@bumbrel/core/simulate/bodies/bodies";
import { Vector3 } from "three";
import type { Ray } from "../stage/picking";

/** Speed at which the arc of a teleport sets out, m/s: it bends down as a thrown thing does. */
const THROW_SPEED = 6;
const THROW_STEPS = 40;
const THROW_STEP_S = 0.04;
const GRAVITY = 9.81;

/** The arc of a teleport, and where it lands; nowhere without `landing`. */
export interface Throw {
  points: Vector3[];
  landing: Vector3 | undefined;
}

/** A teleport climbs this far at most, metres: from on top of a wall or a roof there is no way back. */
const CLIMB_M = 1;

/** The visitor who teleports, and the surfaces they can land on. */
export interface Thrower {
  /** Of the visitor in the scene. */
  scale: number;
  /** Height of what they stand on. */
  feetY: number;
  /** Height of the visitor's eyes over their feet. */
  eye: number;
  /** Height of the floor; `undefined` where only solid things can be landed on. */
  floorY: number | undefined;
  bodies: Bodies | undefined;
}

/**
 * The way a teleport would take: like something that is thrown, to the first thing that is in its way. It lands where
 * somebody can stand and could come back from, and nowhere else.
 */
export function throwAlong({ from, way }: Ray, { scale, feetY, eye, floorY, bodies }: Thrower): Throw {
  const points: Vector3[] = [];
  const at = new Vector3(...from);
  const speed = new Vector3(...way).multiplyScalar(THROW_SPEED * scale);
  const highest = feetY + CLIMB_M * scale;
  for (let i = 0; i < THROW_STEPS; i++) {
    points.push(at.clone());
    const ahead = speed.clone().multiplyScalar(THROW_STEP_S);
    const hit = bodies?.hit(at.toArray(), ahead.clone().normalize().toArray(), ahead.length());
    if (hit) {
      const point = new Vector3(...hit.point);
      points.push(point);
      const canLand = point.y <= highest && bodies!.canStand(hit.point, hit.normal, eye);
      return { points, landing: canLand ? point.clone() : undefined };
    }
    if (floorY !== undefined && at.y <= floorY) {
      at.y = floorY;
      const isFree = !bodies || bodies.isFree(at.toArray(), eye);
      return { points, landing: isFree ? at : undefined };
    }
    at.addScaledVector(speed, THROW_STEP_S);
    speed.y -= GRAVITY * THROW_STEP_S * scale;
  }
  return { points, landing: undefined };
}
