import { SAMPLE_RATE_HZ } from "../../constants";
import { noteHz } from "../tone/note";
import { type BandShares, bandPower, bandShares } from "./bands";

/** How the bands of a fan lie. */
export const FAN_LAYOUTS = ["equal", "octave", "doubling", "constantQ", "mel", "pitchClasses"] as const;
export type FanLayout = (typeof FAN_LAYOUTS)[number];
/** Layouts of as many bands as are asked for; the others have as many as they have. */
export const COUNTED_LAYOUTS: readonly FanLayout[] = ["equal", "doubling", "mel"];
export const MAX_BANDS = 1024;
/** Bands an octave that IEC 61260-1 names, and finer ones by the same rule. */
export const OCTAVE_FRACTIONS = [1, 2, 3, 6, 12, 24, 48] as const;

/** Weight of each bin in a band's number. */
export const FAN_COMBINES = ["sum", "mean", "max"] as const;
export type FanCombine = (typeof FAN_COMBINES)[number];

export interface FanRange {
  layout: FanLayout;
  /** How many bands; octave and constant-Q layouts have as many as their range holds. */
  bands: number;
  /** Bands an octave, for octave and constant-Q layouts. */
  perOctave: number;
  lowHz: number;
  highHz: number;
}

export interface FanBand {
  lowHz: number;
  centreHz: number;
  highHz: number;
}

/** A band that is read from a spectrum. */
export interface ReadBand extends FanBand {
  /** Which number of the fan it adds to. */
  into: number;
}

/** Notes within an octave, from C on. */
export const PITCH_CLASSES = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"] as const;
const CLASSES = 12;
/** From C3 to C7: lower semitones are narrower than spectra tell apart, higher ones are mostly overtones. */
export const PITCH_CLASS_RANGE = { lowHz: 130, highHz: 2100 } as const;

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;
/** The octave ratio of IEC 61260-1, 10^(3/10). */
const OCTAVE = 10 ** 0.3;
const REFERENCE_HZ = 1000;

/** A mid-band frequency of IEC 61260-1: 1000 · G^(x/b), or G^((2x+1)/2b) when b is even. */
export function octaveCentreHz(index: number, perOctave: number): number {
  const exponent = perOctave % 2 ? index / perOctave : (2 * index + 1) / (2 * perOctave);
  return REFERENCE_HZ * OCTAVE ** exponent;
}

const toMel = (hz: number) => 2595 * Math.log10(1 + hz / 700);
const fromMel = (mel: number) => 700 * (10 ** (mel / 2595) - 1);

/**
 * The bands of a fan, lowest first.
 *
 * - equal: all equally wide
 * - octave: the bands of IEC 61260-1 whose mid-band frequencies lie in the range, or within 1 % of it
 * - doubling: each twice as wide as the one below; as much wider as leaves the lowest 1 Hz where that would be narrower
 * - constantQ: mid-band frequencies low · 2^(i / perOctave), edges half a step away
 * - mel: equally wide on the mel scale, 2595 · log10(1 + f / 700)
 * - pitchClasses: twelve, C to B, each of all the semitones of its name in the range, A4 = 440 Hz; as a band it is the
 *   lowest of them, see {@link readBands}
 *
 * @returns 1 to 1024 of them, none above 24 kHz
 * @throws RangeError unless 0 ≤ low < high ≤ 24 000 and bands is 1 to 1024
 */
