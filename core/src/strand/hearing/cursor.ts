import { HOP_SAMPLES } from "../../constants";
import { windowAround } from "../../dsp/maths/samples";
import type { WindowName } from "../../dsp/spectrum/window";
import type { Signal } from "./signal";
import type { SpectrumSource } from "./spectra";

/**
 * A measure's position in a signal, frame after frame. Over a whole sound the frame's instant has all its samples
 * around it; live, the newest sample is as far ahead of it as the measure looks.
 */
export interface FrameCursor {
  /** At least two seconds of samples on either side, as far as there are any. */
  readonly samples: Float32Array;
  /** The same of each channel, where there are any beside the mono mix. */
  readonly channels?: readonly Float32Array[];
  /** Index of the instant in `samples`; samples before 0 and after the end count as 0. */
  readonly centre: number;
  /** Number of the frame: it describes the instant `frame / 100 s`. */
  readonly frame: number;
  /** Looks up the powers around the instant; they are in `powers` from `offset` until the next call. */
  loadSpectrum(fftSize: number, window: WindowName): void;
  readonly powers: Float32Array;
  readonly offset: number;
}

const NO_NUMBERS = new Float32Array(0);

/** Moves through a whole sound. */
export class WholeCursor implements FrameCursor {
  samples: Float32Array = NO_NUMBERS;
  centre = 0;
  frame = 0;
  powers: Float32Array = NO_NUMBERS;
  offset = 0;
  private readonly signal: Pick<Signal, "samples" | "channels">;
  private readonly spectra: SpectrumSource;
  private readonly ofChannels: Float32Array[] | undefined;
  /** The instant that the channels are there for: few measures look at them. */
  private channelsAt = Number.NaN;

  constructor(signal: Pick<Signal, "samples" | "channels">, spectra: SpectrumSource) {
    this.signal = signal;
    this.spectra = spectra;
    this.ofChannels = signal.channels?.map(() => NO_NUMBERS);
    this.moveTo(0);
  }

  moveTo(frame: number): void {
    const { signal } = this;
    const instant = frame * HOP_SAMPLES;
    const { samples, first } = windowAround(signal.samples, instant);
    this.frame = frame;
    this.samples = samples;
    this.centre = instant - first;
  }

  get channels(): readonly Float32Array[] | undefined {
    const { signal, ofChannels, frame } = this;
    if (!ofChannels || this.channelsAt === frame) return ofChannels;
    // Channels are kept as the mix of them is, so that their windows begin where its does.
    for (let c = 0; c < ofChannels.length; c++)
      ofChannels[c] = windowAround(signal.channels![c], frame * HOP_SAMPLES).samples;
    this.channelsAt = frame;
    return ofChannels;
  }

  loadSpectrum(fftSize: number, window: WindowName): void {
    const found = this.spectra.atFrame(this.signal.samples, this.frame, fftSize, window);
    this.powers = found.powers;
    this.offset = found.offset;
  }
}
