import Ajv, { type ErrorObject, type ValidateFunction } from "ajv";
import type { Scene } from "../document/scene";
import { migrate } from "../document/versions/migrate";
import { type Finding, SceneFormatError } from "../errors";
import { SceneSchema } from "../kinds/sceneSchema";
import { checkBudget, checkSize } from "./budget";

let validator: ValidateFunction<Scene> | undefined;

function sceneValidator(): ValidateFunction<Scene> {
  // Ajv spends two thirds of its time on making the code of so large a schema shorter, which gains nothing here.
  const code = { optimize: false };
  validator ??= new Ajv({ allErrors: true, discriminator: true, code }).compile<Scene>(SceneSchema);
  return validator;
}

/**
 * Reads a scene from parsed JSON: migrates old versions, then validates against the schema.
 *
 * @param document  what `JSON.parse` gave
 * @returns the scene; a fresh copy
 * @throws SceneFormatError with one problem for each place that breaks the schema, at most a hundred, or for what the
 *   whole holds too much of
 */
export function parseScene(document: unknown): Scene {
  const tooLarge = checkSize(document);
  if (tooLarge) throw new SceneFormatError([tooLarge]);
  const current = migrate(document);
  const validate = sceneValidator();
  if (!validate(current)) throw new SceneFormatError(readableProblems(validate.errors ?? [], current));
  const scene = current as Scene;
  const over = checkBudget(scene);
  if (over.length > 0) throw new SceneFormatError(over);
  return scene;
}

/**
 * Reads a scene from text.
 *
 * @throws SceneFormatError when the text is not JSON, and as {@link parseScene}
 */
export function parseSceneText(text: string): Scene {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch (error) {
    throw new SceneFormatError([
      {
        code: "scene-not-json",
        what: `the file is not JSON (${(error as Error).message})`,
        where: "",
        remedy: "Choose a Bumbrel scene file",
      },
    ]);
  }
  return parseScene(document);
}

/** Problems that are named; the rest of a document that is full of them would help nobody. */
const MAX_PROBLEMS = 100;

/** Ajv's errors as one problem a place. */
function readableProblems(errors: ErrorObject[], document: unknown): Finding[] {
  const places = new Map<string, Finding>();
  for (const error of errors) {
    const where = error.instancePath || "/";
    if (places.has(where)) continue;
    if (places.size === MAX_PROBLEMS) break;
    places.set(where, {
      code: "scene-schema",
      what: describe(error) + found(error, document),
      where,
      remedy: "Correct the value, or take the scene from a fresh export",
    });
  }
  return [...places.values()];
}

function describe(error: ErrorObject): string {
  switch (error.keyword) {
    case "additionalProperties":
      return `there is an unknown property "${error.params.additionalProperty}"`;
    case "required":
      return `the property "${error.params.missingProperty}" is missing`;
    case "discriminator":
      return `the kind ${JSON.stringify(error.params.tagValue)} is not known`;
    case "enum":
      return `this must be one of ${(error.params.allowedValues as unknown[]).join(", ")}`;
    case "const":
      return `this must be ${JSON.stringify(error.params.allowedValue)}`;
    default:
      return `this ${error.message ?? "breaks the schema"}`;
  }
}

function found(error: ErrorObject, document: unknown): string {
  if (["required", "additionalProperties", "discriminator"].includes(error.keyword)) return "";
  let value = document as Record<string, unknown> | undefined;
  for (const part of error.instancePath.split("/").slice(1)) {
    value = value?.[part.replace(/~1/g, "/").replace(/~0/g, "~")] as Record<string, unknown> | undefined;
  }
  const text = JSON.stringify(value) ?? "nothing";
  return `, but is ${text.length > 60 ? `${text.slice(0, 57)}…` : text}`;
}
