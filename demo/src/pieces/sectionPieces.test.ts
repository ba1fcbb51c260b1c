import { finish } from "@bumbrel/core/dsp/maths/slices";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { findSectionsSliced } from "@bumbrel/core/strand/sections";
import { itInFull } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { makeRegattaNight } from "../scenes/regattaNight";
import { makeSectionPiece, scoreSections } from "./sectionPieces";

const sectionsOf = (samples: Float32Array) => finish(findSectionsSliced({ samples }));

describe("sections", () => {
  itInFull("are found in pieces of any arrangement, those that are played alike with one letter", () => {
    const scores = [3, 5, 13, 18, 21].map((seed) => {
      const piece = makeSectionPiece(seed);
      return scoreSections(piece, sectionsOf(piece.samples));
    });
    for (const { f, letters } of scores) {
      expect(f).toBeGreaterThan(0.85);
      expect(letters).toBeGreaterThan(0.85);
    }
    const sharp = scores.reduce((sum, { f05 }) => sum + f05, 0) / scores.length;
    expect(sharp).toBeGreaterThan(0.8);
  });

  it("begin where the example’s verse, chorus and silent bar do", () => {
    const [left, right] = makeRegattaNight(1).mix;
    const samples = left.map((x, i) => (x + right[i]) / 2);
    const found = sectionsOf(samples);
    // A bar lasts 2.4 s; the chorus begins with the seventh.
    expect(found.some(({ startS }) => Math.abs(startS - 6 * 2.4) < 0.5)).toBe(true);
    expect(found.length).toBeLessThan(8);
  });

  it("are one in noise and in a tone, and none in a short sound", () => {
    const tone = Float32Array.from({ length: 48_000 * 40 }, (_none, i) => 0.3 * Math.sin(i / 17));
    for (const samples of [makeNoise("pink", 48_000 * 40, 3, 0.3), tone])
      expect(sectionsOf(samples)).toEqual([{ startS: 0, letter: "A" }]);
    expect(sectionsOf(new Float32Array(48_000 * 30))).toEqual([{ startS: 0, letter: "A" }]);
    expect(sectionsOf(new Float32Array(48_000 * 4))).toEqual([]);
  });

  it("tells how far it is", () => {
    const shares: number[] = [];
    finish(
      findSectionsSliced({ samples: makeNoise("pink", 48_000 * 12, 3, 0.3) }, 4, (share) =>
        shares.push(share),
      ),
    );
    expect(shares.length).toBeGreaterThan(20);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.at(-1)).toBe(1);
  });
});
