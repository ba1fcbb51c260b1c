import { frameCount, HOP_SAMPLES } from "../../constants";
import { type Samples, windowAround } from "../../dsp/maths/samples";
import { PowerSpectrum } from "../../dsp/spectrum/spectrum";
import type { WindowName } from "../../dsp/spectrum/window";

/** Powers of one frame: bin 0 is at `powers[offset]`. They are valid until the next call. */
export interface FramePowers {
  powers: Float32Array;
  offset: number;
}

/** Source of spectra of whole sounds for measures. */
export interface SpectrumSource {
  atFrame(samples: Samples, frame: number, fftSize: number, window: WindowName): FramePowers;
}

function spectrumAt(
  spectrum: PowerSpectrum,
  samples: Samples,
  frame: number,
  out: Float32Array,
  offset: number,
): void {
  const instant = frame * HOP_SAMPLES;
  const window = windowAround(samples, instant);
  spectrum.at(window.samples, instant - window.first, out, offset);
}

/** One size and window at work, and what it found last. */
interface Meter {
  spectrum: PowerSpectrum;
  found: FramePowers;
  samples?: Samples;
  frame: number;
}

/**
 * Computes each spectrum when it is asked for and keeps the last of each size and window: little memory, for one pass
 * over a sound, by several strands side by side if need be.
 */
export class DirectSpectra implements SpectrumSource {
  private readonly meters = new Map<string, Meter>();

  atFrame(samples: Samples, frame: number, fftSize: number, window: WindowName): FramePowers {
    const key = `${fftSize} ${window}`;
    let meter = this.meters.get(key);
    if (!meter) {
      const spectrum = new PowerSpectrum(fftSize, window);
      const found = { powers: new Float32Array(spectrum.binCount), offset: 0 };
      meter = { spectrum, found, frame: -1 };
      this.meters.set(key, meter);
    }
    if (meter.samples !== samples || meter.frame !== frame) {
      spectrumAt(meter.spectrum, samples, frame, meter.found.powers, 0);
      meter.samples = samples;
      meter.frame = frame;
    }
    return meter.found;
  }
}

interface Kept {
  spectrum: PowerSpectrum;
  found: FramePowers;
  /** Frames that have been computed, from the first. */
  ready: number;
}

/**
 * Keeps the spectra of whole sounds, so that dragging a range costs sums only. They are computed as far as they are
 * asked for. When `budgetBytes` would be passed, the longest unused are dropped; a sound too large for the budget is
 * computed afresh each time. The numbers are the same as those of {@link DirectSpectra}, bit for bit.
 */
export class CachedSpectra implements SpectrumSource {
  private readonly direct = new DirectSpectra();
  private readonly kept = new Map<string, Kept>();
  private readonly soundIds = new WeakMap<Samples, number>();
  private nextSoundId = 0;
  private usedBytes = 0;
  private readonly budgetBytes: number;
  /** Last answer; a pass over a sound asks for the same one again and again. */
  private last: { samples: Samples; fftSize: number; window: WindowName; kept: Kept } | undefined;

  constructor(budgetBytes = 512 * 1024 * 1024) {
    this.budgetBytes = budgetBytes;
  }

  atFrame(samples: Samples, frame: number, fftSize: number, window: WindowName): FramePowers {
    const { last } = this;
    const same = last?.samples === samples && last.fftSize === fftSize && last.window === window;
    const kept = same ? last.kept : this.keptFor(samples, fftSize, window);
    if (!kept) return this.direct.atFrame(samples, frame, fftSize, window);
    const { found, spectrum } = kept;
    for (; kept.ready <= frame; kept.ready++) {
      spectrumAt(spectrum, samples, kept.ready, found.powers, kept.ready * spectrum.binCount);
    }
    found.offset = frame * spectrum.binCount;
    return found;
  }

  /** True if all spectra of a sound are there. */
  has(samples: Samples, fftSize: number, window: WindowName): boolean {
    const id = this.soundIds.get(samples);
    const kept = id === undefined ? undefined : this.kept.get(`${id} ${fftSize} ${window}`);
    return kept !== undefined && kept.ready >= frameCount(samples.length);
  }

  private keptFor(samples: Samples, fftSize: number, window: WindowName): Kept | undefined {
    const spectrum = new PowerSpectrum(fftSize, window);
    const floats = frameCount(samples.length) * spectrum.binCount;
    if (floats * 4 > this.budgetBytes) return undefined;
    let soundId = this.soundIds.get(samples);
    if (soundId === undefined) {
      soundId = this.nextSoundId++;
      this.soundIds.set(samples, soundId);
    }
    const key = `${soundId} ${fftSize} ${window}`;
    let kept = this.kept.get(key);
    if (kept) this.kept.delete(key);
    else {
      kept = { spectrum, found: { powers: new Float32Array(floats), offset: 0 }, ready: 0 };
      this.usedBytes += floats * 4;
    }
    this.kept.set(key, kept);
    for (const [oldKey, old] of this.kept) {
      if (this.usedBytes <= this.budgetBytes || oldKey === key) break;
      this.kept.delete(oldKey);
      this.usedBytes -= old.found.powers.byteLength;
    }
    this.last = { samples, fftSize, window, kept };
    return kept;
  }
}
