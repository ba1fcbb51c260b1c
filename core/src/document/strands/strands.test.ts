import { describe, expect, it } from "@jest/globals";
import { strandsSignal } from "../../analyse/hearing";
import { drivingStrands } from "../../analyse/needed";
import { analyseStrand } from "../../analyse/strandAnalysis";
import { parseScene } from "../../check/readScene";
import { checkReferences } from "../../check/references";
import { newBinding, newObject, newScene } from "../../kinds/create";
import { newSoundBasics } from "../../sound/kinds";
import { DirectSpectra } from "../../strand/hearing/spectra";
import { MEASURES } from "../../strand/measures/table";
import { defaultShaping } from "../../strand/shape/shaping";
import type { Track } from "../../strand/track";
import type { Scene } from "../scene";
import { takeKeep, withKeep } from "../versions/keeps";
import { migrate } from "../versions/migrate";
import { newStrand } from "./newStrand";
import { happensLive, inMakingOrder, isMadeOf } from "./strands";

/** Strands a and b on a file, and one made of others for each entry. */
function sceneOf(made: Record<string, string[]>): Scene {
  const scene = newScene("Quay");
  scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "x" });
  for (const id of ["a", "b"])
    scene.strands.push(newStrand(scene, id, id, { kind: "sound", id: "song", tap: "before" }));
  for (const [id, ids] of Object.entries(made)) {
    scene.strands.push(newStrand(scene, id, id, { kind: "strands", ids }, { kind: "product" }));
  }
  return scene;
}
const track = (...values: number[]): Track => ({ width: 1, values: Float32Array.from(values) });
const combine = (kind: "product" | "sum" | "maximum" | "difference", tracks: Track[]) => {
  const tuning = { measure: { kind }, shaping: defaultShaping("share") } as const;
  const { shaped } = analyseStrand(strandsSignal(tracks, 0.02)!, tuning, new DirectSpectra());
  return [...shaped.values].map((x) => Math.round(x * 1e4) / 1e4);
};

describe("strands made of others", () => {
  it("are products, sums, maxima and differences, frame by frame", () => {
    const sources = [track(0.5, 0.2), track(0.4, 0.9)];
    expect(combine("product", sources)).toEqual([0.2, 0.18]);
    expect(combine("sum", sources)).toEqual([0.9, 1]);
    expect(combine("maximum", sources)).toEqual([0.5, 0.9]);
    expect(combine("difference", sources)).toEqual([0.1, 0]);
  });

  it("are as wide as the widest, and the others are stretched over it", () => {
    const fan: Track = { width: 2, values: Float32Array.of(0.1, 0.2, 0.3, 0.4) };
    expect(combine("sum", [fan, track(0.5, 0)])).toEqual([0.6, 0.7, 0.3, 0.4]);
  });

  it("take one band of a fan, or the mean of some, whatever numbers are asked for", () => {
    const fan: Track = { width: 4, values: Float32Array.of(0.1, 0.2, 0.3, 0.4) };
    const bands = (first: number, last: number) =>
      analyseStrand(
        strandsSignal([fan], 0.01)!,
        { measure: { kind: "bands", first, last }, shaping: defaultShaping("share") },
        new DirectSpectra(),
      ).shaped.values[0];
    expect(bands(2, 2)).toBeCloseTo(0.2, 6);
    expect(bands(2, 4)).toBeCloseTo(0.3, 6);
    expect(bands(4, 2)).toBeCloseTo(0.3, 6);
    expect(bands(900, 1000)).toBeCloseTo(0.4, 6);
  });

  it("wait for all they are made of", () => {
    expect(strandsSignal([track(1), undefined], 1)).toBeUndefined();
    expect(strandsSignal([], 1)).toBeUndefined();
  });

  it("come after their sources; one made of itself is left out and named", () => {
    const scene = sceneOf({ late: ["mid", "a"], mid: ["b"], loop: ["back"], back: ["loop"] });
    expect(inMakingOrder(scene).map(({ id }) => id)).toEqual(["a", "b", "mid", "late"]);
    expect(isMadeOf(scene, scene.strands[2], "b")).toBe(true);
    expect(isMadeOf(scene, scene.strands[3], "a")).toBe(false);
    expect(checkReferences(scene).map(({ code, where }) => `${code} ${where}`)).toEqual([
      "strand-of-itself /strands/4/listensTo/ids",
      "strand-of-itself /strands/5/listensTo/ids",
    ]);
    scene.strands[2].listensTo = { kind: "strands", ids: ["gone"] };
    scene.strands[3].measure = MEASURES.peak.defaults;
    scene.strands.splice(4);
    expect(checkReferences(scene).map(({ code }) => code)).toEqual([
      "strand-lost-source",
      "strand-cannot-read",
    ]);
  });

  it("bring their sources into a delivered scene; muted ones bring nothing", () => {
    const scene = sceneOf({ mid: ["b"] });
    scene.bindings.push(newBinding("one", "mid", newObject("l", "sphere", "L"), "radius"));
    expect(drivingStrands(scene).map(({ id }) => id)).toEqual(["b", "mid"]);
    scene.strands[2].muted = true;
    expect(drivingStrands(scene)).toEqual([]);
  });

  it("happen live as soon as one of them does", () => {
    const scene = sceneOf({ mid: ["a"], late: ["mid", "b"] });
    expect(happensLive(scene, scene.strands[3])).toBe(false);
    scene.sounds[0] = { ...newSoundBasics("song", "Keys"), kind: "keys", device: null };
    expect(scene.strands.map((strand) => happensLive(scene, strand))).toEqual([true, true, true, true]);
  });
});

