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

const BY_CUE = { tap: "can be tapped", press: "can be held", touch: "can be touched" } as const;
type ReachedBy = keyof typeof BY_CUE;
const REACHED_BY = Object.keys(BY_CUE) as ReachedBy[];

/** Ids of the objects that answer any of some kinds of cue: a tap, a long press or a touch. */
export const answeringIds = (
  { scene }: Pick<ScenePlayer, "scene">,
  kinds: readonly ReachedBy[] = REACHED_BY,
): Set<string> =>
  new Set(
    scene.answers.flatMap(({ on, cue }) =>
      on && (kinds as readonly string[]).includes(cue.kind) && "objectId" in cue ? (cue.objectId ?? []) : [],
    ),
  );

/** True when an answer waits for a key, named as browsers name it; a space is `Space`. */
export const isKeyAskedFor = ({ scene }: Pick<ScenePlayer, "scene">, name: string): boolean =>
  scene.answers.some(
    ({ on, cue }) => on && cue.kind === "key" && cue.key.toLowerCase() === name.toLowerCase(),
  );
/** Name of a key in answers. */
export const keyName = ({ key }: Pick<KeyboardEvent, "key">): string => (key === " " ? "Space" : key);

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

/** Says which taps, long presses and touches an object answers; empty where it answers none. */
export const answersOf = (player: Pick<ScenePlayer, "scene">, objectId: string): string =>
  REACHED_BY.flatMap((kind) => (answeringIds(player, [kind]).has(objectId) ? BY_CUE[kind] : [])).join(", ");
