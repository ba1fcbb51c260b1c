import { beforeAll, describe, expect, it } from "@jest/globals";
import { newAction, newAnswer, newCueSource } from "../../action/answer";
import type { Scene, StageObject } from "../../document/scene";
import { newStrand } from "../../document/strands/newStrand";
import { Take } from "../../document/take/take";
import { newBinding, newObject, newScene } from "../../kinds/create";
import type { Track } from "../../strand/track";
import { newInstances } from "../placing";
import { SceneState } from "../sceneState";
import { loadPartsFor } from "./laterParts";

beforeAll(() => loadPartsFor(stage(solid("crate", "box", [0, 0, 0]))));

function stage(...objects: StageObject[]): Scene {
  const scene = newScene("Yard");
  scene.objects.push(newObject("floor", "ground", "Floor"), ...objects);
  return scene;
}

function solid(id: string, kind: "box" | "sphere", position: [number, number, number], more: object = {}) {
  const object = newObject(id, kind, id);
  object.settings = { solid: "moving", anchor: "centre" };
  object.rest = { position, size: [1, 1, 1], radius: 0.5, ...more } as StageObject["rest"];
  for (const key of Object.keys(object.rest)) {
    if (kind === "box" && key === "radius") delete object.rest[key];
    if (kind === "sphere" && key === "size") delete object.rest[key];
  }
  return object;
}

const pulse = (perSecond: number, seconds: number): Track => ({
  width: 1,
  values: Float32Array.from(
    { length: seconds * 100 },
    (_none, i) => 0.5 + 0.5 * Math.sin((i / 100) * perSecond * 6.28),
  ),
  cues: Array.from({ length: Math.floor(seconds * perSecond) }, (_none, i) => ({
    timeS: (i + 0.5) / perSecond,
    strength: 1,
  })),
});

/** Places and turns of every copy of an object as they are drawn. */
function drawn(state: SceneState, id: string): number[] {
  const plan = state.plan.of(id)!;
  const instances = newInstances(state.placing.maxInstances(plan));
  const count = state.placing.writeInstances(plan, state.timeS, state.values, instances);
  return [...instances.matrices.subarray(0, count * 16)];
}
const heightOf = (state: SceneState, id: string) => drawn(state, id)[13];

function played(scene: Scene, timeS: number, take?: Take): SceneState {
  const state = new SceneState(scene);
  if (take) state.setTake(take);
  state.advanceTo(timeS);
  return state;
}

