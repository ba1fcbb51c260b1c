import { beforeAll, describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  type Action,
  type Answer,
  type CueSource,
  newAction,
  newAnswer,
  newCueSource,
  startsOf,
} from "../../action/answer";
import type { ListensTo, Scene, StageObject } from "../../document/scene";
import { newStrand } from "../../document/strands/newStrand";
import { restingPose } from "../../document/take/poses";
import { Take, type VisitorEvent } from "../../document/take/take";
import { takeFromFile, takeToFile } from "../../document/take/takeFile";
import { TAPE_UNIT } from "../../document/take/units";
import { newBinding, newObject, newScene } from "../../kinds/create";
import { newSoundBasics } from "../../sound/kinds";
import { type Track, trackValueAt } from "../../strand/track";
import { loadPartsFor } from "../bodies/laterParts";
import { SceneState } from "../sceneState";

const BELL = new Map([
  [TAPE_UNIT, { lengthS: 8, loops: false }],
  ["bell", { lengthS: 2, loops: false }],
]);

function quay(...answers: Answer[]): Scene {
  const scene = newScene("Quay");
  scene.sounds.push(
    { ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" },
    { ...newSoundBasics("bell", "Bell"), kind: "file", storedId: "s2", runs: "alone" },
  );
  scene.strands.push(newStrand(scene, "beat", "Beat", { kind: "sound", id: "song", tap: "before" }));
  scene.strands[0].cues.on = true;
  const lamp = newObject("lamp", "sphere", "Lamp");
  lamp.rest = { position: [0, 1, 0] };
  const zone = newObject("arch", "zone", "Arch");
  zone.rest = { position: [0, 1, -4], size: [2, 3, 2] };
  scene.objects.push(lamp, zone);
  scene.marks.push(
    { id: "chorus", name: "Chorus", timeS: 2, beginsSection: true },
    { id: "end", name: "End", timeS: 5, beginsSection: false },
  );
  scene.answers.push(...answers);
  return scene;
}

const answer = (cue: CueSource, ...actions: Action[]) => newAnswer("a", "Answer", cue, actions);
const emission = (change: object) =>
  newAction("glide", { objectId: "lamp", property: "emissionStrength", to: 10, easing: "even", ...change });
const onKey = newCueSource("key", { key: "k" });
const key = (step: number): VisitorEvent => ({ kind: "key", step, key: "k" });

beforeAll(() => loadPartsFor(quay(answer(onKey))));

function started(scene: Scene, ...events: VisitorEvent[]): { state: SceneState; take: Take } {
  const state = new SceneState(scene);
  const take = new Take();
  for (const event of events) take.record(event);
  state.setLengths(BELL);
  state.setTake(take);
  return { state, take };
}
const at = (state: SceneState, timeS: number, property: string, axis = 0) => {
  state.advanceTo(timeS);
  return state.valueOf("lamp", property, axis);
};
const firings = (state: SceneState, untilS: number) => {
  state.advanceTo(untilS);
  return state.simulation.answering!.history.map(({ timeS }) => timeS);
};
const close = (found: number[], wanted: number[]) => {
  expect(found).toHaveLength(wanted.length);
  wanted.forEach((one, i) => {
    expect(Math.abs(found[i] - one)).toBeLessThan(0.0085);
  });
};

/** A walk along a straight line: z from one place to another within some seconds. */
function walk(take: Take, legs: [fromS: number, toS: number, fromZ: number, toZ: number][]): void {
  for (const [fromS, toS, fromZ, toZ] of legs) {
    for (let step = Math.round(fromS * 120); step <= toS * 120; step += 4) {
      const share = (step / 120 - fromS) / (toS - fromS);
      take.poses.head.record(step, { ...restingPose(), y: 1.6, z: fromZ + (toZ - fromZ) * share });
    }
  }
}

describe("cues", () => {
  it("come from taps on an object, on a member of a group, or anywhere", () => {
    const scene = quay(answer(newCueSource("tap", { objectId: "lamps" })), {
      ...answer(newCueSource("tap")),
      id: "any",
    });
    scene.objects.push(newObject("lamps", "group", "Lamps"));
    scene.objects.find(({ id }) => id === "lamp")!.parentId = "lamps";
    const hit = { by: "pointer", copy: 0, point: [0, 1, 0], from: [0, 0, 0], way: [0, 0, -1] } as const;
    const { state } = started(
      scene,
      { kind: "tap", step: 12, objectId: "lamp", ...hit, point: [0, 1, 0] },
      { kind: "tap", step: 24, objectId: null, ...hit, point: [0, 1, 0] },
    );
    state.advanceTo(1);
    const { history } = state.simulation.answering!;
    expect(history.map(({ answerId, timeS }) => [answerId, Math.round(timeS * 120)])).toEqual([
      ["a", 12],
      ["any", 12],
      ["any", 24],
    ]);
  });

  it("come from a press once it has been held for long enough", () => {
    const hit = { by: "pointer", copy: 0, point: [0, 1, 0], objectId: "lamp" } as const;
    const holds = [100, 200, 300, 400, 500].map(
      (heldMs): VisitorEvent => ({
        kind: "hold",
        step: 12 + (heldMs * 12) / 100,
        heldMs,
        ...hit,
        point: [0, 1, 0],
      }),
    );
    const { state } = started(
      quay(answer(newCueSource("press", { objectId: "lamp", holdMs: 250 }))),
      ...holds,
    );
    close(firings(state, 1), [0.4]);
  });

  it("come from strands at the time of the hit, and again where a sound loops", () => {
    const { state } = started(quay(answer(newCueSource("strand", { strandId: "beat" }))));
    const track: Track = {
      width: 1,
      values: new Float32Array(100),
      loopS: 1,
      cues: [
        { timeS: 0.25, strength: 0.4 },
        { timeS: 0.75, strength: 1 },
      ],
    };
    state.setTracks(new Map([["beat", track]]));
    state.advanceTo(2.1);
    const { history } = state.simulation.answering!;
    expect(history.map(({ timeS }) => Number(timeS.toFixed(6)))).toEqual([0.25, 0.75, 1.25, 1.75]);
    expect(history.map(({ strength }) => strength)).toEqual([0.4, 1, 0.4, 1]);
  });

  it("come from marks and sections as the tape plays past them, and not from a tape that is moved", () => {
    const scene = quay(answer(newCueSource("mark", { markId: "end" })), {
      ...answer(newCueSource("section")),
      id: "section",
    });
    const { state, take } = started(scene);
    take.isRun = true;
    const tape = { kind: "unit", unitId: TAPE_UNIT, running: true, lengthS: 8, loops: false } as const;
    take.units.record({ ...tape, timeS: 0, positionS: 1 });
    take.units.record({ ...tape, timeS: 1.5, positionS: 4.9 });
    state.advanceTo(3);
    const { history } = state.simulation.answering!;
    expect(history.map(({ answerId }) => answerId)).toEqual(["section", "a"]);
    close(
      history.map(({ timeS }) => timeS),
      [1, 1.6],
    );
  });

  it("come from zones that are entered and left, and from coming near", () => {
    const scene = quay(
      answer(newCueSource("enter", { zoneId: "arch" })),
      { ...answer(newCueSource("leave", { zoneId: "arch" })), id: "leave" },
      { ...answer(newCueSource("near", { objectId: "lamp", distanceM: 2 })), id: "near" },
    );
    const { state, take } = started(scene);
    // 5 m to −6 m in 11 s: a metre a second.
    walk(take, [[0, 11, 5, -6]]);
    state.advanceTo(12);
    const { history } = state.simulation.answering!;
    expect(history.map(({ answerId }) => answerId)).toEqual(["near", "a", "leave"]);
    // The lamp hangs at 1 m: within reach of somebody who stands there. The zone begins at −3 and ends at −5.
    const wanted = [3, 8, 10];
    history.forEach(({ timeS }, i) => {
      expect(Math.abs(timeS - wanted[i])).toBeLessThan(0.06);
    });
  });

  it("come from hands that touch, as strong as they strike", () => {
    const { state, take } = started(quay(answer(newCueSource("touch", { objectId: "lamp" }))));
    const strike = (fromStep: number, speed: number) => {
      for (let step = 0; step <= 60; step += 2) {
        take.poses.right.record(fromStep + step, { ...restingPose(), y: 1, z: 2 - (speed * step) / 120 });
      }
      take.poses.right.record(fromStep + 62, { ...restingPose(), y: 1, z: 2 });
    };
    strike(12, 4);
    strike(240, 3);
    state.advanceTo(4);
    const { history } = state.simulation.answering!;
    expect(history.map(({ strength }) => strength)).toEqual([1, 1]);
    const slow = started(quay(answer(newCueSource("touch", { objectId: "lamp" }))));
    for (let step = 0; step <= 240; step += 2) {
      slow.take.poses.left.record(step, { ...restingPose(), y: 1, z: 1 - (0.5 * step) / 120 });
    }
    slow.state.advanceTo(3);
    const [touch] = slow.state.simulation.answering!.history;
    expect(touch.strength).toBeCloseTo(0.5 / 2.5, 1);
    // The lamp is a ball of half a metre about 1 m; the hand reaches 7 cm further.
    expect(touch.timeS).toBeCloseTo((1 - 0.57) / 0.5, 1);
  });

  it("come from a sound that starts, that ends, and from the start of the scene", () => {
    const scene = quay(
      answer(newCueSource("start"), newAction("play", { soundId: "bell", from: "start", delayMs: 500 })),
      { ...answer(newCueSource("soundStarts", { soundId: "bell" })), id: "starts" },
      { ...answer(newCueSource("soundEnds", { soundId: "bell" })), id: "ends" },
      { ...answer(newCueSource("soundEnds")), id: "tape" },
    );
    const { state } = started(scene);
    state.advanceTo(9);
    const { history } = state.simulation.answering!;
    expect(history.map(({ answerId }) => answerId)).toEqual(["a", "starts", "ends", "tape"]);
    close(
      history.map(({ timeS }) => timeS),
      [0, 0.5, 2.5, 8],
    );
  });
});

describe("what holds answers back", () => {
  const counted = (only: object, ...steps: number[]) => {
    const held = answer(onKey);
    Object.assign(held.only, only);
    const { state } = started(quay(held), ...steps.map(key));
    return firings(state, 6);
  };

  it("is time and number", () => {
    close(counted({ gapMs: 200 }, 12, 24, 36, 48), [0.1, 0.3]);
    close(counted({ times: 2 }, 12, 24, 36), [0.1, 0.2]);
  });

  it("is chance, the same for the same seed", () => {
    const steps = Array.from({ length: 400 }, (_none, i) => i + 1);
    const some = counted({ chance: 0.3 }, ...steps);
    expect(some.length).toBeGreaterThan(80);
    expect(some.length).toBeLessThan(160);
    expect(counted({ chance: 0.3 }, ...steps)).toEqual(some);
    expect(counted({ chance: 0.3, seed: 2 }, ...steps)).not.toEqual(some);
    expect(counted({ chance: 0 }, ...steps)).toEqual([]);
  });

  it("reads whether a sound plays, whether an object is visible and how high a number is", () => {
    expect(counted({ whilePlayingId: "bell" }, 12)).toEqual([]);
    expect(counted({ whilePlayingId: "song" }, 12)).toHaveLength(1);
    const held = answer(onKey);
    held.only.whileAboveId = "beat";
    const scene = quay(held);
    const values = Float32Array.from({ length: 300 }, (_none, i) => (i < 100 ? 0.2 : 0.8));
    const { state } = started(scene, key(60), key(180));
    state.setTracks(new Map([["beat", { width: 1, values }]]));
    close(firings(state, 2), [1.5]);
    const seen = answer(onKey);
    seen.only.whileVisibleId = "lamp";
    const hidden = quay(seen);
    hidden.objects.find(({ id }) => id === "lamp")!.rest.visibility = 0;
    expect(firings(started(hidden, key(12)).state, 1)).toEqual([]);
  });
});

describe("actions", () => {
  it("glide a property to a value and back, and bindings move it from there", () => {
    const scene = quay(answer(onKey, emission({ overMs: 1000, back: true, holdMs: 500, backMs: 1000 })));
    const { state } = started(scene, key(60));
    const seen = [0.4, 1, 1.5, 1.9, 2.5, 3.2].map((timeS) => at(state, timeS, "emissionStrength"));
    for (const [i, wanted] of [0, 5, 10, 10, 5, 0].entries()) expect(seen[i]).toBeCloseTo(wanted, 6);
    scene.bindings.push({
      ...newBinding("b", "beat", scene.objects.find(({ id }) => id === "lamp")!, "emissionStrength"),
      mode: "add",
      output: { kind: "range", low: 0, high: 3 },
    });
    const bound = started(scene, key(60));
    bound.state.setTracks(new Map([["beat", { width: 1, values: Float32Array.of(1) }]]));
    expect(at(bound.state, 1, "emissionStrength")).toBeCloseTo(8, 6);
  });

  it("come in order, each after its delay", () => {
    const { state } = started(
      quay(answer(onKey, emission({ to: 4, overMs: 0 }), emission({ to: 7, overMs: 0, delayMs: 500 }))),
      key(60),
    );
    expect([0.45, 0.55, 0.95, 1.05].map((timeS) => at(state, timeS, "emissionStrength"))).toEqual([
      0, 4, 4, 7,
    ]);
  });

  it("show and hide: from then on, for a time, by turns, for as long as a sound plays", () => {
    const seen = (change: object, times: number[], ...before: Action[]) => {
      const show = newAction("show", { objectId: "lamp", ...change });
      const { state } = started(quay(answer(onKey, ...before, show)), key(12), key(240));
      return times.map((timeS) => at(state, timeS, "visibility"));
    };
    expect(seen({ does: "hide" }, [0.05, 0.2, 3])).toEqual([1, 0, 0]);
    expect(seen({ does: "hide", lasts: "time", forMs: 500 }, [0.3, 0.7, 2.2])).toEqual([0, 1, 0]);
    expect(seen({ does: "turns" }, [0.2, 1.9, 2.2])).toEqual([0, 0, 1]);
    const play = newAction("play", { soundId: "bell", from: "start" });
    expect(seen({ does: "hide", lasts: "sound", whileId: "bell" }, [0.2, 1.9, 3.9, 4.1], play)).toEqual([
      0, 0, 0, 1,
    ]);
  });

  it("step through colours, things and viewpoints", () => {
    const views = [1, 2].map((n): StageObject => {
      const view = newObject(`v${n}`, "viewpoint", `View ${n}`);
      view.rest = { position: [n, n, n], target: [0, 0, 0], fieldOfView: 30 + n };
      return view;
    });
    const scene = quay(
      answer(
        onKey,
        newAction("stepColours", {
          objectId: "lamp",
          property: "colour",
          overMs: 0,
          stops: [
            { at: 1, colour: "#00ff00" },
            { at: 0, colour: "#ff0000" },
          ],
        }),
        newAction("stepThings", { objectIds: ["lamp", "other"] }),
        newAction("stepViews", { viewIds: ["v1", "v2"], overMs: 0 }),
      ),
    );
    scene.objects.push(newObject("other", "box", "Other"), ...views);
    const { state } = started(scene, key(12), key(24), key(36));
    const now = (timeS: number) => {
      state.advanceTo(timeS);
      return [
        state.valueOf("lamp", "colour", 0),
        state.valueOf("lamp", "visibility"),
        state.valueOf("other", "visibility"),
        state.valueOf("camera", "position", 1),
        state.valueOf("camera", "fieldOfView"),
      ];
    };
    expect(now(0.15)).toEqual([1, 1, 0, 1, 31]);
    expect(now(0.25)).toEqual([0, 0, 1, 2, 32]);
    expect(now(0.35)).toEqual([1, 1, 0, 1, 31]);
  });

  it("kick a property as hard as the cue is strong", () => {
    const kick = newAction("kick", {
      objectId: "lamp",
      property: "emissionStrength",
      amount: 4,
      decayMs: 200,
    });
    const { state } = started(quay(answer(onKey, kick)), key(60), key(84));
    expect(at(state, 0.5 + 1e-6, "emissionStrength")).toBeCloseTo(4, 3);
    expect(at(state, 0.6, "emissionStrength")).toBeCloseTo(4 * Math.exp(-0.5), 6);
    expect(at(state, 0.7 + 1e-6, "emissionStrength")).toBeCloseTo(4 + 4 * Math.exp(-1), 3);
    expect(at(state, 4, "emissionStrength")).toBe(0);
  });

  it("burst with particles", () => {
    const emitter = newObject("sparks", "particles", "Sparks");
    emitter.rest = { rate: 0, life: 5 };
    const scene = quay(answer(onKey, newAction("burst", { objectId: "sparks", count: 37 })));
    scene.objects.push(emitter);
    const { state } = started(scene, key(60), key(120));
    const born = (timeS: number) => {
      state.advanceTo(timeS);
      return state.simulation.get("particles", "sparks")!.born;
    };
    expect([born(0.4), born(0.6), born(1.1)]).toEqual([0, 37, 74]);
    state.advanceTo(0.2);
    expect([born(0.2), born(0.6)]).toEqual([0, 37]);
  });

  it("put copies where it happened, for their lifetime, and never more than the limit", () => {
    const spark = newObject("spark", "sphere", "Spark");
    spark.settings = { formation: "cues", copyLife: 1 };
    spark.rest = { copies: 2, position: [0, 2, 0] };
    const scene = quay(answer(newCueSource("tap"), newAction("copy", { objectId: "spark", where: "there" })));
    scene.objects.push(spark);
    const tap = (step: number, x: number): VisitorEvent => ({
      kind: "tap",
      step,
      by: "pointer",
      objectId: null,
      copy: 0,
      point: [x, 3, 1],
      from: [0, 0, 0],
      way: [0, 0, -1],
    });
    const { state } = started(scene, tap(12, 1), tap(24, 2), tap(36, 3));
    const there = (timeS: number) => {
      state.advanceTo(timeS);
      const copies = state.plan.of("spark")!.copies!;
      return Array.from({ length: copies.count }, (_none, i) =>
        copies.sizes[i * 3] > 0 ? [...copies.places.subarray(i * 3, i * 3 + 3)] : null,
      );
    };
    expect(there(0)).toEqual([null, null]);
    expect(there(0.15)).toEqual([[1, 1, 1], null]);
    expect(there(0.25)).toEqual([
      [1, 1, 1],
      [2, 1, 1],
    ]);
    // A third takes the place of the oldest.
    expect(there(0.35)).toEqual([
      [3, 1, 1],
      [2, 1, 1],
    ]);
    expect(there(1.25)).toEqual([[3, 1, 1], null]);
    expect(there(2)).toEqual([null, null]);
    expect(there(0.25)).toEqual([
      [1, 1, 1],
      [2, 1, 1],
    ]);
  });

  it("play, pause, stop and fade sounds, and continue where they were", () => {
    const of = (keyName: string, action: Action) => ({
      ...newAnswer(keyName, keyName, newCueSource("key", { key: keyName }), [action]),
    });
    const scene = quay(
      of("p", newAction("play", { soundId: "bell" })),
      of("h", newAction("pause", { soundId: "bell" })),
      of("s", newAction("stop", { soundId: "bell" })),
      of("f", newAction("fade", { soundId: "bell", levelDb: -20, overMs: 1000, evenly: "dB" })),
    );
    const press = (timeS: number, name: string): VisitorEvent => ({
      kind: "key",
      step: Math.round(timeS * 120),
      key: name,
    });
    const { state } = started(
      scene,
      ...[press(1, "p"), press(1.5, "h"), press(3, "p"), press(3.25, "s"), press(4, "p"), press(4.1, "f")],
    );
    const where = (timeS: number) => {
      state.advanceTo(timeS);
      return [state.units!.positionS("bell", timeS), state.units!.isRunning("bell", timeS)];
    };
    expect(where(0.5)).toEqual([0, false]);
    expect(where(1.25)).toEqual([0.25, true]);
    expect(where(2)).toEqual([0.5, false]);
    expect(where(3.125)).toEqual([0.625, true]);
    expect(where(3.5)).toEqual([0, false]);
    expect(where(4.5)).toEqual([0.5, true]);
    const { answering } = state.simulation;
    state.advanceTo(4.6);
    expect(20 * Math.log10(answering!.sounds.gainOf("bell", 4.6))).toBeCloseTo(-10, 6);
    state.advanceTo(5.5);
    expect(20 * Math.log10(answering!.sounds.gainOf("bell", 5.5))).toBeCloseTo(-20, 6);
    expect(answering!.sounds.gainOf("song", 5.5)).toBe(1);
  });

  it("let the strands of a sound follow it: none before it starts, none after it stops but for their release", () => {
    const scene = quay(
      { ...answer({ ...onKey, key: "p" } as CueSource, newAction("play", { soundId: "bell" })), id: "p" },
      { ...answer({ ...onKey, key: "h" } as CueSource, newAction("pause", { soundId: "bell" })), id: "h" },
    );
    const ring = newStrand(scene, "ring", "Ring", { kind: "sound", id: "bell", tap: "before" });
    Object.assign(ring.shaping.follow, { on: true, releaseMs: 200 });
    scene.strands.push(ring);
    scene.bindings.push({
      ...newBinding("b", "ring", scene.objects.find(({ id }) => id === "lamp")!, "emissionStrength"),
      output: { kind: "range", low: 0, high: 1 },
    });
    const key = (timeS: number, name: string): VisitorEvent => ({
      kind: "key",
      step: Math.round(timeS * 120),
      key: name,
    });
    const { state, take } = started(scene, key(1, "p"), key(1.5, "h"), key(3, "p"));
    take.isRun = true;
    // Its numbers say where it is: a thousandth for each frame, and 0.2 from the start.
    const values = Float32Array.from({ length: 300 }, (_none, i) => 0.2 + i / 1000);
    state.setTracks(new Map([["ring", { width: 1, values }]]));
    const at = (timeS: number) => {
      state.advanceTo(timeS);
      return state.valueOf("lamp", "emissionStrength");
    };
    expect(at(0.5)).toBe(0);
    expect(at(1.25)).toBeCloseTo(0.225, 3);
    expect(at(1.5 + 0.2)).toBeCloseTo(0.25 * Math.exp(-1), 2);
    expect(at(2.9)).toBeLessThan(0.001);
    expect(at(3.25)).toBeCloseTo(0.275, 3);
  });

  it("start sounds with the next beat or bar of the clock, and as late as the device is", () => {
    const play = (when: "now" | "beat" | "bar") => {
      const scene = quay(answer(onKey, newAction("play", { soundId: "bell", from: "start", when })));
      scene.sounds.push({
        ...newSoundBasics("clock", "Clock"),
        ...{
          kind: "clock",
          seconds: 8,
          on: true,
          levelDb: 0,
          bpm: 120,
          beatsPerBar: 4,
          subdivision: 2,
          swing: 0.5,
        },
        ...{ anchor: { timeS: 0, beat: 0 }, curve: { beats: 4, points: [] } },
      } as unknown as Scene["sounds"][number]);
      const { state, take } = started(scene, key(132));
      take.soundDelayS = 0.05;
      state.advanceTo(4);
      return state.units!.lastOf("bell", 4)!.timeS;
    };
    expect(play("now")).toBeCloseTo(1.15, 6);
    expect(play("beat")).toBeCloseTo(1.5, 6);
    expect(play("bar")).toBeCloseTo(2, 6);
  });

  it("go to a mark: the tape plays on from there", () => {
    const { state, take } = started(quay(answer(onKey, newAction("goTo", { markId: "end" }))), key(120));
    take.isRun = true;
    take.units.record({
      kind: "unit",
      unitId: TAPE_UNIT,
      timeS: 0,
      positionS: 0,
      running: true,
      lengthS: 8,
      loops: false,
    });
    state.setTake(take);
    state.advanceTo(1.5);
    expect(state.units!.positionS(TAPE_UNIT, 1.5)).toBeCloseTo(5.5, 6);
    expect(state.units!.positionS(TAPE_UNIT, 0.5)).toBeCloseTo(0.5, 6);
  });
});

describe("zones", () => {
  it("give strands how full they are, shaped, and give it again after a seek", () => {
    const scene = quay();
    const strand = newStrand(scene, "full", "Fullness", { kind: "zone", id: "arch" });
    strand.measure = { kind: "fullness" };
    for (const step of Object.values(strand.shaping)) step.on = false;
    scene.strands.push(strand);
    scene.bindings.push({
      ...newBinding("b", "full", scene.objects.find(({ id }) => id === "lamp")!, "emissionStrength"),
      output: { kind: "range", low: 0, high: 10 },
    });
    const { state, take } = started(scene);
    walk(take, [[0, 11, 5, -6]]);
    const seen = new Map(
      [7, 8.5, 9, 9.5, 10.5].map((timeS) => [timeS, at(state, timeS, "emissionStrength")]),
    );
    // Its middle is at −4, reached after 9 s; its borders are a metre away.
    for (const [timeS, value] of seen) {
      expect(Math.abs(value - 10 * Math.max(0, 1 - Math.abs(timeS - 9)))).toBeLessThan(0.5);
    }
    for (const timeS of [9.5, 7, 10.5, 8.5])
      expect(at(state, timeS, "emissionStrength")).toBe(seen.get(timeS));
    expect(state.trackOf("full")?.width).toBe(1);
  });
});

describe("strands made of what zones say", () => {
  it("follow the zone and the sound at once, band by band, and again after a seek", () => {
    const scene = quay();
    const plain = (id: string, listensTo: ListensTo) => {
      const strand = newStrand(scene, id, id, listensTo);
      for (const step of Object.values(strand.shaping)) step.on = false;
      scene.strands.push(strand);
      return strand;
    };
    plain("full", { kind: "zone", id: "arch" }).measure = { kind: "fullness" };
    plain("row", { kind: "sound", id: "song", tap: "before" });
    plain("both", { kind: "strands", ids: ["row", "full"] }).measure = { kind: "product" };
    const cued = plain("most", { kind: "strands", ids: ["full", "full"] });
    cued.measure = { kind: "maximum" };
    Object.assign(cued.cues, { on: true, rule: "rise", mark: 0.5, gapMs: 0 });
    const { state, take } = started(scene);
    walk(take, [[0, 11, 5, -6]]);
    // Three bands that stand still: 0.2, 0.5 and 1.
    const values = Float32Array.from({ length: 1200 * 3 }, (_none, i) => [0.2, 0.5, 1][i % 3]);
    state.setTracks(new Map([["row", { width: 3, values }]]));
    const read = (timeS: number) => {
      state.advanceTo(timeS);
      const track = state.trackOf("both")!;
      return [0, 1, 2].map((band) => trackValueAt(track, track.newest!.timeS, band));
    };
    const fullness = (timeS: number) => Math.max(0, 1 - Math.abs(timeS - 9));
    const seen = new Map([7, 8.5, 9, 9.5].map((timeS) => [timeS, read(timeS)]));
    for (const [timeS, bands] of seen) {
      [0.2, 0.5, 1].forEach((level, band) => {
        expect(Math.abs(bands[band] - level * fullness(timeS))).toBeLessThan(0.05);
      });
    }
    for (const timeS of [9.5, 7, 9, 8.5]) expect(read(timeS)).toEqual(seen.get(timeS));
    // Half full half a second before its middle.
    read(11);
    const { cues } = state.trackOf("most")!;
    expect(cues).toHaveLength(1);
    expect(Math.abs(cues![0].timeS - 8.5)).toBeLessThan(0.06);
  });

  it("wait for numbers that are not there yet", () => {
    const scene = quay();
    scene.strands.push(
      newStrand(scene, "full", "Full", { kind: "zone", id: "arch" }),
      newStrand(scene, "both", "Both", { kind: "strands", ids: ["beat", "full"] }),
    );
    scene.strands[2].measure = { kind: "product" };
    const { state } = started(scene);
    state.advanceTo(1);
    expect(state.trackOf("both")!.newest!.count).toBe(0);
    state.setTracks(new Map([["beat", { width: 1, values: new Float32Array(200).fill(1) }]]));
    state.advanceTo(1.5);
    expect(state.trackOf("both")!.newest!.count).toBe(151);
  });
});

describe("a replay", () => {
  it("gives every value of the run in which it was recorded", () => {
    const scene = quay(
      {
        ...answer(newCueSource("enter", { zoneId: "arch" }), newAction("play", { soundId: "bell" })),
        id: "in",
      },
      {
        ...answer(newCueSource("leave", { zoneId: "arch" }), newAction("pause", { soundId: "bell" })),
        id: "out",
      },
      {
        ...answer(onKey, emission({ overMs: 300 }), newAction("show", { objectId: "lamp", does: "turns" })),
        id: "k",
      },
      {
        ...answer(newCueSource("strand", { strandId: "beat" }), emission({ to: 2, overMs: 100, back: true })),
        id: "s",
      },
    );
    const track: Track = {
      width: 1,
      values: new Float32Array(800),
      cues: Array.from({ length: 15 }, (_none, i) => ({ timeS: 0.1 + i / 2, strength: 1 })),
    };
    const live = started(scene);
    live.state.setTracks(new Map([["beat", track]]));
    const seen: [number, unknown][] = [];
    const look = (state: SceneState, timeS: number) =>
      JSON.stringify([
        state.readAll(),
        state.units!.positionS("bell", timeS),
        state.units!.isRunning("bell", timeS),
      ]);
    // Frames come when they come; what a visitor does belongs to the step that is taken next.
    let timeS = 0;
    for (let frame = 0; timeS < 7; frame++) {
      timeS += 0.004 + ((frame * 37) % 23) / 1000;
      const step = live.state.simulation.nextStep;
      live.take.poses.head.record(step, {
        ...restingPose(),
        y: 1.6,
        z: 2 - timeS * 1.9 + (timeS > 4 ? timeS * 2 : 0),
      });
      if (frame % 60 === 31) live.take.record({ kind: "key", step, key: "k" });
      live.state.advanceTo(timeS);
      seen.push([timeS, look(live.state, timeS)]);
    }
    expect(live.state.simulation.answering!.history.length).toBeGreaterThan(15);
    const replay = new SceneState(scene);
    replay.setLengths(BELL);
    replay.setTracks(new Map([["beat", track]]));
    replay.setTake(takeFromFile(JSON.parse(JSON.stringify({ ...takeToFile(live.take), name: "Replay" }))));
    for (const [when, values] of seen.filter((_one, i) => i % 7 === 0).reverse()) {
      replay.advanceTo(when);
      expect(look(replay, when)).toBe(values);
    }
  });
});

describe("who is where", () => {
  it("names the visitor and their hands inside a zone, and where their feet are", () => {
    const { state, take } = started(quay(answer(newCueSource("enter", { zoneId: "arch" }))));
    walk(take, [[0, 2, 0, -4]]);
    take.poses.left.record(150, { ...restingPose(), y: 1.2, z: -4 });
    state.advanceTo(1);
    const answering = state.simulation.answering!;
    expect(answering.insideOf("arch")).toEqual([]);
    const feet = answering.feet!.place;
    expect([feet[0], feet[1]]).toEqual([0, 0]);
    expect(feet[2]).toBeCloseTo(-2, 1);
    state.advanceTo(2);
    expect(answering.insideOf("arch")).toEqual(["visitor", "left"]);
    expect(answering.insideOf("lamp")).toEqual([]);
  });
});

describe("being in a zone", () => {
  const inArch = (...actions: Action[]) => answer(newCueSource("inside", { zoneId: "arch" }), ...actions);
  /** Walks in at about 1 s, out at about 2 s, and in again straight away or later. */
  function visit(scene: Scene, backAfterS: number, endS: number) {
    const { state, take } = started(scene);
    walk(take, [
      [0, 1.5, 0, -4],
      [1.5, 2.5, -4, 0],
      [2.5, 2.5 + backAfterS, 0, 0],
      [2.5 + backAfterS, 3.5 + backAfterS, 0, -4],
      [3.5 + backAfterS, endS, -4, -4],
    ]);
    return state;
  }
  const runs = (state: SceneState, timeS: number) => {
    state.advanceTo(timeS);
    return state.simulation.answering!.units.isRunning("bell", timeS);
  };

  it("undoes its action when the last visitor leaves, and repeats it for the next", () => {
    const state = visit(
      quay(inArch(newAction("play", { soundId: "bell", from: "where" }), emission({ overMs: 100 }))),
      1,
      6,
    );
    expect(runs(state, 0.5)).toBe(false);
    expect(runs(state, 1.5)).toBe(true);
    expect(at(state, 1.5, "emissionStrength")).toBeCloseTo(10, 3);
    expect(runs(state, 2.6)).toBe(false);
    expect(at(state, 3, "emissionStrength")).toBeCloseTo(at(state, 0, "emissionStrength"), 3);
    expect(runs(state, 4.5)).toBe(true);
  });

  it("fades out before it pauses where it fades in, and goes on when somebody is back before that", () => {
    const music = [
      newAction("play", { soundId: "bell", from: "where" }),
      newAction("fade", { soundId: "bell", levelDb: 0, overMs: 800 }),
    ];
    const scene = quay(inArch(...music));
    const soon = visit(scene, 0.1, 6);
    const { sounds } = soon.simulation.answering!;
    expect(runs(soon, 2.5)).toBe(true);
    expect(sounds.gainOf("bell", 2.5)).toBeLessThan(1);
    expect(runs(soon, 3.6)).toBe(true);
    const late = visit(scene, 2, 8);
    expect(runs(late, 3.6)).toBe(false);
  });

  it("or entering it again, cancels pending actions of leaving it", () => {
    const scene = quay(
      answer(
        newCueSource("enter", { zoneId: "arch" }),
        newAction("play", { soundId: "bell", from: "where" }),
      ),
      {
        ...answer(
          newCueSource("leave", { zoneId: "arch" }),
          newAction("pause", { soundId: "bell", delayMs: 1500 }),
        ),
        id: "out",
      },
    );
    const state = visit(scene, 0.1, 8);
    // Out at about 2.2 s, in again at about 2.9 s: the pause of 3.7 s does not come.
    expect(runs(state, 2.6)).toBe(true);
    expect(state.simulation.answering!.history.map(({ answerId }) => answerId)).toEqual(["a", "out"]);
    state.advanceTo(3);
    const { events } = state.simulation.answering!.units;
    state.advanceTo(4);
    expect(events.filter(({ unitId, running }) => unitId === "bell" && !running && true).length).toBeLessThan(
      3,
    );
    expect(state.simulation.answering!.history.map(({ answerId }) => answerId)).toEqual(["a", "out", "a"]);
  });
});

describe("sounds by answers", () => {
  it("play and pause by turns", () => {
    const { state } = started(
      quay(answer(onKey, newAction("playTurns", { soundId: "bell" }))),
      key(12),
      key(60),
      key(96),
    );
    const runs = (timeS: number) => {
      state.advanceTo(timeS);
      return state.simulation.answering!.units.isRunning("bell", timeS);
    };
    expect([0.05, 0.3, 0.6, 0.9].map(runs)).toEqual([false, true, false, true]);
  });

  it("are paused once they have faded, as the sentence says", () => {
    const actions = [
      newAction("fade", { soundId: "bell", overMs: 800 }),
      newAction("pause", { soundId: "bell" }),
    ];
    expect(startsOf(actions)).toEqual([0, 800]);
    expect(startsOf([actions[1], actions[0]])).toEqual([0, 0]);
    expect(startsOf([actions[0], { ...actions[1], delayMs: 200 }])).toEqual([0, 1000]);
    const { state } = started(
      quay(
        { ...answer(newCueSource("start"), newAction("play", { soundId: "bell" })), id: "go" },
        answer(onKey, ...actions),
      ),
      key(24),
    );
    const running = (timeS: number) => {
      state.advanceTo(timeS);
      return state.simulation.answering!.units.isRunning("bell", timeS);
    };
    expect([0.5, 0.95, 1.05].map(running)).toEqual([true, true, false]);
  });

  it("fade evenly in loudness: half of the time is half as loud, not 30 dB down", () => {
    const fading = (evenly: "loudness" | "dB") => {
      const { state } = started(
        quay(answer(onKey, newAction("fade", { soundId: "bell", levelDb: -60, overMs: 800, evenly }))),
        key(24),
      );
      state.advanceTo(1.5);
      const { sounds } = state.simulation.answering!;
      return [0.6, 1.0].map((timeS) => 20 * Math.log10(sounds.gainOf("bell", timeS)));
    };
    expect(fading("loudness")[0]).toBeCloseTo(-10, 1);
    expect(fading("loudness")[1]).toBe(Number.NEGATIVE_INFINITY);
    expect(fading("dB")[0]).toBeCloseTo(-30, 1);
  });

  it("can be asked whether they do not play", () => {
    const only = { ...newAnswer("x", "X", onKey, []).only, whileSilentId: "bell" };
    const { state } = started(
      quay({ ...answer(onKey, newAction("play", { soundId: "bell" })), only }),
      key(12),
      key(60),
      key(360),
    );
    // The bell lasts two seconds.
    close(firings(state, 3.2), [0.1, 3]);
  });
});

describe("touches", () => {
  it("need speed, and are one until the hand is gone", () => {
    const touch = (speed: number, zs: readonly number[]) => {
      const scene = quay(answer(newCueSource("touch", { objectId: "lamp", speed })));
      scene.answers[0].only.gapMs = 0;
      const { state, take } = started(scene);
      zs.forEach((z, i) => {
        take.poses.right.record(2 + i * 2, { ...restingPose(), y: 1, z });
      });
      state.advanceTo(zs.length / 60 + 0.1);
      return state.simulation.answering!.history.length;
    };
    const fast = Array.from({ length: 30 }, (_none, i) => 2 - i * 0.1);
    const slow = Array.from({ length: 200 }, (_none, i) => 0.7 - i * 0.0015);
    expect(touch(0.3, fast)).toBe(1);
    expect(touch(0.3, slow)).toBe(0);
    expect(touch(0, slow)).toBe(1);
    // One that rests on what it has struck does not strike again.
    expect(touch(0.3, [...fast.slice(0, 16), ...Array(200).fill(0.5)])).toBe(1);
    expect(newAnswer("n", "N", newCueSource("touch"), []).only.gapMs).toBe(200);
  });
});

describe("the history of answers", () => {
  it("is that of a run from the start, whatever was played, sought and changed before", () => {
    const scene = quay(
      { ...answer(newCueSource("strand", { strandId: "beat" }), emission({ overMs: 100 })), id: "beat" },
      { ...answer(onKey, newAction("kick", { objectId: "lamp", property: "scale", amount: 1 })), id: "key" },
    );
    const cues = Array.from({ length: 40 }, (_none, i) => ({ timeS: 0.13 + i * 0.19, strength: 1 }));
    const beat: Track = { width: 1, values: new Float32Array(800), cues };
    const fresh = (events: readonly VisitorEvent[]) => {
      const { state, take } = started(scene, ...events);
      state.setTracks(new Map([["beat", beat]]));
      return { state, take };
    };
    const told = (state: SceneState) => {
      const { history } = state.simulation.answering!;
      // No holes, and nothing that is not an answer.
      expect([...history].every((one) => one !== undefined && Number.isFinite(one.timeS))).toBe(true);
      return history.map(({ answerId, timeS }) => `${answerId} ${Math.round(timeS * 1000)}`);
    };
    const moment = fc.double({ min: 0, max: 7.5, noNaN: true });
    const move = fc.oneof(
      fc.record({ kind: fc.constant("seek" as const), timeS: moment }),
      fc.record({ kind: fc.constant("play" as const), forS: fc.double({ min: 0, max: 2, noNaN: true }) }),
      fc.record({ kind: fc.constant("take" as const), keyS: moment }),
      fc.record({ kind: fc.constant("edit" as const), x: fc.double({ min: -3, max: 3, noNaN: true }) }),
    );
    fc.assert(
      fc.property(fc.array(move, { minLength: 1, maxLength: 14 }), moment, (moves, endS) => {
        let events: VisitorEvent[] = [key(24)];
        const { state } = fresh(events);
        let nowS = 0;
        for (const one of moves) {
          if (one.kind === "seek") nowS = one.timeS;
          else if (one.kind === "play") {
            for (let i = 0; i < 10; i++) state.advanceTo(nowS + (one.forS * i) / 10);
            nowS = Math.min(7.5, nowS + one.forS);
          } else if (one.kind === "take") {
            events = [key(Math.round(one.keyS * 120))];
            const take = new Take();
            for (const event of events) take.record(event);
            state.setTake(take);
          } else {
            const objects = scene.objects.map((object) =>
              object.id === "lamp" ? { ...object, rest: { position: [one.x, 1, 0] } } : object,
            );
            state.update({ ...scene, objects } as Scene);
          }
          state.advanceTo(nowS);
          told(state);
        }
        state.advanceTo(endS);
        const { state: straight } = fresh(events);
        straight.advanceTo(endS);
        expect(told(state)).toEqual(told(straight));
      }),
      { numRuns: 60 },
    );
  });
});
