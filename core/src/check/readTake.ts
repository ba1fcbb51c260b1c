import Ajv, { type ValidateFunction } from "ajv";
import type { Take } from "../document/take/take";
import { type TakeFile, TakeFileSchema, takeFromFile } from "../document/take/takeFile";
import { TakeFormatError } from "../errors";

let validator: ValidateFunction<TakeFile> | undefined;

/**
 * Reads a take.
 *
 * @param text  JSON
 * @param where  name of the file, for errors
 * @throws TakeFormatError when it is no take, or damaged
 */
export function readTake(text: string, where: string): Take {
  const damaged = (what: string) =>
    new TakeFormatError({
      code: "take-damaged",
      what: `this is no take that can be read: ${what}`,
      where,
      remedy: "Record the take again, or use a copy that is whole",
    });
  let file: unknown;
  try {
    file = JSON.parse(text);
  } catch (error) {
    throw damaged((error as Error).message);
  }
  validator ??= new Ajv({ discriminator: true }).compile<TakeFile>(TakeFileSchema);
  if (!validator(file)) {
    const [error] = validator.errors ?? [];
    throw damaged(`it breaks the schema at ${error?.instancePath || "/"}, which ${error?.message}`);
  }
  try {
    return takeFromFile(file);
  } catch (error) {
    throw damaged((error as Error).message);
  }
}
