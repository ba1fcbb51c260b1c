import type { Trouble } from "../errors";
import type { Scene } from "../scene/document";
import { propertiesOf } from "../scene/objectKinds";
import { partsOf } from "../scene/soundSource";
import { canMeasure, MEASURES } from "../strand/measures";

/**
 * What in a scene points at nothing, stands twice or does not fit what it drives. A scene with such troubles
 * still plays; what they concern stays at rest.
 *
 * @returns one trouble for each, with `where` as a JSON Pointer; empty when all connects
 */
export function checkReferences(scene: Scene): Trouble[] {
  const troubles: Trouble[] = [];
  const report = (code: string, what: string, where: string, remedy: string) =>
    troubles.push({ code, what, where, remedy });

  const idsOf = (list: "sounds" | "buses" | "groups" | "strands" | "objects" | "bindings"): Set<string> => {
    const ids = new Set<string>();
    scene[list].forEach(({ id }, i) => {
      if (ids.has(id))
        report("id-twice", `the id "${id}" stands twice`, `/${list}/${i}/id`, "Give one of them another id");
      ids.add(id);
    });
    return ids;
  };
  const sounds = idsOf("sounds");
  const buses = idsOf("buses");
  const groups = idsOf("groups");
  const strands = idsOf("strands");
  idsOf("objects");
  idsOf("bindings");
  const objects = new Map(scene.objects.map((object) => [object.id, object]));

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
    if (measure.kind === "band" && measure.lowHz >= measure.highHz) {
      report(
        "band-upside-down",
        `the strand "${strand.name}" has its range upside down (${measure.lowHz} to ${measure.highHz} Hz)`,
        `${where}/measure`,
        "Make its low end lower than its high end",
      );
    }
  });

  scene.bindings.forEach((binding, i) => {
    const where = `/bindings/${i}`;
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
    const property = propertiesOf(object.kind)[binding.property];
    if (!property) {
      report(
        "binding-lost-property",
        `"${object.name}" is a ${object.kind}, which has no property "${binding.property}"`,
        `${where}/property`,
        `Use one of ${Object.keys(propertiesOf(object.kind)).join(", ")}`,
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
    } else if (property.type === "colour" && binding.mode !== "set") {
      report(
        "binding-wrong-mode",
        `"${binding.property}" of "${object.name}" is a colour, which can only be set`,
        `${where}/mode`,
        'Use the mode "set"',
      );
    }
  });
  return troubles;
}
