import type { Asset, Binding, Program, Scene, StageObject } from "../document/scene";
import { copyOf } from "../document/versions/copyOf";
import { linkedIn } from "../kinds/programs";
import { restingPlace } from "./groupEdits";
import { freeName, namedEdit, part } from "./namedEdit";
import { withInside } from "./objectEdits";

/** Objects that are copied between projects, and all they need to be what they are. */
export interface Clipping {
  bumbrel: "objects";
  objects: StageObject[];
  bindings: Binding[];
  strands: Scene["strands"];
  assets: Asset[];
  programs: Program[];
}

/** Copies objects with what is in them, what drives them and what they show. */
export function clip(scene: Scene, ids: readonly string[]): Clipping {
  const wanted = withInside(scene, ids);
  for (const { id, settings } of scene.objects) {
    if (wanted.has(id) && typeof settings.materialId === "string") wanted.add(settings.materialId);
  }
  const objects = scene.objects.filter(({ id }) => wanted.has(id));
  const bindings = scene.bindings.filter(({ objectId }) => wanted.has(objectId));
  const used = new Set(bindings.map(({ strandId }) => strandId));
  const shown = new Set(objects.flatMap(({ settings }) => Object.values(settings)));
  const linked = linkedIn({ programs: scene.programs, objects });
  for (const id of [...linked.strand, ...linked.fan]) used.add(id);
  for (const id of linked.picture) shown.add(id);
  return {
    bumbrel: "objects",
    objects,
    bindings,
    strands: scene.strands.filter(({ id }) => used.has(id)),
    assets: scene.assets.filter(({ id }) => shown.has(id)),
    programs: scene.programs.filter(({ id }) => shown.has(id)),
  };
}

/** Reads what was copied; nothing for any other text. */
export function readClipping(text: string): Clipping | undefined {
  try {
    const clipping = JSON.parse(text) as Clipping;
    return clipping?.bumbrel === "objects" && Array.isArray(clipping.objects) ? clipping : undefined;
  } catch {
    return undefined;
  }
}

/** The objects of a clipping that are in no group of it, and are no materials. */
export function topsOf({ objects }: Clipping): StageObject[] {
  const ids = new Set(objects.map(({ id }) => id));
  return objects.filter(
    ({ parentId, kind }) => (parentId === null || !ids.has(parentId)) && kind !== "material",
  );
}

/** Edits that put copied objects on the stage. */
export const PASTE_EDITS = {
  paste: namedEdit({
    bringsCode: true,
    help: "Puts copied objects on the stage. Strands and files that are not there come along; such a strand listens to nothing until a sound is chosen for it.",
    args: {
      clipping: part<Clipping>("Objects with what they need, as copying gives them"),
      ids: part<Record<string, string>>("New ids of its objects and bindings, by the ones they have"),
      offset: part<number>("Metres to the right and to the front that they are put from where they were"),
    },
    label: (_scene, { clipping: { objects } }) =>
      `paste ${objects.length === 1 ? objects[0].name : `${objects.length} objects`}`,
    apply(draft, { clipping, ids, offset }) {
      const { objects, bindings, strands, assets, programs } = clipping;
      const sounds = new Set([...draft.sounds, ...draft.buses].map(({ id }) => id));
      for (const strand of strands) {
        if (draft.strands.some(({ id }) => id === strand.id)) continue;
        const { listensTo } = strand;
        const isThere =
          listensTo.kind === "strands"
            ? listensTo.ids.every((id) => draft.strands.some((one) => one.id === id))
            : listensTo.kind !== "nothing" && sounds.has(listensTo.id);
        draft.strands.push({
          ...copyOf(strand),
          listensTo: isThere ? copyOf(listensTo) : { kind: "nothing" },
        });
      }
      for (const asset of assets) {
        if (!draft.assets.some(({ id }) => id === asset.id)) draft.assets.push(copyOf(asset));
      }
      for (const program of programs ?? []) {
        if (!draft.programs.some(({ id }) => id === program.id)) draft.programs.push(copyOf(program));
      }
      const tops = new Set(topsOf(clipping).map(({ id }) => id));
      for (const object of objects) {
        const copy = copyOf(object);
        copy.id = ids[object.id];
        copy.name = freeName(draft.objects, object.name);
        const { materialId } = copy.settings;
        if (typeof materialId === "string") copy.settings.materialId = ids[materialId] ?? null;
        const parentId = object.parentId === null ? undefined : ids[object.parentId];
        const staysIn = draft.objects.some(({ id, kind }) => id === object.parentId && kind === "group");
        copy.parentId = parentId ?? (staysIn ? object.parentId : null);
        const at = tops.has(object.id) ? restingPlace(copy) : undefined;
        if (at && offset !== 0) copy.rest.position = [at[0] + offset, at[1], at[2] + offset];
        draft.objects.push(copy);
      }
      for (const binding of bindings) {
        draft.bindings.push({ ...copyOf(binding), id: ids[binding.id], objectId: ids[binding.objectId] });
      }
    },
  }),
};
