import { SPECTROGRAM_ROWS, spectrogram } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { makeTone } from "@bumbrel/core/dsp/tone/tone";
import { describe, expect, it } from "@jest/globals";
import { LiveSpectrogram } from "./liveSpectrogram";

const AXIS = { kind: "log", lowHz: 30, highHz: 16_000 } as const;
const FFT_SIZE = 1024;
const sweep = makeTone("sine", { fromHz: 60, toHz: 9000, sweep: "logarithmic" }, 48_000, 0.5);

/** Sends a sound in blocks, as an input with a history of a fifth of a second gives it on. */
function heard(live: LiveSpectrogram, block: number): void {
  const history = new Float32Array(9600);
  for (let at = 0; at < sweep.length; at += block) {
    const part = sweep.subarray(at, Math.min(sweep.length, at + block));
    history.copyWithin(0, part.length);
    history.set(part, history.length - part.length);
    live.take(history, part.length);
  }
}

describe("the spectrogram of a live input", () => {
  it.each([128, 480, 1024, 4800])("has a column for each hop, whatever the blocks (%d)", (block) => {
    const live = new LiveSpectrogram(100, AXIS, FFT_SIZE);
    heard(live, block);
    expect(live.count).toBe(100);
    // A window that ends with a hop is centred half a window before; the whole sound is moved by as much.
    const late = new Float32Array(sweep.length + FFT_SIZE);
    late.set(sweep, FFT_SIZE / 2);
    const whole = spectrogram(late, 1, 100, SPECTROGRAM_ROWS, AXIS, FFT_SIZE);
    expect(live.levels).toEqual(whole);
  });

  it("goes round when there are more hops than it keeps", () => {
    const all = new LiveSpectrogram(100, AXIS, FFT_SIZE);
    const few = new LiveSpectrogram(30, AXIS, FFT_SIZE);
    heard(all, 480);
    heard(few, 480);
    expect(few.count).toBe(100);
    const column = (of: LiveSpectrogram, at: number) =>
      of.levels.slice(at * SPECTROGRAM_ROWS, (at + 1) * SPECTROGRAM_ROWS);
    for (let n = 70; n < 100; n++) expect(column(few, n % 30)).toEqual(column(all, n));
  });
});
