import type { Program, RestValue, Scene, StageObject, Strand } from "../document/scene";
import { type Exposed, exposedKey, LINKS, type LinkType, readExposed } from "../program/exposed";
import { bandsIn } from "../program/exposedNumbers";
import { PROGRAM_KINDS } from "../program/kinds";
import type { Property } from "../setting/property";
import { isLayer } from "./programKinds";
import { propertyOf } from "./table";

/** Objects that use a program. */
export const usersOf = ({ objects }: Pick<Scene, "objects">, programId: string): StageObject[] =>
  objects.filter(({ settings }) => settings.programId === programId);

/** Strands whose numbers a program gives. */
export const strandsBy = <S extends Pick<Strand, "measure">>(
  { strands }: { strands: readonly S[] },
  programId: string,
): S[] => strands.filter(({ measure }) => measure.kind === "program" && measure.programId === programId);

/** Moves a layer so many places later, or earlier, among the others. */
export function moveLayer(scene: Pick<Scene, "objects">, objectId: string, by: number): void {
  const { objects } = scene;
  const layers = objects.filter(isLayer);
  const from = layers.findIndex(({ id }) => id === objectId);
  const to = Math.min(layers.length - 1, Math.max(0, from + by));
  if (from < 0 || to === from) return;
  const places = layers.map((one) => objects.indexOf(one));
  const [moved] = layers.splice(from, 1);
  layers.splice(to, 0, moved);
  places.forEach((place, i) => {
    objects[place] = layers[i];
  });
}

/** Values that a program exposes, in its last version that worked. */
export const exposedBy = ({ kind, code }: Pick<Program, "kind" | "code">): Exposed[] => {
  const { language, exposes } = PROGRAM_KINDS[kind];
  return readExposed(code, language, exposes).values;
};

/** Has a program give a strand its numbers, or none. */
export function giveStrandProgram(strand: Strand, program: Program | undefined): void {
  strand.measure = {
    kind: "program",
    programId: program?.id ?? null,
    bands: program ? bandsIn(program.code) : 1,
    values: {},
  };
}

/** Lets an object use a program, or none: its values become properties of the object. */
export function giveProgram(object: StageObject, program: Program | undefined): void {
  object.settings.programId = program?.id ?? null;
  declareValues(object, program ? exposedBy(program) : []);
}

const PROGRAM_KEY = exposedKey("");

function declareValues(object: StageObject, values: readonly Exposed[]): void {
  const own: Record<string, Property> = {};
  for (const [key, property] of Object.entries(object.own ?? {})) {
    if (!key.startsWith(PROGRAM_KEY)) own[key] = property;
  }
  for (const { name, property } of values) if (property) own[exposedKey(name)] = property;
  if (Object.keys(own).length > 0) object.own = own;
  else delete object.own;
  // A resting value that no longer fits its limits would make the document invalid.
  for (const [key, property] of Object.entries(own)) {
    const value = object.rest[key];
    if (value !== undefined && !fits(property, value)) delete object.rest[key];
  }
}

function fits(property: Property, value: RestValue): boolean {
  switch (property.type) {
    case "colour":
      return typeof value === "string";
    case "vector":
      return Array.isArray(value) && value.every((one) => one >= property.min && one <= property.max);
    default:
      return typeof value === "number" && value >= property.min && value <= property.max;
  }
}

/** A name as code writes it: “Snare chorus” is snareChorus; empty for one without letters. */
export function identifierOf(name: string): string {
  const words = name
    .normalize("NFD")
    .replace(/\p{M}/gu, "")
    // A name in code begins with a letter.
    .replace(/^[^A-Za-z]+/, "")
    .split(/[^A-Za-z0-9]+/)
    .filter((word) => word !== "");
  return words
    .map((word, i) => (i === 0 ? word.toLowerCase() : word[0].toUpperCase() + word.slice(1).toLowerCase()))
    .join("");
}

/** The strands, fans, sounds or images of a scene that a value of a program can be linked to, by its type. */
export function choicesFor(
  { strands, sounds, assets }: Pick<Scene, "strands" | "sounds" | "assets">,
  type: LinkType,
): readonly { id: string; name: string }[] {
  switch (type) {
    case "sound":
      return sounds;
    case "picture":
      return assets.filter(({ kind }) => kind === "picture");
    case "fan":
      return strands.filter(({ measure }) => isRow(measure));
    case "strand":
      return strands.filter(({ measure }) => !isRow(measure));
  }
}
const isRow = (measure: Strand["measure"]) =>
  measure.kind === "fan" || (measure.kind === "program" && measure.bands > 1);

