import { finish } from "@bumbrel/core/dsp/maths/slices";
import { findSectionsSliced } from "@bumbrel/core/strand/sections";
import { makeSectionPiece, scoreSections } from "@bumbrel/demo/pieces/sectionPieces";

/** Sections of synthesised pieces: how many boundaries are met, and how many pairs of instants share a letter rightly. */
const scores = Array.from({ length: 24 }, (_none, i) => {
  const piece = makeSectionPiece(i + 1);
  const beganMs = performance.now();
  const found = finish(findSectionsSliced({ samples: piece.samples }));
  const perSecondMs = (1000 * (performance.now() - beganMs)) / (1000 * (piece.samples.length / 48_000));
  const score = { ...scoreSections(piece, found), perSecondMs };
  if (process.env.SHOW) {
    const text = (all: typeof found) =>
      all.map(({ startS, letter }) => `${letter}${startS.toFixed(1)}`).join(" ");
    console.log(
      `${i + 1} ${piece.bpm.toFixed(0)}: ${text(piece.sections)} | ${text(found)} | ${score.f.toFixed(2)} ${score.f05.toFixed(2)} ${score.letters.toFixed(2)}`,
    );
  }
  return score;
});
const mean = (key: keyof (typeof scores)[number]) =>
  (scores.reduce((sum, score) => sum + score[key], 0) / scores.length).toFixed(2);
console.log(
  `sections of 24 pieces: boundaries within 3 s F ${mean("f")}, within half a second F ${mean("f05")}; ` +
    `pairs of instants with a letter in common F ${mean("letters")}; ${mean("perSecondMs")} ms a second`,
);