export function fanBands(range: FanRange): FanBand[] {
  const { layout, bands, perOctave, lowHz, highHz } = range;
  if (!(lowHz >= 0 && lowHz < highHz && highHz <= NYQUIST_HZ)) {
    throw new RangeError(
      `a fan needs 0 ≤ low < high ≤ ${NYQUIST_HZ} Hz, not low ${lowHz} and high ${highHz}`,
    );
  }
  if (!(Number.isInteger(bands) && bands >= 1 && bands <= MAX_BANDS)) {
    throw new RangeError(`a fan has 1 to ${MAX_BANDS} bands, not ${bands}`);
  }
  switch (layout) {
    case "equal":
      return between(bands, (share) => lowHz + share * (highHz - lowHz));
    case "mel":
      return between(bands, (share) => fromMel(toMel(lowHz) + share * (toMel(highHz) - toMel(lowHz))));
    case "doubling": {
      const wider = growth(bands, highHz - lowHz);
      // (r^i − 1) / (r^n − 1), written so that 1024 bands do not overflow.
      const least = wider ** -bands;
      const edge = (share: number) => (wider ** (bands * (share - 1)) - least) / (1 - least);
      return between(bands, (share) => lowHz + (wider > 1 ? edge(share) : share) * (highHz - lowHz));
    }
    case "octave": {
      const step = OCTAVE ** (1 / (2 * perOctave));
      // Nominal figures such as 63 Hz or 16 kHz stand less than 1 % off the exact ones.
      const slack = 1.01;
      const out: FanBand[] = [];
      const first =
        Math.floor(perOctave * (Math.log(Math.max(lowHz, 1) / REFERENCE_HZ) / Math.log(OCTAVE))) - 1;
      for (let index = first; out.length < MAX_BANDS; index++) {
        const centreHz = octaveCentreHz(index, perOctave);
        if (centreHz > highHz * slack || centreHz >= NYQUIST_HZ) break;
        if (centreHz * slack < lowHz) continue;
        out.push({ lowHz: centreHz / step, centreHz, highHz: Math.min(NYQUIST_HZ, centreHz * step) });
      }
      return out.length > 0 ? out : [alone(lowHz, highHz)];
    }
    case "constantQ": {
      const step = 2 ** (1 / (2 * perOctave));
      const out: FanBand[] = [];
      for (let i = 0; i < MAX_BANDS; i++) {
        const centreHz = Math.max(lowHz, 1) * 2 ** (i / perOctave);
        if (centreHz > highHz * 1.000001 || centreHz >= NYQUIST_HZ) break;
        out.push({ lowHz: centreHz / step, centreHz, highHz: Math.min(NYQUIST_HZ, centreHz * step) });
      }
      return out.length > 0 ? out : [alone(lowHz, highHz)];
    }
    case "pitchClasses": {
      const all = semitones(lowHz, highHz);
      return Array.from(
        { length: CLASSES },
        (_none, i) => all.find(({ into }) => into === i) ?? semitone(60 + i),
      );
    }
  }
}

/** The bands that a fan is read from, lowest first: its own, or the semitones that pitch classes are made of. */
export function readBands(range: FanRange): ReadBand[] {
  const own = fanBands(range).map((band, into) => ({ ...band, into }));
  return range.layout === "pitchClasses" ? semitones(range.lowHz, range.highHz) : own;
}

function semitone(note: number): ReadBand {
  const centreHz = noteHz(note);
  const edge = 2 ** (1 / 24);
  return {
    lowHz: centreHz / edge,
    centreHz,
    highHz: Math.min(NYQUIST_HZ, centreHz * edge),
    into: note % CLASSES,
  };
}

/** Semitones whose middle lies in a range. */
function semitones(lowHz: number, highHz: number): ReadBand[] {
  const all = Array.from({ length: 136 }, (_none, note) => semitone(note));
  return all.filter(({ centreHz }) => centreHz >= lowHz && centreHz <= highHz);
}

/** How many times as wide each doubling band is as the one below: twice, or less where the lowest were narrower than 1 Hz. */
function growth(bands: number, rangeHz: number): number {
  const lowestHz = (times: number) => (rangeHz * (times - 1)) / (times ** bands - 1);
  if (lowestHz(2) >= 1) return 2;
  if (rangeHz <= bands) return 1;
  let [few, many] = [1, 2];
  for (let i = 0; i < 50; i++) {
    const times = (few + many) / 2;
    if (lowestHz(times) < 1) many = times;
    else few = times;
  }
  return few;
}

