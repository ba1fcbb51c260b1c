import { describe, expect, it } from "@jest/globals";
import { produce } from "immer";
import type { Binding, ObjectKind, RestValue, Scene, StageObject } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import type { Tracks } from "../evaluate/values";
import { newBinding, newObject, newScene } from "../kinds/create";
import type { SettingValue } from "../setting/descriptor";
import { addFrames, liveTrack, type Track } from "../strand/track";
import { newInstances } from "./placing";
import { SceneState } from "./sceneState";

const SECONDS = 24;
/** A strand that wanders, with a cue every 0.7 s. */
function wandering(width = 1): Track {
  const frames = SECONDS * 100;
  const values = new Float32Array(frames * width);
  for (let frame = 0; frame < frames; frame++) {
    for (let band = 0; band < width; band++) {
      values[frame * width + band] = 0.5 + 0.5 * Math.sin(frame * 0.031 * (1 + band * 0.3) + band);
    }
  }
  const cues = Array.from({ length: 33 }, (_, i) => ({
    timeS: 0.35 + i * 0.7,
    strength: 0.4 + (0.5 * ((i * 7) % 10)) / 10,
  }));
  return { width, values, cues };
}
const TRACKS = new Map([
  ["s", wandering()],
  ["fan", wandering(8)],
]);

function sceneWith(...objects: StageObject[]): Scene {
  const scene = newScene("Quay");
  scene.strands.push(
    newStrand(scene, "s", "S", { kind: "nothing" }),
    newStrand(scene, "fan", "Fan", { kind: "nothing" }),
  );
  scene.objects = objects;
  return scene;
}
const object = (
  id: string,
  kind: ObjectKind,
  rest: Record<string, RestValue> = {},
  settings: Record<string, SettingValue> = {},
): StageObject => ({ ...newObject(id, kind, id), rest, settings });
function bind(
  scene: Scene,
  objectId: string,
  property: string,
  strandId: string,
  change: Partial<Binding> = {},
) {
  const target = scene.objects.find(({ id }) => id === objectId)!;
  scene.bindings.push({ ...newBinding(`b${scene.bindings.length}`, strandId, target, property), ...change });
}
const range = (low: number, high: number) => ({ kind: "range" as const, low, high });

/** Everything a scene remembers and shows at a time, as one row of numbers. */
function stateOf(state: SceneState, timeS: number): number[] {
  const { plan: scenePlan, simulation, placing, values } = reach(state, TRACKS, timeS);
  const row = [...values];
  for (const plan of scenePlan.plans) {
    const { id } = plan.object;
    const particles = simulation.get("particles", id);
    particles?.forEachAlive(timeS, (at, ageS) => row.push(ageS, ...particles.numbers.slice(at, at + 11)));
    const trails = simulation.get("orbits", id);
    trails?.forEachPoint(2, timeS, 1.5, (at, ageS) => row.push(ageS, ...trails.points.slice(at, at + 3)));
    if (!plan.at.growth) continue;
    const wake = simulation.get("wake", id);
    const into = newInstances(placing.maxInstances(plan) + (wake ? wake.most * wake.each : 0));
    placing.writeInstances(plan, timeS, values, into);
    wake?.appendTo(timeS, values, into);
    row.push(into.count, ...into.matrices.slice(0, into.count * 16), ...into.glows.slice(0, into.count * 4));
  }
  return row;
}
function reach(state: SceneState, tracks: Tracks, timeS: number): SceneState {
  state.setTracks(tracks);
  state.advanceTo(timeS);
  return state;
}

function lively(): Scene {
  const scene = sceneWith(
    object("sparks", "particles", { rate: 90, life: 1.5, cap: 400 }),
    object("boat", "box", { wakeRate: 5, wakeLife: 2 }, { wake: true, formation: "row" }),
    object("flies", "orbits", { trail: 1.5, radius: 2 }),
    object("wheel", "sphere"),
    object("hub", "group", { spin: 20 }),
  );
  scene.objects[1].parentId = "hub";
  bind(scene, "sparks", "rate", "s", { output: range(10, 160) });
  bind(scene, "sparks", "burst", "s", { output: range(3, 30) });
  bind(scene, "boat", "growth", "fan", { output: range(0.2, 3) });
  bind(scene, "boat", "wakeRate", "s", { output: range(1, 9) });
  bind(scene, "flies", "speed", "s", { output: range(-40, 200) });
  bind(scene, "flies", "radius", "s", { mode: "kick", output: range(0, -3), alternate: true });
  bind(scene, "wheel", "rotation", "fan", { mode: "rate", output: range(0, 180) });
  bind(scene, "hub", "spin", "s", { output: range(-30, 90) });
  return scene;
}

