import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import Ajv from "ajv";
import fc from "fast-check";
import { checkReferences } from "../check/references";
import { SceneFormatError } from "../errors";
import { parseScene, parseSceneText } from "../format/sceneFile";
import { settingsThatUse } from "../testing/settings";
import { colourBlend, hexToLinear, linearToHex, linearToOklch } from "./colour";
import { newBinding, newObject, newScene, newSoundBasics, newStrand } from "./create";
import { BINDING_MODES, type Binding, type Scene, SceneSchema } from "./document";
import { Evaluator, evaluate, inputShare } from "./evaluate";
import { migrate } from "./migrate";
import { OBJECT_KIND_NAMES, propertiesOf } from "./objectKinds";

function lanternScene(): Scene {
  const scene = newScene("Quay");
  scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" });
  scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "sound", id: "song", tap: "before" }));
  const lantern = newObject("lantern", "sphere", "Lantern");
  lantern.rest = { scale: [2, 2, 2], position: [1, 2, 3] };
  scene.objects.push(lantern);
  return scene;
}
const range = (low: number, high: number) => ({ kind: "range" as const, low, high });
const bind = (scene: Scene, property: string, changes: Partial<Binding> = {}) => {
  const object = scene.objects.find(({ id }) => id === "lantern")!;
  scene.bindings.push({ ...newBinding(`b${scene.bindings.length}`, "kick", object, property), ...changes });
};
const constant = (value: number) =>
  new Map([["kick", { width: 1, values: Float32Array.of(value), cues: [{ timeS: 0, strength: value }] }]]);

/** A scene as a careless hand could have edited it. */
// biome-ignore lint/suspicious/noExplicitAny: damage of every kind is the point
type Draft = Record<string, any>;

function problemsOf(document: unknown) {
  try {
    parseScene(document);
  } catch (error) {
    expect(error).toBeInstanceOf(SceneFormatError);
    return (error as SceneFormatError).problems;
  }
  return [];
}

