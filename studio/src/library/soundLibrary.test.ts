import type { Scene } from "@bumbrel/core/document/scene";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSound } from "@bumbrel/core/sound/create";
import { samplesKey } from "@bumbrel/core/sound/key";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { beforeEach, describe, expect, it } from "@jest/globals";
import type { ToWorker } from "../analysis/messages";
import { SoundLibrary } from "./soundLibrary";

let sent: ToWorker[];
let library: SoundLibrary;
let scene: Scene;
beforeEach(() => {
  sent = [];
  library = new SoundLibrary({}, (message) => sent.push(message));
  scene = newScene("Quay");
  scene.sounds.push(
    { ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" },
    { ...newSoundBasics("again", "Again"), kind: "file", storedId: "s1", loops: true },
    newSound("tone", "tone", "Tone"),
    newSound("input", "mic", "Mic"),
  );
});
const toneKey = () => samplesKey(scene.sounds[2])!;
const load = (key: string, length = 96_000) => {
  const mono = new Float32Array(length);
  return library.receive({ kind: "loaded", key, data: { channels: [mono], mono, badSampleCount: 0 } });
};

describe("the sound library", () => {
  it("loads each sound's samples once, and none of a live sound", () => {
    library.follow(scene);
    library.follow({ ...scene });
    expect(sent.map((message) => (message.kind === "load" ? message.key : message.kind))).toEqual([
      "s1",
      toneKey(),
    ]);
    expect(library.isComplete(scene)).toBe(false);
    load("s1");
    load(toneKey());
    expect(library.isComplete(scene)).toBe(true);
    expect(library.lengthOf(scene.sounds[0])).toBe(2);
    expect(library.lengthOf(scene.sounds[3])).toBe(0);
    expect(library.soundOf(scene.sounds[1])).toBe(library.soundOf(scene.sounds[0]));
  });

  it("forgets a made sound that was changed, and keeps stored ones", () => {
    library.follow(scene);
    load("s1");
    load(toneKey());
    const before = toneKey();
    const changed = structuredClone(scene);
    Object.assign(changed.sounds[2], { hz: 220 });
    library.follow(changed);
    expect(library.sounds.has(before)).toBe(false);
    expect(sent.at(-1)).toEqual({ kind: "forget", key: before });
    library.follow({ ...changed, sounds: [] });
    expect(library.sounds.has("s1")).toBe(true);
  });

  it("knows the waveform as far as it has been read, and errors", () => {
    library.follow(scene);
    const pairs = Float32Array.of(-1, 1, -0.5, 0.5);
    const part = { kind: "loading" as const, key: "s1", hops: 4 };
    expect(library.receive({ ...part, share: 0.5, firstHop: 0, pairs })).toBe(false);
    library.receive({ ...part, share: 1, firstHop: 2, pairs });
    const waveform = library.waveforms.get("s1")!;
    expect([...waveform.pairs]).toEqual([-1, 1, -0.5, 0.5, -1, 1, -0.5, 0.5]);
    expect(waveform.hopsReady).toBe(4);
    expect(library.loading.get("s1")).toBe(1);
    library.receive({ kind: "soundFailed", key: "s1", message: "It is cut short." });
    expect([library.loading.has("s1"), library.failures.get("s1")]).toEqual([false, "It is cut short."]);
    // A sound that failed is not fetched again and again.
    library.follow({ ...scene });
    expect(sent.filter((message) => message.kind === "load")).toHaveLength(2);
  });

  it("says where a sound is that loops with the tape", () => {
    library.follow(scene);
    load("s1");
    expect(library.tapePositionOf(scene, scene.sounds[0], 3.5)).toBe(3.5);
    expect(library.tapePositionOf(scene, scene.sounds[1], 3.5)).toBe(1.5);
  });
});
