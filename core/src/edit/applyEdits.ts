import type { TObject, TSchema } from "@sinclair/typebox";
import Ajv, { type ErrorObject, type ValidateFunction } from "ajv";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import type { Scene } from "../document/scene";
import { copyOf } from "../document/versions/copyOf";
import { BumbrelError, type Finding, SceneFormatError } from "../errors";
import { withSingletons } from "../kinds/create";
import { LISTS, type Listed, withArticle } from "./namedEdit";
import { EDITS, editNamed } from "./table";

/** One entry of a list of edits: the edit's name, and its arguments. */
export interface EditCall {
  edit: string;
  args: unknown;
}

/** A list of edits cannot be carried out; nothing of it was. */
export class EditError extends BumbrelError {
  constructor(problem: Omit<Finding, "code">) {
    super({ code: "edit-refused", ...problem });
  }
}

const ajv = new Ajv({ allErrors: true, strict: false });
const validators = new WeakMap<TObject, ValidateFunction>();
function validatorOf(args: TObject): ValidateFunction {
  let validate = validators.get(args);
  if (!validate) {
    validate = ajv.compile(args);
    validators.set(args, validate);
  }
  return validate;
}

/**
 * Carries out a list of edits in order, all or nothing.
 *
 * @param scene  read, not changed
 * @param list  parsed JSON: an array of {@link EditCall}
 * @returns another scene, valid and connected
 * @throws EditError that says which edit, at which place of its arguments, and why
 */
export function applyEdits(scene: Scene, list: unknown): Scene {
  if (!Array.isArray(list))
    throw new EditError({
      what: "the edits are no list",
      where: "/",
      remedy: 'Write them as [{ "edit": "renameScene", "args": { "name": "Quay" } }]',
    });
  const draft = copyOf(scene);
  const before = new Set(findingsOf(draft));
  for (const [i, call] of (list as EditCall[]).entries()) applyOne(draft, i, call);
  try {
    const edited = parseScene(draft);
    const broken = checkReferences(edited).find(
      (finding) => !MAY_FOLLOW.has(finding.code) && !before.has(keyOf(finding)),
    );
    if (broken) throw new EditError(broken);
    return edited;
  } catch (error) {
    if (error instanceof SceneFormatError)
      throw new EditError({ what: error.what, where: `the scene, ${error.where}`, remedy: error.remedy });
    throw error;
  }
}

/** Findings that an edit may leave behind: a sound that is removed leaves strands that listen to nothing. */
const MAY_FOLLOW = new Set(["strand-no-sound"]);
const keyOf = ({ code, where, what }: Finding) => `${code} ${where} ${what}`;
const findingsOf = (scene: Scene) => checkReferences(scene).map(keyOf);

function applyOne(draft: Scene, i: number, call: EditCall): void {
  const where = `/${i}`;
  const name = typeof call?.edit === "string" ? call.edit : undefined;
  const edit = name === undefined ? undefined : editNamed(name);
  if (!edit) {
    throw new EditError({
      what: name === undefined ? "an edit has no name" : `there is no edit "${name}"`,
      where,
      remedy: `Use one of ${Object.keys(EDITS).join(", ")}`,
    });
  }
  const args = call.args ?? {};
  const validate = validatorOf(edit.args);
  if (!validate(args)) {
    const [{ instancePath, message, params }] = validate.errors as ErrorObject[];
    const named = params.additionalProperty ?? params.missingProperty;
    throw new EditError({
      what: `${name} ${message}${params.additionalProperty ? ` "${named}"` : ""}`,
      where: `${where}/args${instancePath}`,
      remedy: `Its arguments are ${Object.keys(edit.args.properties).join(", ")}`,
    });
  }
  for (const [key, schema] of Object.entries(edit.args.properties))
    checkIds(draft, schema as TSchema, (args as Record<string, unknown>)[key], `${where}/args/${key}`);
  try {
    edit.apply(draft, args as never);
  } catch (error) {
    // Parts of a scene are checked as a whole, when all edits are done; one that is none of its kind can end an edit before.
    if (error instanceof BumbrelError) throw error;
    throw new EditError({
      what: `${name} cannot be carried out with what it was told (${(error as Error).message})`,
      where: `${where}/args`,
      remedy: `${edit.help} Look up its arguments in docs/edits.md`,
    });
  }
}

/** Ids in a list of the scene; objects that every scene has are among them without being written in it. */
function idsOf(draft: Scene, what: Listed): Set<string> {
  const list: readonly { id: string }[] =
    what === "object" ? withSingletons(draft.objects) : draft[LISTS[what]];
  return new Set(list.map(({ id }) => id));
}

/** @throws EditError for ids that lead to nothing, and for new ones that are taken */
function checkIds(draft: Scene, schema: TSchema, value: unknown, where: string): void {
  if (Array.isArray(value)) {
    const items = schema.items as TSchema | undefined;
    if (items) for (const [i, one] of value.entries()) checkIds(draft, items, one, `${where}/${i}`);
    return;
  }
  if (typeof value !== "string") return;
  if (schema.refersTo) {
    const ids = idsOf(draft, schema.refersTo as Listed);
    if (!ids.has(value))
      throw new EditError({
        what: `there is no ${schema.refersTo} "${value}"`,
        where,
        remedy:
          ids.size > 0
            ? `Use one of ${[...ids].slice(0, 20).join(", ")}`
            : `Add ${withArticle(schema.refersTo)} first`,
      });
  }
  if (schema.names && idsOf(draft, schema.names as Listed).has(value))
    throw new EditError({
      what: `the id "${value}" is taken by another ${schema.names}`,
      where,
      remedy: "Give the new one another id",
    });
}
