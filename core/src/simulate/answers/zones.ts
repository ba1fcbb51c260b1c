import type { ObjectPlan } from "../../evaluate/plan";
import type { ZoneShape } from "../../kinds/shelves/visiting";
import { settingOf } from "../../kinds/table";
import { toLocal } from "../matrix";
import type { StepPlaces } from "../stepPlaces";

const local = new Float64Array(3);

/**
 * How near the middle of a zone a point is.
 *
 * @returns 1 in the middle, 0 at the border, below 0 outside: −1 as far out again as the border is from the middle
 */
export function nearness(plan: ObjectPlan, places: StepPlaces, x: number, y: number, z: number): number {
  const { count, matrices } = places.rootsOf(plan);
  const shape = settingOf(plan.object, "shape") as ZoneShape;
  let most = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < count; i++) {
    if (!toLocal(matrices, i * 16, x, y, z, local)) continue;
    const half = (axis: number) => Math.max(1e-6, places.number(plan, "size", axis) / 2);
    const [u, v, w] = [local[0] / half(0), local[1] / half(1), local[2] / half(2)];
    const away =
      shape === "ball"
        ? Math.hypot(u, v, w)
        : shape === "cylinder"
          ? Math.max(Math.hypot(u, w), Math.abs(v))
          : Math.max(Math.abs(u), Math.abs(v), Math.abs(w));
    most = Math.max(most, 1 - away);
  }
  return most;
}

/**
 * The same for a person who stands: for the height between feet and eyes that is nearest the zone's middle.
 *
 * @param eye  height of the eyes above the feet
 */
export function nearnessOfStanding(
  plan: ObjectPlan,
  places: StepPlaces,
  [x, y, z]: readonly [number, number, number],
  eye: number,
): number {
  const { matrices } = places.rootsOf(plan);
  const middle = matrices[13];
  return nearness(plan, places, x, Math.min(y + eye, Math.max(y, middle)), z);
}
