import { describe, expect, it } from "@jest/globals";
import { parseScene } from "../../check/readScene";
import { checkReferences } from "../../check/references";
import { lanternScene, range } from "../../testing/lanternScene";

/** A scene as a careless hand could have edited it. */
// biome-ignore lint/suspicious/noExplicitAny: damage of every kind is the point
type Draft = Record<string, any>;

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
    expect(scene.objects[1].rest).toEqual({ radius: 2, emissionFalloff: 0 });
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

describe("a scene of version 5", () => {
  it("looks as it did: no effect that was added later is on", () => {
    const { palette: _p, ...old } = lanternScene() as Draft;
    const scene = parseScene({
      ...old,
      version: 5,
      quality: "lighter",
      objects: [
        { ...bare("camera", "camera"), rest: { fieldOfView: 50 } },
        { ...bare("box", "box"), rest: { colour: "#445566" } },
        bare("sea", "water"),
        { ...bare("sail", "picture"), rest: {} },
        { ...bare("moon", "sunLight"), rest: { intensity: 2 } },
      ],
      bindings: [],
      keeps: [],
    });
    const of = (kind: string) => scene.objects.find((one) => one.kind === kind)!;
    expect(scene.quality).toBe("phone");
    expect(of("environment").settings).toEqual({ scenery: "none" });
    expect(of("backdrop").settings.fixedTo).toBe("image");
    expect(of("lens").settings).toMatchObject({ toneMapping: "neutral", fogOfBackdrop: false });
    expect(of("box").rest).toEqual({ colour: "#445566", rounding: 0, emissionFalloff: 0 });
    expect(of("water").rest.reflection).toBe(0);
    expect(of("picture").rest.colour).toBe("#d8cdb8");
    expect(of("sunLight")).toMatchObject({ settings: { castsShadows: false }, rest: { intensity: 2 } });
    expect(of("camera").rest).toEqual({ fieldOfView: 50 });
    expect(checkReferences(scene)).toEqual([]);
  });
});

const bare = (id: string, kind: string) => ({
  id,
  kind,
  name: id,
  parentId: null,
  hidden: false,
  locked: false,
  settings: {},
  rest: {},
});

describe("a scene of version 9", () => {
  it("reads beats, brightness and A-weighted levels as it did", () => {
    const { limitsFlashes: _l, flashing: _f, ...old } = lanternScene() as Draft;
    const [first] = old.strands;
    const withMeasure = (id: string, measure: object) => ({ ...first, id, name: id, measure });
    const spectrum = { fftSize: 4096, window: "hann" };
    const measures = {
      beat: { kind: "beatPhase" },
      bar: { kind: "barPhase", beatsPerBar: 3 },
      bright: { kind: "brightness", ...spectrum },
      ear: { kind: "aWeighted", ...spectrum },
      low: { ...first.measure },
    };
    const { shaping, cues } = first;
    const scene = parseScene({
      ...old,
      limitsFlashes: false,
      flashing: null,
      version: 9,
      strands: [first, ...Object.entries(measures).map(([id, measure]) => withMeasure(id, measure))],
      keeps: [
        {
          id: "k",
          name: "Verse",
          strands: [
            { id: "bar", measure: measures.bar, shaping, cues, hue: first.hue, shape: first.shape },
          ].map(({ hue: _h, shape: _s, ...tuning }) => tuning),
          bindings: [],
          programs: [],
        },
      ],
    });
    const counted = { tempo: "heard", oneAtS: 0, leastCertainty: 0 };
    expect(scene.strands.slice(1).map(({ measure }) => measure)).toEqual([
      { kind: "beatPhase", beatsPerBar: 4, ...counted },
      { kind: "barPhase", beatsPerBar: 3, ...counted },
      { kind: "brightness", weights: "magnitude", floorDb: -160, ...spectrum },
      { kind: "aWeighted", averageMs: 40 },
      first.measure,
    ]);
    expect(scene.keeps[0].strands[0].measure).toEqual({ kind: "barPhase", beatsPerBar: 3, ...counted });
  });
});

describe("a scene of version 10", () => {
  it("fades, touches and falls with distance as it did", () => {
    const old = lanternScene() as Draft;
    const [sound] = old.sounds;
    const place = { position: [0, 0, 0], objectId: null, fromItsSide: false, referenceM: 3, maximumM: 20 };
    const rest = { rollOff: 1, heardFollows: true, analysedFollows: false };
    const only = {
      whilePlayingId: null,
      whileVisibleId: null,
      whileAboveId: null,
      aboveMark: 0.5,
      gapMs: 0,
      times: 0,
      chance: 1,
      seed: 1,
    };
    const scene = parseScene({
      ...old,
      version: 10,
      sounds: [{ ...sound, place: { ...place, ...rest } }, ...old.sounds.slice(1)],
      answers: [
        {
          id: "a",
          name: "A",
          on: true,
          cue: { kind: "touch", objectId: null },
          only,
          actions: [
            { kind: "fade", soundId: null, levelDb: -60, overMs: 400, delayMs: 0 },
            { kind: "pause", soundId: null, delayMs: 500 },
          ],
        },
      ],
    });
    expect(scene.sounds[0].place).toMatchObject({ silentBeyond: false });
    expect(scene.answers[0].cue).toEqual({ kind: "touch", objectId: null, speed: 0 });
    expect(scene.answers[0].only.whileSilentId).toBeNull();
    expect(scene.answers[0].actions[0]).toMatchObject({ kind: "fade", evenly: "dB" });
    expect(scene.answers[0].actions[1]).toMatchObject({ kind: "pause", delayMs: 100 });
  });
});
