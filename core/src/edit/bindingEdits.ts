import { Type } from "@sinclair/typebox";
import type { Binding, Scene } from "../document/scene";
import { copyOf } from "../document/versions/copyOf";
import { newBinding } from "../kinds/create";
import { propertiesInUse, propertiesOf } from "../kinds/table";
import { fresh, known, knownMany, merge, namedEdit, part, withId } from "./namedEdit";
import { objectNames, objectOf, propertyLabel } from "./objectEdits";
import { switchCuesOn } from "./strandEdits";

/** Edits of bindings. */
export const BINDING_EDITS = {
  bind: namedEdit({
    help: "Binds a property of objects to a strand; one that is kicked by it has its cues switched on.",
    args: {
      ids: Type.Array(fresh("binding"), { description: "One for each object" }),
      objectIds: knownMany("object"),
      property: Type.String(),
      strandId: known("strand"),
    },
    label: (scene, { objectIds, property }) =>
      `bind ${propertyLabel(scene, objectIds[0], property)} of ${objectNames(scene, objectIds)}`,
    apply(draft, { ids, objectIds, property, strandId }) {
      for (const [i, objectId] of objectIds.entries()) {
        const object = objectOf(draft, objectId);
        if (!object || ids[i] === undefined || !propertiesOf(object)[property]) continue;
        const binding = newBinding(ids[i], strandId, object, property);
        draft.bindings.push(binding);
        if (binding.mode === "kick") switchCuesOn(draft, strandId);
      }
    },
  }),
  changeBindings: namedEdit({
    help: "Changes bindings: their mode, ranges, curve and the like.",
    args: { bindingIds: knownMany("binding"), values: part<Partial<Binding>>("As the scene has them") },
    label: (_scene, { bindingIds }) =>
      bindingIds.length === 1 ? "change a binding" : `change ${bindingIds.length} bindings`,
    apply(draft, { bindingIds, values }) {
      changeBindings(draft, bindingIds, (binding) => merge(binding, values));
    },
  }),
  removeBindings: namedEdit({
    help: "Removes bindings; what they drove comes to rest.",
    args: { bindingIds: knownMany("binding") },
    label: (_scene, { bindingIds }) =>
      bindingIds.length === 1 ? "remove a binding" : `remove ${bindingIds.length} bindings`,
    apply(draft, { bindingIds }) {
      draft.bindings = draft.bindings.filter(({ id }) => !bindingIds.includes(id));
    },
  }),
  moveBinding: namedEdit({
    help: "Lets a binding come earlier (−1) or later (1) among those of its property.",
    args: { bindingId: known("binding"), by: Type.Union([Type.Literal(-1), Type.Literal(1)]) },
    label: () => "change the order of bindings",
    apply({ bindings }, { bindingId, by }) {
      const binding = withId(bindings, bindingId);
      if (!binding) return;
      const same = bindings.flatMap((one, i) =>
        one.objectId === binding.objectId && one.property === binding.property ? [i] : [],
      );
      const at = same.findIndex((i) => bindings[i].id === bindingId);
      const other = same[at + by];
      if (other === undefined) return;
      [bindings[same[at]], bindings[other]] = [bindings[other], bindings[same[at]]];
    },
  }),
  copyBinding: namedEdit({
    help: "Gives other objects a binding like this one, where they have its property.",
    args: {
      bindingId: known("binding"),
      objectIds: knownMany("object"),
      ids: Type.Array(fresh("binding"), { description: "One for each object" }),
    },
    label: (scene, { objectIds }) => `bind ${objectNames(scene, objectIds)} alike`,
    apply(draft, { bindingId, objectIds, ids }) {
      const binding = withId(draft.bindings, bindingId);
      if (!binding) return;
      const copy = copyOf(binding);
      for (const [i, objectId] of objectIds.entries()) {
        const object = objectOf(draft, objectId);
        if (!object || ids[i] === undefined || !(binding.property in propertiesInUse(object))) continue;
        draft.bindings.push({ ...copyOf(copy), id: ids[i], objectId });
      }
    },
  }),
};

/** Changes bindings; a strand that kicks with one of them gives cues from then on. */
export function changeBindings(
  draft: Scene,
  ids: readonly string[],
  change: (binding: Binding) => void,
): void {
  for (const binding of draft.bindings) {
    if (!ids.includes(binding.id)) continue;
    change(binding);
    if (binding.mode === "kick") switchCuesOn(draft, binding.strandId);
  }
}