/** Gives values that are named like a strand, a fan, a sound or an image what they are named like. */
export function linkByName(scene: Scene, object: StageObject, values: readonly Exposed[]): void {
  for (const { name, type, property } of values) {
    const key = exposedKey(name);
    if (property || object.links?.[key] !== undefined) continue;
    const named = choicesFor(scene, type as LinkType).find((one) => identifierOf(one.name) === name);
    if (named) object.links = { ...object.links, [key]: named.id };
  }
}

/** Ids that objects give to their programs, by kind, each once. */
export function linkedIn(scene: Pick<Scene, "programs" | "objects">): Record<LinkType, Set<string>> {
  const linked = Object.fromEntries(LINKS.map((type) => [type, new Set<string>()])) as Record<
    LinkType,
    Set<string>
  >;
  const programs = new Map(scene.programs.map((program) => [program.id, exposedBy(program)]));
  for (const { settings, links } of scene.objects) {
    if (!links || typeof settings.programId !== "string") continue;
    for (const { name, type, property } of programs.get(settings.programId) ?? []) {
      const id = links[exposedKey(name)];
      if (!property && id !== undefined) linked[type as LinkType].add(id);
    }
  }
  return linked;
}

/** Takes something that is removed out of what programs are given. */
export function unlink(scene: Pick<Scene, "objects">, removedId: string): void {
  for (const object of scene.objects) {
    if (!object.links) continue;
    for (const [key, id] of Object.entries(object.links)) if (id === removedId) delete object.links[key];
    if (Object.keys(object.links).length === 0) delete object.links;
  }
}

/** A binding of a value that a program no longer exposes. */
export interface LostBinding {
  bindingId: string;
  object: string;
  value: string;
}

/**
 * Gives a program another version that works. Values that were renamed keep their numbers, bindings and choices in
 * everything that uses it; so do values that come back later.
 *
 * @returns the bindings that move nothing now
 */
export function changeProgram(scene: Scene, programId: string, code: string): LostBinding[] {
  const program = scene.programs.find(({ id }) => id === programId);
  if (!program) return [];
  const before = exposedBy(program);
  program.code = code;
  program.draft = null;
  const after = exposedBy(program);
  const renames = renamed(before, after);
  const users = usersOf(scene, programId);
  for (const object of users) {
    for (const [from, to] of renames) {
      move(object.rest, from, to);
      if (object.links) move(object.links, from, to);
    }
    declareValues(object, after);
    linkByName(scene, object, after);
  }
  for (const { measure } of strandsBy(scene, programId)) {
    if (measure.kind !== "program") continue;
    measure.bands = bandsIn(code);
    for (const [from, to] of renames) move(measure.values, nameIn(from), nameIn(to));
  }
  const ids = new Map(users.map((object) => [object.id, object]));
  for (const binding of scene.bindings) {
    if (ids.has(binding.objectId)) binding.property = renames.get(binding.property) ?? binding.property;
  }
  return lostBindings(scene, programId);
}

/** Bindings of values that a program does not expose. */
export function lostBindings(scene: Scene, programId: string): LostBinding[] {
  const users = new Map(usersOf(scene, programId).map((object) => [object.id, object]));
  return scene.bindings.flatMap(({ id, objectId, property }) => {
    const object = users.get(objectId);
    if (!object || !property.startsWith(PROGRAM_KEY) || propertyOf(object, property)) return [];
    return [{ bindingId: id, object: object.name, value: nameIn(property) }];
  });
}

const nameIn = (key: string) => key.slice(PROGRAM_KEY.length);

function move<V>(record: Record<string, V>, from: string, to: string): void {
  if (!Object.hasOwn(record, from)) return;
  record[to] = record[from];
  delete record[from];
}

/** Keys of values by those they had before: on the same line, or the only one of its type that came while one went. */
function renamed(before: readonly Exposed[], after: readonly Exposed[]): Map<string, string> {
  const isIn = (list: readonly Exposed[], { name }: Exposed) => list.some((one) => one.name === name);
  const gone = before.filter((one) => !isIn(after, one));
  const come = after.filter((one) => !isIn(before, one));
  const renames = new Map<string, string>();
  for (const old of gone) {
    const sameType = come.filter(({ type }) => type === old.type);
    const isOnly = sameType.length === 1 && gone.filter(({ type }) => type === old.type).length === 1;
    const next = sameType.find(({ line }) => line === old.line) ?? (isOnly ? sameType[0] : undefined);
    if (next) renames.set(exposedKey(old.name), exposedKey(next.name));
  }
  return renames;
}
