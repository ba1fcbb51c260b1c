import { HOP_SAMPLES } from "../constants";
import type { WindowName } from "../dsp/window";
import type { SpectrumSource } from "./spectra";

/**
 * A measure's position in a signal, frame after frame. Over a whole sound the frame's instant has all its samples
 * around it; live, the newest sample is as far ahead of it as the measure looks.
 */
export interface FrameCursor {
  readonly samples: Float32Array;
  /** Index of the instant in `samples`; samples before 0 and after the end count as 0. */
  readonly centre: number;
  /** Number of the frame: it describes the instant `frame / 100 s`. */
  readonly frame: number;
  /** Looks up the powers around the instant; they are in `powers` from `offset` until the next call. */
  loadSpectrum(fftSize: number, window: WindowName): void;
  readonly powers: Float32Array;
  readonly offset: number;
}

const NO_POWERS = new Float32Array(0);

/** Moves through a whole sound. */
export class WholeCursor implements FrameCursor {
  readonly samples: Float32Array;
  centre = 0;
  frame = 0;
  powers: Float32Array = NO_POWERS;
  offset = 0;
  private readonly spectra: SpectrumSource;

  constructor(samples: Float32Array, spectra: SpectrumSource) {
    this.samples = samples;
    this.spectra = spectra;
  }

  moveTo(frame: number): void {
    this.frame = frame;
    this.centre = frame * HOP_SAMPLES;
  }

  loadSpectrum(fftSize: number, window: WindowName): void {
    const found = this.spectra.atFrame(this.samples, this.frame, fftSize, window);
    this.powers = found.powers;
    this.offset = found.offset;
  }
}
