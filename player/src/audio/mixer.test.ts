import { faderGain } from "@bumbrel/core/dsp/level/decibel";
import { describe, expect, it } from "@jest/globals";
import { FakeAudioContext, type FakeGain } from "../testing/fakeAudio";
import { audible, Mixer, type MixSound, OUTPUT_ID } from "./mixer";

const sound = (id: string, changes: Partial<MixSound> = {}): MixSound => ({
  id,
  heard: true,
  muted: false,
  faderDb: 0,
  pan: 0,
  busId: null,
  ...changes,
});
const none = new Set<string>();
const bus = { id: "music", faderDb: -6, pan: 0, muted: false };

/** The gains a sample meets on its way from a sound's entry to the output, multiplied. */
function gainToOutput(mixer: Mixer, soundId: string): number {
  let node = mixer.entryOf(soundId) as unknown as FakeGain | undefined;
  let gain = 1;
  while (node && node !== (mixer.output as unknown)) {
    gain *= node.gain.value;
    node = node.goesTo as FakeGain | undefined;
  }
  return node ? gain : Number.NaN;
}

describe("the mixer", () => {
  it("leads every sound through its fader, its bus and the bus's fader", () => {
    const mixer = new Mixer(new FakeAudioContext() as unknown as AudioContext);
    mixer.set([sound("a", { faderDb: -10, busId: "music" }), sound("b", { faderDb: -66 })], [bus], none);
    expect(gainToOutput(mixer, "a")).toBeCloseTo(faderGain(-10) * faderGain(-6), 9);
    expect(gainToOutput(mixer, "b")).toBe(0);
    mixer.setDistanceGain("a", 0.25);
    expect(gainToOutput(mixer, "a")).toBeCloseTo(0.25 * faderGain(-16), 9);
    mixer.set([sound("a", { busId: null })], [bus], none);
    expect(gainToOutput(mixer, "a")).toBeCloseTo(0.25, 9);
    expect(mixer.entryOf("b")).toBeUndefined();
    mixer.set([sound("a", { busId: "music" })], [{ ...bus, muted: true }], none);
    expect(gainToOutput(mixer, "a")).toBe(0);
  });

  it("meters the output of a strip, or its input while it is not heard", () => {
    const mixer = new Mixer(new FakeAudioContext() as unknown as AudioContext);
    mixer.set([sound("a"), sound("stem", { heard: false })], [bus], none);
    const points = new Map(mixer.meterPoints().map(({ id, node }) => [id, node]));
    expect([...points.keys()]).toEqual(["music", "a", "stem", OUTPUT_ID]);
    expect(points.get("stem")).toBe(mixer.entryOf("stem"));
    expect(points.get("a")).not.toBe(mixer.entryOf("a"));
  });

  it("lets solo be heard and nothing else, listened-to-only sounds too", () => {
    const stem = sound("stem", { heard: false });
    const inBus = sound("in", { busId: "music", muted: true });
    const other = sound("other");
    expect([stem, inBus, other].map((one) => audible(one, none))).toEqual([false, false, true]);
    expect([stem, inBus, other].map((one) => audible(one, new Set(["stem"])))).toEqual([true, false, false]);
    expect([stem, inBus, other].map((one) => audible(one, new Set(["music"])))).toEqual([false, true, false]);
  });
});