describe("evaluate", () => {
  it("leaves properties at rest without bindings or tracks", () => {
    const scene = lanternScene();
    expect(evaluate(scene, new Map(), 0).lantern).toMatchObject({
      scale: [2, 2, 2],
      position: [1, 2, 3],
      radius: 0.5,
    });
    bind(scene, "scale", { output: range(1, 5) });
    expect(evaluate(scene, new Map(), 0).lantern.scale).toEqual([2, 2, 2]);
  });

  it("always has a camera and a backdrop", () => {
    const scene = lanternScene();
    scene.objects = scene.objects.filter(({ kind }) => kind === "sphere");
    const values = evaluate(scene, new Map(), 0);
    expect(values.camera.fieldOfView).toBe(45);
    expect(Object.keys(values)).toEqual(["camera", "backdrop", "lens", "lantern"]);
  });

  it("maps input range to output range on the chosen axes", () => {
    const scene = lanternScene();
    bind(scene, "scale", { output: range(1, 3) });
    bind(scene, "position", { axes: ["y", "z"], input: { low: 0.25, high: 0.75 }, output: range(0, 8) });
    expect(evaluate(scene, constant(0.5), 0).lantern).toMatchObject({
      scale: [2, 2, 2],
      position: [1, 4, 4],
    });
    expect(evaluate(scene, constant(0.9), 0).lantern.position).toEqual([1, 8, 8]);
  });

  it("combines several bindings on one property in listed order", () => {
    const scene = lanternScene();
    bind(scene, "radius", { mode: "add", output: range(0, 1) });
    bind(scene, "radius", { mode: "multiply", output: range(0, 4) });
    expect(evaluate(scene, constant(0.5), 0).lantern.radius).toBeCloseTo((0.5 + 0.5) * 2, 12);
    scene.bindings.reverse();
    expect(evaluate(scene, constant(0.5), 0).lantern.radius).toBeCloseTo(0.5 * 2 + 0.5, 12);
  });

  it("stays within the property's limits", () => {
    const scene = lanternScene();
    bind(scene, "scale", { output: range(-50, 5000) });
    expect(evaluate(scene, constant(0), 0).lantern.scale).toEqual([0, 0, 0]);
    expect(evaluate(scene, constant(1), 0).lantern.scale).toEqual([100, 100, 100]);
  });

  it("moves colours between the two ends", () => {
    const scene = lanternScene();
    bind(scene, "colour", {
      output: {
        kind: "colours",
        stops: [
          { at: 0, colour: "#ff0000" },
          { at: 1, colour: "#0000ff" },
        ],
        mix: "linear",
      },
    });
    expect(evaluate(scene, constant(0.25), 0).lantern.colour).toEqual([0.75, 0, 0.25]);
  });

  it("ignores bindings that point at nothing or give the wrong kind of output", () => {
    const scene = lanternScene();
    bind(scene, "scale", { objectId: "gone" });
    bind(scene, "scale", { property: "gone" });
    bind(scene, "colour", { output: range(0, 1) });
    expect(evaluate(scene, constant(1), 0).lantern).toMatchObject({ scale: [2, 2, 2] });
  });

  it("never gives a number that is not finite", () => {
    fc.assert(
      fc.property(
        fc.double({ noNaN: false }),
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.constantFrom<Binding["mode"]>(...BINDING_MODES),
        (anyS, a, b, mode) => {
          // What is summed from the start takes as long as the time is.
          const timeS = mode === "rate" ? anyS % 20 : anyS;
          const scene = lanternScene();
          bind(scene, "scale", { mode, input: { low: b, high: a }, output: range(a, b) });
          const evaluator = new Evaluator(scene);
          const out = new Float64Array(evaluator.size);
          evaluator.evaluateInto(constant(0.3), timeS, out);
          expect(out.every(Number.isFinite)).toBe(true);
        },
      ),
      {
        examples: BINDING_MODES.flatMap((mode) =>
          [Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 1e308, -1e308].map(
            (timeS): [number, number, number, Binding["mode"]] => [timeS, 1e6, -1e6, mode],
          ),
        ),
      },
    );
  });

  it("switches where both input marks are equal, and runs backwards where they are swapped", () => {
    expect([inputShare(0.4, 0.5, 0.5), inputShare(0.5, 0.5, 0.5)]).toEqual([0, 1]);
    expect(inputShare(0.25, 1, 0)).toBe(0.75);
  });

  it("can bind every property of every kind, and each then moves", () => {
    for (const kind of OBJECT_KIND_NAMES) {
      for (const [property, declared] of Object.entries(propertiesOf(kind))) {
        const scene = lanternScene();
        scene.strands[0].cues.on = true;
        const object = { ...newObject("thing", kind, "Thing"), settings: settingsThatUse(kind, declared) };
        scene.objects = [object];
        scene.bindings = [newBinding("b", "kick", object, property)];
        expect(checkReferences(parseScene(scene))).toEqual([]);
        // What counts at cues is not a value of the property; particles are tested with their steps.
        if (declared.type === "number" && declared.atCues) continue;
        const at = (value: number) => evaluate(scene, constant(value), 0).thing[property];
        expect(at(1)).not.toEqual(at(0));
        // What is shown is switched, and rests at on.
        if (property === "visibility") continue;
        const atRest = [evaluate(scene, new Map(), 0).thing[property]].flat();
        [at(0)].flat().forEach((value, i) => {
          expect(value).toBeCloseTo(atRest[i], 6);
        });
      }
    }
  });
});

