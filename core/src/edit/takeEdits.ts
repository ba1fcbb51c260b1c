import { Type } from "@sinclair/typebox";
import type { Mark } from "../document/scene";
import { Name, orNull } from "../setting/schema";
import { fresh, known, merge, namedEdit, nameOf, part, withId } from "./namedEdit";

const toMs = (timeS: number) => Math.round(timeS * 1000) / 1000;

/** Edits of marks on the tape, and of takes. */
export const TAKE_EDITS = {
  addMark: namedEdit({
    help: "Adds a marker at a time of the tape.",
    args: { id: fresh("mark"), timeS: Type.Number({ minimum: 0, description: "Seconds" }) },
    label: () => "add a mark",
    apply({ marks }, { id, timeS }) {
      marks.push({ id, name: `Mark ${marks.length + 1}`, timeS: toMs(timeS), beginsSection: false });
    },
  }),
  addSections: namedEdit({
    help: "Adds markers where sections begin.",
    args: {
      sections: Type.Array(
        Type.Object({ id: fresh("mark"), name: Name, startS: Type.Number({ minimum: 0 }) }),
      ),
    },
    label: () => "mark the sections",
    apply({ marks }, { sections }) {
      for (const { id, name, startS } of sections)
        marks.push({ id, name, timeS: toMs(startS), beginsSection: true });
    },
  }),
  changeMark: namedEdit({
    help: "Changes a marker: its name, its time and whether a section begins there.",
    args: { markId: known("mark"), values: part<Partial<Mark>>("As the scene has them") },
    label: () => "change a mark",
    apply(draft, { markId, values }) {
      const mark = withId(draft.marks, markId);
      if (mark) merge(mark, values);
    },
  }),
  removeMark: namedEdit({
    help: "Removes a marker.",
    args: { markId: known("mark") },
    label: () => "remove a mark",
    apply(draft, { markId }) {
      draft.marks = draft.marks.filter(({ id }) => id !== markId);
    },
  }),
  renameAsset: namedEdit({
    help: "Renames a take or another file of the project.",
    args: { assetId: known("asset"), name: Name },
    label: ({ assets }, { assetId }) => `rename ${nameOf(assets, assetId, "a file")}`,
    apply(draft, { assetId, name }) {
      const asset = withId(draft.assets, assetId);
      if (asset) asset.name = name;
    },
  }),
  trimTake: namedEdit({
    help: "Puts a stored part of a take in its place.",
    args: { assetId: known("asset"), storedId: Type.String(), lengthS: Type.Number({ minimum: 0 }) },
    label: ({ assets }, { assetId }) => `trim ${nameOf(assets, assetId, "a take")}`,
    apply(draft, { assetId, storedId, lengthS }) {
      const asset = withId(draft.assets, assetId);
      if (asset?.kind === "take") Object.assign(asset, { storedId, lengthS });
    },
  }),
  removeTake: namedEdit({
    help: "Removes a take; films show none where they showed it.",
    args: { assetId: known("asset") },
    label: ({ assets }, { assetId }) => `remove ${nameOf(assets, assetId, "a take")}`,
    apply(draft, { assetId }) {
      draft.assets = draft.assets.filter(({ id }) => id !== assetId);
      if (draft.takeId === assetId) draft.takeId = null;
    },
  }),
  chooseTake: namedEdit({
    help: "Chooses the take that films and thumbnails show, or none.",
    args: { assetId: orNull(known("asset")) },
    label: (_scene, { assetId }) => (assetId === null ? "show no take" : "show a take"),
    apply(draft, { assetId }) {
      draft.takeId = assetId;
    },
  }),
};
