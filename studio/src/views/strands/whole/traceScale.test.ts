import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { MEASURES, type MeasureKind } from "@bumbrel/core/strand/measures/table";
import { describe, expect, it } from "@jest/globals";
import { traceScale } from "./traceScale";

function scaleOf(
  kind: MeasureKind,
  highest: number,
  change: (strand: ReturnType<typeof newStrand>) => void = () => {},
) {
  const strand = newStrand(newScene("Quay"), "s", "S", { kind: "nothing" }, MEASURES[kind].defaults);
  change(strand);
  return traceScale(strand, highest);
}

describe("the scale of a trace", () => {
  it("has levels in dB from −90 to 0, with room for neither more nor less", () => {
    const scale = scaleOf("band", 0.3);
    expect(scale.unit).toBe("dBFS");
    expect(
      [1, 0.1, 10 ** -4.5, 10 ** -2.25, 0, 5].map((raw) => Number(scale.shareOf(raw).toFixed(9))),
    ).toEqual([1, Number((70 / 90).toFixed(9)), 0, 0.5, 0, 1]);
    expect(scale.ticks.map(([, text]) => text)).toEqual(["0", "−30", "−60"]);
    expect(scale.format(-17.25)).toMatch(/^−17\.[23]$/);
  });

  it("names loudness in LUFS on the same scale", () => {
    expect(scaleOf("momentary", 0.3).unit).toBe("LUFS");
    expect(scaleOf("momentary", 0.3).shareOf(0.1)).toBeCloseTo(70 / 90, 9);
  });

  it("draws raw numbers after their gain, so that marks lie where they work", () => {
    const louder = scaleOf("band", 0.3, ({ shaping }) => {
      shaping.gain = { ...shaping.gain, on: true, db: 20 };
    });
    expect(louder.shareOf(0.01)).toBeCloseTo(louder.shareOfMark(-20), 9);
    const bypassed = scaleOf("band", 0.3, ({ shaping }) => {
      shaping.gain = { ...shaping.gain, on: false, db: 20 };
    });
    expect(bypassed.shareOf(0.01)).toBeCloseTo(bypassed.shareOfMark(-40), 9);
  });

  it("makes room for the highest number or the upper mark of a linear window, whichever is more", () => {
    const onset = (highest: number, high: number, on = true) =>
      scaleOf("onset", highest, ({ shaping }) => {
        shaping.window = { ...shaping.window, on, scale: "linear", low: 0, high };
      });
    expect(onset(0.2, 0.5).shareOfMark(0.5)).toBeCloseTo(1 / 1.06, 9);
    expect(onset(0.8, 0.5).shareOf(0.8)).toBeCloseTo(1 / 1.06, 9);
    expect(onset(0.2, 0.5, false).shareOf(0.2)).toBeCloseTo(1 / 1.06, 9);
    // Nothing at all is drawn at the bottom, not nowhere.
    expect(onset(0, 0, false).shareOf(0)).toBe(0);
  });

  it("gives a share the whole height and writes frequencies short", () => {
    expect(scaleOf("beatPhase", 0.4).shareOf(1)).toBeCloseTo(1 / 1.06, 9);
    const pitch = scaleOf("pitch", 1200, ({ shaping }) => {
      shaping.window = { ...shaping.window, on: false, scale: "linear" };
    });
    expect(pitch.unit).toBe("Hz");
    expect(pitch.ticks.map(([, text]) => text)).toEqual(["0.0", "636", "1.20 k"]);
  });

  it.each(["band", "onset", "pitch", "position"] as const)(
    "finds the mark of a height and the height of a mark alike (%s)",
    (kind) => {
      const scale = scaleOf(kind, 0.7);
      for (const share of [0, 0.25, 0.5, 1])
        expect(scale.shareOfMark(scale.markAt(share))).toBeCloseTo(share, 9);
      expect(scale.step).toBeGreaterThan(0);
    },
  );
});
