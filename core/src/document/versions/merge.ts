import isEqual from "fast-deep-equal";
import type { Scene } from "../scene";

/** One place that two sides changed in different ways. What is absent there is `undefined`. */
export interface Collision {
  /** From the scene to the place: property names, and ids of the items of lists. */
  path: readonly string[];
  base: unknown;
  mine: unknown;
  theirs: unknown;
}

export type Side = "mine" | "theirs";

export interface Merged {
  scene: Scene;
  collisions: Collision[];
}

type Choose = (collision: Collision) => Side;
export type Item = { id: string };
export type Fields = Record<string, unknown>;

/**
 * Three-way merge of two scenes that were both made from a third.
 *
 * Items of lists are matched by their ids, so that additions, removals and changes of different items, or of different
 * properties of one item, go together. A list without ids, such as a colour, is one value.
 *
 * @param base  what both were made from
 * @param choose  which side a collision goes to
 * @returns the merged scene, which shares what it can with the others, and every place where the two collide
 *
 * @example mergeScenes(opened, edited, savedElsewhere).collisions.length === 0 // nothing to ask about
 */
export function mergeScenes(base: Scene, mine: Scene, theirs: Scene, choose: Choose = () => "mine"): Merged {
  const collisions: Collision[] = [];
  const scene = merge({ path: [], base, mine, theirs }, (collision) => {
    collisions.push(collision);
    return choose(collision);
  });
  return { scene: scene as Scene, collisions };
}

function merge(place: Collision, choose: Choose): unknown {
  const { base, mine, theirs } = place;
  if (isEqual(mine, theirs) || isEqual(theirs, base)) return mine;
  if (isEqual(mine, base)) return theirs;
  if (isItemList(base) && isItemList(mine) && isItemList(theirs)) {
    return mergeLists(place.path, base, mine, theirs, choose);
  }
  if (isFields(base) && isFields(mine) && isFields(theirs) && isSameKind(base, mine, theirs)) {
    return mergeFields(place.path, base, mine, theirs, choose);
  }
  return place[choose(place)];
}

function mergeFields(path: readonly string[], base: Fields, mine: Fields, theirs: Fields, choose: Choose) {
  const out: Fields = {};
  for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
    const at = (fields: Fields) => (Object.hasOwn(fields, key) ? fields[key] : undefined);
    const value = merge({ path: [...path, key], base: at(base), mine: at(mine), theirs: at(theirs) }, choose);
    if (value !== undefined) out[key] = value;
  }
  return out;
}

function mergeLists(
  path: readonly string[],
  base: readonly Item[],
  mine: readonly Item[],
  theirs: readonly Item[],
  choose: Choose,
): Item[] {
  const [inBase, inMine, inTheirs] = [base, mine, theirs].map(
    (list) => new Map(list.map((item) => [item.id, item])),
  );
  // The order is that of the side that changed it.
  const shared = (list: readonly Item[]) =>
    list.map(({ id }) => id).filter((id) => inBase.has(id) && inMine.has(id) && inTheirs.has(id));
  const isReordered = !isEqual(shared(mine), shared(base));
  const order = isReordered ? withInserted(mine, theirs) : withInserted(theirs, mine);
  return order.flatMap((id) => {
    const kept = merge(
      { path: [...path, id], base: inBase.get(id), mine: inMine.get(id), theirs: inTheirs.get(id) },
      choose,
    );
    return kept === undefined ? [] : [kept as Item];
  });
}

/** The ids of one list, with those that only another has put behind the item that they follow there. */
function withInserted(list: readonly Item[], other: readonly Item[]): string[] {
  const followers = new Map<string | undefined, string[]>();
  const known = new Set(list.map(({ id }) => id));
  let before: string | undefined;
  for (const { id } of other) {
    if (known.has(id)) before = id;
    else followers.set(before, [...(followers.get(before) ?? []), id]);
  }
  return [undefined, ...list.map(({ id }) => id)].flatMap((id) => [
    ...(id === undefined ? [] : [id]),
    ...(followers.get(id) ?? []),
  ]);
}

export const isFields = (value: unknown): value is Fields =>
  typeof value === "object" && value !== null && !Array.isArray(value);

export const isItemList = (value: unknown): value is Item[] =>
  Array.isArray(value) && value.every((item) => isFields(item) && typeof item.id === "string");

/** True if all three are of one kind: objects of different kinds have different properties and cannot be mixed. */
const isSameKind = (base: Fields, mine: Fields, theirs: Fields) =>
  base.kind === mine.kind && base.kind === theirs.kind;
