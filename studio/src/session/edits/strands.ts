import type { ListensTo, Strand } from "@bumbrel/core/document/scene";
import { MEASURES, type Measure } from "@bumbrel/core/strand/measures/table";
import { fitWindow } from "@bumbrel/core/strand/shape/fit";
import { changeShaping, type ShapingChange } from "@bumbrel/core/strand/shape/shaping";
import type { StartingPointName } from "@bumbrel/core/strand/shape/startingPoints";
import { nanoid } from "nanoid";
import type { Traces } from "../../analysis/analysisClient";
import { dispatch, type Editable } from "./dispatch";

/** Changes one strand as an undoable step. */
export function editStrand(
  document: Editable,
  strandId: string,
  label: string,
  change: (strand: Strand) => void,
  gesture?: string,
): void {
  document.edit(
    label,
    (scene) => {
      const strand = scene.strands.find(({ id }) => id === strandId);
      if (strand) change(strand);
    },
    gesture,
  );
}

/** Listening to a sound as it comes, before its fader. */
export const soundBeforeFader = (id: string): ListensTo => ({ kind: "sound", id, tap: "before" });

/** Adds a strand with a measure of its own, and gives its id. */
export function addStrandOf(
  document: Editable,
  listensTo: ListensTo,
  measure: Measure,
  gesture?: string,
): string {
  const id = nanoid(10);
  dispatch(document, "addStrand", { id, listensTo, measure }, gesture);
  return id;
}

/** Adds a strand listening to a range of a sound, and gives its id. */
export function addStrand(
  document: Editable,
  listensTo: ListensTo,
  range: { lowHz: number; highHz: number },
  gesture?: string,
): string {
  return addStrandOf(document, listensTo, { ...MEASURES.band.defaults, ...range }, gesture);
}

/** Removes a strand, its bindings and its place in others; what they drove comes to rest. */
export const removeStrand = (document: Editable, { id }: Pick<Strand, "id">): void =>
  dispatch(document, "removeStrand", { strandId: id });

/** Adds a strand like another beside it, without its bindings, and gives its id. */
export function duplicateStrand(document: Editable, strand: Pick<Strand, "id">): string {
  const id = nanoid(10);
  dispatch(document, "duplicateStrand", { strandId: strand.id, id });
  return id;
}

/** Puts a strand at another place in the row. */
export function moveStrand(document: Editable, strandId: string, to: number): void {
  if (to >= 0) dispatch(document, "moveStrand", { strandId, to });
}

/** Sets floor and range from what the sound does; says whether there was anything to go by. */
export function fitStrand(document: Editable, strand: Strand, traces: Traces, gesture?: string): boolean {
  const window = fitWindow(traces.raw, strand.shaping);
  if (!window) return false;
  editStrand(
    document,
    strand.id,
    `fit ${strand.name}`,
    ({ shaping }) => {
      Object.assign(shaping.window, window, { on: true });
    },
    gesture,
  );
  return true;
}

/** Has a strand listen to something else; a measure that cannot be read there gives way to one that can. */
export const listenTo = (document: Editable, strandId: string, listensTo: ListensTo): void =>
  dispatch(document, "listenTo", { strandId, listensTo });

/** Takes over some shaping settings as one step. */
export function applyShaping(
  document: Editable,
  strand: Pick<Strand, "id">,
  label: string,
  change: ShapingChange,
): void {
  editStrand(document, strand.id, label, ({ shaping }) => changeShaping(shaping, change));
}

/** Begins from a starting point by name. */
export const startFrom = (document: Editable, { id }: Pick<Strand, "id">, name: StartingPointName): void =>
  dispatch(document, "startFrom", { strandId: id, name });

/** Keeps all tunings as they are under a name, and gives its id. */
export function addKeep(document: Editable, name: string): string {
  const id = nanoid(10);
  dispatch(document, "addSnapshot", { id, name });
  return id;
}

/** Goes back to a keep, as one step that can be undone. */
export function goBackTo(document: Editable, snapshotId: string): void {
  if (document.scene.keeps.some(({ id }) => id === snapshotId))
    dispatch(document, "goBackTo", { snapshotId });
}

export const removeKeep = (document: Editable, snapshotId: string): void =>
  dispatch(document, "removeSnapshot", { snapshotId });

export const renameKeep = (document: Editable, snapshotId: string, name: string): void =>
  dispatch(document, "renameSnapshot", { snapshotId, name });
