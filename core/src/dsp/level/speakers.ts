/** Places of speakers, a bit each, in the order in which the channels of a file follow each other (WAVEFORMATEXTENSIBLE). */
const PLACES = [
  "front left",
  "front right",
  "front centre",
  "low frequencies",
  "back left",
  "back right",
  "front left of centre",
  "front right of centre",
  "back centre",
  "side left",
  "side right",
] as const;
const bit = (place: (typeof PLACES)[number]): number => 1 << PLACES.indexOf(place);

const LOW = bit("low frequencies");
const BACK = bit("back left") | bit("back right");
const SIDE = bit("side left") | bit("side right");
/** 1.5 dB more, for what comes from beside the listener (ITU-R BS.1770-5, table 4). */
const BESIDE = 1.41;

/** Layouts by the number of their channels, where a file names none: those that are usual. */
const ASSUMED = [0, 0x4, 0x3, 0x7, 0x33, 0x37, 0x3f, 0x70f, 0x63f];
const NAMES: Record<number, string> = {
  4: "mono",
  3: "stereo",
  7: "3.0",
  51: "quad",
  1539: "quad",
  55: "5.0",
  1543: "5.0",
  63: "5.1",
  1551: "5.1",
  1799: "6.0",
  1807: "6.1",
  1591: "7.0",
  1599: "7.1",
};

/**
 * Loudness weight of each channel (ITU-R BS.1770-5): 1.41 for speakers beside the listener, 60 to 120 degrees from the front,
 * 0 for the low-frequency channel, 1 for all others. Back speakers count as beside the listener where there are no side
 * speakers.
 *
 * @param count  of the channels, in the order of the file
 * @param speakers  where they stand, a bit each; 0 for a file that does not say so
 */
export function speakerWeights(count: number, speakers = 0): number[] {
  const mask = speakers || (ASSUMED[count] ?? 0);
  const beside = mask & SIDE || mask & BACK;
  const weights: number[] = [];
  for (let place = 1; weights.length < count && place > 0 && place <= mask; place <<= 1)
    if (mask & place) weights.push(place === LOW ? 0 : place & beside ? BESIDE : 1);
  // Channels without a place count as they are.
  while (weights.length < count) weights.push(1);
  return weights;
}

/** A layout in words, and that it is assumed where the file names none; nothing for one or two channels. */
export function speakerLayout(count: number, speakers = 0): string | undefined {
  if (count < 3) return undefined;
  const name = NAMES[speakers || ASSUMED[count]] ?? `${count} channels`;
  return speakers ? name : `${name}, assumed: the file names no layout`;
}
