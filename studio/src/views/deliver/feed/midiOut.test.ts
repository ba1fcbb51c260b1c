import type { Track } from "@bumbrel/core/strand/track";
import { describe, expect, it } from "@jest/globals";
import { MidiOut } from "./midiOut";

const track = (values: number[], more: Partial<Track> = {}): Track => ({
  width: 1,
  values: Float32Array.from(values),
  ...more,
});

function playing(tracks: Record<string, Track>) {
  const messages: [number[], number | undefined][] = [];
  const out = new MidiOut({ send: (data, atMs) => void messages.push([data, atMs]) });
  const strands = Object.keys(tracks).map((id) => ({ id }));
  return {
    messages,
    at: (timeS: number) => out.update(strands, (id) => tracks[id], timeS, timeS * 1000),
    out,
  };
}

describe("MIDI out", () => {
  it("sends a strand as a controller, when it changes and only then", () => {
    const { messages, at, out } = playing({ a: track([0, 0, 0.5, 1]), b: track([1, 1, 1, 1]) });
    at(0);
    expect(messages.map(([data]) => data)).toEqual([
      [0xb0, 20, 0],
      [0xb0, 21, 127],
    ]);
    at(0.01);
    expect(messages).toHaveLength(2);
    at(0.02);
    expect(messages.at(-1)).toEqual([[0xb0, 20, 64], undefined]);
    expect(out.sent).toBe(3);
  });

  it("strikes a note at each cue that the tape passes, and ends it", () => {
    const { messages, at } = playing({ a: track([0, 0, 0], { cues: [{ timeS: 0.3, strength: 0.5 }] }) });
    for (const timeS of [0.1, 0.25, 0.35, 0.4]) at(timeS);
    expect(messages.slice(1)).toEqual([
      [[0x90, 36, 64], undefined],
      [[0x80, 36, 0], 400],
    ]);
  });

  it("strikes nothing when the tape jumps, and goes round with a sound that loops", () => {
    const cues = [{ timeS: 0.1, strength: 1 }];
    const { messages, at } = playing({ a: track(new Array(100).fill(0), { cues, loopS: 1 }) });
    at(0.05);
    at(4);
    expect(messages).toHaveLength(1);
    at(4.05);
    at(4.15);
    at(4.98);
    at(5.2);
    expect(messages.filter(([[status]]) => status === 0x90)).toHaveLength(2);
  });

  it("keeps to 7 bits, whatever the numbers are", () => {
    const { messages, at } = playing({ a: track([7]), b: track([-3]) });
    at(0);
    expect(messages.map(([[, , value]]) => value)).toEqual([127, 0]);
  });
});
