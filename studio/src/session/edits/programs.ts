import type { Program, Scene, StageObject, Strand } from "@bumbrel/core/document/scene";
import { saveCode as saveCodeIn } from "@bumbrel/core/edit/programEdits";
import type { LostBinding } from "@bumbrel/core/kinds/programs";
import type { ProgramExample } from "@bumbrel/core/program/examples";
import { nanoid } from "nanoid";
import { create } from "zustand";
import { dispatch, type Editable } from "./dispatch";

/** The program that is being written, if one is. For this visit. */
export const useOpenProgram = create<{ programId: string | undefined }>(() => ({ programId: undefined }));
export const openProgram = (programId: string | undefined) => useOpenProgram.setState({ programId });

const idsOf = (things: readonly { id: string }[]) => things.map(({ id }) => id);

/** Lets objects use a program, or none. */
export const chooseProgram = (
  document: Editable,
  objects: readonly StageObject[],
  programId: string | null,
): void => dispatch(document, "chooseProgram", { objectIds: idsOf(objects), programId });

/** Adds a program that begins as an example or as a copy of another, and gives its id. */
function addProgram(
  document: Editable,
  from: Program | ProgramExample,
  users: { objectIds?: string[]; strandIds?: string[]; linksFirst?: boolean },
): string {
  const id = nanoid(10);
  const { kind, code } = from;
  const name = "id" in from ? `${from.name} copy` : from.label;
  dispatch(document, "addProgram", { id, name, kind, code, ...users });
  return id;
}

/**
 * Makes a program that objects use, and gives its id. It begins as an example, which is given the first strand, fan and sound
 * there is; or as a copy of another, which keeps what that is given.
 */
export const writeProgram = (
  document: Editable,
  objects: readonly StageObject[],
  from: Program | ProgramExample,
): string => addProgram(document, from, { objectIds: idsOf(objects), linksFirst: !("id" in from) });

/** Makes a program that gives strands their numbers, and gives its id; as {@link writeProgram} does for objects. */
export const writeNumber = (
  document: Editable,
  strands: readonly Pick<Strand, "id">[],
  from: Program | ProgramExample,
): string => addProgram(document, from, { strandIds: idsOf(strands) });

/** Has a program give a strand its numbers, or none. */
export const chooseNumber = (document: Editable, strandId: string, programId: string | null): void =>
  dispatch(document, "chooseNumber", { strandId, programId });

/** Takes a version that works; gives the bindings that move nothing any more. */
export function saveCode(document: Editable, programId: string, code: string): LostBinding[] {
  let lost: LostBinding[] = [];
  const recipe = (draft: Scene) => {
    lost = saveCodeIn(draft, programId, code);
  };
  document.edit(`write ${nameOf(document, programId)}`, recipe, `code ${programId}`);
  return lost;
}

/** Keeps what is being written while it does not work; what is shown stays the last version that did. */
export const saveDraft = (document: Editable, programId: string, code: string): void =>
  dispatch(document, "saveCodeDraft", { programId, code }, `code ${programId}`);

export const renameProgram = (document: Editable, programId: string, name: string): void =>
  dispatch(document, "renameProgram", { programId, name });

/** Removes a program; what used it has none. */
export const removeProgram = (document: Editable, programId: string): void =>
  dispatch(document, "removeProgram", { programId });

/** Chooses what a value of a program stands for; `null` for nothing. */
export const setLink = (
  document: Editable,
  objects: readonly StageObject[],
  key: string,
  id: string | null,
): void => dispatch(document, "setLink", { objectIds: idsOf(objects), key, id });

const nameOf = ({ scene }: Editable, programId: string) =>
  scene.programs.find(({ id }) => id === programId)?.name ?? "a program";