describe("bodies", () => {
  it("fall as far as gravity says", () => {
    const ball = solid("ball", "sphere", [0, 50, 0], { damping: 0 });
    const at = (timeS: number) => heightOf(played(stage(ball), timeS), "ball");
    // The solver halves each step and changes speed first: g·dt²·n(n+1)/2, against g·t²/2 of the textbook.
    const n = 240;
    expect(50 - at(1)).toBeCloseTo((9.81 / n ** 2) * ((n * (n + 1)) / 2), 3);
    expect(Math.abs(50 - at(1) - 9.81 / 2)).toBeLessThan(0.06);
    expect(at(0)).toBe(50);
  });

  it("come to rest on the floor, and bounce as high as they are said to", () => {
    const scene = stage(
      solid("stone", "box", [0, 3, 0], { bounce: 0 }),
      solid("ball", "sphere", [5, 4.5, 0], { bounce: 0.8, damping: 0 }),
    );
    scene.objects.find(({ id }) => id === "floor")!.rest.bounce = 0;
    const state = new SceneState(scene);
    let highest = 0;
    let hasBounced = false;
    let before = 99;
    for (let step = 0; step <= 240; step++) {
      state.advanceTo(step / 120);
      const height = heightOf(state, "ball");
      hasBounced ||= height > before;
      if (hasBounced) highest = Math.max(highest, height);
      before = height;
    }
    // It fell 4 m; the greater bounce of the two counts, and height goes with the square of speed.
    expect(highest - 0.5).toBeGreaterThan(4 * 0.8 ** 2 * 0.9);
    expect(highest - 0.5).toBeLessThan(4 * 0.8 ** 2 * 1.1);
    state.advanceTo(5);
    expect(heightOf(state, "stone")).toBeCloseTo(0.5, 1);
  });

  it("obey a stage without gravity, and pushes that are bound to a strand", () => {
    const still = solid("still", "box", [0, 3, 0]);
    const pushed = solid("pushed", "box", [3, 3, 0], { damping: 0 });
    const scene = stage(still, pushed);
    scene.objects.find(({ kind }) => kind === "world")!.rest.gravity = [0, 0, 0];
    scene.strands.push(newStrand(scene, "lift", "Lift", { kind: "nothing" }));
    scene.bindings.push({
      ...newBinding("b", "lift", pushed, "push"),
      axes: ["x"],
      input: { low: 0, high: 1 },
      output: { kind: "range", low: 0, high: 2 },
    });
    const state = new SceneState(scene);
    state.setTracks(new Map([["lift", { width: 1, values: Float32Array.of(1) }]]));
    state.advanceTo(2);
    expect(heightOf(state, "still")).toBeCloseTo(3, 4);
    // x = a·t²/2
    expect(drawn(state, "pushed")[12] - 3).toBeCloseTo(4, 1);
  });

  it("jump as high as they are told, whatever they weigh and however they are damped", () => {
    for (const [mass, damping, heightM] of [
      [0.2, 0, 1.5],
      [40, 0, 1.5],
      [5, 0, 0.1],
      [5, 0.05, 4],
      [5, 2, 0.5],
    ]) {
      const crate = solid("crate", "box", [0, 0.5, 0], { mass, damping, bounce: 0 });
      const scene = stage(crate);
      scene.objects.find(({ id }) => id === "floor")!.rest.bounce = 0;
      scene.answers.push(
        newAnswer("a", "Jump", newCueSource("key", { key: "j" }), [
          newAction("jump", { objectId: "crate", heightM }),
        ]),
      );
      const take = new Take();
      take.record({ kind: "key", step: 60, key: "J" });
      const state = new SceneState(scene);
      state.setTake(take);
      state.advanceTo(0.49);
      const stands = heightOf(state, "crate");
      let highest = 0;
      for (let step = 60; step < 240; step++) {
        state.advanceTo(step / 120);
        highest = Math.max(highest, heightOf(state, "crate") - stands);
      }
      // The highest point may lie between two steps.
      expect(Math.abs(highest - heightM)).toBeLessThan(0.0015);
    }
  });

  it("slide down a slope as friction lets them", () => {
    /** Way along a floor on which gravity pulls at an angle, after a second. */
    const slid = (friction: number, degrees: number) => {
      const crate = solid("crate", "box", [0, 0.5, 0], { friction, damping: 0, bounce: 0, turnDamping: 20 });
      const scene = stage(crate);
      Object.assign(scene.objects.find(({ id }) => id === "floor")!.rest, { friction, bounce: 0 });
      const [sine, cosine] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
      const world = scene.objects.find(({ kind }) => kind === "world")!;
      world.rest.gravity = [9.81 * sine, -9.81 * cosine, 0];
      return drawn(played(scene, 1), "crate")[12];
    };
    // a = g (sin − µ cos); below µ = tan it stays.
    expect(slid(0.8, 20)).toBeLessThan(0.02);
    const [sine, cosine] = [Math.sin(Math.PI / 9), Math.cos(Math.PI / 9)];
    expect(slid(0, 20)).toBeCloseTo((9.81 * sine) / 2, 1);
    expect(Math.abs(slid(0.2, 20) - (9.81 * (sine - 0.2 * cosine)) / 2)).toBeLessThan(0.15);
  });

  it("lose their speed by damping", () => {
    const buoy = solid("buoy", "sphere", [0, 5, 0], { damping: 2 });
    const scene = stage(buoy);
    scene.objects.find(({ kind }) => kind === "world")!.rest.gravity = [0, 0, 0];
    scene.answers.push(
      newAnswer("a", "Knock", newCueSource("key", { key: "k" }), [
        newAction("push", { objectId: "buoy", velocity: [3, 0, 0] }),
      ]),
    );
    const take = new Take();
    take.record({ kind: "key", step: 1, key: "K" });
    // x = v / d · (1 − e^−dt)
    for (const timeS of [0.5, 1, 3])
      expect(
        Math.abs(drawn(played(scene, timeS, take), "buoy")[12] - 1.5 * (1 - Math.exp(-2 * timeS))),
      ).toBeLessThan(0.03);
  });

  it("have the shape that they are told to have, hulls of models among them", () => {
    /** Height at which something of 1 × 1 × 1 m comes to rest on its lowest point. */
    const rests = (solidShape: string, hull?: number[]) => {
      const thing = solid("thing", "box", [0, 1.2, 0], { bounce: 0, turnDamping: 50 });
      Object.assign(thing.settings, { solidShape });
      const scene = stage(thing);
      scene.objects.find(({ id }) => id === "floor")!.rest.bounce = 0;
      const state = new SceneState(scene);
      if (hull) state.setHulls(new Map([["thing", Float32Array.from(hull)]]));
      state.advanceTo(3);
      return heightOf(state, "thing");
    };
    expect(rests("own")).toBeCloseTo(0.5, 1);
    expect(rests("ball")).toBeCloseTo(0.5, 1);
    // A flat hull whose lower side is a fifth below its middle.
    const flat = [-0.2, 0.2].flatMap((y) =>
      [-0.5, 0.5].flatMap((x) => [-0.5, 0.5].flatMap((z) => [x, y, z])),
    );
    expect(rests("hull", flat)).toBeCloseTo(0.2, 1);
    // Without the points of a model it is a box.
    expect(rests("hull")).toBeCloseTo(0.5, 1);
  });

  it("swing about their own places on a spring, and turn back upright", () => {
    const spring = (2 * Math.PI) ** 2;
    const buoy = solid("buoy", "sphere", [0, 2, 0], { damping: 0, spring });
    const sign = solid("sign", "box", [4, 2, 0], { damping: 0, turnDamping: 8, spring });
    const scene = stage(buoy, sign);
    scene.objects.find(({ kind }) => kind === "world")!.rest.gravity = [0, 0, 0];
    scene.answers.push(
      newAnswer("a", "Knock", newCueSource("key", { key: "k" }), [
        newAction("push", { objectId: "buoy", velocity: [1, 0, 0] }),
      ]),
    );
    scene.strands.push(newStrand(scene, "turn", "Turn", { kind: "nothing" }));
    scene.bindings.push({
      ...newBinding("b", "turn", sign, "rotation"),
      axes: ["y"],
      output: { kind: "range", low: 0, high: 90 },
    });
    const take = new Take();
    take.record({ kind: "key", step: 120, key: "K" });
    const state = new SceneState(scene);
    state.setTracks(new Map([["turn", { width: 1, values: Float32Array.of(1) }]]));
    state.setTake(take);
    // One swing a second: x = v / 2π · sin 2πt, from the step after the key.
    for (const [afterS, x] of [
      [0.25, 1 / (2 * Math.PI)],
      [0.5, 0],
      [0.75, -1 / (2 * Math.PI)],
      [1, 0],
    ]) {
      state.advanceTo(1 + 1 / 120 + afterS);
      expect(Math.abs(drawn(state, "buoy")[12] - x)).toBeLessThan(0.02);
    }
    // A quarter turn about the upright axis takes the x axis to −z.
    state.advanceTo(4);
    const turned = drawn(state, "sign");
    expect(turned[0]).toBeCloseTo(0, 2);
    expect(turned[2]).toBeCloseTo(-1, 2);
  });

  it("are thrown by bars that grow", () => {
    const bar = newObject("bar", "box", "Bar");
    bar.settings = { solid: "carried", anchor: "base" };
    bar.rest = { position: [0, 0, 0], size: [1, 0.5, 1] };
    const ball = solid("ball", "sphere", [0, 0.75, 0], { radius: 0.25, damping: 0 });
    const scene = stage(bar, ball);
    scene.strands.push(newStrand(scene, "hit", "Hit", { kind: "nothing" }));
    scene.bindings.push({
      ...newBinding("b", "hit", bar, "growth"),
      output: { kind: "range", low: 1, high: 4 },
    });
    const values = new Float32Array(300);
    for (let i = 0; i < 300; i++) values[i] = i < 100 ? 0 : Math.min(1, (i - 100) / 12);
    const state = new SceneState(scene);
    state.setTracks(new Map([["hit", { width: 1, values }]]));
    state.advanceTo(0.95);
    expect(heightOf(state, "ball")).toBeCloseTo(0.75, 1);
    let highest = 0;
    for (let step = 114; step < 240; step++) {
      state.advanceTo(step / 120);
      highest = Math.max(highest, heightOf(state, "ball"));
    }
    // The bar's end rises by 1.5 m in 0.12 s: 12.5 m/s, that is up to 8 m above it.
    expect(highest).toBeGreaterThan(4);
    expect(highest).toBeLessThan(12);
  });

  it("tell how hard they meet, once for each meeting", () => {
    const hits = (mass: number, height: number) => {
      const scene = stage(solid("stone", "box", [0, height, 0], { mass, bounce: 0 }));
      scene.objects.find(({ id }) => id === "floor")!.rest.bounce = 0;
      scene.answers.push(
        newAnswer(
          "a",
          "Thud",
          newCueSource("meet", { objectId: "stone", otherId: "floor", impulse: 0.1 }),
          [],
        ),
      );
      return [...played(scene, 3).simulation.answering!.history];
    };
    const [light] = hits(0.5, 2);
    expect(hits(0.5, 2)).toHaveLength(1);
    // It falls 1.5 m: √(2·9.81·1.5) = 5.42 m/s, 2.7 N·s of 5 for a full strike.
    expect(light.strength).toBeGreaterThan(0.35);
    expect(light.strength).toBeLessThan(0.75);
    expect(Math.abs(light.timeS - Math.sqrt((2 * 1.5) / 9.81))).toBeLessThan(0.05);
    expect(hits(0.5, 6)[0].strength).toBeGreaterThan(light.strength);
  });
});

