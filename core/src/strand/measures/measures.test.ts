import { beforeAll, describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { analyseStrand, StrandAnalysis } from "../../analyse/strandAnalysis";
import { frameCount } from "../../constants";
import { loudnessPerFrame } from "../../dsp/level/loudness";
import { mixToMono } from "../../dsp/level/mix";
import { seededRandom } from "../../dsp/maths/random";
import { onsetBands } from "../../dsp/rhythm/onset";
import { makeNoise, makeTone } from "../../dsp/tone/tone";
import { loadScripts } from "../../program/scripts/loadScripts";
import { anyShaping } from "../../testing/anyShaping";
import { LiveCursor, LiveListening, LiveStrand } from "../hearing/live";
import { CachedSpectra, DirectSpectra } from "../hearing/spectra";
import { changeShaping, defaultShaping } from "../shape/shaping";
import {
  declarationOf,
  isUpsideDown,
  MEASURE_KINDS,
  MEASURES,
  type Measure,
  type MeasureKind,
  measureSound,
  measureWidth,
  windowLatencyS,
} from "./table";

const read = (samples: Float32Array, measure: Measure, channels?: Float32Array[]) =>
  measureSound({ samples, channels }, measure, new DirectSpectra());
const sine = (hz: number, level: number, seconds = 1) =>
  makeTone("sine", hz, Math.round(seconds * 48_000), level);
const defaults = <K extends MeasureKind>(kind: K) => MEASURES[kind].defaults;
const db = (level: number) => 20 * Math.log10(level);

describe("levels against closed forms", () => {
  it("reads RMS, mean absolute and peak of a sine", () => {
    // 1 kHz goes round ten times in each 10 ms.
    const samples = sine(1000, 0.5);
    expect(read(samples, defaults("rms"))[50]).toBeCloseTo(0.5 / Math.SQRT2, 6);
    expect(read(samples, defaults("meanAbsolute"))[50]).toBeCloseTo((0.5 * 2) / Math.PI, 3);
    expect(read(samples, defaults("peak"))[50]).toBeCloseTo(0.5, 6);
  });

  it("counts every sample in exactly one frame", () => {
    for (const at of [0, 239, 240, 719, 720, 4799]) {
      const samples = new Float32Array(4800);
      samples[at] = -0.7;
      for (const kind of ["peak", "rms", "meanAbsolute"] as const) {
        const hits = [...read(samples, defaults(kind))].flatMap((value, frame) => (value > 0 ? [frame] : []));
        // The last half hop lies nearest to the instant of the end, which is no frame of the sound.
        expect(hits).toEqual(at >= 4560 ? [] : [Math.floor((at + 240) / 480)]);
      }
    }
  });

  it("reads noise as its variance says", () => {
    const random = seededRandom(5);
    const samples = Float32Array.from({ length: 96_000 }, () => random() - 0.5);
    const mean = (values: Float32Array) =>
      Math.sqrt(values.reduce((sum, x) => sum + x * x, 0) / values.length);
    expect(mean(read(samples, defaults("rms")))).toBeCloseTo(Math.sqrt(1 / 12), 2);
    const absolute = read(samples, defaults("meanAbsolute"));
    expect(absolute.reduce((sum, x) => sum + x, 0) / absolute.length).toBeCloseTo(0.25, 2);
  });

  it.each([
    [50, -30.2],
    [100, -19.1],
    [1000, 0],
    [4000, 1],
    [10_000, -2.5],
  ])("weights a tone of %d Hz by %d dB", (hz, weight) => {
    const level = read(sine(hz, 0.5), { ...defaults("aWeighted"), averageMs: 400 })[50];
    expect(Math.abs(db(level / 0.5) - weight)).toBeLessThan(0.15);
  });

  it("reads loudness as BS.1770 has it: −3.01 LUFS for 997 Hz at full scale, 3 dB more in two channels", () => {
    const tone = sine(997, 1, 5);
    for (const kind of ["momentary", "shortTerm"] as const) {
      expect(db(read(tone, defaults(kind))[250])).toBeCloseTo(-3.01, 1);
      expect(db(read(tone, defaults(kind), [tone, tone])[250])).toBeCloseTo(0, 1);
    }
    const noise = makeNoise("pink", 144_000, 3, 0.4);
    const expected = loudnessPerFrame([noise], 0.4);
    const heard = read(noise, defaults("momentary"));
    for (let i = 25; i < 270; i += 7) expect(db(heard[i])).toBeCloseTo(expected[i], 3);
    expect(read(new Float32Array(9600), defaults("momentary"))[5]).toBe(0);
  });
});

describe("character against closed forms", () => {
  it("finds brightness where a tone is, in the middle of white noise, and nowhere in silence", () => {
    expect(read(sine(3000, 0.3), defaults("brightness"))[50]).toBeCloseTo(3000, -1.5);
    const white = read(makeNoise("white", 96_000, 8, 0.5), defaults("brightness"));
    const mean = white.slice(5, 190).reduce((sum, hz) => sum + hz, 0) / 185;
    expect(Math.abs(mean - 12_000)).toBeLessThan(150);
    expect(read(new Float32Array(4800), defaults("brightness"))[3]).toBe(0);
    // Two tones 20 dB apart: by level 10 to 1, by power 100 to 1; above a floor between them the loud one alone.
    const faint = sine(9000, 0.05);
    const both = sine(1000, 0.5).map((value, i) => value + faint[i]);
    const hz = (settings: object) =>
      read(both, { ...defaults("brightness"), fftSize: 8192, ...settings })[50];
    expect(hz({ floorDb: -100 })).toBeCloseTo(1000 + 8000 / 11, -2);
    expect(hz({ floorDb: -100, weights: "power" })).toBeCloseTo(1000 + 8000 / 101, -1);
    expect(hz({ floorDb: -20 })).toBeCloseTo(1000, -1);
  });

  it.each([60, 82.4, 146.8, 261.6, 440, 659.3, 1046.5, 1500])(
    "finds the pitch of a sung %d Hz within 5 cents",
    (hz) => {
      const formants = [
        [700, 200, 1],
        [1200, 250, 0.6],
        [2700, 400, 0.3],
      ];
      const samples = new Float32Array(24_000);
      for (let k = 1; k * hz < 10_000; k++) {
        const size = formants.reduce(
          (sum, [at, width, gain]) => sum + gain / (1 + ((k * hz - at) / width) ** 2),
          0.05,
        );
        for (let i = 0; i < samples.length; i++)
          samples[i] += 0.1 * size * Math.sin((2 * Math.PI * k * hz * i) / 48_000 + k * k);
      }
      const pitches = read(samples, defaults("pitch"));
      const sure = read(samples, defaults("certainty"));
      for (let frame = 6; frame < 44; frame++) {
        expect(Math.abs(1200 * Math.log2(pitches[frame] / hz))).toBeLessThan(5);
        expect(sure[frame]).toBeGreaterThan(0.95);
      }
    },
  );

  it("tells low third octaves apart by longer FFTs, each tone in its own band, and says how late that is", () => {
    const row = { ...defaults("fan"), layout: "octave", perOctave: 3, lowHz: 40, highHz: 1000 } as const;
    for (const [at, hz] of [39.8, 50.1, 63.1, 79.4].entries()) {
      const tone = sine(hz, 0.5, 2);
      const dbIn = (narrowBands: "same" | "longer") => {
        const numbers = read(tone, { ...row, narrowBands });
        const width = measureWidth({ ...row, narrowBands });
        return [...numbers.subarray(100 * width, 101 * width)].map((level) => db(level / 0.5));
      };
      const [same, longer] = [dbIn("same"), dbIn("longer")];
      expect(longer).toHaveLength(same.length);
      expect(Math.abs(longer[at])).toBeLessThan(1);
      longer.forEach((level, band) => {
        if (band !== at) expect(level).toBeLessThan(-14);
      });
      expect(Math.max(...same.filter((_level, band) => band !== at))).toBeGreaterThan(-6);
    }
    expect(windowLatencyS({ ...row, narrowBands: "longer" })).toBeCloseTo(16_384 / 2 / 48_000);
    expect(windowLatencyS({ ...row, narrowBands: "same" })).toBeCloseTo(2048 / 2 / 48_000);
    // High bands are read as before, to the bit.
    const noise = makeNoise("white", 48_000, 5, 0.5);
    const width = measureWidth(row);
    const last = (narrowBands: "same" | "longer") => read(noise, { ...row, narrowBands })[51 * width - 1];
    expect(last("longer")).toBe(last("same"));
  });

  it("is unsure of noise and finds no pitch in silence", () => {
    const noise = makeNoise("white", 48_000, 2, 0.5);
    const sure = read(noise, defaults("certainty"));
    expect(Math.max(...sure.slice(5, 95))).toBeLessThan(0.8);
    expect(Math.max(...read(noise, defaults("pitch")))).toBe(0);
    expect(Math.max(...read(new Float32Array(9600), defaults("certainty")))).toBe(0);
  });

  it("reads flatness: the geometric over the arithmetic mean of powers", () => {
    const noise = makeNoise("white", 48_000, 5, 0.5);
    const { fftSize, lowHz, highHz } = defaults("flatness");
    const powers = bruteForcePowers(noise, 50 * 480, fftSize);
    const binHz = 48_000 / fftSize;
    const inside = powers.filter(
      (_power, bin) => bin * binHz >= lowHz - binHz / 2 && bin * binHz <= highHz + binHz / 2,
    );
    const logs = inside.reduce((sum, power) => sum + Math.log(power), 0) / inside.length;
    const mean = inside.reduce((sum, power) => sum + power, 0) / inside.length;
    const flat = read(noise, defaults("flatness"));
    expect(flat[50]).toBeCloseTo(Math.exp(logs) / mean, 3);
    // Powers of a white noise are exponentially distributed: e to the power of minus Euler's constant.
    const all = flat.slice(5, 95).reduce((sum, one) => sum + one, 0) / 90;
    expect(Math.abs(all - Math.exp(-0.5772))).toBeLessThan(0.02);
    expect(read(sine(1000, 0.5), defaults("flatness"))[50]).toBeLessThan(1e-3);
    expect(read(new Float32Array(9600), defaults("flatness"))[10]).toBe(0);
  });

  it("reads the width of a stereo sound: side over mid and side", () => {
    const [one, other] = [3, 4].map((seed) => makeNoise("white", 24_000, seed, 0.5));
    const width = (left: Float32Array, right: Float32Array) =>
      read(
        left.map((x, i) => (x + right[i]) / 2),
        defaults("width"),
        [left, right],
      )[25];
    expect(width(one, one)).toBe(0);
    expect(
      width(
        one,
        one.map((x) => -x),
      ),
    ).toBe(1);
    expect(Math.abs(width(one, other) - 0.5)).toBeLessThan(0.05);
    // One side alone: as much in the middle as at the sides.
    expect(width(one, new Float32Array(24_000))).toBeCloseTo(0.5, 6);
    expect(read(one, defaults("width"))[25]).toBe(0);
  });

  it("ducks a strand by others, as deep as is said and never below nothing", () => {
    const track = (...values: number[]) => ({ width: 1, values: Float32Array.from(values) });
    const signal = {
      samples: new Float32Array(4 * 480),
      strands: [track(1, 1, 0.5, 0.5), track(0, 0.5, 1, 2)],
    };
    const ducked = (depth: number) =>
      [...measureSound(signal, { ...defaults("ducked"), depth }, new DirectSpectra())].slice(0, 4);
    expect(ducked(1)).toEqual([1, 0.5, 0, 0]);
    expect(ducked(0.5)).toEqual([1, 0.75, 0.25, 0.25]);
    expect(ducked(0)).toEqual([1, 1, 0.5, 0.5]);
  });

  it("reads onset strength as its definition says, from a spectrum of its own", () => {
    const samples = new Float32Array(9600);
    makeNoise("pink", 4800, 4, 0.6).forEach((x, i) => {
      samples[4800 + i] = x;
    });
    const { fftSize } = defaults("onset");
    const powers = (frame: number) => bruteForcePowers(samples, frame * 480, fftSize);
    const bands = onsetBands(fftSize);
    const binHz = 48_000 / fftSize;
    const compressed = (frame: number) => {
      const spectrum = powers(frame);
      return bands.map(({ lowHz, highHz }) => {
        let sum = 0;
        spectrum.forEach((power, bin) => {
          sum +=
            power * Math.max(0, Math.min(highHz / binHz, bin + 0.5) - Math.max(lowHz / binHz, bin - 0.5));
        });
        return Math.log10(1 + 1000 * Math.sqrt(2 * sum)) / Math.log10(1001);
      });
    };
    const rises = [9, 10].map((frame) => {
      const [before, now] = [compressed(frame - 1), compressed(frame)];
      return now.map((value, i) =>
        Math.max(0, value - Math.max(before[i - 1] ?? 0, before[i], before[i + 1] ?? 0)),
      );
    });
    // Over all of it, over a part, at either end, and over less than a band: the one below then.
    for (const [lowHz, highHz] of [
      [27, 17_000],
      [300, 800],
      [20, 60],
      [15_000, 24_000],
      [1000, 1001],
      [20_000, 24_000],
    ]) {
      const strengths = read(samples, { ...defaults("onset"), lowHz, highHz });
      const middles = bands.map((band) => (band.lowHz + band.highHz) / 2);
      const inside = middles.flatMap((hz, i) => (hz >= lowHz && hz <= highHz ? [i] : []));
      const counted = inside.length > 0 ? inside : [middles.findLastIndex((hz) => hz <= highHz)];
      for (const [at, frame] of [9, 10].entries()) {
        const mean = counted.reduce((sum, i) => sum + rises[at][i], 0) / counted.length;
        expect(strengths[frame]).toBeCloseTo(mean, 4);
      }
      expect(strengths[3]).toBe(0);
    }
  });

  it("hears no onset in a steady tone, and one where it begins", () => {
    const tone = new Float32Array(48_000);
    sine(500, 0.5, 0.5).forEach((x, i) => {
      tone[24_000 + i] = x;
    });
    const strengths = read(tone, { ...defaults("onset"), lowHz: 300, highHz: 800 });
    expect(strengths.indexOf(Math.max(...strengths))).toBeGreaterThanOrEqual(48);
    expect(strengths.indexOf(Math.max(...strengths))).toBeLessThanOrEqual(51);
    expect(Math.max(...strengths.slice(56, 96))).toBeLessThan(1e-3);
  });

  it("tells the share of a sound that has been played", () => {
    const position = read(new Float32Array(48_000), defaults("position"));
    expect([position[0], position[50], position[99]].map((x) => Number(x.toFixed(4)))).toEqual([
      0, 0.5, 0.99,
    ]);
  });
});

/** Powers of a Hann-windowed frame, term by term. */
function bruteForcePowers(samples: Float32Array, centre: number, size: number): number[] {
  const frame = Array.from({ length: size }, (_, n) => {
    const hann = 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size);
    return hann * (samples[centre - size / 2 + n] ?? 0);
  });
  const cosines = Float64Array.from({ length: size }, (_, n) => Math.cos((2 * Math.PI * n) / size));
  const squares = size * 0.375;
  return Array.from({ length: size / 2 + 1 }, (_, k) => {
    let re = 0;
    let im = 0;
    for (let n = 0; n < size; n++) {
      re += frame[n] * cosines[(k * n) % size];
      im += frame[n] * cosines[(k * n + size / 4) % size];
    }
    return ((k % (size / 2) === 0 ? 1 : 2) * (re * re + im * im)) / (size * squares);
  });
}

