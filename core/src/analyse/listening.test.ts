import { describe, expect, it } from "@jest/globals";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import type { ListensTo, Scene } from "../document/scene";
import { SCENE_VERSION } from "../document/sceneLimits";
import { newStrand } from "../document/strands/newStrand";
import { runningOf } from "../document/strands/running";
import { distanceGain } from "../dsp/level/distance";
import { newBinding, newObject, newScene } from "../kinds/create";
import { newPlace, newSoundBasics, type Sound } from "../sound/kinds";
import { madeSoundData, makeSound } from "../sound/made";
import { signalOf } from "../sound/soundSignal";
import { DirectSpectra } from "../strand/hearing/spectra";
import { MEASURES, measureSound } from "../strand/measures/table";
import { hear, type Listening } from "./hearing";
import { analysedDistanceGain, loopOf, resolveListening, restingDistance } from "./listening";
import { neededSounds } from "./needed";

const sound = (id: string, changes: Partial<Sound> = {}): Sound =>
  ({ ...newSoundBasics(id, id), kind: "file", storedId: `s-${id}`, ...changes }) as Sound;
function quay(...sounds: Sound[]): Scene {
  const scene = newScene("Quay");
  scene.sounds.push(...sounds);
  scene.buses.push({ id: "music", name: "Music", faderDb: -6, pan: 0, muted: false });
  return scene;
}
const samples: Record<string, Float32Array> = {
  song: Float32Array.of(1, 2, 3, 4, 5, 6),
  tick: Float32Array.of(10, 20),
};
const signalById = (id: string) => (samples[id] ? { samples: samples[id] } : undefined);
const bus = (tap: "before" | "after"): ListensTo => ({ kind: "bus", id: "music", tap });
const own = (id: string, tap: "before" | "after" = "before"): ListensTo => ({ kind: "sound", id, tap });
const TAPE_S = 6 / 48_000;
/** The samples that a strand hears, all of them in memory. */
const heardOf = (listening: Listening) => hear(listening, signalById, TAPE_S)!.samples as Float32Array;
const half = 10 ** (-6 / 20);

describe("what a strand hears", () => {
  it("is a sound before its fader or after, muted or not", () => {
    const scene = quay(sound("song", { faderDb: -6 }));
    const heard = (listensTo: ListensTo) => heardOf(resolveListening(scene, listensTo)!);
    expect(heard(own("song"))).toBe(samples.song);
    expect(heard(own("song", "after"))[3]).toBeCloseTo(4 * half, 5);
    scene.sounds[0].muted = true;
    expect(heard(own("song", "after"))[3]).toBe(0);
    expect(heard(own("song"))[3]).toBe(4);
  });

  it("is the sum of the sounds heard through a bus, with looping sounds repeated", () => {
    const scene = quay(
      sound("song", { busId: "music", pan: -1 }),
      sound("tick", { busId: "music", loops: true, faderDb: -6 }),
      sound("stem", { busId: "music", heard: false }),
      sound("alone", { busId: "music", runs: "alone" }),
      sound("other"),
    );
    const mix = heardOf(resolveListening(scene, bus("before"))!);
    [1 + 10 * half, 2 + 20 * half, 3 + 10 * half, 4 + 20 * half].forEach((value, i) => {
      expect(mix[i]).toBeCloseTo(value, 5);
    });
    expect(mix).toHaveLength(6);
    const after = heardOf(resolveListening(scene, bus("after"))!);
    expect(after[0]).toBeCloseTo(mix[0] * half, 5);
    scene.buses[0].muted = true;
    expect(resolveListening(scene, bus("after"))!.sounds).toEqual([]);
  });

  it("is nothing while a sound is missing, gone or live", () => {
    const input = sound("input", {
      kind: "input",
      device: null,
      channel: null,
      rateHz: null,
      bufferSamples: 256,
      echoCancelling: false,
      noiseSuppression: false,
    });
    delete (input as Partial<Extract<Sound, { kind: "file" }>>).storedId;
    const scene = quay(sound("song"), sound("lost", { busId: "music" }), input);
    expect(resolveListening(scene, own("gone"))).toBeUndefined();
    expect(resolveListening(scene, own("input"))).toBeUndefined();
    expect(resolveListening(scene, { kind: "nothing" })).toBeUndefined();
    expect(hear(resolveListening(scene, bus("before"))!, signalById, 1)).toBeUndefined();
    expect(parseScene(scene).sounds).toHaveLength(3);
  });

  it("goes round with its group", () => {
    const scene = quay(sound("song", { groupId: "band" }), sound("tick", { groupId: "band" }), sound("free"));
    scene.groups.push({ id: "band", name: "Band", runs: "alone", loops: true });
    const lengthS = ({ id }: Sound) => ({ song: 12, tick: 3, free: 5 })[id] ?? 0;
    expect(loopOf(scene, own("tick"), lengthS)).toBe(12);
    expect(loopOf(scene, own("free"), lengthS)).toBe(0);
    expect(runningOf(scene, scene.sounds[1])).toMatchObject({ runs: "alone", loops: true });
    scene.sounds[2].loops = true;
    expect(loopOf(scene, own("free"), lengthS)).toBe(5);
    expect(loopOf(scene, bus("before"), lengthS)).toBe(0);
  });

  it("lists the sounds that a delivered scene has to contain", () => {
    const scene = quay(
      sound("song", { busId: "music" }),
      sound("stem", { heard: false }),
      sound("unused", { heard: false }),
    );
    scene.strands.push(newStrand(scene, "a", "A", own("stem")), newStrand(scene, "b", "B", bus("after")));
    const lantern = newObject("l", "sphere", "L");
    scene.objects.push(lantern);
    scene.bindings.push(newBinding("x", "a", lantern, "opacity"));
    expect(neededSounds(scene).map(({ id }) => id)).toEqual(["song", "stem"]);
  });
});

