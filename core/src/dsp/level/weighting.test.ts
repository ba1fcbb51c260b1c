import { describe, expect, it } from "@jest/globals";
import { fanBands, fanReader, octaveCentreHz } from "../spectrum/fanBands";
import { AWeightedMeter, aWeight } from "./weighting";

/** IEC 61672-1:2013, table 3: nominal frequency and A-weighting in dB. */
const A_WEIGHTING: [nominalHz: number, db: number][] = [
  [10, -70.4],
  [12.5, -63.4],
  [16, -56.7],
  [20, -50.5],
  [25, -44.7],
  [31.5, -39.4],
  [40, -34.6],
  [50, -30.2],
  [63, -26.2],
  [80, -22.5],
  [100, -19.1],
  [125, -16.1],
  [160, -13.4],
  [200, -10.9],
  [250, -8.6],
  [315, -6.6],
  [400, -4.8],
  [500, -3.2],
  [630, -1.9],
  [800, -0.8],
  [1000, 0],
  [1250, 0.6],
  [1600, 1],
  [2000, 1.2],
  [2500, 1.3],
  [3150, 1.2],
  [4000, 1],
  [5000, 0.5],
  [6300, -0.1],
  [8000, -1.1],
  [10_000, -2.5],
  [12_500, -4.3],
  [16_000, -6.6],
  [20_000, -9.3],
];

/** The table's frequencies are nominal; the exact ones are powers of ten in tenths. */
const exact = (nominalHz: number) => 10 ** (Math.round(10 * Math.log10(nominalHz)) / 10);

describe("A-weighting", () => {
  it.each(A_WEIGHTING)("is at %d Hz what IEC 61672-1 says: %d dB", (nominalHz, db) => {
    expect(Math.abs(20 * Math.log10(aWeight(exact(nominalHz))) - db)).toBeLessThan(0.06);
  });

  /** Most above and below that class 1 allows, from each nominal frequency on: IEC 61672-1:2013, table 3. */
  const CLASS_1: [fromHz: number, above: number, below: number][] = [
    [10, 3, Number.POSITIVE_INFINITY],
    [12.5, 2.5, Number.POSITIVE_INFINITY],
    [16, 2, 4],
    [20, 2, 2],
    [25, 2, 1.5],
    [31.5, 1.5, 1.5],
    [40, 1, 1],
    [1000, 0.7, 0.7],
    [1250, 1, 1],
    [5000, 1.5, 1.5],
    [6300, 1.5, 2],
    [8000, 1.5, 2.5],
    [10_000, 2, 3],
    [12_500, 2, 5],
    [16_000, 2.5, 16],
    [20_000, 3, Number.POSITIVE_INFINITY],
  ];
  it.each(A_WEIGHTING)("filtered in time reads a tone of %d Hz within class 1 of %d dB", (nominalHz, db) => {
    const [, above, below] = CLASS_1.findLast(([fromHz]) => fromHz <= nominalHz)!;
    const hz = exact(nominalHz);
    const tone = Float32Array.from(
      { length: 144_000 },
      (_none, i) => 0.5 * Math.sin((2 * Math.PI * hz * i) / 48_000),
    );
    const meter = new AWeightedMeter(1);
    let level = 0;
    for (let frame = 0; frame <= 200; frame++) level = meter.levelAt(tone, frame * 480, frame);
    const off = 20 * Math.log10(level / 0.5) - db;
    // The table has tenths of a decibel.
    expect(Math.abs(off)).toBeLessThan(0.11);
    expect(off).toBeLessThan(above);
    expect(off).toBeGreaterThan(-below);
  });

  it("lets nothing through at 0 Hz", () => expect(aWeight(0)).toBe(0));
});

const base = { bands: 1024, perOctave: 1, lowHz: 20, highHz: 20_000 } as const;

