import { Type } from "@sinclair/typebox";
import type { Program, Scene, StageObject } from "../document/scene";
import { programKindOf } from "../kinds/programKinds";
import {
  changeProgram,
  choicesFor,
  exposedBy,
  giveProgram,
  giveStrandProgram,
  type LostBinding,
  linkByName,
  strandsBy,
} from "../kinds/programs";
import { PROGRAM_EXAMPLES, type ProgramExample } from "../program/examples";
import { exposedKey } from "../program/exposed";
import { PROGRAM_KIND_NAMES } from "../program/kinds";
import { Name, oneOf, orNull } from "../setting/schema";
import { freeName, fresh, known, knownMany, namedEdit, nameOf, withId } from "./namedEdit";

const Code = Type.String({ description: "Its whole text" });

/** Gives a new program the first strand, fan or sound there is, so that it moves at once. */
export function linkFirst(scene: Scene, object: StageObject, program: Program): void {
  const values = exposedBy(program);
  linkByName(scene, object, values);
  for (const { name, type } of values) {
    if (object.links?.[exposedKey(name)] !== undefined) continue;
    if (type !== "strand" && type !== "fan" && type !== "sound") continue;
    const [found] = choicesFor(scene, type);
    if (found) object.links = { ...object.links, [exposedKey(name)]: found.id };
  }
}

/** Adds a program under a name that is free. */
function addProgram(draft: Scene, { name, ...rest }: Omit<Program, "draft">): Program {
  const program = { ...rest, name: freeName(draft.programs, name), draft: null };
  draft.programs.push(program);
  return program;
}

/** Gives a new object the first worked program of its kind, on what the project has. */
export function beginProgram(draft: Scene, object: StageObject, id: string): void {
  const kind = programKindOf(object.kind);
  const example = Object.values<ProgramExample>(PROGRAM_EXAMPLES).find((one) => one.kind === kind);
  if (!example) return;
  const program = addProgram(draft, { id, name: example.label, kind, code: example.code });
  giveProgram(object, program);
  linkFirst(draft, object, program);
}

/** Edits of programs and of what their values stand for. */
export const PROGRAM_EDITS = {
  addProgram: namedEdit({
    bringsCode: true,
    help: "Adds a program, and gives it to objects or strands.",
    args: {
      id: fresh("program"),
      name: Name,
      kind: oneOf(PROGRAM_KIND_NAMES),
      code: Code,
      objectIds: Type.Optional(knownMany("object")),
      strandIds: Type.Optional(knownMany("strand")),
      linksFirst: Type.Optional(
        Type.Boolean({ description: "Whether it is given the first strand, fan and sound there is" }),
      ),
    },
    label: (scene, { name }) => `write ${freeName(scene.programs, name)}`,
    apply(draft, { id, name, kind, code, objectIds = [], strandIds = [], linksFirst }) {
      const program = addProgram(draft, { id, name, kind, code });
      for (const objectId of objectIds) {
        const object = withId(draft.objects, objectId);
        if (!object) continue;
        giveProgram(object, program);
        if (linksFirst) linkFirst(draft, object, program);
      }
      for (const strandId of strandIds) {
        const strand = withId(draft.strands, strandId);
        if (strand) giveStrandProgram(strand, program);
      }
    },
  }),
  chooseProgram: namedEdit({
    help: "Lets objects use a program, or none.",
    args: { objectIds: knownMany("object"), programId: orNull(known("program")) },
    label: (_scene, { programId }) => (programId === null ? "use no program" : "choose a program"),
    apply(draft, { objectIds, programId }) {
      const program = withId(draft.programs, programId);
      for (const id of objectIds) {
        const object = withId(draft.objects, id);
        if (object) giveProgram(object, program);
      }
    },
  }),
  saveCode: namedEdit({
    bringsCode: true,
    help: "Takes a version of a program that works; bindings of values that it has no more are kept, and move nothing.",
    args: { programId: known("program"), code: Code },
    label: ({ programs }, { programId }) => `write ${nameOf(programs, programId, "a program")}`,
    apply(draft, { programId, code }) {
      saveCode(draft, programId, code);
    },
  }),
  saveCodeDraft: namedEdit({
    bringsCode: true,
    help: "Keeps what is being written while it does not work; the last version that did goes on.",
    args: { programId: known("program"), code: Code },
    label: ({ programs }, { programId }) => `write ${nameOf(programs, programId, "a program")}`,
    apply(draft, { programId, code }) {
      const program = withId(draft.programs, programId);
      if (program) program.draft = code === program.code ? null : code;
    },
  }),
  renameProgram: namedEdit({
    help: "Renames a program.",
    args: { programId: known("program"), name: Name },
    label: (_scene, { name }) => `rename a program to ${name}`,
    apply(draft, { programId, name }) {
      const program = withId(draft.programs, programId);
      if (program) program.name = name;
    },
  }),
  removeProgram: namedEdit({
    help: "Removes a program; what used it has none.",
    args: { programId: known("program") },
    label: ({ programs }, { programId }) => `remove ${nameOf(programs, programId, "a program")}`,
    apply(draft, { programId }) {
      for (const object of draft.objects) {
        if (object.settings.programId === programId) giveProgram(object, undefined);
      }
      for (const strand of strandsBy(draft, programId)) giveStrandProgram(strand, undefined);
      draft.programs = draft.programs.filter(({ id }) => id !== programId);
    },
  }),
  setLink: namedEdit({
    help: "Chooses the strand, fan, sound or image that a value of a program stands for, or none.",
    args: {
      objectIds: knownMany("object"),
      key: Type.String(),
      id: orNull(Type.String()),
    },
    label: () => "choose for a program",
    apply(draft, { objectIds, key, id }) {
      for (const objectId of objectIds) {
        const object = withId(draft.objects, objectId);
        if (!object) continue;
        const { [key]: _before, ...rest } = object.links ?? {};
        const links = id === null ? rest : { ...rest, [key]: id };
        if (Object.keys(links).length > 0) object.links = links;
        else delete object.links;
      }
    },
  }),
};

/** Takes a version of a program that works. @returns bindings that move nothing any more */
export const saveCode = (draft: Scene, programId: string, code: string): LostBinding[] =>
  changeProgram(draft, programId, code).map((one) => ({ ...one }));
