import isEqual from "fast-deep-equal";
import type { Scene } from "../scene";
import { isFields, isItemList } from "./merge";

/** A place at which two scenes differ. What is absent on a side is `undefined` there. */
export interface Change {
  /** From the scene to the place: property names, and ids of the items of lists. */
  path: readonly string[];
  before: unknown;
  after: unknown;
}

/** Deeper places are told of as one. */
const MOST_DEPTH = 6;

/**
 * The places at which two scenes differ, in the order of the document. Items of lists are matched by their ids; one that
 * is new or gone is one change.
 *
 * @example changesBetween(saved, edited).map(({ path }) => placeWords(path, [saved, edited]))
 */
export function changesBetween(before: Scene, after: Scene): Change[] {
  const changes: Change[] = [];
  compare([], before, after, changes);
  return changes;
}

function compare(path: readonly string[], before: unknown, after: unknown, changes: Change[]): void {
  if (isEqual(before, after)) return;
  if (path.length < MOST_DEPTH && isItemList(before) && isItemList(after)) {
    const [inBefore, inAfter] = [before, after].map((list) => new Map(list.map((item) => [item.id, item])));
    const known = changes.length;
    for (const id of new Set([...inBefore.keys(), ...inAfter.keys()]))
      compare([...path, id], inBefore.get(id), inAfter.get(id), changes);
    // Nothing but the order.
    if (changes.length === known) changes.push({ path, before, after });
    return;
  }
  if (path.length < MOST_DEPTH && isFields(before) && isFields(after)) {
    for (const key of new Set([...Object.keys(before), ...Object.keys(after)]))
      compare([...path, key], before[key], after[key], changes);
    return;
  }
  changes.push({ path, before, after });
}
