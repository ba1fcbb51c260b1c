import { type Static, type TObject, type TProperties, Type } from "@sinclair/typebox";
import type { Scene } from "../document/scene";
import { copyOf } from "../document/versions/copyOf";
import { Id } from "../setting/schema";

/** The lists of a scene whose entries edits name by their ids. */
export const LISTS = {
  sound: "sounds",
  bus: "buses",
  group: "groups",
  strand: "strands",
  object: "objects",
  binding: "bindings",
  answer: "answers",
  mark: "marks",
  program: "programs",
  asset: "assets",
  snapshot: "keeps",
} as const satisfies Record<string, keyof Scene>;
export type Listed = keyof typeof LISTS;

/** "a strand", "an object". */
export const withArticle = (what: string): string => `${/^[aeiou]/.test(what) ? "an" : "a"} ${what}`;

/** A change of a scene with a name and arguments: for undo, and for scripts. */
export interface NamedEdit<A> {
  /** One sentence: what it does. */
  help: string;
  /** Schema of its arguments; ids of new things are among them. */
  args: TObject;
  /** True if programs can come with it, which run wherever the scene is played. */
  bringsCode?: true;
  /** The step in words, for "Undo: …". @param scene  before the edit */
  label(scene: Scene, args: A): string;
  /** Changes a scene in place. Ids that lead to nothing are passed over: what they named may be gone by now. */
  apply(draft: Scene, args: A): void;
}

/** Declares an edit. @param edit  with the schemas of its arguments by their names */
export const namedEdit = <P extends TProperties>(
  edit: Omit<NamedEdit<Static<TObject<P>>>, "args"> & { args: P },
): NamedEdit<Static<TObject<P>>> => ({
  ...edit,
  args: Type.Object(edit.args, { additionalProperties: false }) as unknown as TObject,
});

/** The id of something that is there. */
export const known = (what: Listed) => ({ ...Id, refersTo: what });
/** Ids of things that are there. */
export const knownMany = (what: Listed) => Type.Array(known(what), { minItems: 1 });
/** The id of something that there is none of yet. */
export const fresh = (what: Listed) => ({ ...Id, names: what });
/** A value that only the schema of the whole scene knows. */
export const part = <T>(description: string) => Type.Unsafe<T>({ description });

/** A name that none of some things has: "Box", "Box 2" … */
export function freeName(things: readonly { name: string }[], base: string): string {
  const taken = new Set(things.map(({ name }) => name));
  let name = base;
  for (let number = 2; taken.has(name); number++) name = `${base} ${number}`;
  return name;
}

/** The entry with an id. */
export const withId = <T extends { id: string }>(list: readonly T[], id: string | null | undefined) =>
  list.find((one) => one.id === id);

/** "Strand 3" for the third of some things, or the next number that is free. */
export function numberedName(things: readonly { name: string }[], label: string): string {
  const taken = new Set(things.map(({ name }) => name));
  let number = things.length + 1;
  while (taken.has(`${label} ${number}`)) number++;
  return `${label} ${number}`;
}

/** The name of an entry, or other words where there is none. */
export const nameOf = (list: readonly { id: string; name: string }[], id: string, otherwise: string) =>
  withId(list, id)?.name ?? otherwise;

/**
 * Takes over values into an object: objects within it are merged, everything else is replaced.
 *
 * @example
 * merge(strand, { cues: { on: true } }); // leaves the other settings of its cues as they are
 */
export function merge(target: object, values: object): void {
  for (const [key, value] of Object.entries(values)) {
    // In text that was read it can stand as a key; here it would change every object there is.
    if (key === "__proto__") continue;
    const before = Object.hasOwn(target, key) ? (target as Record<string, unknown>)[key] : undefined;
    if (isPlain(before) && isPlain(value)) merge(before, value);
    else (target as Record<string, unknown>)[key] = copyOf(value);
  }
}
const isPlain = (value: unknown): value is object =>
  typeof value === "object" && value !== null && !Array.isArray(value);
