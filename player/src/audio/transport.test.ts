import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import { FakeAudioContext, playable } from "../testing/fakeAudio";
import { type PlayableSound, Transport } from "./transport";

const sound = (id: string, seconds: number, changes: Partial<PlayableSound> = {}) =>
  playable(id, [new Float32Array(seconds * 48_000).fill(0.5)], changes);
/** A sound whose every sample is its own number, so that what is rendered tells its place. */
const counting = (id: string, length: number, changes: Partial<PlayableSound> = {}) =>
  playable(id, [Float32Array.from({ length }, (_, i) => i + 1)], changes);

let transport: Transport;
const context = () => {
  const [made] = FakeAudioContext.made;
  made.onPass = () => jest.advanceTimersByTime(100);
  return made;
};
/** Samples that reach a sound's strip, from a sample of the audio clock on. */
const renderedOf = (id: string, fromFrame: number, count: number) =>
  context().rendered(transport.entryOf(id), fromFrame, count);
const frameNow = () => Math.ceil(context().currentTime * 48_000);
/** As {@link frameNow}, for a context that may not be there yet. */
const frameNowBefore = () => (FakeAudioContext.made.length > 0 ? frameNow() : 0);
/** Start-up time that sources are given; what is heard begins after it. */
const AHEAD_S = 0.02;

beforeEach(() => {
  jest.useFakeTimers();
  FakeAudioContext.made = [];
  FakeAudioContext.allowed = true;
  Object.assign(globalThis, { AudioContext: FakeAudioContext });
  transport = new Transport();
  transport.setSounds([sound("mix", 10), sound("drums", 8, { heard: false })]);
});
afterEach(() => {
  transport.dispose();
  jest.useRealTimers();
});

