import { HOP_SAMPLES } from "../../constants";
import { PARTS_AROUND, PITCH_LIMITS_HZ } from "../../dsp/maths/measureWindows";
import { bandShares } from "../../dsp/spectrum/bands";
import { brightnessHz } from "../../dsp/tone/brightness";
import { flatness } from "../../dsp/tone/flatness";
import { choice, number } from "../../setting/descriptor";
import { halfWindow, measure, range, SPECTRUM, single } from "./declaration";
import { partsReader } from "./readers/partsReader";
import { pitchAhead, pitchReader } from "./readers/pitchReader";

/** Width is that of 50 ms: of shorter stretches it would jump about with each wave of a bass. */
const WIDTH_SAMPLES = 2400;
const PITCHES = range(60, 1500, [PITCH_LIMITS_HZ.low, PITCH_LIMITS_HZ.high]);

const sharedPitch = ({ lowHz, highHz }: { lowHz: number; highHz: number }) => `pitch ${lowHz} ${highHz}`;

/** One of the two parts that medians tell apart. */
const partOf = (part: "percussive" | "harmonic", label: string, help: string) =>
  measure({
    label,
    help,
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: { ...range(30, 16_000), ...SPECTRUM },
    ahead: ({ fftSize }) => fftSize / 2 + PARTS_AROUND * HOP_SAMPLES,
    start: (measure) => partsReader(measure, part),
  });

/** Character of a sound: its parts, brightness, flatness, width and pitch. */
export const CHARACTER = {
  percussive: partOf(
    "percussive",
    "Percussive level",
    "The level of what strikes in a range: drums without the chords under them. Live it comes 80 ms later.",
  ),
  harmonic: partOf(
    "harmonic",
    "Harmonic level",
    "The level of what lasts in a range: chords without the drums over them. Live it comes 80 ms later.",
  ),
  brightness: measure({
    label: "Brightness",
    help: "The middle of the spectrum in Hz: low for a bass note, high for a cymbal; 0 in silence.",
    group: "character",
    unit: "hz",
    reads: ["samples"],
    settings: {
      weights: choice(
        "Weighted by",
        { magnitude: "by level", power: "by power" },
        "magnitude",
        "Whether faint parts count by their level, or hardly, by their power.",
      ),
      floorDb: number(
        "Floor",
        "dB",
        [-160, 0, 1],
        -160,
        "Parts fainter than this, in dBFS of one bin, do not count, so that noise between notes has no brightness.",
        { chars: 5, before: "above" },
      ),
      ...SPECTRUM,
    },
    ahead: halfWindow,
    start({ weights, floorDb, fftSize, window }) {
      // A full-scale sine has a power of one half.
      const floor = floorDb > -160 ? 10 ** (floorDb / 10) / 2 : 0;
      return single((cursor) => {
        cursor.loadSpectrum(fftSize, window);
        return brightnessHz(cursor.powers, cursor.offset, fftSize, weights, floor);
      });
    },
  }),
  flatness: measure({
    label: "Flatness",
    help: "How like noise a range of frequencies sounds: near 0 for a tone, about 0.56 for steady noise; 0 in silence.",
    group: "character",
    unit: "share",
    reads: ["samples"],
    settings: { ...range(200, 10_000), ...SPECTRUM },
    ahead: halfWindow,
    start({ lowHz, highHz, fftSize, window }) {
      const { firstBin, lastBin } = bandShares(lowHz, highHz, fftSize);
      return single((cursor) => {
        cursor.loadSpectrum(fftSize, window);
        return flatness(cursor.powers, cursor.offset, firstBin, lastBin);
      });
    },
  }),
  width: measure({
    label: "Stereo width",
    help: "How much the two sides of a stereo sound differ: 0 for the same on both, 0.5 for nothing in common, 1 for opposites.",
    group: "character",
    unit: "share",
    reads: ["samples"],
    settings: {},
    ahead: () => WIDTH_SAMPLES / 2,
    start: () =>
      single(({ channels = [], centre }) => {
        const [left, right] = channels;
        if (!right) return 0;
        let [middle, side] = [0, 0];
        const from = Math.max(0, centre - WIDTH_SAMPLES / 2);
        const to = Math.min(left.length, centre + WIDTH_SAMPLES / 2);
        for (let i = from; i < to; i++) {
          middle += (left[i] + right[i]) ** 2;
          side += (left[i] - right[i]) ** 2;
        }
        return middle + side > 0 ? side / (middle + side) : 0;
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
    shares: sharedPitch,
    ahead: (measure) => pitchAhead(measure),
    start: (measure, signal) =>
      pitchReader(measure, signal, (hz, certainty) => (certainty >= measure.leastCertainty ? hz : 0)),
  }),
  certainty: measure({
    label: "Pitch certainty",
    help: "How much of a pitch there is: near 1 for a sung note, near 0 for noise.",
    group: "character",
    unit: "share",
    reads: ["samples"],
    settings: PITCHES,
    shares: sharedPitch,
    ahead: (measure) => pitchAhead(measure),
    start: (measure, signal) => pitchReader(measure, signal, (_hz, certainty) => certainty),
  }),
};
