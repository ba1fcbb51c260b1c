import type { Trouble } from "../errors";
import type { Scene } from "../scene/document";
import { propertiesOf } from "../scene/objectKinds";

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

  const idsOf = (list: "sounds" | "strands" | "objects" | "bindings"): Set<string> => {
    const ids = new Set<string>();
    scene[list].forEach(({ id }, i) => {
      if (ids.has(id))
        report("id-twice", `the id "${id}" stands twice`, `/${list}/${i}/id`, "Give one of them another id");
      ids.add(id);
    });
    return ids;
  };
  const sounds = idsOf("sounds");
  const strands = idsOf("strands");
  idsOf("objects");
  idsOf("bindings");
  const objects = new Map(scene.objects.map((object) => [object.id, object]));

  scene.strands.forEach((strand, i) => {
    const where = `/strands/${i}`;
    if (strand.soundId === null) {
      report(
        "strand-no-sound",
        `the strand "${strand.name}" listens to no sound`,
        where,
        "Choose a sound for it",
      );
    } else if (!sounds.has(strand.soundId)) {
      report(
        "strand-lost-sound",
        `the strand "${strand.name}" listens to a sound that is gone (${strand.soundId})`,
        `${where}/soundId`,
        "Choose another sound for it",
      );
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
