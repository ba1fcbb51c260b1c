import type { StageObject } from "@bumbrel/core/scene/document";
import type { Evaluator, Plan } from "@bumbrel/core/scene/evaluate";
import type { Placing } from "@bumbrel/core/scene/placing";
import type { Camera, Object3D } from "three";
import type { StageAssets } from "./assets";

/** What a thing on the stage is made from; renewed in place whenever the document changes. */
export interface Source {
  object: StageObject;
  plan: Plan;
  evaluator: Evaluator;
  placing: Placing;
  assets: StageAssets;
}

/** An instant of the stage. */
export interface Frame {
  /** As the evaluator laid them out. */
  values: Float64Array;
  timeS: number;
  /** What the stage is seen through. */
  camera: Camera;
  /** Whether the picture goes through bloom and the like before it is on the screen. */
  composed: boolean;
}

/** One object of the scene as it stands on the stage. */
export interface Thing {
  root: Object3D;
  /** Takes over evaluated values; called every frame, so it allocates nothing. */
  apply(frame: Frame): void;
  /** What the stage shows for a property now, read back from what is drawn; not every property can be. */
  read(property: string): number | number[] | undefined;
  /** Every number that is sent to be drawn. */
  drawn(): number[];
  /** Leaves its wake and all but so many of its copies out, until what it gives is called. */
  leaveFew?(most: number): () => void;
  /** Things it counts for: copies, particles. */
  count?(): { copies?: number; particles?: number };
  dispose(): void;
}

export const DEGREES = Math.PI / 180;

/** One of a thing's values; 0 for a property that is not in use. */
export function numberAt({ plan }: Source, { values }: Frame, key: string, axis = 0): number {
  const slot = plan.at[key];
  return slot ? values[slot.offset + axis] : 0;
}