describe("colour", () => {
  it("reads and writes hex through linear light", () => {
    for (const hex of ["#000000", "#ffffff", "#e8b04a", "#071318", "#bc5090"]) {
      expect(linearToHex(hexToLinear(hex))).toBe(hex);
    }
    expect(hexToLinear("#bcbcbc")[0]).toBeCloseTo(0.5029, 3);
    expect(() => hexToLinear("teal")).toThrow(/not a colour/);
  });

  it("agrees with published OKLCH values", () => {
    // CSS Color 4, sample values of oklch() for sRGB red, lime and blue.
    const published: [string, number, number, number][] = [
      ["#ff0000", 0.62796, 0.25768, 29.234],
      ["#00ff00", 0.86644, 0.29483, 142.495],
      ["#0000ff", 0.45201, 0.31321, 264.052],
    ];
    for (const [hex, lightness, chroma, hueDegrees] of published) {
      const [l, c, h] = linearToOklch(hexToLinear(hex));
      expect(l).toBeCloseTo(lightness, 4);
      expect(c).toBeCloseTo(chroma, 4);
      expect(((h * 180) / Math.PI + 360) % 360).toBeCloseTo(hueDegrees, 1);
    }
  });

  it("meets both ends, and takes the shorter way round the hues", () => {
    const out = new Float64Array(3);
    for (const mix of ["oklch", "linear"] as const) {
      const blend = colourBlend("#e8b04a", "#2b6f8a", mix);
      blend(0, out, 0);
      expect(linearToHex(out)).toBe("#e8b04a");
      blend(1, out, 0);
      expect(linearToHex(out)).toBe("#2b6f8a");
    }
    colourBlend("#ff0000", "#ff00ff", "oklch")(0.5, out, 0);
    expect(linearToOklch(out)[2]).toBeCloseTo(((29.234 + 328.363 - 360) / 2) * (Math.PI / 180), 1);
    colourBlend("#000000", "#00ff00", "oklch")(0.5, out, 0);
    expect(linearToHex(out)).toMatch(/^#00/);
  });
});

describe("a scene of version 3", () => {
  it("opens with its rings as formations of boxes, its colours as stops, and its keeps alike", () => {
    const binding = (id: string, property: string, output: object) => ({
      id,
      strandId: "kick",
      objectId: "posts",
      property,
      mode: "set",
      axes: ["x", "y", "z"],
      input: { low: 0, high: 1 },
      output,
    });
    const { objectId: _o, property: _p, strandId: _s, ...kept } = binding("a", "radius", range(1, 2));
    const { assets: _a, budget: _b, quality: _q, ...old } = lanternScene() as Draft;
    const scene = parseScene({
      ...old,
      version: 3,
      objects: [
        { id: "posts", name: "Posts", kind: "ring", rest: { count: 40, radius: 5, growth: 2 } },
        { id: "ball", name: "Ball", kind: "sphere", rest: { radius: 2 } },
      ],
      bindings: [
        binding("a", "radius", range(1, 2)),
        binding("c", "colour", { kind: "colours", from: "#112233", to: "#ffffff", mix: "linear" }),
      ],
      keeps: [{ id: "k", name: "Verse", strands: [], bindings: [kept] }],
    });
    expect(scene.objects[0]).toMatchObject({
      kind: "box",
      settings: { formation: "ring" },
      rest: { copies: 40, reach: 5, growth: 2, size: [0.2, 1, 0.2] },
    });
    expect(scene.objects[1].rest).toEqual({ radius: 2 });
    expect(scene.bindings.map(({ property }) => property)).toEqual(["reach", "colour"]);
    expect(scene.bindings[1].output).toEqual({
      kind: "colours",
      stops: [
        { at: 0, colour: "#112233" },
        { at: 1, colour: "#ffffff" },
      ],
      mix: "linear",
    });
    expect(scene.keeps[0].bindings[0]).toMatchObject({ decayMs: 250, curve: { kind: "power", power: 1 } });
    expect(checkReferences(scene)).toEqual([]);
  });
});

describe("what does not connect on the stage", () => {
  it("is named with its place and a remedy", () => {
    const scene = lanternScene();
    const at = (index: number) => `/objects/${scene.objects.length - 3 + index}`;
    const group = newObject("g", "group", "Group");
    const inner = newObject("h", "group", "Inner");
    const box = newObject("b", "box", "Box");
    scene.objects.push(group, inner, box);
    group.parentId = "h";
    inner.parentId = "g";
    box.parentId = "lantern";
    box.settings = { materialId: "lantern", textureId: "gone" };
    bind(scene, "copies");
    bind(scene, "opacity", { mode: "kick" });
    const codes = checkReferences(parseScene(scene)).map(({ code, where }) => `${code} ${where}`);
    expect(codes).toEqual([
      `group-in-itself ${at(0)}/parentId`,
      `group-in-itself ${at(1)}/parentId`,
      `object-lost-group ${at(2)}/parentId`,
      `object-lost-reference ${at(2)}/settings/materialId`,
      `object-lost-reference ${at(2)}/settings/textureId`,
      "binding-at-rest /bindings/0/property",
      "kick-without-cues /bindings/1/strandId",
    ]);
    // It is evaluated all the same.
    expect(evaluate(scene, constant(1), 0).lantern.opacity).toBe(1);
  });
});

describe("scene documents", () => {
  it("come back as they were", () => {
    const scene = lanternScene();
    bind(scene, "colour");
    bind(scene, "scale");
    expect(parseSceneText(JSON.stringify(scene))).toEqual(scene);
    expect(checkReferences(scene)).toEqual([]);
  });

  it.each<[string, (scene: Draft) => void, string, RegExp]>([
    ["an unknown kind", (s) => (s.objects[0].kind = "teapot"), "/objects/0", /"teapot" is not known/],
    [
      "a number out of range",
      (s) => (s.strands[0].shaping.gain.db = 900),
      "/strands/0/shaping/gain/db",
      /<= 60, but is 900/,
    ],
    ["a missing property", (s) => delete s.strands[0].name, "/strands/0", /"name" is missing/],
    [
      "an unknown property",
      (s) => (s.objects[3].rest.glow = 1),
      "/objects/3/rest",
      /unknown property "glow"/,
    ],
    [
      "a wrong FFT size",
      (s) => (s.strands[0].measure.fftSize = 1000),
      "/strands/0/measure/fftSize",
      /one of 512, 1024/,
    ],
    ["a colour by name", (s) => (s.objects[3].rest.colour = "red"), "/objects/3/rest/colour", /pattern/],
    ["a list for an object", (s) => (s.sounds = {}), "/sounds", /must be array, but is {}/],
  ])("name the place of %s", (_name, damage, where, what) => {
    const scene = structuredClone(lanternScene());
    damage(scene);
    const problems = problemsOf(scene);
    expect(problems).toHaveLength(1);
    expect(problems[0].where).toBe(where);
    expect(problems[0].what).toMatch(what);
  });

  it.each<[string, string, string]>([
    ["text that is not JSON", "{", "scene-not-json"],
    ["a list", "[]", "scene-not-object"],
    ["no version", "{}", "scene-no-version"],
    ["a version from the future", '{"version": 99}', "scene-too-new"],
  ])("refuse %s", (_name, text, code) => {
    expect(() => parseSceneText(text)).toThrow(expect.objectContaining({ code }));
  });

  it("are brought up to date step by step without touching the original", () => {
    const old = { version: 1, title: "Quay" };
    const steps = {
      1: ({ title, ...rest }: Record<string, unknown>) => ({ ...rest, name: title }),
      2: (document: Record<string, unknown>) => ({ ...document, loop: false }),
    };
    expect(migrate(old, 3, steps)).toEqual({ version: 3, name: "Quay", loop: false });
    expect(old).toEqual({ version: 1, title: "Quay" });
    expect(() => migrate(old, 4, steps)).toThrow(/no way from version 3/);
  });

  it("have a published schema that is up to date and accepts what we make", () => {
    const published = JSON.parse(readFileSync("docs/scene.schema.json", "utf8"));
    expect(published).toEqual(JSON.parse(JSON.stringify(SceneSchema)));
    const scene = lanternScene();
    bind(scene, "scale");
    expect(new Ajv({ discriminator: true }).validate(published, scene)).toBe(true);
  });
});

describe("a new strand", () => {
  it("has a hue and a shape of its own", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 8; i++) scene.strands.push(newStrand(scene, `s${i}`, `S${i}`, { kind: "nothing" }));
    expect(new Set(scene.strands.map(({ hue }) => hue)).size).toBe(8);
    expect(new Set(scene.strands.map(({ shape }) => shape)).size).toBe(8);
  });
});
