import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { type InputSound, newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { trackValueAt } from "@bumbrel/core/strand/track";
import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import { METER_FIELDS } from "../audio/meterLayout";
import { Meters } from "../audio/meters";
import { Transport } from "../audio/transport";
import { FakeAudioContext, playable } from "../testing/fakeAudio";
import { LiveSounds } from "./liveSounds";
import { type FromStrands, StrandHost, type ToStrands } from "./strandHost";

/** A node on the audio thread whose messages a test sends by hand. */
class FakeWorkletNode {
  static made: FakeWorkletNode[] = [];
  readonly port: { onmessage: ((event: { data: unknown }) => void) | null } = { onmessage: null };
  readonly options: { processorOptions: { memory: SharedArrayBuffer } };
  constructor(_context: unknown, _name: string, options: FakeWorkletNode["options"]) {
    this.options = options;
    FakeWorkletNode.made.push(this);
  }
  connect(): void {}
  disconnect(): void {}
  /** As the capture hands on a block of one channel. */
  send(samples: Float32Array, endFrame = 0): void {
    this.port.onmessage?.({ data: { channels: [samples], endFrame } });
  }
}

class FakeTrack {
  label = "Quay microphone";
  readyState = "live";
  onended: (() => void) | null = null;
  getSettings = () => ({ latency: 0.012, channelCount: 2, sampleRate: 44_100 });
  getCapabilities = () => ({ sampleRate: { min: 16_000, max: 48_000 } });
  stop(): void {
    this.readyState = "ended";
  }
}

let tracks: FakeTrack[];
let refuse: Error | undefined;
let asked: MediaTrackConstraints[];
let live: LiveSounds;
let transport: Transport;
const media = new EventTarget();

const input = (changes: Partial<InputSound> = {}): InputSound => ({
  ...newSoundBasics("mic", "Mic"),
  kind: "input",
  heard: false,
  device: { id: "quay", name: "Quay microphone" },
  channel: null,
  rateHz: null,
  bufferSamples: 256,
  echoCancelling: false,
  noiseSuppression: false,
  ...changes,
});
function sceneWith(sound: InputSound): Scene {
  const scene = newScene("Quay");
  scene.sounds.push(sound);
  const measure = { ...MEASURES.peak.defaults };
  scene.strands.push(newStrand(scene, "s", "S", { kind: "sound", id: "mic", tap: "before" }, measure));
  scene.strands[0].shaping.follow.on = false;
  scene.strands[0].shaping.window.on = false;
  return scene;
}
/** The worker, answering at once. */
class FakeWorker {
  private onMessage: (event: { data: FromStrands }) => void = () => {};
  private readonly host = new StrandHost((data) => this.onMessage({ data }));
  addEventListener(_kind: string, listener: (event: { data: FromStrands }) => void) {
    this.onMessage = listener;
  }
  postMessage(message: ToStrands) {
    this.host.take(message);
  }
  terminate() {}
}
const mic = () => live.inputs.get("mic")!;
/** Lets what was promised come. */
const settle = async () => {
  for (let i = 0; i < 8; i++) await Promise.resolve();
};

beforeEach(() => {
  tracks = [];
  asked = [];
  refuse = undefined;
  FakeWorkletNode.made = [];
  FakeAudioContext.made = [];
  FakeAudioContext.allowed = true;
  Object.assign(FakeAudioContext.prototype, {
    audioWorklet: { addModule: () => Promise.resolve() },
    createMediaStreamSource: () => ({ connect: () => {}, disconnect: () => {} }),
  });
  Object.assign(globalThis, {
    AudioContext: FakeAudioContext,
    AudioWorkletNode: FakeWorkletNode,
    Worker: FakeWorker,
  });
  Object.assign(media, {
    getUserMedia: async ({ audio }: { audio: MediaTrackConstraints }) => {
      asked.push(audio);
      expect(tracks.every(({ readyState }) => readyState === "ended")).toBe(true);
      if (refuse) throw refuse;
      const track = new FakeTrack();
      tracks.push(track);
      return { getAudioTracks: () => [track], getTracks: () => [track] };
    },
  });
  Object.defineProperty(globalThis, "navigator", {
    value: { mediaDevices: media },
    configurable: true,
  });
  transport = new Transport();
  live = new LiveSounds(transport, { worklet: "processors.js", worker: "strands.js" });
});
afterEach(() => {
  live.dispose();
  transport.dispose();
});

describe("an input", () => {
  it("asks for the chosen device, without processing that would change the level", async () => {
    live.setScene(sceneWith(input({ rateHz: 44_100 })));
    expect(mic().state.kind).toBe("off");
    await mic().open(input({ rateHz: 44_100 }));
    expect(asked[0]).toMatchObject({
      deviceId: { exact: "quay" },
      sampleRate: { exact: 44_100 },
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
    });
    expect(mic().state).toEqual({
      kind: "running",
      deviceName: "Quay microphone",
      channelCount: 2,
      rateHz: 44_100,
      rates: [16_000, 22_050, 32_000, 44_100, 48_000],
    });
    expect(mic().latency).toMatchObject({ deviceS: 0.012, bufferS: 256 / 48_000 });
  });

  it("closes the old stream before another is opened, and opens none while it is off", async () => {
    live.setScene(sceneWith(input()));
    live.setScene(sceneWith(input({ bufferSamples: 1024 })));
    expect(asked).toHaveLength(0);
    await mic().open(input());
    live.setScene(sceneWith(input({ bufferSamples: 512 })));
    await settle();
    expect(tracks.map(({ readyState }) => readyState)).toEqual(["ended", "live"]);
    mic().close();
    expect([mic().state.kind, tracks[1].readyState]).toEqual(["off", "ended"]);
    // A stream that comes after it was switched off is let go at once.
    const late = mic().open(input());
    mic().close();
    await late;
    expect([mic().state.kind, tracks[2].readyState]).toEqual(["off", "ended"]);
  });

  it.each([
    ["NotAllowedError", "refused", /not allowed/],
    ["NotFoundError", "gone", /not connected/],
    ["NotReadableError", "other", /another program/],
    ["AbortError", "other", /could not be opened: no reason/],
  ])("says what to do after %s", async (name, reason, words) => {
    refuse = new DOMException("no reason", name);
    live.setScene(sceneWith(input()));
    await mic().open(input());
    expect(mic().state).toMatchObject({ kind: "failed", reason, message: expect.stringMatching(words) });
  });

  it("waits for a device that was pulled out, and resumes when it is back", async () => {
    const told = jest.fn();
    live.onChange(told);
    live.setScene(sceneWith(input()));
    await mic().open(input());
    tracks[0].onended!();
    expect(mic().state).toMatchObject({ kind: "failed", reason: "gone" });
    media.dispatchEvent(new Event("devicechange"));
    await settle();
    expect(mic().state.kind).toBe("running");
    expect(told).toHaveBeenCalled();
  });

  it("remembers a live strand's newest cues, on a clock that runs while the tape stands still", async () => {
    const scene = sceneWith(input());
    Object.assign(scene.strands[0].cues, { on: true, rule: "rise", mark: 0.5, gapMs: 0 });
    live.setScene(scene);
    await mic().open(input());
    const [capture] = FakeWorkletNode.made;
    const say = (level: number, blocks: number) => {
      for (let i = 0; i < blocks; i++) capture.send(new Float32Array(480).fill(level));
    };
    say(0, 12);
    const cuesNow = () => live.tracks()[0][1].cues!;
    expect(cuesNow()).toEqual([]);
    say(0.8, 12);
    say(0, 12);
    say(0.6, 12);
    expect(cuesNow().map(({ strength }) => Math.round(strength * 10) / 10)).toEqual([0.8, 0.6]);
    const [, track] = live.tracks()[0];
    live.update(performance.now(), undefined, 7);
    const nowS = track.positionS!(7);
    expect(nowS - track.positionS!(6.5)).toBeCloseTo(0.5, 6);
    expect(Math.abs(nowS - performance.now() / 1000)).toBeLessThan(1);
    for (const { timeS } of cuesNow()) expect(nowS - timeS).toBeLessThan(5);
    for (let i = 0; i < 80; i++) {
      say(0, 8);
      say(0.9, 8);
    }
    expect(cuesNow()).toHaveLength(64);
  });

  it("keeps an even pace beside a tape that moves in jumps, follows it when it is moved, and runs while it stands still", () => {
    live.setScene(sceneWith(input()));
    const [[, track]] = live.tracks();
    // A display of 60 frames a second, and a tape whose time moves on with each 1024 samples.
    const tapeAt = (nowS: number) => Math.floor(((nowS - 5) * 48_000) / 1024) * (1024 / 48_000);
    let [before, tapeBefore] = [0, 0];
    for (let frame = 0; frame < 600; frame++) {
      const nowS = 5 + frame / 60;
      const tapeS = tapeAt(nowS);
      live.update(nowS * 1000, undefined, tapeS);
      const position = track.positionS!(tapeS);
      if (frame > 120 && tapeS > tapeBefore) {
        // Simulations that step with the tape go over the same stretch of live time, to a millisecond.
        expect(Math.abs(track.positionS!(tapeBefore) - before)).toBeLessThan(0.001);
        expect(Math.abs(position - nowS)).toBeLessThan(0.03);
      }
      [before, tapeBefore] = [position, tapeS];
    }
    live.update(16_000, undefined, 90);
    expect(track.positionS!(90)).toBeCloseTo(16, 6);
    expect(track.positionS!(89)).toBeCloseTo(15, 6);
    live.update(17_000, undefined, 90);
    expect(track.positionS!(90)).toBeCloseTo(17, 6);
    // Nothing is known of what comes after now.
    expect(track.positionS!(95)).toBeCloseTo(17, 6);
  });

  it("gives strands one frame for each hop that comes in, and its blocks to whoever taps it", async () => {
    live.setScene(sceneWith(input()));
    await mic().open(input());
    const [capture] = FakeWorkletNode.made;
    const taken: number[] = [];
    const stop = live.tap("mic", ([samples]) => taken.push(samples.length));
    const [[, track]] = live.tracks();
    const loud = new Float32Array(256);
    loud[100] = -0.5;
    capture.send(loud);
    expect(trackValueAt(track, 0)).toBe(0);
    capture.send(new Float32Array(256));
    expect(trackValueAt(track, 0)).toBe(0.5);
    expect(trackValueAt(live.recordOf("s")!.raw, Number.POSITIVE_INFINITY)).toBe(0.5);
    expect(live.latenessOf("s")).toMatchObject({ windowS: 0.005 });
    for (let i = 0; i < 4; i++) capture.send(new Float32Array(256));
    expect(trackValueAt(track, 0)).toBe(0);
    // The last moments are not forgotten: copies may hear it later, and ribbons show it.
    live.update(performance.now(), undefined, 3);
    expect(
      Math.max(...[0.01, 0.02, 0.03, 0.04].map((agoS) => trackValueAt(track, 3 - agoS))),
    ).toBeGreaterThan(0.2);
    stop();
    capture.send(loud);
    expect(taken).toEqual(new Array(6).fill(256));
    expect(mic().history.at(-156)).toBe(-0.5);
    live.setScene(newScene("Empty"));
    expect([live.inputs.size, tracks[0].readyState]).toEqual([0, "ended"]);
  });
});

describe("meters", () => {
  it("show the largest sample, let it fall, hold it for a while, and keep the clip mark until it is put out", async () => {
    transport.setSounds([playable("song", [new Float32Array(4800)])]);
    const meters = new Meters(transport, "processors.js");
    expect(meters.read("song")).toMatchObject({ level: 0, clipped: false });
    transport.play();
    await settle();
    const { memory } = FakeWorkletNode.made[0].options.processorOptions;
    const floats = new Float32Array(memory);
    expect(floats).toHaveLength(2 * METER_FIELDS);
    floats[0] = 0.25;
    floats[1] = 1.5;
    floats[2] = 0.1;
    meters.update(1000);
    expect(meters.read("song")).toMatchObject({ level: 1.5, hold: 1.5, clipped: true });
    expect(meters.read("song").lufs).toBeCloseTo(-0.691 - 10, 6);
    // Taken once: what is not new falls, 26 dB in a second.
    meters.update(1500);
    expect(20 * Math.log10(meters.read("song").level / 1.5)).toBeCloseTo(-13, 6);
    expect(meters.read("song").hold).toBe(1.5);
    meters.update(2700);
    expect(meters.read("song").hold).toBeLessThan(0.1);
    meters.forgetClip("song");
    expect(meters.read("song").clipped).toBe(false);
    meters.dispose();
  });
});
