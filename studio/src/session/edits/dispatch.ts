import type { Scene } from "@bumbrel/core/document/scene";
import type { NamedEdit } from "@bumbrel/core/edit/namedEdit";
import { EDITS, type EditArgs, type EditName } from "@bumbrel/core/edit/table";
import type { Recipe } from "../../document/history";

/** A document that can be edited. */
export interface Editable {
  readonly scene: Scene;
  edit(label: string, recipe: Recipe, gesture?: string): void;
}

/**
 * Carries out a named edit as one undoable step.
 *
 * @param gesture  edits in a row with the same key become one step
 */
export function dispatch<N extends EditName>(
  document: Editable,
  name: N,
  args: EditArgs<N>,
  gesture?: string,
): void {
  const edit = EDITS[name] as unknown as NamedEdit<EditArgs<N>>;
  document.edit(edit.label(document.scene, args), (draft) => edit.apply(draft, args), gesture);
}
