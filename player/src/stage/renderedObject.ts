import type { Program, StageObject } from "@bumbrel/core/document/scene";
import type { ObjectPlan } from "@bumbrel/core/evaluate/plan";
import type { ProgramKind } from "@bumbrel/core/program/kinds";
import type { SceneState } from "@bumbrel/core/simulate/sceneState";
import type {
  Box3,
  Camera,
  Object3D,
  PerspectiveCamera,
  Texture,
  Scene as ThreeScene,
  WebGLRenderer,
} from "three";
import type { StageAssets } from "./assets";
import type { ImageLayer } from "./image/imageLayer";
import type { QualitySpending } from "./image/quality";
import type { ProgramSource } from "./programs/programSource";

/** Source that an object on the stage is drawn from; updated in place when the document changes. */
export class ObjectSource implements ProgramSource {
  /** Increases when an edit may have changed how it looks. */
  edits = 0;
  plan: ObjectPlan;
  state: SceneState;
  readonly assets: StageAssets;
  /** Share of the steps that its round shapes are made of: less at lower quality. */
  fineness = 1;

  constructor(plan: ObjectPlan, state: SceneState, assets: StageAssets) {
    this.plan = plan;
    this.state = state;
    this.assets = assets;
  }

  get object(): StageObject {
    return this.plan.object;
  }

  /** An image of the project as a texture; `undefined` until it has arrived. */
  picture(id: string, isRepeated: boolean): Texture | undefined {
    return this.assets.picture(id, isRepeated);
  }
}

/** The program of a kind that an object uses; `undefined` without one, and while it is switched off. */
export function programFor(
  { state, assets }: ObjectSource,
  { settings }: StageObject,
  kind: ProgramKind,
): Program | undefined {
  const { programId } = settings;
  if (typeof programId !== "string") return undefined;
  const program = state.scene.programs.find((one) => one.id === programId && one.kind === kind);
  return program && assets.isOff(program) ? undefined : program;
}

/** An instant of the stage. */
export interface Frame {
  /** Laid out as the plan's slots say. */
  values: Float64Array;
  timeS: number;
  /** Camera that the stage is seen through. */
  camera: Camera;
  /** True if particles are drawn in a pass of their own, over an image whose depth they read. */
  isSoft: boolean;
}

/** Numbers that are sent to be drawn, by what they are for: matrices, colours … */
export type DrawnParts = Record<string, number[]>;
/** Values sent for a hidden object. */
export const HIDDEN: DrawnParts = { hidden: [0] };

/** Readings of a property each, as parts. */
export const partsOfReadings = (readings: Record<string, number | number[]>): DrawnParts =>
  Object.fromEntries(Object.entries(readings).map(([key, value]) => [key, [value].flat()]));

/** One object of the scene as the stage draws it. */
export interface RenderedObject {
  root: Object3D;
  /** Draws the state as it is now; called every frame, so it allocates nothing. */
  update(frame: Frame): void;
  /** Current drawn value of a property; not every property can be read back. */
  read(property: string): number | number[] | undefined;
  /** Every number that is sent to the graphics card, by what it is for. */
  drawnParts(): DrawnParts;
  /** Draws what the image needs of it beforehand, such as its reflection. */
  beforeImage?(
    renderer: WebGLRenderer,
    stage: ThreeScene,
    eye: PerspectiveCamera,
    spending: QualitySpending,
  ): void;
  /** Waits until everything that `beforeImage` draws is ready; `undefined` where it is already. */
  reachImage?(renderer: WebGLRenderer, eye: PerspectiveCamera): Promise<void> | undefined;
  /** Layer that it adds to the finished image, or pass that changes it. */
  imageLayer?: ImageLayer | undefined;
  /** Draws only so many of its copies and no wake, until the function it returns is called. */
  limitCopies?(count: number): () => void;
  /** Space it takes up on the stage, if that is more than a point and is not its geometry. */
  bounds?(box: Box3): Box3;
  /** Copies and particles it counts for. */
  count?(): { copies?: number; particles?: number };
  dispose(): void;
}

/** An object on the stage: what it is drawn from, and how it is drawn. */
export interface StageEntry {
  rendered: RenderedObject;
  source: ObjectSource;
  /** Identifies everything it was made from; it is made again when this changes. */
  key: string;
}

export const DEGREES = Math.PI / 180;

/** One of an object's values; 0 for a property that is not in use. */
export function numberAt({ plan }: ObjectSource, { values }: Frame, key: string, axis = 0): number {
  const slot = plan.at[key];
  return slot ? values[slot.offset + axis] : 0;
}
