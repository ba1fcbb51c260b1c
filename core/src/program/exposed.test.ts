import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { settingSchema } from "../setting/schema";
import { readExposed } from "./exposed";

const one = (line: string, language: "glsl" | "script" = "glsl") =>
  readExposed(language === "glsl" ? line : `interface Exposed {\n${line}\n}`, language);

describe("values that a program exposes", () => {
  it("are declared by a line each, with limits, default, unit and help in its comment", () => {
    const { values, problems } = readExposed(
      [
        "// Peaks of a landscape.",
        "uniform float peakHeight; // 0 to 2, default 0.5, step 0.1, m: How far peaks rise.",
        "uniform int copies; // 1 to 12, default 3: How many there are.",
        "uniform int shape; // round | square | star, default square: Shape of the tiles.",
        "uniform bool inverted; // default on: Turns it round.",
        "uniform vec3 tint; // colour, default #ffcc66: Colour of the peaks.",
        "uniform vec3 wind; // -5 to 5, default 1 0 -2, m/s: Where it drifts.",
        "uniform Strand beat; // The strand that makes it jump.",
        "uniform sampler2D map;",
        "void paint(inout Surface s) {}",
      ].join("\n"),
      "glsl",
    );
    expect(problems).toEqual([]);
    expect(values.map(({ name, type, line, label }) => `${line} ${name} ${type} ${label}`)).toEqual([
      "2 peakHeight number Peak height",
      "3 copies whole Copies",
      "4 shape choice Shape",
      "5 inverted switch Inverted",
      "6 tint colour Tint",
      "7 wind vector Wind",
      "8 beat strand Beat",
      "9 map picture Map",
    ]);
    const [height, copies, shape, inverted, tint, wind, beat] = values.map(({ property }) => property);
    expect(height).toMatchObject({ min: 0, max: 2, step: 0.1, default: 0.5, unit: "m", visible: 1 });
    expect(values[0].help).toBe("How far peaks rise.");
    expect(copies).toMatchObject({ min: 1, max: 12, default: 3, whole: true });
    expect(shape).toMatchObject({ min: 0, max: 2, default: 1, words: ["round", "square", "star"] });
    expect(inverted).toMatchObject({ default: 1, switchesAt: 0.5 });
    expect(tint).toMatchObject({ type: "colour", default: "#ffcc66" });
    expect(wind).toMatchObject({ type: "vector", default: [1, 0, -2], unit: "m/s" });
    expect(beat).toBeUndefined();
    expect(values[6].help).toBe("The strand that makes it jump.");
  });

  it("are the members of an interface in scripts", () => {
    const code = [
      "interface Exposed {",
      "  width: number; // 0 to 10, default 4, m: Width of the bars.",
      "  ink: Colour; // default #102030",
      "  bands: Fan; // The row that it shows.",
      "}",
      "interface Other { width: number; }",
      "let size: number;",
    ].join("\n");
    const { values, problems } = readExposed(code, "script");
    expect(problems).toEqual([]);
    expect(values.map(({ name, type }) => [name, type])).toEqual([
      ["width", "number"],
      ["ink", "colour"],
      ["bands", "fan"],
    ]);
  });

  it.each([
    ["uniform float a; // 2 to 1", "rise"],
    ["uniform float a; // 0 to 1, default 3", "outside"],
    ["uniform float a; // 0 to 1, default much", "not a number"],
    ["uniform float a; // 0 to 1, furlongs", "not understood"],
    ["uniform mat4 a;", "type “mat4”"],
    ["uniform vec3 a; // colour, default red", "not a colour"],
    ["uniform vec3 a; // default 1 2", "three numbers"],
    ["uniform int a; // calm |", "different words"],
    ["uniform int a; // calm | wild, default mild", "none of"],
    ["uniform int a; // 0 to 1.5", "whole number"],
    ["uniform bool a; // default yes", "on or off"],
    ["uniform float a, b;", "line of its own"],
  ])("are told what is wrong with them: %s", (line, words) => {
    const { values, problems } = one(line);
    expect(values).toEqual([]);
    expect(problems).toHaveLength(1);
    expect(problems[0].line).toBe(1);
    expect(problems[0].message).toContain(words);
  });

  it("are told apart by name", () => {
    const { values, problems } = readExposed("uniform float a;\nuniform int a;", "glsl");
    expect(values).toHaveLength(1);
    expect(problems).toEqual([{ line: 2, message: "There are two values named “a”." }]);
  });

  it("never have a default outside of their own limits, whatever is written", () => {
    const word = fc.constantFrom(
      "0 to 1",
      "-3 to 4",
      "default 0.5",
      "default 2",
      "m",
      "colour",
      "a | b",
      "step 2",
    );
    const type = fc.constantFrom("float", "int", "bool", "vec3", "sampler2D", "Strand", "Whole", "x");
    fc.assert(
      fc.property(
        type,
        fc.array(word, { maxLength: 4 }),
        fc.string({ maxLength: 12 }),
        (name, words, rest) => {
          const { values, problems } = one(`uniform ${name} v; // ${words.join(", ")}${rest}`);
          expect(values.length + problems.length).toBeLessThanOrEqual(1);
          for (const { property } of values) {
            if (!property) continue;
            expect(settingSchema(property)).toBeDefined();
            const { type: kind } = property;
            const { default: value } = property;
            const numbers = [value].flat().filter((at) => typeof at === "number");
            if (kind === "colour") continue;
            for (const at of numbers) {
              expect(at).toBeGreaterThanOrEqual(property.min);
              expect(at).toBeLessThanOrEqual(property.max);
            }
          }
        },
      ),
    );
  });
});
