import { describe, expect, it } from "@jest/globals";
import {
  differenceEuclidean,
  filterDeficiencyDeuter,
  filterDeficiencyProt,
  filterDeficiencyTrit,
  formatHex,
  parse,
  wcagContrast,
} from "culori";
import { PALETTE_IDS, PALETTES } from "./palettes";

const distance = differenceEuclidean("oklab");
/** How people with all cones see a colour, and those without the ones for long, middle and short waves. */
const EYES: ((colour: string) => string | undefined)[] = [
  (colour: string) => colour,
  ...[filterDeficiencyProt(1), filterDeficiencyDeuter(1), filterDeficiencyTrit(1)].map(
    (filter) => (colour: string) => formatHex(filter(parse(colour)!)),
  ),
];
/** Two colours this far apart in OKLab are told apart at a glance; the least difference that is seen is about 0.02. */
const TOLD_APART = 0.06;

describe.each(PALETTE_IDS)("palette %s", (id) => {
  const { sky, inks, lamp, floor } = PALETTES[id];

  it("has inks that stand off every colour of its sky", () => {
    for (const ink of inks) {
      for (const behind of Object.values(sky)) expect(wcagContrast(ink, behind)).toBeGreaterThanOrEqual(3);
    }
    // A lamp's light shows on the floor.
    expect(wcagContrast(lamp, floor)).toBeGreaterThan(1.2);
  });

  it("has inks that everybody can tell apart", () => {
    for (const seenBy of EYES) {
      const seen = inks.map((ink) => seenBy(ink) ?? ink);
      for (let i = 0; i < seen.length; i++) {
        for (let j = 0; j < i; j++) expect(distance(seen[i], seen[j])).toBeGreaterThan(TOLD_APART);
      }
    }
  });
});

it("offers a dozen", () => expect(PALETTE_IDS).toHaveLength(12));