describe("distance", () => {
  const place = newPlace({ position: [3, 4, 0], referenceM: 2, analysedFollows: true });

  it("follows the inverse law between its two rings", () => {
    // distanceModel "inverse": ref / (ref + rolloff · (d − ref)).
    for (const d of [2.5, 4, 10, 19]) expect(distanceGain(place, d)).toBeCloseTo(2 / (2 + (d - 2)), 12);
    expect([distanceGain(place, 0), distanceGain(place, 2)]).toEqual([1, 1]);
    expect(distanceGain(place, 500)).toBe(distanceGain(place, 20));
    expect(distanceGain({ ...place, rollOff: 0 }, 15)).toBe(1);
  });

  it("is taken from where the camera rests", () => {
    const scene = quay(sound("bell", { place }));
    scene.objects.find(({ kind }) => kind === "camera")!.rest.position = [3, 4, 8];
    expect(restingDistance(scene, place)).toBe(8);
    expect(analysedDistanceGain(scene, scene.sounds[0])).toBeCloseTo(0.25, 12);
    expect(resolveListening(scene, own("bell"))!.sounds[0].gain).toBeCloseTo(0.25, 12);
    scene.sounds[0].place = { ...place, analysedFollows: false };
    expect(analysedDistanceGain(scene, scene.sounds[0])).toBe(1);
  });
});

describe("a clock as a sound", () => {
  const clock = {
    ...newSoundBasics("clock", "Clock"),
    kind: "clock" as const,
    on: true,
    seconds: 4,
    levelDb: 0,
    bpm: 60,
    beatsPerBar: 4,
    subdivision: 1,
    swing: 0.5,
    anchor: { timeS: 0, beat: 0 },
    curve: {
      beats: 1,
      points: [
        { at: 0, value: 0 },
        { at: 1, value: 1 },
      ],
    },
  };

  it("clicks on its ticks and is silent between them and when it is off", () => {
    const clicks = makeSound(clock);
    const peak = (fromS: number, toS: number) =>
      Math.max(...clicks.subarray(fromS * 48_000, toS * 48_000).map(Math.abs));
    expect(peak(0, 0.01)).toBeGreaterThan(0.4);
    expect(peak(1, 1.01)).toBeGreaterThan(0.25);
    expect(peak(0.2, 0.99)).toBe(0);
    expect(makeSound({ ...clock, on: false }).every((x) => x === 0)).toBe(true);
  });

  it("gives phases, ticks and its curve to strands", () => {
    const signal = signalOf(clock, madeSoundData(clock));
    const read = (kind: "beatPhase" | "barPhase" | "curve" | "ticks") =>
      measureSound(signal, MEASURES[kind].defaults, new DirectSpectra());
    expect(read("beatPhase")[150]).toBeCloseTo(0.5, 6);
    expect(read("barPhase")[150]).toBeCloseTo(0.375, 6);
    expect(read("curve")[225]).toBeCloseTo(0.25, 6);
    const ticks = read("ticks");
    expect([...ticks.keys()].filter((frame) => ticks[frame] > 0)).toEqual([0, 100, 200, 300]);
    expect(ticks[0]).toBeGreaterThan(ticks[100]);
  });

  it("is checked against the strands that read it", () => {
    const scene = quay(clock, sound("song", { busId: "gone", groupId: "gone" }));
    scene.strands.push(
      newStrand(scene, "ok", "Ok", own("clock"), MEASURES.beatPhase.defaults),
      newStrand(scene, "bad", "Bad", own("song"), { kind: "curve" }),
    );
    expect(scene.strands[0].shaping.window.on).toBe(false);
    expect(checkReferences(scene).map(({ code, where }) => `${code} ${where}`)).toEqual([
      "sound-lost-bus /sounds/1/busId",
      "sound-lost-group /sounds/1/groupId",
      "strand-cannot-read /strands/1/measure",
    ]);
  });
});

describe("a scene of version 1", () => {
  it("opens with its sounds straight to the output and its strands before the fader", () => {
    const { stretch: _s, buses: _b, groups: _g, ...rest } = quay();
    const {
      on: _on,
      muted: _m,
      pan: _p,
      busId: _bus,
      groupId: _gr,
      runs: _r,
      loops: _l,
      place: _pl,
      ...tone
    } = {
      ...newSoundBasics("t", "T"),
      kind: "tone",
      on: true,
      seconds: 1,
      levelDb: 0,
      waveform: "sine",
      hz: 440,
      toHz: null,
      sweep: "linear",
    };
    const { listensTo: _to, ...strand } = newStrand(quay(), "s", "S", own("t"));
    const old = {
      ...rest,
      version: 1,
      sounds: [tone],
      strands: [
        { ...strand, soundId: "t" },
        { ...strand, id: "u", soundId: null },
      ],
    };
    const scene = parseScene(old);
    expect(scene.version).toBe(SCENE_VERSION);
    expect(scene.sounds[0]).toMatchObject({ on: true, busId: null, runs: "tape", muted: false, pan: 0 });
    expect(scene.strands.map(({ listensTo }) => listensTo)).toEqual([own("t"), { kind: "nothing" }]);
    expect(() => parseScene({ ...old, sounds: "none" })).not.toThrow(TypeError);
  });
});
