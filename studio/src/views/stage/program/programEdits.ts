import type { Program, Scene, StageObject, Strand } from "@bumbrel/core/document/scene";
import { programKindOf } from "@bumbrel/core/kinds/programKinds";
import {
  changeProgram,
  choicesFor,
  exposedBy,
  giveProgram,
  giveStrandProgram,
  type LostBinding,
  linkByName,
  strandsBy,
} from "@bumbrel/core/kinds/programs";
import { PROGRAM_EXAMPLES, type ProgramExample } from "@bumbrel/core/program/examples";
import { exposedKey } from "@bumbrel/core/program/exposed";
import { nanoid } from "nanoid";
import { create } from "zustand";
import type { Workbench } from "../../project/workbench";

/** The program that is being written, if one is. For this visit. */
export const useOpenProgram = create<{ programId: string | undefined }>(() => ({ programId: undefined }));
export const openProgram = (programId: string | undefined) => useOpenProgram.setState({ programId });

function freeName(programs: readonly Program[], label: string): string {
  const taken = new Set(programs.map(({ name }) => name));
  let name = label;
  for (let number = 2; taken.has(name); number++) name = `${label} ${number}`;
  return name;
}

const draftOf = (scene: Scene, { id }: StageObject) => scene.objects.find((one) => one.id === id);

/** Lets objects use a program, or none. */
export function chooseProgram(
  workbench: Workbench,
  objects: readonly StageObject[],
  programId: string | null,
): void {
  workbench.edit(programId === null ? "use no program" : "choose a program", (scene) => {
    const program = scene.programs.find(({ id }) => id === programId);
    for (const object of objects) {
      const target = draftOf(scene, object);
      if (target) giveProgram(target, program);
    }
  });
}

/** Adds a program to the project and gives it to what uses it; gives its id. */
function addProgram(
  workbench: Workbench,
  from: Program | ProgramExample,
  give: (scene: Scene, program: Program) => void,
): string {
  const program = newProgram(workbench, from);
  workbench.edit(`write ${program.name}`, (scene) => {
    scene.programs.push(program);
    give(scene, program);
  });
  return program.id;
}

/**
 * Makes a program that objects use, and gives its id. It begins as an example, which is given the first strand, fan and sound
 * there is; or as a copy of another, which keeps what that is given.
 */
export const writeProgram = (
  workbench: Workbench,
  objects: readonly StageObject[],
  from: Program | ProgramExample,
): string =>
  addProgram(workbench, from, (scene, program) => {
    for (const object of objects) {
      const target = draftOf(scene, object);
      if (!target) continue;
      giveProgram(target, program);
      if (!("id" in from)) linkFirst(scene, target, program);
    }
  });

/** Makes a program that gives strands their numbers, and gives its id; as {@link writeProgram} does for objects. */
export const writeNumber = (
  workbench: Workbench,
  strands: readonly Strand[],
  from: Program | ProgramExample,
): string =>
  addProgram(workbench, from, (scene, program) => {
    for (const { id } of strands) {
      const strand = scene.strands.find((one) => one.id === id);
      if (strand) giveStrandProgram(strand, program);
    }
  });

/** Has a program give a strand its numbers, or none. */
export function chooseNumber(workbench: Workbench, strandId: string, programId: string | null): void {
  workbench.edit(programId === null ? "use no program" : "choose a program", (scene) => {
    const strand = scene.strands.find(({ id }) => id === strandId);
    if (strand)
      giveStrandProgram(
        strand,
        scene.programs.find(({ id }) => id === programId),
      );
  });
}

/** Gives a new object the first worked program of its kind, on what the project has. */
export function beginProgram(scene: Scene, object: StageObject): void {
  const kind = programKindOf(object.kind);
  const example = Object.values<ProgramExample>(PROGRAM_EXAMPLES).find((one) => one.kind === kind);
  if (!example) return;
  const program = newProgram({ scene }, example);
  scene.programs.push(program);
  giveProgram(object, program);
  linkFirst(scene, object, program);
}

function newProgram({ scene }: { scene: Scene }, from: Program | ProgramExample): Program {
  return {
    id: nanoid(10),
    name: freeName(scene.programs, "id" in from ? `${from.name} copy` : from.label),
    kind: from.kind,
    code: from.code,
    draft: null,
  };
}

/** Gives a new program the first strand, fan or sound there is, so that it moves at once. */
function linkFirst(scene: Scene, object: StageObject, program: Program): void {
  const values = exposedBy(program);
  linkByName(scene, object, values);
  for (const { name, type } of values) {
    if (object.links?.[exposedKey(name)] !== undefined) continue;
    if (type !== "strand" && type !== "fan" && type !== "sound") continue;
    const [found] = choicesFor(scene, type);
    if (found) object.links = { ...object.links, [exposedKey(name)]: found.id };
  }
}

/** Takes a version that works; gives the bindings that move nothing any more. */
export function saveCode(workbench: Workbench, programId: string, code: string): LostBinding[] {
  let lost: LostBinding[] = [];
  workbench.edit(
    `write ${nameOf(workbench, programId)}`,
    (scene) => {
      lost = changeProgram(scene, programId, code).map((one) => ({ ...one }));
    },
    `code ${programId}`,
  );
  return lost;
}

/** Keeps what is being written while it does not work; what is shown stays the last version that did. */
export function saveDraft(workbench: Workbench, programId: string, code: string): void {
  workbench.edit(
    `write ${nameOf(workbench, programId)}`,
    (scene) => {
      const program = scene.programs.find(({ id }) => id === programId);
      if (program) program.draft = code === program.code ? null : code;
    },
    `code ${programId}`,
  );
}

export function renameProgram(workbench: Workbench, programId: string, name: string): void {
  workbench.edit(`rename a program to ${name}`, (scene) => {
    const program = scene.programs.find(({ id }) => id === programId);
    if (program) program.name = name;
  });
}

/** Removes a program; what used it has none. */
export function removeProgram(workbench: Workbench, programId: string): void {
  workbench.edit(`remove ${nameOf(workbench, programId)}`, (scene) => {
    for (const object of scene.objects) {
      if (object.settings.programId === programId) giveProgram(object, undefined);
    }
    for (const strand of strandsBy(scene, programId)) giveStrandProgram(strand, undefined);
    scene.programs = scene.programs.filter(({ id }) => id !== programId);
  });
}

/** Chooses what a value of a program stands for; `null` for nothing. */
export function setLink(
  workbench: Workbench,
  objects: readonly StageObject[],
  key: string,
  id: string | null,
): void {
  workbench.edit("choose for a program", (draft) => {
    for (const object of objects) {
      const target = draftOf(draft, object);
      if (!target) continue;
      const { [key]: _before, ...rest } = target.links ?? {};
      const links = id === null ? rest : { ...rest, [key]: id };
      if (Object.keys(links).length > 0) target.links = links;
      else delete target.links;
    }
  });
}

const nameOf = ({ scene }: Workbench, programId: string) =>
  scene.programs.find(({ id }) => id === programId)?.name ?? "a program";
