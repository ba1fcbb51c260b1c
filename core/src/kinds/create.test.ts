import { describe, expect, it } from "@jest/globals";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import { newStrand } from "../document/strands/newStrand";
import { MEASURE_KINDS, MEASURES } from "../strand/measures/table";
import { newBinding, newObject, newProject, newScene } from "./create";
import { OBJECT_KIND_NAMES, propertiesOf } from "./table";

describe("what is new", () => {
  it("is a project with light in it, and a scene with the objects that every scene has", () => {
    expect(newScene("Quay").objects.map(({ kind }) => kind)).toEqual([
      "camera",
      "backdrop",
      "environment",
      "lens",
      "world",
    ]);
    const project = newProject("Quay");
    const lights = project.objects.filter(({ kind }) => kind.endsWith("Light"));
    expect(lights).toHaveLength(1);
    expect(project.objects.some(({ kind }) => kind === "environment")).toBe(true);
    for (const { rest } of lights) expect(rest.intensity).toBeGreaterThan(0);
    expect(checkReferences(parseScene(project))).toEqual([]);
  });

  it.each(MEASURE_KINDS)(
    "is a strand that can be saved, with shaping that suits its measure (%s)",
    (kind) => {
      const scene = newScene("Quay");
      scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }, MEASURES[kind].defaults));
      expect(parseScene(scene).strands[0].measure).toEqual(MEASURES[kind].defaults);
      // Defaults belong to everyone: a strand's measure is its own.
      expect(scene.strands[0].measure).not.toBe(MEASURES[kind].defaults);
      expect(scene.strands[0].shaping.window.scale).toBe(
        ["level", "loudness"].includes(MEASURES[kind].unit) ? "dB" : "linear",
      );
    },
  );

  it.each(OBJECT_KIND_NAMES)(
    "is a binding of each property that begins where it rests and moves it (%s)",
    (kind) => {
      const object = newObject("it", kind, "It");
      const scene = newScene("Quay");
      scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
      if (!scene.objects.some(({ id }) => id === kind)) scene.objects.push(object);
      else object.id = kind;
      for (const [key, property] of Object.entries(propertiesOf({ kind }))) {
        const binding = newBinding(`b-${key}`, "s", object, key);
        scene.bindings.push(binding);
        const { output, mode, input } = binding;
        if (output.kind === "colours") {
          expect([property.type, output.stops[0].colour]).toEqual(["colour", property.default]);
          continue;
        }
        expect(output.high).not.toBe(output.low);
        if (property.type === "colour" || mode === "kick") continue;
        expect([output.low, output.high].every((one) => one >= property.min && one <= property.max)).toBe(
          true,
        );
        if (key === "visibility") expect(input).toEqual({ low: 0.5, high: 0.5 });
        else if (property.type === "number") expect(output.low).toBe(property.default);
      }
      expect(() => parseScene(scene)).not.toThrow();
    },
  );

  it("spans a change that is plain to see, the way there is room for it", () => {
    const outputOf = (rest: Record<string, number>, property: string) => {
      const { output } = newBinding("b", "s", { ...newObject("it", "sphere", "It"), rest }, property);
      return output.kind === "range" ? [output.low, output.high] : [];
    };
    expect(outputOf({ roughness: 0.25 }, "roughness")).toEqual([0.25, 1]);
    expect(outputOf({ opacity: 1 }, "opacity")).toEqual([1, 0]);
    expect(outputOf({ radius: 2 }, "radius")).toEqual([2, 2.5]);
    expect(outputOf({ emissionStrength: 0 }, "emissionStrength")).toEqual([0, 3]);
    expect(() => newBinding("b", "s", newObject("it", "sphere", "It"), "wings")).toThrow(
      /no property "wings"/,
    );
  });
});
