import type { StageObject } from "@bumbrel/core/document/scene";
import type { ObjectPlan } from "@bumbrel/core/evaluate/plan";
import type { SceneState } from "@bumbrel/core/simulate/sceneState";
import type { Texture } from "three";

/** The object that a program works for. */
export interface ProgramSource {
  /** Increases when an edit may have changed how it looks. */
  readonly edits: number;
  readonly plan: ObjectPlan;
  readonly state: SceneState;
  readonly object: StageObject;
  /** An image of the project as a texture; `undefined` until it has arrived. */
  picture(id: string, isRepeated: boolean): Texture | undefined;
}
