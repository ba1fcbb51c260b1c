import { Name } from "../setting/schema";
import { ANSWER_EDITS } from "./answerEdits";
import { BINDING_EDITS } from "./bindingEdits";
import { GROUP_EDITS } from "./groupEdits";
import { type NamedEdit, namedEdit } from "./namedEdit";
import { OBJECT_EDITS } from "./objectEdits";
import { PASTE_EDITS } from "./paste";
import { PROGRAM_EDITS } from "./programEdits";
import { SOUND_EDITS } from "./soundEdits";
import { STRAND_EDITS } from "./strandEdits";
import { TAKE_EDITS } from "./takeEdits";

const SCENE_EDITS = {
  renameScene: namedEdit({
    help: "Renames the project.",
    args: { name: Name },
    label: (_scene, { name }) => `rename the project to ${name}`,
    apply(draft, { name }) {
      draft.name = name;
    },
  }),
};

/** Every edit of a scene by its name: the workbench, scripts and the documentation read this table. */
export const EDITS = {
  ...SCENE_EDITS,
  ...SOUND_EDITS,
  ...STRAND_EDITS,
  ...OBJECT_EDITS,
  ...GROUP_EDITS,
  ...BINDING_EDITS,
  ...PASTE_EDITS,
  ...ANSWER_EDITS,
  ...TAKE_EDITS,
  ...PROGRAM_EDITS,
};
export type EditName = keyof typeof EDITS;
/** Arguments of an edit. */
export type EditArgs<N extends EditName> = (typeof EDITS)[N] extends NamedEdit<infer A> ? A : never;

/** An edit by its name, as scripts have it. */
export const editNamed = (name: string): NamedEdit<never> | undefined =>
  Object.hasOwn(EDITS, name) ? (EDITS[name as EditName] as NamedEdit<never>) : undefined;
