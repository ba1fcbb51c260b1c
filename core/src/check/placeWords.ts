import type { Scene, StageObject } from "../document/scene";
import type { SceneList } from "../document/sceneLimits";
import type { Change } from "../document/versions/changes";
import { propertyOf, settingsOfKind } from "../kinds/table";

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

/**
 * Place in a scene that a path leads to, in words: "Strand Kick: release ms".
 *
 * @param path  property names, and ids of the items of lists
 * @param scenes  where the names of what it leads to are looked up
 */
export function placeWords(path: readonly string[], scenes: readonly Scene[]): string {
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

/** A change of a scene in words: "Object Moon, added". */
export function changeWords({ path, before, after }: Change, scenes: readonly Scene[]): string {
  const place = placeWords(path, scenes);
  // Values that are not written down are those of the declaration: nothing was added or removed.
  if (path.length > 2) return place;
  if (before === undefined) return `${place}, added`;
  return after === undefined ? `${place}, removed` : place;
}
