import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import { HOP_SAMPLES } from "@bumbrel/core/constants";
import { makeTone } from "@bumbrel/core/dsp/tone/tone";
import { defaultCues } from "@bumbrel/core/strand/cues";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { declarationOf, MEASURES, type Measure } from "@bumbrel/core/strand/measures/table";
import { defaultShaping } from "@bumbrel/core/strand/shape/shaping";
import type { Tuning } from "@bumbrel/core/strand/tuning";
import { beforeEach, describe, expect, it } from "@jest/globals";
import { type FromStrands, StrandHost } from "./strandHost";

/** A tone that swells three times, for three seconds. */
const sound = makeTone("sine", 220, 144_000, 0.5).map(
  (x, i) => x * Math.max(0, Math.sin((2 * Math.PI * i) / 48_000)),
);
const tuning = (measure: Measure, cues = false): Tuning => ({
  measure,
  shaping: defaultShaping(MEASURES[measure.kind].unit),
  cues: { ...defaultCues(), on: cues, mark: 0.3 },
});
const band = (lowHz: number, highHz: number) => tuning({ ...MEASURES.band.defaults, lowHz, highHz });

let said: Extract<FromStrands, { kind: "numbers" }>[];
let host: StrandHost;
beforeEach(() => {
  said = [];
  host = new StrandHost((message) => message.kind === "numbers" && said.push(message));
});
const listen = (strands: { id: string; tuning: Tuning }[], soundId = "mic") =>
  host.take({ kind: "listen", soundId, strands });

/** Sends the sound in blocks of some size, and gives one number after the other as they came back. */
function hear(size: number, soundId = "mic", from = 0, to = sound.length): void {
  for (let at = from; at < to; at += size) {
    host.take({
      kind: "block",
      soundId,
      samples: sound.slice(at, Math.min(to, at + size)),
      sentMs: at,
    });
  }
}
const numbersOf = (id: string) =>
  said.map(({ strands }) => strands.find((one) => one.id === id)!).filter((one) => one !== undefined);

describe("strands of live inputs", () => {
  it("have the numbers of the whole sound, as late as their measure looks ahead", () => {
    const fan = tuning({ ...MEASURES.fan.defaults, bands: 6 });
    const tunings = { low: band(100, 400), loud: tuning(MEASURES.rms.defaults), fan };
    listen(Object.entries(tunings).map(([id, tuning]) => ({ id, tuning })));
    hear(HOP_SAMPLES);
    expect(said).toHaveLength(sound.length / HOP_SAMPLES);
    for (const [id, one] of Object.entries(tunings)) {
      const ahead = declarationOf(one.measure.kind).ahead(one.measure as never);
      // A frame that is heard live ends with the newest sample: its middle lies `ahead` before, not on the grid.
      const late = new Float32Array(sound.length + HOP_SAMPLES);
      late.set(sound, ahead % HOP_SAMPLES);
      const whole = analyseStrand({ samples: late }, one, new DirectSpectra());
      const { width } = whole.shaped;
      const behind = Math.floor(ahead / HOP_SAMPLES);
      const live = numbersOf(id);
      for (let frame = 40; frame < 280; frame += 7) {
        for (let i = 0; i < width; i++) {
          const raw = whole.raw[frame * width + i];
          expect(Math.abs(live[frame + behind - 1].raw[i] - raw)).toBeLessThan(1e-5);
        }
      }
    }
  });

  it("are the same in blocks of any size, and say which block they are of", () => {
    listen([{ id: "low", tuning: band(100, 400) }]);
    hear(HOP_SAMPLES);
    const fine = numbersOf("low").map(({ shaped }) => shaped[0]);
    for (const size of [128, 2048]) {
      said = [];
      host.take({ kind: "stop", soundId: "mic" });
      listen([{ id: "low", tuning: band(100, 400) }]);
      hear(size);
      expect(numbersOf("low").flatMap(({ shaped }) => [...shaped])).toEqual(fine);
      expect(said[0].sentMs).toBe(size === 128 ? 3 * 128 : 0);
    }
  });

  it("count their cues", () => {
    listen([{ id: "hit", tuning: tuning(MEASURES.band.defaults, true) }]);
    listen([{ id: "hit", tuning: { ...band(100, 400), cues: { ...defaultCues(), on: true, mark: 0.3 } } }]);
    hear(1920);
    const last = numbersOf("hit").at(-1)!;
    expect(last.cueCount).toBe(3);
    expect(last.cueStrength).toBeGreaterThan(0.3);
    expect(last.cueStrength).toBeLessThanOrEqual(1);
  });

  it("continue while others are tuned, start over when they are, and end when they are removed", () => {
    const slow = { ...band(100, 400) };
    slow.shaping = structuredClone(slow.shaping);
    slow.shaping.follow = { ...slow.shaping.follow, on: true, attackMs: 2000, releaseMs: 2000 };
    listen([
      { id: "a", tuning: slow },
      { id: "b", tuning: slow },
    ]);
    hear(480, "mic", 0, 24_000);
    const before = numbersOf("a").at(-1)!.shaped[0];
    const changed = structuredClone(slow);
    changed.shaping.gain = { ...changed.shaping.gain, on: true, db: 0.001 };
    listen([
      { id: "a", tuning: structuredClone(slow) },
      { id: "b", tuning: changed },
    ]);
    said = [];
    hear(480, "mic", 24_000, 24_480);
    expect(Math.abs(numbersOf("a")[0].shaped[0] - before)).toBeLessThan(0.02);
    expect(numbersOf("b")[0].shaped[0]).toBeLessThan(before / 2);
    listen([{ id: "a", tuning: slow }]);
    said = [];
    hear(480, "mic", 24_480, 24_960);
    expect(said[0].strands.map(({ id }) => id)).toEqual(["a"]);
  });

  it("say nothing of inputs that nobody listens to, and keep two inputs apart", () => {
    hear(480, "mic", 0, 4800);
    listen([]);
    hear(480, "mic", 0, 4800);
    expect(said).toEqual([]);
    listen([{ id: "a", tuning: band(100, 400) }], "left");
    listen([{ id: "b", tuning: band(100, 400) }], "right");
    hear(480, "left", 9600, 19_200);
    host.take({ kind: "block", soundId: "right", samples: new Float32Array(480), sentMs: 1 });
    expect(numbersOf("b").at(-1)!.raw[0]).toBe(0);
    expect(numbersOf("a").at(-1)!.raw[0]).toBeGreaterThan(0.01);
    host.take({ kind: "stop", soundId: "left" });
    said = [];
    hear(480, "left", 0, 4800);
    expect(said).toEqual([]);
  });

  it("take bad samples as silence", () => {
    listen([{ id: "a", tuning: tuning(MEASURES.rms.defaults) }]);
    host.take({
      kind: "block",
      soundId: "mic",
      samples: new Float32Array(960).fill(Number.NaN),
      sentMs: 0,
    });
    expect(numbersOf("a").map(({ raw, shaped }) => [raw[0], shaped[0]])).toEqual([[0, 0]]);
  });
});