/** A range that holds no band's middle is one band. */
const alone = (lowHz: number, highHz: number): FanBand => ({ lowHz, centreHz: (lowHz + highHz) / 2, highHz });

function between(bands: number, edge: (share: number) => number): FanBand[] {
  return Array.from({ length: bands }, (_, i) => {
    const [lowHz, highHz] = [edge(i / bands), edge((i + 1) / bands)];
    return { lowHz, centreHz: (lowHz + highHz) / 2, highHz };
  });
}

/**
 * Prepares reading a fan from spectra of one size.
 *
 * @param combine  `sum`: the band's level, as for a single band. `mean`: that level spread over the bins it covers,
 *   so that a noise reads the same in wide bands and narrow ones. `max`: the level of its strongest bin
 * @param tiltDb  dB an octave that are added, 0 at 1 kHz
 * @param spreadSize  size of the spectra whose bins a mean is over, where other bands of the fan have those
 * @returns writes one level a band: full-scale sine = 1 (for `max`, as its bin has it)
 */
export function fanReader(
  bands: readonly FanBand[],
  fftSize: number,
  combine: FanCombine,
  tiltDb: number,
  spreadSize = fftSize,
): (powers: Float32Array, offset: number, out: Float32Array, at: number) => void {
  // Parts of a very narrow range can be narrower than numbers can express.
  const nothing: BandShares = { firstBin: 0, lastBin: 0, firstShare: 0, lastShare: 0 };
  const covered = bands.map(({ lowHz, highHz }) =>
    highHz > lowHz ? bandShares(lowHz, highHz, fftSize) : nothing,
  );
  const gains = Float64Array.from(bands, ({ lowHz, centreHz, highHz }) => {
    const bins = ((highHz - lowHz) / SAMPLE_RATE_HZ) * spreadSize;
    const spread = combine === "mean" && bins > 0 ? 1 / bins : 1;
    return Math.sqrt(2 * spread) * 10 ** ((tiltDb * Math.log2(Math.max(1, centreHz) / 1000)) / 20);
  });
  const take = combine === "max" ? strongestBin : bandPower;
  return (powers, offset, out, at) => {
    for (let i = 0; i < gains.length; i++)
      out[at + i] = gains[i] * Math.sqrt(take(powers, offset, covered[i]));
  };
}

function strongestBin(powers: Float32Array, offset: number, band: BandShares): number {
  let most = band.firstShare > 0 ? powers[offset + band.firstBin] : 0;
  const end = band.lastShare > 0 ? band.lastBin + 1 : band.lastBin;
  for (let bin = band.firstBin + 1; bin < end; bin++) most = Math.max(most, powers[offset + bin]);
  return most;
}

/**
 * Prepares adding up the levels of bands that go into the same number: their powers, the mean of those, or the largest level.
 *
 * @param count  numbers of the fan
 * @returns adds up one level of each band, and writes `count` numbers from `at` on
 */
export function levelFolder(
  bands: readonly ReadBand[],
  combine: FanCombine,
  count: number,
): (levels: Float32Array, out: Float32Array, at: number) => void {
  const members = new Float32Array(count).fill(combine === "mean" ? 0 : 1);
  if (combine === "mean") for (const { into } of bands) members[into]++;
  return (levels, out, at) => {
    out.fill(0, at, at + count);
    for (let i = 0; i < bands.length; i++) {
      const to = at + bands[i].into;
      out[to] = combine === "max" ? Math.max(out[to], levels[i]) : out[to] + levels[i] * levels[i];
    }
    if (combine === "max") return;
    for (let into = 0; into < count; into++)
      out[at + into] = Math.sqrt(out[at + into] / Math.max(1, members[into]));
  };
}

/** An octave or constant-Q fan that ends at its first so many bands; one that has fewer stays as it is. */
export function withMostBands<F extends Parameters<typeof fanBands>[0]>(fan: F, bands: number): F {
  const all = fanBands(fan);
  return all.length > bands ? { ...fan, highHz: all[bands - 1].centreHz } : fan;
}