describe("the same numbers and the same take", () => {
  /** A pile that a strand shakes, a row of bars, and answers that push and put copies there. */
  function busy(): { scene: Scene; tracks: Map<string, Track>; take: Take } {
    const pile = solid("pile", "box", [0, 2, 0], {
      size: [0.4, 0.4, 0.4],
      copies: 40,
      spacing: 0.45,
      bounce: 0.2,
    });
    pile.settings = { ...pile.settings, formation: "grid" };
    const bars = newObject("bars", "box", "Bars");
    bars.settings = { solid: "carried", formation: "row", anchor: "base" };
    bars.rest = { position: [0, 0, 0], size: [0.4, 0.4, 3], copies: 6, spacing: 0.5 };
    const spark = solid("spark", "sphere", [0, 4, 0], { radius: 0.1, copies: 5 });
    spark.settings = { solid: "moving", formation: "cues", copyLife: 1.5 };
    const scene = stage(pile, bars, spark);
    scene.strands.push(newStrand(scene, "beat", "Beat", { kind: "nothing" }));
    scene.strands[0].cues.on = true;
    scene.bindings.push(
      { ...newBinding("b1", "beat", bars, "growth"), output: { kind: "range", low: 1, high: 5 } },
      { ...newBinding("b2", "beat", pile, "push"), output: { kind: "range", low: 0, high: 6 } },
    );
    scene.answers.push(
      newAnswer("jump", "Jump", newCueSource("strand", { strandId: "beat" }), [
        newAction("jump", { objectId: "pile", heightM: 0.3 }),
      ]),
      newAnswer("put", "Put", newCueSource("tap"), [
        newAction("copy", { objectId: "spark", where: "there", velocity: [0, 2, 0] }),
      ]),
    );
    const take = new Take();
    for (let i = 0; i < 8; i++) {
      const hit = { objectId: null, copy: 0, by: "pointer" } as const;
      take.record({
        kind: "tap",
        step: 30 + i * 55,
        ...hit,
        point: [i / 10, 3, 0],
        from: [0, 0, 0],
        way: [0, 0, -1],
      });
    }
    return { scene, tracks: new Map([["beat", pulse(2, 8)]]), take };
  }
  function begun(): SceneState {
    const { scene, tracks, take } = busy();
    const state = new SceneState(scene);
    state.setTracks(tracks);
    state.setTake(take);
    return state;
  }
  const all = (state: SceneState) => [
    ...drawn(state, "pile"),
    ...drawn(state, "spark"),
    ...drawn(state, "bars"),
  ];
  const atFrames = (rate: number): number[] => {
    const state = begun();
    for (let frame = 0; frame <= 4 * rate; frame++) state.advanceTo(frame / rate);
    return all(state);
  };

  it("give the same positions to the bit at 30, 60 and 144 frames a second", () => {
    const expected = atFrames(60);
    expect(expected.some((one) => Math.abs(one) > 0.1)).toBe(true);
    expect(atFrames(30)).toEqual(expected);
    expect(atFrames(144)).toEqual(expected);
  });

  it("give the same positions to the bit after seeks, in any order", () => {
    const state = begun();
    const known = new Map<number, number[]>();
    for (let frame = 0; frame <= 240; frame++) {
      state.advanceTo(frame / 60);
      if (frame % 16 === 5) known.set(frame, all(state));
    }
    const order = [...known.keys()].sort((a, b) => ((a * 7919) % 241) - ((b * 7919) % 241));
    for (const frame of order) {
      state.advanceTo(frame / 60);
      expect(all(state)).toEqual(known.get(frame));
    }
    const fresh = begun();
    fresh.advanceTo(order[0] / 60);
    expect(all(fresh)).toEqual(known.get(order[0]));
  });

  it("stop in time when they are told to, and are then as they would have been", () => {
    const state = begun();
    let asked = 0;
    state.simulation.mayGoOn = () => ++asked % 40 !== 0;
    state.advanceTo(3);
    expect(state.simulation.behindS).toBeGreaterThan(2);
    for (let i = 0; i < 30 && state.simulation.behindS > 0; i++) {
      state.invalidate();
      state.advanceTo(3);
    }
    expect(state.simulation.behindS).toBe(0);
    const whole = begun();
    whole.advanceTo(3);
    expect(all(state)).toEqual(all(whole));
  });
});

describe("outlines", () => {
  it("are lines along the shapes of bodies, where they are", () => {
    const scene = stage(solid("crate", "box", [3, 2, 0], { solid: "moving" }));
    scene.objects.find(({ kind }) => kind === "world")!.rest.gravity = [0, 0, 0];
    const state = played(scene, 0.1);
    const ends = state.simulation.answering!.bodies!.outlines();
    expect(ends.length % 6).toBe(0);
    const corners: number[][] = [];
    for (let i = 0; i < ends.length; i += 3) if (ends[i + 1] > 1) corners.push([...ends.slice(i, i + 3)]);
    const among = (k: number) => [
      Math.min(...corners.map((one) => one[k])),
      Math.max(...corners.map((one) => one[k])),
    ];
    for (const [k, middle] of [3, 2, 0].entries()) {
      expect(among(k)[0]).toBeCloseTo(middle - 0.5, 2);
      expect(among(k)[1]).toBeCloseTo(middle + 0.5, 2);
    }
  });
});