describe("Transport", () => {
  it("makes no audio context before anyone wants to hear something", () => {
    transport.seek(3);
    transport.setLoop(true);
    expect(FakeAudioContext.made).toHaveLength(0);
    expect([transport.positionS(), transport.durationS, transport.state]).toEqual([3, 10, "paused"]);
  });

  it("reads the position from the audio clock", () => {
    transport.play();
    expect(transport.state).toBe("playing");
    context().pass(AHEAD_S + 1.25);
    expect(transport.positionS()).toBeCloseTo(1.25, 9);
    context().outputLatency = 0.1;
    expect(transport.positionS()).toBeCloseTo(1.15, 9);
  });

  it("keeps its position over a pause and resumes from there", () => {
    transport.play();
    context().pass(AHEAD_S + 2);
    transport.pause();
    context().pass(5);
    expect(transport.positionS()).toBeCloseTo(2, 9);
    expect(renderedOf("mix", frameNow(), 4800).every((x) => x === 0)).toBe(true);
    transport.play();
    context().pass(AHEAD_S + 1);
    expect(transport.positionS()).toBeCloseTo(3, 9);
  });

  it("keeps playing from where it is moved to, and never outside the sound", () => {
    transport.play();
    context().pass(1);
    transport.seek(7);
    context().pass(AHEAD_S + 0.5);
    expect(transport.positionS()).toBeCloseTo(7.5, 9);
    // One copy of it at a time: its samples, not twice them.
    expect([...renderedOf("mix", frameNow(), 3)]).toEqual([0.5, 0.5, 0.5]);
    transport.pause();
    for (const [wanted, got] of [
      [-4, 0],
      [99, 10],
      [Number.NaN, 0],
    ]) {
      transport.seek(wanted);
      expect(transport.positionS()).toBe(got);
    }
  });

  it("starts all sounds on the same sample, and lets short ones end in silence", () => {
    transport.setSounds([counting("a", 96_000), counting("b", 384_000, { heard: false })]);
    transport.seek(1.5);
    const before = frameNowBefore();
    transport.play();
    const [a, b] = ["a", "b"].map((id) => renderedOf(id, before, 48_000));
    const first = a.findIndex((x) => x > 0);
    expect(a[first]).toBe(72_001);
    expect(b.findIndex((x) => x > 0)).toBe(first);
    expect(b[first]).toBe(72_001);
    context().pass(1);
    expect(renderedOf("a", frameNow(), 4800).every((x) => x === 0)).toBe(true);
    expect(renderedOf("b", frameNow(), 4800).every((x) => x > 0)).toBe(true);
    expect(transport.durationS).toBe(8);
  });

  it("keeps grouped sounds on the same sample after 50 seeks and loops", () => {
    const random = seededRandom(50);
    const group = { runs: "alone", loops: true, unitId: "band" } as const;
    transport.setSounds([
      counting("mix", 200_000, group),
      counting("stem", 199_990, group),
      counting("tape", 300_000),
    ]);
    transport.playUnit("band");
    let compared = 0;
    for (let i = 0; i < 50; i++) {
      const toS = random() * 4.1;
      transport.seekUnit("band", toS);
      context().pass(0.05 + random() * 6);
      const from = frameNow();
      const [mix, stem] = ["mix", "stem"].map((id) => renderedOf(id, from, 9600));
      for (let k = 0; k < mix.length; k++) {
        // The stem is ten samples shorter and waits for the mix to go round.
        const wanted = mix[k] > 199_990 ? 0 : mix[k];
        if (stem[k] !== wanted) throw new Error(`after seek ${i}: ${mix[k]} beside ${stem[k]}`);
        if (mix[k] > 0) compared++;
      }
      const heard = transport.unitPositionS("band") * 48_000;
      expect(Math.abs(mix[0] - 1 - heard)).toBeLessThanOrEqual(1);
    }
    expect(compared).toBeGreaterThan(400_000);
    expect(transport.state).toBe("paused");
  });

  it("starts grouped sounds on the same sample when the machine stands still past the lead", () => {
    const group = { runs: "alone", loops: true, unitId: "band" } as const;
    transport.setSounds([counting("mix", 96_000, group), counting("stem", 96_000, group)]);
    transport.ensureContext();
    const made = context();
    const create = made.createBuffer.bind(made);
    let standstills = 0;
    made.createBuffer = (...shape) => {
      // While the first sound is handed over, 50 ms pass: its lead is 20.
      if (standstills++ === 0) made.currentTime += 0.05;
      return create(...shape);
    };
    transport.playUnit("band");
    const begun = made.sources.filter(({ stoppedAt }) => stoppedAt > made.currentTime);
    expect(Math.min(...begun.map(({ startedAt }) => startedAt!))).toBeGreaterThan(made.currentTime);
    const from = frameNow();
    const [mix, stem] = ["mix", "stem"].map((id) => renderedOf(id, from, 24_000));
    expect(mix.some((x) => x > 0)).toBe(true);
    expect(stem).toEqual(mix);
  });

  it("hands grouped sounds on in one source, so that none begins later than another however late that is", () => {
    const group = { runs: "alone", loops: true, unitId: "band" } as const;
    const stereo = playable("pair", [Float32Array.of(1, 2, 3), Float32Array.of(4, 5, 6)], group);
    transport.setSounds([counting("mix", 96_000, group), stereo, counting("stem", 96_000, group)]);
    transport.playUnit("band");
    const [first] = context().sources;
    expect(context().sources.every(({ startedAt }) => startedAt !== undefined)).toBe(true);
    expect([0, 1, 2, 3].map((channel) => first.buffer!.getChannelData(channel)[2])).toEqual([3, 3, 6, 3]);
    context().pass(0.2);
    // One of them gives way while the others are heard on.
    const from = frameNow() + 2400;
    transport.setSounds([counting("mix", 96_000, group), stereo]);
    context().pass(0.2);
    expect(renderedOf("stem", from, 4800).every((x) => x === 0)).toBe(true);
  });

  it("lets a sound that runs alone keep a place of its own", () => {
    transport.setSounds([counting("song", 480_000), counting("bell", 96_000, { runs: "alone" })]);
    transport.playUnit("bell");
    context().pass(AHEAD_S + 0.75);
    expect([transport.state, transport.stateOf("bell")]).toEqual(["paused", "playing"]);
    transport.pauseUnit("bell");
    transport.play();
    context().pass(AHEAD_S + 2);
    expect(transport.unitPositionS("bell")).toBeCloseTo(0.75, 6);
    expect(transport.positionS()).toBeCloseTo(2, 6);
    transport.playUnit("bell");
    context().pass(AHEAD_S + 0.5);
    expect(transport.unitPositionS("bell")).toBeCloseTo(1.25, 6);
    context().pass(2);
    expect([transport.stateOf("bell"), transport.unitPositionS("bell")]).toEqual(["paused", 2]);
    transport.playUnit("bell");
    expect(transport.unitPositionS("bell")).toBe(0);
    expect(transport.durationS).toBe(10);
  });

  it("goes round a stretch of the tape without losing a sample, and short sounds round by themselves", () => {
    transport.setSounds([counting("song", 480_000), counting("tick", 1000, { loops: true })]);
    transport.setLoop(true, { fromS: 1, toS: 1.25 });
    transport.seek(0.9);
    transport.play();
    const start = frameNowBefore();
    context().pass(2);
    const song = renderedOf("song", start, 96_000);
    const tick = renderedOf("tick", start, 96_000);
    const first = song.findIndex((x) => x > 0);
    for (let k = 0; k < 90_000; k++) {
      const elapsed = 43_200 + k;
      const position = elapsed < 60_000 ? elapsed : 48_000 + ((elapsed - 48_000) % 12_000);
      if (song[first + k] - 1 !== position || tick[first + k] - 1 !== position % 1000)
        throw new Error(`sample ${k}: ${song[first + k]} and ${tick[first + k]}, not those of ${position}`);
    }
    expect(transport.positionS()).toBeGreaterThanOrEqual(1);
    expect(transport.positionS()).toBeLessThan(1.25);
    // Sent behind the stretch, it begins with the stretch.
    transport.seek(5);
    context().pass(AHEAD_S + 0.1);
    expect(transport.positionS()).toBeCloseTo(1.1, 3);
  });

  it("stops at the end, and starts over from there", () => {
    transport.seek(9.5);
    transport.play();
    context().pass(1);
    expect([transport.state, transport.positionS()]).toEqual(["paused", 10]);
    transport.play();
    context().pass(AHEAD_S + 0.25);
    expect(transport.positionS()).toBeCloseTo(0.25, 9);
  });

  it("reaches the end even when nothing is heard", () => {
    transport.setSounds([sound("drums", 2, { heard: false })]);
    transport.play();
    context().pass(1);
    expect(transport.state).toBe("playing");
    context().pass(1.5);
    expect([transport.state, transport.positionS()]).toEqual(["paused", 2]);
  });

  it("goes round and round while it loops", () => {
    transport.setLoop(true);
    transport.seek(9);
    transport.play();
    context().pass(AHEAD_S + 23.5);
    expect(transport.state).toBe("playing");
    expect(transport.positionS()).toBeCloseTo(2.5, 9);
    transport.setLoop(false);
    expect(transport.positionS()).toBeCloseTo(2.5, 9);
    context().pass(AHEAD_S + 8);
    expect(transport.state).toBe("paused");
  });

  it("says that it is held only while the browser really holds sound back", async () => {
    FakeAudioContext.allowed = false;
    transport.play();
    expect(transport.state).toBe("paused");
    jest.advanceTimersByTime(400);
    expect(transport.state).toBe("held");
    context().pass(3);
    expect(transport.positionS()).toBe(0);
    FakeAudioContext.allowed = true;
    transport.play();
    expect(transport.state).toBe("playing");
    jest.advanceTimersByTime(1000);
    expect(transport.state).toBe("playing");
  });

  it("forgets that it was held when it is paused", () => {
    FakeAudioContext.allowed = false;
    transport.play();
    jest.advanceTimersByTime(400);
    transport.pause();
    expect(transport.state).toBe("paused");
    FakeAudioContext.allowed = true;
    void context().resume();
    expect(transport.state).toBe("paused");
  });

  it("keeps its place when the system takes the sound away, and resumes when it gives it back", () => {
    transport.play();
    context().pass(AHEAD_S + 3);
    context().interrupt();
    expect(transport.state).toBe("held");
    expect(transport.positionS()).toBeCloseTo(3, 9);
    void context().resume();
    expect(transport.state).toBe("playing");
    context().pass(AHEAD_S + 1);
    expect(transport.positionS()).toBeCloseTo(4, 9);
  });

  it("moves a fader without starting anything over", () => {
    const mix = sound("mix", 10);
    transport.setSounds([mix]);
    transport.play();
    context().pass(AHEAD_S + 1);
    const before = context().sources.length;
    transport.setSounds([{ ...mix, faderDb: -20 }]);
    expect(context().sources).toHaveLength(before);
    expect(context().gains.some(({ gain }) => Math.abs(gain.value - 0.1) < 1e-9)).toBe(true);
    expect(transport.positionS()).toBeCloseTo(1, 9);
  });

  it("lets the others play on untouched when one sound is exchanged", () => {
    const song = counting("song", 480_000);
    transport.setSounds([song, counting("click", 480_000)]);
    transport.play();
    context().pass(AHEAD_S + 2);
    const before = renderedOf("song", 0, 200_000);
    const sources = context().sources.length;
    const other = playable("click", [new Float32Array(480_000).fill(-7)]);
    transport.setSounds([song, other]);
    expect(renderedOf("song", 0, 200_000)).toEqual(before);
    const from = frameNow() + 960;
    expect(renderedOf("click", from - 2, 2).every((x) => x > 0)).toBe(true);
    expect([...renderedOf("click", from, 3)]).toEqual([-7, -7, -7]);
    context().pass(3);
    expect([...renderedOf("click", frameNow(), 2)]).toEqual([-7, -7]);
    expect(renderedOf("song", frameNow(), 1)[0] - 1).toBeCloseTo(transport.positionS() * 48_000, -1);
    expect(context().sources.length).toBeGreaterThan(sources);
    // One that makes the tape longer takes a fresh start, from the same place.
    transport.setSounds([song, counting("long", 960_000)]);
    expect([transport.state, transport.durationS]).toEqual(["playing", 20]);
    expect(transport.positionS()).toBeCloseTo(5, 1);
  });

  it("continues from the same position when sounds are exchanged while playing", () => {
    transport.play();
    context().pass(AHEAD_S + 4);
    transport.setSounds([sound("other", 20)]);
    expect(transport.state).toBe("playing");
    context().pass(AHEAD_S + 1);
    expect(transport.positionS()).toBeCloseTo(5, 9);
    transport.setSounds([sound("short", 2)]);
    expect(transport.positionS()).toBeCloseTo(2, 9);
    transport.setSounds([]);
    expect([transport.durationS, transport.positionS()]).toEqual([0, 2]);
  });

  it("runs on without sounds until it is paused, and makes room for a sound that comes", () => {
    const empty = new Transport();
    empty.setLoop(true);
    empty.play();
    const own = FakeAudioContext.made.at(-1)!;
    own.onPass = () => jest.advanceTimersByTime(100);
    own.pass(AHEAD_S + 5000);
    expect([empty.state, empty.durationS]).toEqual(["playing", 0]);
    expect(empty.positionS()).toBeCloseTo(5000, 6);
    empty.pause();
    own.pass(10);
    expect(empty.positionS()).toBeCloseTo(5000, 6);
    empty.seek(3);
    empty.play();
    own.pass(AHEAD_S + 1);
    empty.setSounds([sound("late", 10)]);
    own.pass(AHEAD_S + 1);
    expect([empty.state, empty.positionS()]).toEqual(["playing", expect.closeTo(5, 3)]);
    empty.seek(400);
    expect(empty.positionS()).toBeLessThanOrEqual(10);
    empty.dispose();
  });

  it("tells of changes only while someone listens", () => {
    let told = 0;
    const stop = transport.onChange(() => told++);
    transport.seek(1);
    expect(told).toBe(1);
    stop();
    transport.seek(2);
    expect(told).toBe(1);
  });
});