describe("what has a memory", () => {
  it("is the same after 20 s at 30, 60 and 144 frames a second, after seeks, and when it begins there", () => {
    const at = 20;
    const states = [30, 60, 144].map((hz) => {
      const state = new SceneState(lively());
      for (let frame = 0; frame < at * hz; frame++) reach(state, TRACKS, frame / hz);
      return stateOf(state, at);
    });
    const sought = new SceneState(lively());
    for (const timeS of [3, 17.5, 0.2, 23, 20.01, 4]) stateOf(sought, timeS);
    states.push(stateOf(sought, at), stateOf(new SceneState(lively()), at));
    expect(states[0].length).toBeGreaterThan(2000);
    for (const state of states) expect(state).toEqual(states[0]);
  });

  it("keeps its sums when an edit leaves their inputs alone, and sums again when it does not", () => {
    const tracks = new Map(
      [...TRACKS].map(([id, track]) => [id, { ...track, values: track.values.slice() }]),
    );
    const original = lively();
    const begun = () => reach(new SceneState(original), tracks, 20);
    const edited = (change: (scene: Scene) => void, before?: SceneState) => {
      const scene = produce(original, change);
      before?.update(scene);
      return [...reach(before ?? new SceneState(scene), tracks, 20).values];
    };
    const lights = (scene: Scene) => {
      scene.objects[4].rest.radius = 0.8;
      scene.bindings[2].output = range(0, 5);
    };
    const faster = (scene: Scene) => {
      scene.bindings[6].output = range(0, 90);
    };
    const spinning = (scene: Scene) => {
      scene.objects[4].rest.spin = 40;
      scene.bindings.pop();
    };
    const before = [begun(), begun(), begun(), begun()];
    for (const [i, change] of [lights, faster, spinning].entries()) {
      expect(edited(change, before[i])).toEqual(edited(change));
    }
    // The past is not looked at again where nothing in the sums has changed: another past would be noticed.
    const known = edited(lights, before[3]);
    for (const { values } of tracks.values()) values.fill(0, 0, Math.floor(values.length / 2));
    expect(edited(lights, before[3])).toEqual(known);
    expect(edited(lights)).not.toEqual(known);
    expect(edited(faster, before[3])).toEqual(edited(faster));
  });

  it("sums a rate over time as calculus does", () => {
    const scene = sceneWith(object("wheel", "sphere"));
    bind(scene, "wheel", "rotation", "s", { mode: "rate", axes: ["y"], output: range(0, 10) });
    const values = Float32Array.from({ length: 1000 }, (_, i) => i / 1000);
    const state = reach(new SceneState(scene), new Map([["s", { width: 1, values }]]), 8);
    // ∫ 10 · t / 10 dt over 8 s = 32°; steps of 1/120 s are within a hundredth of the last one.
    expect(state.valueOf("wheel", "rotation", 1)).toBeCloseTo(32, 1);
  });

  it("starts a sum of degrees again after a whole turn instead of running into a limit", () => {
    const scene = sceneWith(object("wheel", "sphere"));
    bind(scene, "wheel", "rotation", "one", { mode: "rate", axes: ["z"], output: range(0, 720) });
    const state = reach(
      new SceneState(scene),
      new Map([["one", { width: 1, values: Float32Array.of(1) }]]),
      60.125,
    );
    expect(state.valueOf("wheel", "rotation", 2)).toBeCloseTo(90, 4);
  });

  it("kicks at each cue and dies away, to one side or to and fro", () => {
    const cues = [
      { timeS: 1, strength: 1 },
      { timeS: 2, strength: 0.5 },
    ];
    const track = new Map([["s", { width: 1, values: new Float32Array(400), cues }]]);
    const radius = (timeS: number, alternate: boolean) => {
      const scene = sceneWith(object("ball", "sphere", { radius: 1 }));
      bind(scene, "ball", "radius", "s", { mode: "kick", output: range(0, 0.8), decayMs: 100, alternate });
      return reach(new SceneState(scene), track, timeS).valueOf("ball", "radius");
    };
    expect(radius(0.999, false)).toBe(1);
    expect(radius(1, false)).toBeCloseTo(1.8, 6);
    expect(radius(1.1, false)).toBeCloseTo(1 + 0.8 / Math.E, 6);
    expect(radius(2.05, false)).toBeCloseTo(1 + 0.4 * Math.exp(-0.5) + 0.8 * Math.exp(-10.5), 6);
    expect(radius(2.05, true)).toBeCloseTo(1 - 0.4 * Math.exp(-0.5) + 0.8 * Math.exp(-10.5), 6);
  });

  it("throws as many particles as the rate says, keeps to the cap, and as many as a burst says", () => {
    const scene = sceneWith(object("sparks", "particles", { rate: 50, life: 2, cap: 5000 }));
    const state = new SceneState(scene);
    stateOf(state, 20);
    const sparks = state.simulation.get("particles", "sparks")!;
    const count = () => sparks.forEachAlive(20, () => {});
    // Lives are 75 to 100 % of two seconds.
    expect(count()).toBeGreaterThan(50 * 2 * 0.875 * 0.8);
    expect(count()).toBeLessThan(50 * 2 * 0.875 * 1.2);
    const capped = new SceneState(sceneWith(object("sparks", "particles", { rate: 500, life: 5, cap: 60 })));
    stateOf(capped, 10);
    expect(capped.simulation.get("particles", "sparks")!.forEachAlive(10, () => {})).toBe(60);
    const bursting = sceneWith(object("sparks", "particles", { rate: 0, life: 10, cap: 5000 }));
    bind(bursting, "sparks", "burst", "s", { output: range(12, 12) });
    const burst = new SceneState(bursting);
    stateOf(burst, 1.5);
    // Cues at 0.35 and 1.05 s.
    expect(burst.simulation.get("particles", "sparks")!.born).toBe(24);
  });

  it("leaves a wake at its rate, as things were, moved by as much as they are old", () => {
    const scene = sceneWith(
      object(
        "boat",
        "sphere",
        { wakeRate: 2, wakeLife: 4, wakeDrift: [0, 0, -3], wakeFade: 0.5 },
        { wake: true },
      ),
    );
    bind(scene, "boat", "position", "ramp", { axes: ["x"], output: range(0, 10) });
    const tracks = new Map([
      ["ramp", { width: 1, values: Float32Array.from({ length: 1001 }, (_, i) => i / 1000) }],
    ]);
    const timeS = 6.1;
    const state = reach(new SceneState(scene), tracks, timeS);
    const wake = state.simulation.get("wake", "boat")!;
    const into = newInstances(64);
    expect(wake.appendTo(timeS, state.values, into)).toBe(8);
    for (let i = 0; i < into.count; i++) {
      const [x, z] = [into.matrices[i * 16 + 12], into.matrices[i * 16 + 14]];
      const ageS = -z / 3;
      // The boat goes 1 m a second to the right: where it was left tells when.
      expect(x).toBeCloseTo(timeS - ageS, 1);
      expect(into.glows[i * 4 + 3]).toBeCloseTo(1 - 0.5 * (ageS / 4), 4);
    }
  });
});