beforeAll(async () => {
  await loadScripts();
});
/** Code of a program that reads all that a sound offers. */
const codeOf = (kind: MeasureKind) =>
  kind === "program"
    ? "function next({ sound }: Moment) { return sound.level(440) + sound.level(90, 0.3) + Math.abs(sound.wave(1)); }"
    : undefined;

const FROM_SAMPLES = MEASURE_KINDS.filter((kind) => declarationOf(kind).reads.includes("samples"));
/** Beats of a live sound are told from what has been heard so far, and so differ. */
const SAME_LIVE = FROM_SAMPLES.filter((kind) => !["beatPhase", "barPhase", "position"].includes(kind));

describe("live sounds", () => {
  // Silence first, longer than any window: what remembers begins from rest live and over the whole sound alike.
  const samples = new Float32Array(140_000);
  samples.set(makeNoise("pink", 60_000, 9, 0.8), 76_800);
  sine(220, 0.4, 0.6).forEach((x, i) => {
    samples[95_000 + i] += x;
  });

  it.each(SAME_LIVE)(
    "gives the whole-sound numbers of %s to 1e-5, late by the length of its window",
    (kind) => {
      const measure = { ...declarationOf(kind).defaults };
      const shaping = defaultShaping(declarationOf(kind).unit);
      changeShaping(shaping, { average: { on: true, frames: 4 }, autoRange: { on: true, fallDbPerS: 5 } });
      const late = Math.round(windowLatencyS(measure) * 48_000);
      const tuning = { measure, shaping, code: codeOf(kind) };
      const whole = analyseStrand({ samples }, tuning, new CachedSpectra());
      // A live frame falls on each hop that arrives: silence in front puts them on the sound's own frames.
      const lead = (480 - (late % 480)) % 480;
      const live = new LiveStrand(tuning);
      const cursor = new LiveCursor();
      const heard = new Float32Array(16_384 + lead + samples.length + late);
      heard.set(samples, 16_384 + lead);
      let frame = -Math.floor((late + lead) / 480) + 1;
      const width = whole.shaped.width;
      for (let end = 16_384 + 480; end <= heard.length; end += 480, frame++) {
        if (frame < 0 || frame >= frameCount(samples.length)) continue;
        cursor.push(heard.subarray(0, end));
        live.readSamples(cursor);
        for (let band = 0; band < width; band++) {
          const [a, b] = [live.raw[band], whole.raw[frame * width + band]];
          expect(Math.abs(a - b)).toBeLessThanOrEqual(1e-5 * Math.max(1, b));
          expect(Math.abs(live.track.values[band] - whole.shaped.values[frame * width + band])).toBeLessThan(
            1e-5,
          );
        }
      }
      expect(frame).toBeGreaterThan(100);
    },
  );

  it("hears the same whatever the size of the blocks, bad samples as silence", () => {
    const tuning = { measure: defaults("band"), shaping: defaultShaping() };
    const run = (sizes: readonly number[]) => {
      const strand = new LiveStrand(tuning);
      const listening = new LiveListening();
      const numbers: number[] = [];
      for (let at = 0, i = 0; at < samples.length; i++) {
        const size = sizes[i % sizes.length];
        const hops = listening.take(samples.subarray(at, at + size), [strand]);
        for (let n = 0; n < hops; n++) numbers.push(strand.raw[0]);
        at += size;
      }
      return numbers.at(-1);
    };
    expect(run([128])).toBe(run([4096, 17, 480]));
    const strand = new LiveStrand(tuning);
    new LiveListening().take(new Float32Array(4800).fill(Number.NaN), [strand]);
    expect(strand.raw[0]).toBe(0);
  });

  it("finds the beat of a live sound within some seconds", () => {
    const clicks = new Float32Array(480_000);
    for (let at = 0; at < clicks.length; at += 24_000) clicks.set(makeNoise("white", 600, 1, 0.8), at);
    const strand = new LiveStrand({ measure: defaults("beatPhase"), shaping: defaultShaping("share") });
    const listening = new LiveListening();
    const turns: number[] = [];
    let before = 0;
    for (let frame = 0; frame < 1000; frame++) {
      listening.take(clicks.subarray(frame * 480, frame * 480 + 480), [strand]);
      if (strand.raw[0] < before - 0.5) turns.push(frame);
      before = strand.raw[0];
    }
    const gaps = turns.slice(-6).map((frame, i, all) => (i > 0 ? frame - all[i - 1] : 50));
    for (const gap of gaps) expect(Math.abs(gap - 50)).toBeLessThanOrEqual(2);
  });
});

