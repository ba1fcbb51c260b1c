import { ACTIONS } from "../action/actions";
import { referencesIn } from "../action/answer";
import { CONDITION_SETTINGS } from "../action/conditions";
import { CUE_SOURCES } from "../action/cueSources";
import type { Scene } from "../document/scene";
import type { SceneList } from "../document/sceneLimits";
import { isMadeOf } from "../document/strands/strands";
import type { Finding } from "../errors";
import { withSingletons } from "../kinds/create";
import { can, propertiesInUse, propertiesOf, propertyOf, settingOf, settingsOfKind } from "../kinds/table";
import type { ReferenceTarget, Settings } from "../setting/descriptor";
import { partsOf } from "../sound/kinds";
import { canMeasure, isUpsideDown, MEASURES } from "../strand/measures/table";

/**
 * Finds references to nothing, ids used twice, and bindings that do not fit their property. A scene with such findings
 * still plays; what they concern stays at rest.
 *
 * @returns one finding for each, with `where` as a JSON Pointer; empty when all connects
 */
export function checkReferences(scene: Scene): Finding[] {
  const findings: Finding[] = [];
  const report = (code: string, what: string, where: string, remedy: string) =>
    findings.push({ code, what, where, remedy });

  const idsOf = (list: Exclude<SceneList, "keeps">): Set<string> => {
    const ids = new Set<string>();
    scene[list].forEach(({ id }, i) => {
      if (ids.has(id))
        report("id-twice", `the id "${id}" is used twice`, `/${list}/${i}/id`, "Give one of them another id");
      ids.add(id);
    });
    return ids;
  };
  const sounds = idsOf("sounds");
  const buses = idsOf("buses");
  const groups = idsOf("groups");
  const strands = idsOf("strands");
  idsOf("objects");
  idsOf("assets");
  const programs = idsOf("programs");
  const marks = idsOf("marks");
  idsOf("bindings");
  idsOf("answers");
  const singletons = withSingletons(scene.objects);
  const objects = new Map(scene.objects.map((object) => [object.id, object]));
  const isThere = (to: ReferenceTarget, id: string, kinds?: readonly string[]): boolean => {
    if (to === "sound") return sounds.has(id);
    if (to === "strand") return strands.has(id);
    if (to === "program") return programs.has(id);
    if (to === "mark") return marks.has(id);
    if (to === "material") return objects.get(id)?.kind === "material";
    if (to !== "object") return scene.assets.some((asset) => asset.id === id && asset.kind === to);
    const object = objects.get(id) ?? singletons.find((one) => one.id === id);
    return object !== undefined && (!kinds || kinds.includes(object.kind));
  };

  scene.sounds.forEach((sound, i) => {
    for (const [what, id, known] of [
      ["bus", sound.busId, buses],
      ["group", sound.groupId, groups],
    ] as const) {
      if (id === null || known.has(id)) continue;
      report(
        `sound-lost-${what}`,
        `the sound "${sound.name}" belongs to a ${what} that is gone (${id})`,
        `/sounds/${i}/${what}Id`,
        `Choose another ${what} for it`,
      );
    }
  });

  scene.strands.forEach((strand, i) => {
    const where = `/strands/${i}`;
    const { listensTo } = strand;
    if (listensTo.kind === "nothing") {
      report(
        "strand-no-sound",
        `the strand "${strand.name}" listens to no sound`,
        where,
        "Choose a sound for it",
      );
    } else if (listensTo.kind === "strands") {
      const lost = listensTo.ids.findIndex((id) => !strands.has(id));
      if (lost >= 0) {
        report(
          "strand-lost-source",
          `the strand "${strand.name}" is made of a strand that is gone (${listensTo.ids[lost]})`,
          `${where}/listensTo/ids/${lost}`,
          "Choose another strand or take it out",
        );
      }
      if (listensTo.ids.length === 0) {
        report(
          "strand-no-sound",
          `the strand "${strand.name}" is made of no strands`,
          where,
          "Choose strands for it",
        );
      }
      if (isMadeOf(scene, strand, strand.id)) {
        report(
          "strand-of-itself",
          `the strand "${strand.name}" is made of itself`,
          `${where}/listensTo/ids`,
          "Take out the strand that leads back to it",
        );
      }
      if (!canMeasure(strand.measure.kind, partsOf("strands"))) {
        report(
          "strand-cannot-read",
          `the strand "${strand.name}" reads "${MEASURES[strand.measure.kind].label}", which other strands do not have`,
          `${where}/measure`,
          "Choose a way of combining, or a sound",
        );
      }
    } else if (listensTo.kind === "zone") {
      if (objects.get(listensTo.id)?.kind !== "zone") {
        report(
          "strand-lost-zone",
          `the strand "${strand.name}" reads a zone that is gone (${listensTo.id})`,
          `${where}/listensTo/id`,
          "Choose another zone or a sound for it",
        );
      } else if (!canMeasure(strand.measure.kind, partsOf("zone"))) {
        report(
          "strand-cannot-read",
          `the strand "${strand.name}" reads "${MEASURES[strand.measure.kind].label}", which a zone does not have`,
          `${where}/measure`,
          "Choose fullness, or a sound",
        );
      }
    } else if (!(listensTo.kind === "sound" ? sounds : buses).has(listensTo.id)) {
      report(
        "strand-lost-sound",
        `the strand "${strand.name}" listens to a ${listensTo.kind} that is gone (${listensTo.id})`,
        `${where}/listensTo/id`,
        "Choose something else for it to listen to",
      );
    } else {
      const kind =
        listensTo.kind === "bus" ? "bus" : scene.sounds.find(({ id }) => id === listensTo.id)!.kind;
      if (!canMeasure(strand.measure.kind, partsOf(kind))) {
        report(
          "strand-cannot-read",
          `the strand "${strand.name}" reads "${MEASURES[strand.measure.kind].label}", which a ${kind} does not have`,
          `${where}/measure`,
          "Choose another measure, or a sound that has it",
        );
      }
    }
    const { measure } = strand;
    if ("lowHz" in measure && isUpsideDown(measure)) {
      report(
        "band-upside-down",
        `the strand "${strand.name}" has its range upside down (${measure.lowHz} to ${measure.highHz} Hz)`,
        `${where}/measure`,
        "Make its low end lower than its high end",
      );
    }
  });

  scene.objects.forEach((object, i) => {
    const where = `/objects/${i}`;
    const parent = object.parentId === null ? undefined : objects.get(object.parentId);
    if (object.parentId !== null && !(parent && can(parent.kind).holdsObjects)) {
      report(
        "object-lost-group",
        `"${object.name}" is in a group that is gone (${object.parentId})`,
        `${where}/parentId`,
        "Take it out of the group",
      );
    }
    const seen = new Set<string>();
    for (
      let up: typeof parent = object;
      up;
      up = up.parentId === null ? undefined : objects.get(up.parentId)
    ) {
      if (seen.has(up.id)) {
        report(
          "group-in-itself",
          `"${object.name}" is in a group that is in itself`,
          `${where}/parentId`,
          "Take one of them out of the group",
        );
        break;
      }
      seen.add(up.id);
    }
    for (const [key, setting] of Object.entries(settingsOfKind(object.kind))) {
      const id = settingOf(object, key);
      if (setting.type !== "reference" || typeof id !== "string") continue;
      if (isThere(setting.to, id, setting.kinds)) continue;
      report(
        "object-lost-reference",
        `"${object.name}" uses a ${setting.to} that is gone (${id})`,
        `${where}/settings/${key}`,
        `Choose another ${setting.to} for it`,
      );
    }
    for (const [key, id] of Object.entries(object.links ?? {})) {
      if (strands.has(id) || sounds.has(id) || scene.assets.some((asset) => asset.id === id)) continue;
      report(
        "program-lost-link",
        `the program of "${object.name}" is given something that is gone (${id})`,
        `${where}/links/${key}`,
        "Choose something else for it",
      );
    }
  });

  scene.bindings.forEach((binding, i) => {
    const where = `/bindings/${i}`;
    const strand = scene.strands.find(({ id }) => id === binding.strandId);
    if (!strands.has(binding.strandId)) {
      report(
        "binding-lost-strand",
        `a binding follows a strand that is gone (${binding.strandId})`,
        `${where}/strandId`,
        "Bind another strand or remove the binding",
      );
    }
    const object = objects.get(binding.objectId);
    if (!object) {
      report(
        "binding-lost-object",
        `a binding drives an object that is gone (${binding.objectId})`,
        `${where}/objectId`,
        "Bind another object or remove the binding",
      );
      return;
    }
    const property = propertyOf(object, binding.property);
    if (!property) {
      report(
        "binding-lost-property",
        `"${object.name}" is a ${object.kind}, which has no property "${binding.property}"`,
        `${where}/property`,
        `Use one of ${Object.keys(propertiesOf(object)).join(", ")}`,
      );
    } else if ((property.type === "colour") !== (binding.output.kind === "colours")) {
      report(
        "binding-wrong-output",
        `"${binding.property}" of "${object.name}" is a ${property.type}, but the binding gives ${
          binding.output.kind === "colours" ? "colours" : "numbers"
        }`,
        `${where}/output`,
        "Remove the binding and bind the property again",
      );
    } else if (!(binding.property in propertiesInUse(object))) {
      report(
        "binding-at-rest",
        `"${property.label}" of "${object.name}" has no effect as the object is set, and a binding drives it`,
        `${where}/property`,
        property.when
          ? `Change "${settingsOfKind(object.kind)[property.when.setting]?.label}", or remove the binding`
          : "Give the object a surface of its own, or remove the binding",
      );
    } else if (binding.mode === "kick" && strand && !strand.cues.on) {
      report(
        "kick-without-cues",
        `"${property.label}" of "${object.name}" is kicked by "${strand.name}", which gives no cues`,
        `${where}/strandId`,
        "Switch the strand's cues on",
      );
    } else if (property.type === "colour" && binding.mode !== "set") {
      report(
        "binding-wrong-mode",
        `"${binding.property}" of "${object.name}" is a colour, which can only be set`,
        `${where}/mode`,
        'Use the mode "set"',
      );
    }
  });

  scene.answers.forEach((answer, i) => {
    const lost = (settings: Settings, values: object, where: string) => {
      for (const { key, to, kinds, id } of referencesIn(settings, values as Record<string, unknown>)) {
        if (isThere(to, id, kinds)) continue;
        report(
          "answer-lost-reference",
          `the answer "${answer.name}" is about ${kinds?.[0] ?? to} that is gone (${id})`,
          `/answers/${i}/${where}/${key}`,
          `Choose another ${kinds?.[0] ?? to} for it`,
        );
      }
    };
    lost(CUE_SOURCES[answer.cue.kind].settings, answer.cue, "cue");
    lost(CONDITION_SETTINGS, answer.only, "only");
    answer.actions.forEach((action, k) => {
      const { settings } = ACTIONS[action.kind];
      lost(settings, action, `actions/${k}`);
      const { objectId, property } = action as { objectId?: string | null; property?: string };
      if (property === undefined || typeof objectId !== "string") return;
      const object = objects.get(objectId) ?? singletons.find(({ id }) => id === objectId);
      if (!object || propertyOf(object, property)) return;
      report(
        "answer-lost-property",
        `the answer "${answer.name}" changes "${property}", which "${object.name}" does not have`,
        `/answers/${i}/actions/${k}/property`,
        "Choose another property for it",
      );
    });
    if (answer.cue.kind === "strand") {
      const { strandId } = answer.cue;
      const strand = scene.strands.find(({ id }) => id === strandId);
      if (strand && !strand.cues.on) {
        report(
          "answer-without-cues",
          `the answer "${answer.name}" waits for "${strand.name}", which gives no cues`,
          `/answers/${i}/cue/strandId`,
          "Switch the strand's cues on",
        );
      }
    }
  });
  return findings;
}
