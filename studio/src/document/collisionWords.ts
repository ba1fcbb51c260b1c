import type { Collision } from "@bumbrel/core/document/merge";
import type { Scene, SceneList, StageObject } from "@bumbrel/core/document/scene";
import { propertyOf, settingsOfKind } from "@bumbrel/core/kinds/table";

const ONE: Record<SceneList, string> = {
  sounds: "Sound",
  buses: "Bus",
  groups: "Group",
  strands: "Strand",
  objects: "Object",
  assets: "Asset",
  programs: "Program",
  bindings: "Binding",
  answers: "Answer",
  marks: "Mark",
  keeps: "Keep",
};

/** A property's name in the document as words: `attackMs` as "attack ms". */
const spaced = (key: string) => key.replace(/([a-z])([A-Z])/g, "$1 $2").toLowerCase();

interface Named {
  name?: string;
  strandId?: string;
  objectId?: string;
  property?: string;
}

/** Where a collision is, in words. */
export function collisionPlace({ path }: Collision, scenes: readonly Scene[]): string {
  const [list, id, ...rest] = path;
  if (id === undefined || !Object.hasOwn(ONE, list)) return `Project ${spaced(path.join(" "))}`;
  const find = <L extends SceneList>(of: L, wanted: string | undefined) =>
    scenes.flatMap((scene) =>
      (scene[of] as readonly ({ id: string } & Named)[]).filter((item) => item.id === wanted),
    )[0];
  const item = find(list as SceneList, id);
  const name =
    list === "bindings"
      ? `${find("strands", item?.strandId)?.name ?? "?"} → ${find("objects", item?.objectId)?.name ?? "?"}, ${labelOf(find("objects", item?.objectId) as StageObject | undefined, item?.property ?? "")}`
      : (item?.name ?? id);
  const part =
    list === "objects" && rest.length > 1
      ? [labelOf(item as unknown as StageObject, rest[1]), ...rest.slice(2)].join(" ")
      : spaced(rest.join(" "));
  return `${ONE[list as SceneList]} ${name}${part && `: ${part}`}`;
}

/** The label of a property or setting of an object. */
function labelOf(object: StageObject | undefined, key: string): string {
  if (!object) return spaced(key);
  const settings = settingsOfKind(object.kind);
  const declared = propertyOf(object, key) ?? (Object.hasOwn(settings, key) ? settings[key] : undefined);
  return declared?.label ?? spaced(key);
}

/** Letters of a value that are shown. */
const MOST = 40;

/** A side's value in words. */
export function sideWords(side: unknown, base: unknown): string {
  if (side === undefined) return "deleted";
  if (typeof side === "object" && side !== null) return base === undefined ? "added" : "changed";
  const text = typeof side === "boolean" ? (side ? "on" : "off") : String(side ?? "nothing");
  return text.length > MOST ? `${text.slice(0, MOST - 1)}…` : text;
}
