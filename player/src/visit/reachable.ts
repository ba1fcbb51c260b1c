import type { StageObject } from "@bumbrel/core/document/scene";
import { settingOf } from "@bumbrel/core/kinds/table";
import { Box3, type InstancedMesh, Matrix4, type Object3D, Vector3 } from "three";
import type { ScenePlayer } from "../scenePlayer";
import type { Stage } from "../stage/stage";

/** Copies of one object that can be reached one by one, at most. */
const MOST_COPIES = 64;
const MATRIX = new Matrix4();
const BOX = new Box3();

/** Something that answers a visitor. */
export interface Reachable {
  objectId: string;
  copy: number;
  /** A point of it that can be aimed at, metres on the stage. */
  point: Vector3;
}

/** Ids of the objects that answer a tap, a long press or a touch. */
export const answeringIds = ({ scene }: ScenePlayer): Set<string> =>
  new Set(
    scene.answers.flatMap(({ on, cue }) =>
      on && (cue.kind === "tap" || cue.kind === "press" || cue.kind === "touch") ? (cue.objectId ?? []) : [],
    ),
  );

/** Everything on the stage that answers a tap, a long press or a touch, each copy by itself. */
export function reachables(player: ScenePlayer, stage: Stage): Reachable[] {
  stage.three.updateMatrixWorld();
  return [...answeringIds(player)].flatMap((objectId) => {
    const root = stage.entries.get(objectId)?.rendered.root;
    if (!root?.visible) return [];
    return pointsOf(root).map((point, copy) => ({ objectId, copy, point }));
  });
}

/** The middle of each copy, or of the whole thing where there are no copies. */
function pointsOf(root: Object3D): Vector3[] {
  let copies: InstancedMesh | undefined;
  root.traverse((one) => {
    if ((one as InstancedMesh).isInstancedMesh) copies ??= one as InstancedMesh;
  });
  if (!copies) {
    BOX.setFromObject(root);
    return BOX.isEmpty() ? [] : [BOX.getCenter(new Vector3())];
  }
  const { matrixWorld, geometry, count } = copies;
  if (!geometry.boundingBox) geometry.computeBoundingBox();
  const middle = geometry.boundingBox!.getCenter(new Vector3());
  return Array.from({ length: Math.min(count, MOST_COPIES) }, (_, i) => {
    copies!.getMatrixAt(i, MATRIX);
    return middle.clone().applyMatrix4(MATRIX).applyMatrix4(matrixWorld);
  });
}

/** The words that stand for an object: its spoken label, or its name. */
export function labelOf(object: StageObject, copy = 0, copies = 1): string {
  const words = String(settingOf(object, "spokenLabel") ?? "") || object.name;
  return copies > 1 ? `${words}, ${copy + 1} of ${copies}` : words;
}

const BY_CUE = { tap: "can be tapped", press: "can be held", touch: "can be touched" } as const;
/** What an object answers, in words; empty where it answers nothing. */
export function answersOf({ scene }: ScenePlayer, objectId: string): string {
  const kinds = new Set(
    scene.answers.flatMap(({ on, cue }) =>
      on && "objectId" in cue && cue.objectId === objectId ? cue.kind : [],
    ),
  );
  return Object.entries(BY_CUE)
    .flatMap(([kind, words]) => (kinds.has(kind as keyof typeof BY_CUE) ? words : []))
    .join(", ");
}