describe("copies of a formation", () => {
  const each = (change: Partial<Binding>, settings = {}, rest: Record<string, RestValue> = {}, timeS = 0) => {
    const scene = sceneWith(object("bars", "box", { copies: 4, ...rest }, { formation: "row", ...settings }));
    bind(scene, "bars", "growth", "fan", { output: range(0, 1), ...change });
    const fan = { width: 4, values: Float32Array.of(0, 0.2, 0.4, 0.8, 1, 1, 1, 1) };
    const state = reach(new SceneState(scene), new Map([["fan", fan]]), timeS);
    const slot = state.plan.slot("bars", "growth")!;
    return slot.each ? [...slot.each].map((one) => Math.round(one * 1000) / 1000) : state.values[slot.offset];
  };

  it("each have a fan's number as it is dealt to them, or all the mean", () => {
    expect(each({})).toEqual([0, 0.2, 0.4, 0.8]);
    expect(each({ deal: { kind: "reversed", seed: 1 } })).toEqual([0.8, 0.4, 0.2, 0]);
    expect(each({ deal: { kind: "one", seed: 1 } })).toBeCloseTo(0.35, 6);
    expect(each({ curve: { kind: "power", power: 2 } })).toEqual([0, 0.04, 0.16, 0.64]);
  });

  it("hear a strand later one after the other, in milliseconds or beats", () => {
    expect(each({ deal: { kind: "one", seed: 1 } }, {}, { copyDelay: 5 }, 0.01)).toEqual([
      1, 0.675, 0.35, 0.35,
    ]);
    // 120 beats a minute, where there is no clock: 0.01 beats are 5 ms.
    const beats = each(
      { deal: { kind: "one", seed: 1 } },
      { delayIn: "beats" },
      { copyDelayBeats: 0.01 },
      0.01,
    );
    expect(beats).toEqual([1, 0.675, 0.35, 0.35]);
  });

  it("hear a live strand later as well, as far back as it is remembered", () => {
    const track = liveTrack(1);
    for (let i = 0; i < 100; i++) addFrames(track, Float32Array.of(i / 100), i / 100);
    // Now is at 12 s on the tape, and at 0.99 s of its own time.
    track.positionS = (timeS) => 0.99 + timeS - 12;
    const scene = sceneWith(object("row", "box", { copies: 4, copyDelay: 200 }, { formation: "row" }));
    bind(scene, "row", "growth", "s", { output: range(0, 1) });
    const state = reach(new SceneState(scene), new Map([["s", track]]), 12);
    const numbers = [...state.plan.slot("row", "growth")!.each!.slice(0, 4)];
    expect(numbers.map((one) => Number(one.toFixed(4)))).toEqual([0.99, 0.79, 0.59, 0.39]);
  });

  it("differ by chance in value, size and place as far as they are told to, the same each time", () => {
    const varied = each({ input: { low: -1, high: 2 } }, {}, { valueSpread: 0.5 }) as number[];
    expect(varied).toEqual(each({ input: { low: -1, high: 2 } }, {}, { valueSpread: 0.5 }));
    [0, 0.2, 0.4, 0.8].forEach((plain, i) => {
      expect(Math.abs(varied[i] * 3 - 1 - plain)).toBeLessThanOrEqual(0.501);
    });
    expect(new Set(varied.map((one, i) => (one * 3 - 1 - [0, 0.2, 0.4, 0.8][i]).toFixed(3))).size).toBe(4);
  });

  it("stand in a group's copies too, and grow from the point they stand on", () => {
    const scene = sceneWith(
      object(
        "pair",
        "group",
        { copies: 2, spacing: 10, position: [0, 5, 0] },
        { formation: "row", facing: "same" },
      ),
      object(
        "post",
        "box",
        { size: [1, 2, 1], growth: 3, copies: 3, spacing: 1 },
        { formation: "row", facing: "same" },
      ),
    );
    scene.objects[1].parentId = "pair";
    const state = reach(new SceneState(scene), new Map(), 0);
    const post = state.plan.of("post")!;
    const into = newInstances(state.placing.maxInstances(post));
    expect(state.placing.writeInstances(post, 0, state.values, into)).toBe(6);
    const places = Array.from({ length: 6 }, (_, i) => [...into.matrices.slice(i * 16 + 12, i * 16 + 15)]);
    expect(places.map(([x]) => x)).toEqual([-6, -5, -4, 4, 5, 6]);
    // Standing on its base at 5 m, 2 m high and grown threefold: its middle is at 8 m.
    expect(places.every(([, y]) => Math.abs(y - 8) < 1e-5)).toBe(true);
  });
});