/** Sounds that break things. */
const hostileSample = fc.oneof(
  fc.double({ min: -2, max: 2, noNaN: true }),
  fc.constantFrom(Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 1e-310, 1e-40, 3e38, -0),
);
const hostileSound = fc.oneof(
  fc.array(hostileSample, { minLength: 1, maxLength: 900 }),
  fc.constantFrom([0], [1], [Number.NaN]),
  fc.constantFrom(960, 3000).map((n) => Array.from({ length: n }, (_, i) => (i % 96 < 48 ? 1 : -1))),
  fc.constantFrom(480, 2000).map((n) => new Array<number>(n).fill(0)),
);

describe("whatever comes in", () => {
  it("never leaves 0..1 when clamped and never gives NaN, in any measure with any shaping", () => {
    fc.assert(
      fc.property(hostileSound, fc.constantFrom(...FROM_SAMPLES), anyShaping, (input, kind, made) => {
        const shaping = { ...defaultShaping(), ...made } as ReturnType<typeof defaultShaping>;
        shaping.clamp.on = true;
        shaping.output.on = false;
        const measure = { ...declarationOf(kind).defaults };
        if (measure.kind === "fan") Object.assign(measure, { layout: "mel", bands: 5 });
        const { samples } = mixToMono([Float32Array.from(input)]);
        const { raw, shaped, cues } = analyseStrand(
          { samples },
          {
            measure,
            shaping,
            code: codeOf(kind),
            cues: { on: true, rule: "peak", mark: 0.1, slack: 0, rise: 0.1, sensitivity: 3, gapMs: 0 },
          },
          new DirectSpectra(),
        );
        expect(raw.every(Number.isFinite)).toBe(true);
        expect(shaped.values).toHaveLength(frameCount(input.length) * shaped.width);
        expect(shaped.values.every((value) => value >= 0 && value <= 1)).toBe(true);
        expect(cues.every(({ timeS, strength }) => timeS >= 0 && strength >= 0 && strength <= 1)).toBe(true);
      }),
      { numRuns: 250 },
    );
  });

  it("gives the same in slices as at once, and with numbers that are known already", () => {
    const samples = makeNoise("white", 48_000, 7, 0.5);
    const tuning = { measure: defaults("fan"), shaping: defaultShaping() };
    const whole = analyseStrand({ samples }, tuning, new DirectSpectra());
    const sliced = new StrandAnalysis({ samples }, tuning, new CachedSpectra(100_000));
    while (!sliced.isDone) sliced.advance(7);
    expect(sliced.raw).toEqual(whole.raw);
    expect(sliced.shaped).toEqual(whole.shaped.values);
    const known = new StrandAnalysis({ samples }, tuning, new DirectSpectra(), {
      raw: whole.raw,
      width: sliced.width,
    });
    known.advance(1000);
    expect(known.shaped).toEqual(whole.shaped.values);
    expect(known.raw).toBe(whole.raw);
  });

  it("reports measures that a sound does not offer, and ranges that are upside down", () => {
    expect(() => read(new Float32Array(10), defaults("curve"))).toThrow(/reads curve/);
    expect(() => read(new Float32Array(10), { ...defaults("onset"), lowHz: 500, highHz: 200 })).toThrow(
      RangeError,
    );
    expect(isUpsideDown({ ...defaults("fan"), lowHz: 900, highHz: 200 })).toBe(true);
    expect(isUpsideDown(defaults("peak"))).toBe(false);
    for (const kind of MEASURE_KINDS) expect(MEASURES[kind].help).toMatch(/^[A-Z].*\.$/);
  });
});
