import { brightnessHz } from "../../dsp/brightness";
import { PITCH_LIMITS_HZ, PitchFinder } from "../../dsp/pitch";
import { number } from "../../setting/descriptor";
import { halfWindow, measure, range, SPECTRUM, single } from "./declaration";

function pitchReader(
  measure: { lowHz: number; highHz: number },
  take: (hz: number, certainty: number) => number,
) {
  const finder = new PitchFinder(measure.lowHz, measure.highHz);
  return single(({ samples, centre }) => {
    const { hz, certainty } = finder.at(samples, centre);
    return take(hz, certainty);
  });
}

function pitchAhead({ lowHz, highHz }: { lowHz: number; highHz: number }): number {
  return new PitchFinder(lowHz, highHz).aheadSamples;
}
const PITCHES = range(60, 1500, [PITCH_LIMITS_HZ.low, PITCH_LIMITS_HZ.high]);

/** Character of a sound: brightness and pitch. */
export const CHARACTER = {
  brightness: measure({
    label: "Brightness",
    help: "The middle of the spectrum in Hz: low for a bass note, high for a cymbal; 0 in silence.",
    group: "character",
    unit: "hz",
    reads: ["samples"],
    settings: SPECTRUM,
    ahead: halfWindow,
    start: ({ fftSize, window }) =>
      single((cursor) => {
        cursor.loadSpectrum(fftSize, window);
        return brightnessHz(cursor.powers, cursor.offset, fftSize);
      }),
  }),
  pitch: measure({
    label: "Pitch",
    help: "The pitch of a single voice or instrument in Hz; 0 while there is none that is sure enough.",
    group: "character",
    unit: "hz",
    reads: ["samples"],
    settings: {
      ...PITCHES,
      leastCertainty: number(
        "Minimum certainty",
        "",
        [0, 1, 0.01],
        0.8,
        "Less certain than this counts as no pitch.",
        {
          chars: 4,
        },
      ),
    },
    ahead: (measure) => pitchAhead(measure),
    start: (measure) =>
      pitchReader(measure, (hz, certainty) => (certainty >= measure.leastCertainty ? hz : 0)),
  }),
  certainty: measure({
    label: "Pitch certainty",
    help: "How much of a pitch there is: near 1 for a sung note, near 0 for noise.",
    group: "character",
    unit: "share",
    reads: ["samples"],
    settings: PITCHES,
    ahead: (measure) => pitchAhead(measure),
    start: (measure) => pitchReader(measure, (_hz, certainty) => certainty),
  }),
};
