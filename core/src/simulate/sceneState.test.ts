import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import { BINDING_MODES, type Binding, type Scene } from "../document/scene";
import { Take } from "../document/take/take";
import { inputShare } from "../evaluate/activeBinding";
import { newBinding, newObject } from "../kinds/create";
import { OBJECT_KIND_NAMES, propertiesOf } from "../kinds/table";
import { bind, constant, lanternScene, range } from "../testing/lanternScene";
import { settingsThatUse } from "../testing/settings";
import { evaluateScene, SceneState } from "./sceneState";

describe("the state of a scene", () => {
  it("leaves properties at rest without bindings or tracks", () => {
    const scene = lanternScene();
    expect(evaluateScene(scene, new Map(), 0).lantern).toMatchObject({
      scale: [2, 2, 2],
      position: [1, 2, 3],
      radius: 0.5,
    });
    bind(scene, "scale", { output: range(1, 5) });
    expect(evaluateScene(scene, new Map(), 0).lantern.scale).toEqual([2, 2, 2]);
  });

  it("always has a camera and a backdrop", () => {
    const scene = lanternScene();
    scene.objects = scene.objects.filter(({ kind }) => kind === "sphere");
    const values = evaluateScene(scene, new Map(), 0);
    expect(values.camera.fieldOfView).toBe(45);
    expect(Object.keys(values)).toEqual(["camera", "backdrop", "environment", "lens", "world", "lantern"]);
  });

  it("maps input range to output range on the chosen axes", () => {
    const scene = lanternScene();
    bind(scene, "scale", { output: range(1, 3) });
    bind(scene, "position", { axes: ["y", "z"], input: { low: 0.25, high: 0.75 }, output: range(0, 8) });
    expect(evaluateScene(scene, constant(0.5), 0).lantern).toMatchObject({
      scale: [2, 2, 2],
      position: [1, 4, 4],
    });
    expect(evaluateScene(scene, constant(0.9), 0).lantern.position).toEqual([1, 8, 8]);
  });

  it("combines several bindings on one property in listed order", () => {
    const scene = lanternScene();
    bind(scene, "radius", { mode: "add", output: range(0, 1) });
    bind(scene, "radius", { mode: "multiply", output: range(0, 4) });
    expect(evaluateScene(scene, constant(0.5), 0).lantern.radius).toBeCloseTo((0.5 + 0.5) * 2, 12);
    scene.bindings.reverse();
    expect(evaluateScene(scene, constant(0.5), 0).lantern.radius).toBeCloseTo(0.5 * 2 + 0.5, 12);
  });

  it("stays within the property's limits", () => {
    const scene = lanternScene();
    bind(scene, "scale", { output: range(-50, 5000) });
    expect(evaluateScene(scene, constant(0), 0).lantern.scale).toEqual([0, 0, 0]);
    expect(evaluateScene(scene, constant(1), 0).lantern.scale).toEqual([100, 100, 100]);
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
    expect(evaluateScene(scene, constant(0.25), 0).lantern.colour).toEqual([0.75, 0, 0.25]);
  });

  it("ignores bindings that point at nothing or give the wrong kind of output", () => {
    const scene = lanternScene();
    bind(scene, "scale", { objectId: "gone" });
    bind(scene, "scale", { property: "gone" });
    bind(scene, "colour", { output: range(0, 1) });
    expect(evaluateScene(scene, constant(1), 0).lantern).toMatchObject({ scale: [2, 2, 2] });
  });

  it("never gives a number that is not finite", () => {
    fc.assert(
      fc.property(
        fc.double({ noNaN: false }),
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.constantFrom<Binding["mode"]>(...BINDING_MODES),
        (anyS, a, b, mode) => {
          // Sums from the start take longer the later the time is.
          const timeS = mode === "rate" ? anyS % 20 : anyS;
          const scene = lanternScene();
          bind(scene, "scale", { mode, input: { low: b, high: a }, output: range(a, b) });
          const state = new SceneState(scene);
          state.setTracks(constant(0.3));
          state.advanceTo(timeS);
          expect(state.values.every(Number.isFinite)).toBe(true);
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
      for (const [property, declared] of Object.entries(propertiesOf({ kind }))) {
        const scene = lanternScene();
        scene.strands[0].cues.on = true;
        const object = { ...newObject("thing", kind, "Thing"), settings: settingsThatUse(kind, declared) };
        scene.objects = [object];
        scene.bindings = [newBinding("b", "kick", object, property)];
        expect(checkReferences(parseScene(scene))).toEqual([]);
        // Counts at cues are no value of the property; particles are tested with their steps.
        if (declared.type === "number" && declared.atCues) continue;
        const at = (value: number) => evaluateScene(scene, constant(value), 0).thing[property];
        expect(at(1)).not.toEqual(at(0));
        // Visibility is a switch that rests at on.
        if (property === "visibility") continue;
        const atRest = [evaluateScene(scene, new Map(), 0).thing[property]].flat();
        [at(0)].flat().forEach((value, i) => {
          expect(value).toBeCloseTo(atRest[i], 6);
        });
      }
    }
  });

  it("leaves targets of a muted strand at rest, and with a solo the targets of all others", () => {
    const scene = lanternScene();
    bind(scene, "radius", { output: range(1, 3) });
    const state = new SceneState(scene);
    const radius = () => {
      state.advanceTo(1);
      return state.valueOf("lantern", "radius");
    };
    state.setTracks(constant(1));
    expect(radius()).toBe(3);
    state.setSolo(new Set(["other"]));
    expect(radius()).toBe(0.5);
    state.setSolo(new Set(["kick"]));
    expect(radius()).toBe(3);
    const muted = structuredClone(scene);
    muted.strands[0].muted = true;
    state.update(muted);
    expect(radius()).toBe(0.5);
  });

  it("follows sounds that run by themselves where the take says they are", () => {
    const scene = lanternScene();
    Object.assign(scene.sounds[0], { runs: "alone" });
    bind(scene, "radius", { output: range(0, 10) });
    const ramp = { width: 1, values: Float32Array.from({ length: 500 }, (_, i) => i / 500) };
    const state = new SceneState(scene);
    const take = new Take();
    const event = { kind: "unit", unitId: "song", lengthS: 5, loops: false } as const;
    take.units.record({ ...event, timeS: 2, positionS: 1, running: true });
    state.setTake(take);
    state.setTracks(new Map([["kick", ramp]]));
    const radiusAt = (timeS: number) => {
      state.advanceTo(timeS);
      return state.valueOf("lantern", "radius");
    };
    // A radius is never nothing.
    expect(radiusAt(1)).toBe(0.001);
    expect(radiusAt(3.5)).toBeCloseTo(5, 4);
    expect(radiusAt(2)).toBeCloseTo(2, 4);
    take.units.record({ ...event, timeS: 3, positionS: 4, running: false });
    state.setTake(take, 3);
    expect(radiusAt(2.5)).toBeCloseTo(3, 4);
    expect(radiusAt(9)).toBeCloseTo(8, 4);
  });

  it("after an edit equals a new state of the edited scene, and prepares only the edited parts", () => {
    const scene = lanternScene();
    const other = { ...newObject("other", "box", "Other"), rest: { spin: 20 } };
    scene.objects.push(other);
    bind(scene, "radius", { mode: "rate", output: range(0, 1) });
    bind(scene, "scale", { output: range(1, 3) });
    const state = new SceneState(scene);
    state.setTracks(constant(0.4));
    state.advanceTo(3);
    const edited = {
      ...scene,
      objects: scene.objects.map((one) =>
        one === other ? { ...other, rest: { spin: 20, position: [1, 0, 0] } } : one,
      ),
    } as Scene;
    const changed = state.update(edited)!;
    expect([...changed].map(({ object }) => object.id)).toEqual(["other"]);
    state.advanceTo(3);
    expect(state.readAll()).toEqual(evaluateScene(edited, constant(0.4), 3));
    const rebound = { ...edited, bindings: edited.bindings.slice(1) };
    state.update(rebound);
    state.advanceTo(3.5);
    expect(state.readAll()).toEqual(evaluateScene(rebound, constant(0.4), 3.5));
  });
});
