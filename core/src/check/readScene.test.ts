import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import Ajv from "ajv";
import { migrate } from "../document/versions/migrate";
import { SceneFormatError } from "../errors";
import { SceneSchema } from "../kinds/sceneSchema";
import { bind, lanternScene } from "../testing/lanternScene";
import { parseScene, parseSceneText } from "./readScene";
import { checkReferences } from "./references";

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
      (s) => (s.objects[5].rest.glow = 1),
      "/objects/5/rest",
      /unknown property "glow"/,
    ],
    [
      "a wrong FFT size",
      (s) => (s.strands[0].measure.fftSize = 1000),
      "/strands/0/measure/fftSize",
      /one of 512, 1024/,
    ],
    ["a colour by name", (s) => (s.objects[5].rest.colour = "red"), "/objects/5/rest/colour", /pattern/],
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
    expect(() => migrate(old, 4, steps)).toThrow(/no migration from version 3/);
  });

  it("have a published schema that is up to date and accepts new scenes", () => {
    const published = JSON.parse(readFileSync("docs/scene.schema.json", "utf8"));
    expect(published).toEqual(JSON.parse(JSON.stringify(SceneSchema)));
    const scene = lanternScene();
    bind(scene, "scale");
    expect(new Ajv({ discriminator: true }).validate(published, scene)).toBe(true);
  });
});