describe("a web of strands in which each is made of all before it", () => {
  // With 40 strands of up to 16 sources there are millions of ways from one to another.
  const ids = Array.from({ length: 400 }, (_, i) => `s${i}`);
  const scene = sceneOf(
    Object.fromEntries(ids.map((id, i) => [id, ["a", ...ids.slice(Math.max(0, i - 15), i)]])),
  );

  it("is sorted, and searched for live strands, by visiting each strand once", () => {
    expect(inMakingOrder(scene).map(({ id }) => id)).toEqual(["a", "b", ...ids]);
    const last = scene.strands.at(-1)!;
    expect(isMadeOf(scene, last, "a")).toBe(true);
    expect(isMadeOf(scene, last, "b")).toBe(false);
    scene.sounds.push({ ...newSoundBasics("keys", "Keys"), kind: "keys", device: null });
    expect(happensLive(scene, last)).toBe(false);
    scene.strands[0].listensTo = { kind: "sound", id: "keys", tap: "before" };
    expect(happensLive(scene, last)).toBe(true);
  }, 10_000);
});

describe("keeps", () => {
  it("restore every tuning and leave strands that came or went since alone", () => {
    const scene = sceneOf({});
    const lantern = newObject("l", "sphere", "L");
    scene.bindings.push(newBinding("one", "a", lantern, "radius"));
    const keep = takeKeep(scene, "k", "Before");
    scene.keeps.push(keep);
    const before = structuredClone(scene);
    scene.strands[0].shaping.gain.db = 12;
    scene.strands[0].cues.on = true;
    scene.strands[0].name = "Renamed";
    Object.assign(scene.bindings[0], { mode: "add" });
    scene.strands.splice(1, 1);
    scene.strands.push(newStrand(scene, "new", "New", { kind: "nothing" }));
    const back = withKeep(scene, keep);
    expect(back.strands.map(({ id, name }) => `${id} ${name}`)).toEqual(["a Renamed", "new New"]);
    expect(back.strands[0].shaping).toEqual(before.strands[0].shaping);
    expect(back.strands[0].cues.on).toBe(false);
    expect(back.bindings).toEqual(before.bindings);
    expect(parseScene(JSON.parse(JSON.stringify(scene))).keeps).toEqual([keep]);
  });
});

describe("a scene of version 2", () => {
  it("opens with the steps that came later switched off", () => {
    const scene = sceneOf({});
    const { keeps: _keeps, ...rest } = structuredClone(scene) as Record<string, unknown> & Scene;
    const old = {
      ...rest,
      version: 2,
      strands: scene.strands.map(({ muted: _m, cues: _c, ...strand }) => ({
        ...strand,
        shaping: {
          gain: { on: true, db: 3 },
          window: { on: true, floorDb: -50, rangeDb: 30 },
          follow: { on: true, attackMs: 1, releaseMs: 2 },
          clamp: { on: false },
        },
      })),
    };
    const { strands, keeps } = parseScene(migrate(old));
    expect(keeps).toEqual([]);
    expect(strands[0].shaping).toMatchObject({
      window: { on: true, scale: "dB", floorDb: -50 },
      follow: { attackMs: 1, holdMs: 0 },
      gate: { on: false },
      autoRange: { on: false },
      clamp: { on: false },
      output: { on: false },
    });
  });
});
