import { DEFAULT_FFT_SIZE, HOP_SAMPLES } from "../../constants";
import { DEFAULT_WINDOW, type WindowName } from "../spectrum/window";

/**
 * Windows of measures whose code is loaded only where it is needed: how late they are is known without it.
 */

/** Windows of momentary and short-term loudness (ITU-R BS.1770-5), seconds. */
export const MOMENTARY_S = 0.4;
export const SHORT_TERM_S = 3;

/** Pitches that can be looked for. */
export const PITCH_LIMITS_HZ = { low: 30, high: 3000 } as const;

/** Frames on either side that percussive and harmonic parts are told apart by: 80 ms. */
export const PARTS_AROUND = 8;
/** Samples of the windows that a sound is split into parts by. */
export const PART_WINDOW = 4 * HOP_SAMPLES;
/** Hops by which the parts come later than the sound: the medians look ahead, and the last window has to be over. */
export const PART_DELAY_HOPS = PARTS_AROUND + PART_WINDOW / HOP_SAMPLES - 1;
/** The same in samples. */
export const PART_DELAY = PART_DELAY_HOPS * HOP_SAMPLES;

interface Spectra {
  fftSize: number;
  window: WindowName;
}

/** Spectra that beats are heard in: short, so that times are sharp. */
export const BEAT_SPECTRA = { fftSize: 1024, window: "hann" } as const satisfies Spectra;

/** Spectra that hits are told apart in. */
export const HIT_SPECTRA: Spectra = { fftSize: DEFAULT_FFT_SIZE, window: DEFAULT_WINDOW };
/** Frames from a hit until its decay has been heard. */
export const HIT_LAG = 8;
/** Characters of what is learnt of hits, at most. */
export const HIT_MODEL_CHARS = 8000;