describe("bands of a fan", () => {
  it("has the octave mid-band frequencies of IEC 61260-1", () => {
    const centres = fanBands({ ...base, layout: "octave" }).map(({ centreHz }) => centreHz);
    const published = [31.623, 63.096, 125.89, 251.19, 501.19, 1000, 1995.3, 3981.1, 7943.3, 15_849];
    expect(centres).toHaveLength(published.length);
    centres.forEach((hz, i) => {
      expect(hz / published[i]).toBeCloseTo(1, 4);
    });
  });

  it("has the third-octave ones, and halves lie between for even fractions", () => {
    const thirds = fanBands({ ...base, layout: "octave", perOctave: 3 }).map(({ centreHz }) => centreHz);
    expect(thirds).toHaveLength(31);
    expect([thirds[0], thirds[4], thirds[17], thirds[30]].map((hz) => Number(hz.toPrecision(5)))).toEqual([
      19.953, 50.119, 1000, 19_953,
    ]);
    expect(octaveCentreHz(0, 2)).toBeCloseTo(1000 * 10 ** 0.075, 6);
    expect(octaveCentreHz(0, 6)).toBeCloseTo(1000 * 10 ** 0.025, 6);
  });

  it("meets without gaps in every layout", () => {
    for (const layout of ["equal", "octave", "doubling", "constantQ", "mel"] as const) {
      const bands = fanBands({ ...base, layout, bands: 12, perOctave: 3 });
      expect(bands.length).toBeGreaterThan(5);
      bands.slice(1).forEach(({ lowHz }, i) => {
        expect(lowHz / bands[i].highHz).toBeCloseTo(1, 9);
      });
    }
  });

  it("is as wide as its layout says", () => {
    const widths = (layout: "equal" | "doubling") =>
      fanBands({ ...base, layout, bands: 4, lowHz: 0, highHz: 15_000 }).map(
        ({ lowHz, highHz }) => highHz - lowHz,
      );
    for (const width of widths("equal")) expect(width).toBeCloseTo(3750, 6);
    for (const [i, width] of widths("doubling").entries()) expect(width).toBeCloseTo(1000 * 2 ** i, 6);
    const mel = fanBands({ ...base, layout: "mel", bands: 2, lowHz: 0, highHz: 8000 });
    expect(2595 * Math.log10(1 + mel[0].highHz / 700)).toBeCloseTo(
      (2595 * Math.log10(1 + 8000 / 700)) / 2,
      6,
    );
    const q = fanBands({ ...base, layout: "constantQ", perOctave: 12, lowHz: 55, highHz: 880 });
    expect(q).toHaveLength(49);
    q.forEach(({ lowHz, centreHz, highHz }, i) => {
      expect(centreHz).toBeCloseTo(55 * 2 ** (i / 12), 6);
      expect(centreHz / (highHz - lowHz)).toBeCloseTo(17.31, 2);
    });
  });

  it("leaves the lowest of many growing bands 1 Hz wide, each as much wider as the one before", () => {
    for (const bands of [16, 64, 512]) {
      const made = fanBands({ ...base, layout: "doubling", bands, lowHz: 20, highHz: 20_000 });
      const widths = made.map(({ lowHz, highHz }) => highHz - lowHz);
      expect(widths[0]).toBeCloseTo(1, 6);
      for (let i = 2; i < bands; i++) expect(widths[i] / widths[i - 1]).toBeCloseTo(widths[1] / widths[0], 6);
      expect(made.at(-1)!.highHz).toBeCloseTo(20_000, 6);
    }
    const narrow = fanBands({ ...base, layout: "doubling", bands: 100, lowHz: 50, highHz: 75 });
    expect(narrow.every(({ lowHz, highHz }) => Math.abs(highHz - lowHz - 0.25) < 1e-9)).toBe(true);
  });

  it("takes octaves whose middle lies in the range, by nominal figures too, and no others", () => {
    const middles = (lowHz: number, highHz: number) =>
      fanBands({ ...base, layout: "octave", perOctave: 3, lowHz, highHz }).map(({ centreHz }) =>
        Math.round(centreHz),
      );
    expect(middles(63, 160)).toEqual([63, 79, 100, 126, 158]);
    expect(middles(65, 155)).toEqual([79, 100, 126]);
    expect(middles(12_500, 16_000)).toEqual([12_589, 15_849]);
  });

  it("gives 1 to 1024 bands, whatever is asked, and refuses what makes none", () => {
    for (const layout of ["equal", "doubling", "mel"] as const) {
      for (const bands of [1, 1024]) {
        const made = fanBands({ ...base, layout, bands });
        expect(made).toHaveLength(bands);
        expect(made.every(({ lowHz, highHz }) => Number.isFinite(lowHz) && highHz >= lowHz)).toBe(true);
      }
    }
    expect(fanBands({ ...base, layout: "octave", lowHz: 1100, highHz: 1101 })).toHaveLength(1);
    for (const bad of [
      { bands: 0 },
      { bands: 1025 },
      { bands: 1.5 },
      { lowHz: 30_000 },
      { lowHz: 300, highHz: 200 },
    ]) {
      expect(() => fanBands({ ...base, layout: "equal", ...bad })).toThrow(RangeError);
    }
  });

  it("sums to the level of the whole range, spreads it, or takes the strongest bin, with a tilt around 1 kHz", () => {
    const powers = Float32Array.from({ length: 1025 }, (_, bin) => ((bin * 7919) % 101) / 1e4);
    const bands = fanBands({ ...base, layout: "mel", bands: 9, lowHz: 100, highHz: 9000 });
    const out = new Float32Array(9);
    fanReader(bands, 2048, "sum", 0)(powers, 0, out, 0);
    const hz = 48_000 / 2048;
    let whole = 0;
    powers.forEach((power, bin) => {
      const inside = Math.min(9000, (bin + 0.5) * hz) - Math.max(100, (bin - 0.5) * hz);
      whole += 2 * power * Math.max(0, inside / hz);
    });
    expect(out.reduce((sum, level) => sum + level * level, 0) / whole).toBeCloseTo(1, 5);
    const [mean, most, tilted] = [0, 0, 0].map(() => new Float32Array(9));
    fanReader(bands, 2048, "mean", 0)(powers, 0, mean, 0);
    fanReader(bands, 2048, "max", 0)(powers, 0, most, 0);
    fanReader(bands, 2048, "sum", 6)(powers, 0, tilted, 0);
    bands.forEach(({ lowHz, highHz, centreHz }, i) => {
      expect((mean[i] / out[i]) ** 2).toBeCloseTo(hz / (highHz - lowHz), 5);
      const inside = powers.filter((_, bin) => (bin + 0.5) * hz > lowHz && (bin - 0.5) * hz < highHz);
      expect(most[i]).toBeCloseTo(Math.sqrt(2 * Math.max(...inside)), 6);
      expect(20 * Math.log10(tilted[i] / out[i])).toBeCloseTo(6 * Math.log2(centreHz / 1000), 4);
    });
  });
});
