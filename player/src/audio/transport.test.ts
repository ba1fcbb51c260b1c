import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import { FakeAudioContext } from "../testing/fakeAudio";
import { type PlayableSound, Transport } from "./transport";

const sound = (id: string, seconds: number, changes: Partial<PlayableSound> = {}): PlayableSound => ({
  id,
  channels: [new Float32Array(seconds * 48_000).fill(0.5)],
  heard: true,
  faderDb: 0,
  ...changes,
});

let transport: Transport;
const context = () => FakeAudioContext.made[0];
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

  it("keeps the place over pauses and goes on from there", () => {
    transport.play();
    context().pass(AHEAD_S + 2);
    transport.pause();
    context().pass(5);
    expect(transport.positionS()).toBeCloseTo(2, 9);
    expect(context().sounding).toHaveLength(0);
    transport.play();
    expect(context().sounding[0].offsetS).toBeCloseTo(2, 9);
    context().pass(AHEAD_S + 1);
    expect(transport.positionS()).toBeCloseTo(3, 9);
  });

  it("goes on playing from where it is sent, and never outside the sound", () => {
    transport.play();
    context().pass(1);
    transport.seek(7);
    context().pass(AHEAD_S + 0.5);
    expect(transport.positionS()).toBeCloseTo(7.5, 9);
    expect(context().sounding).toHaveLength(1);
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

  it("plays heard sounds only, all from the same instant and place", () => {
    transport.setSounds([sound("a", 4), sound("b", 9), sound("quiet", 12, { heard: false })]);
    transport.seek(2);
    transport.play();
    const { sounding } = context();
    expect(sounding).toHaveLength(2);
    expect(new Set(sounding.map(({ startedAt, offsetS }) => `${startedAt} ${offsetS}`)).size).toBe(1);
    // Of equal length, so that loops cannot drift apart; what a short sound lacks is silence.
    expect(sounding.map(({ buffer }) => buffer!.duration)).toEqual([12, 12]);
    expect(sounding[0].buffer!.getChannelData(0)[4 * 48_000 + 5]).toBe(0);
    expect(transport.durationS).toBe(12);
  });

  it("stops at the end, and begins anew from there", () => {
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

  it("keeps its place when the system takes the sound away, and goes on when it gives it back", () => {
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
    expect(
      context().gains.at(-1)!.gain.value === 0.1 ||
        context().gains.some(({ gain }) => Math.abs(gain.value - 0.1) < 1e-9),
    ).toBe(true);
    expect(transport.positionS()).toBeCloseTo(1, 9);
  });

  it("goes on from the same place when sounds are exchanged while playing", () => {
    transport.play();
    context().pass(AHEAD_S + 4);
    transport.setSounds([sound("other", 20)]);
    expect(transport.state).toBe("playing");
    context().pass(AHEAD_S + 1);
    expect(transport.positionS()).toBeCloseTo(5, 9);
    transport.setSounds([sound("short", 2)]);
    expect(transport.positionS()).toBeCloseTo(2, 9);
    transport.setSounds([]);
    expect([transport.durationS, transport.positionS()]).toEqual([0, 0]);
  });

  it("does nothing without sounds, and tells of changes only while someone listens", () => {
    const empty = new Transport();
    let told = 0;
    const stop = empty.onChange(() => told++);
    empty.play();
    expect([empty.state, told]).toEqual(["paused", 0]);
    empty.seek(1);
    expect(told).toBe(1);
    stop();
    empty.seek(2);
    expect(told).toBe(1);
  });
});
