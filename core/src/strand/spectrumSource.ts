import { frameCount, HOP_SAMPLES } from "../constants";
import { PowerSpectrum } from "../dsp/spectrum";
import type { WindowName } from "../dsp/window";

/**
 * Called for each frame in order; its powers begin at `powers[offset]` with bin 0 and are gone after the call.
 * Only the bins that were asked for can be relied on.
 */
export type FrameVisitor = (frame: number, powers: Float32Array, offset: number) => void;

/** Which spectra a visitor reads, and which of their bins; others may be left uncomputed. */
export interface SpectrumRequest {
  fftSize: number;
  window: WindowName;
  firstBin: number;
  lastBin: number;
}

/** Where measures get their spectra from. */
export interface SpectrumSource {
  eachFrame(samples: Float32Array, request: SpectrumRequest, visit: FrameVisitor): void;
}

/** Computes each spectrum when it is asked for and keeps none: little memory, for one pass over a sound. */
export class DirectSpectra implements SpectrumSource {
  private readonly meters = new Map<string, { spectrum: PowerSpectrum; powers: Float32Array }>();

  eachFrame(samples: Float32Array, request: SpectrumRequest, visit: FrameVisitor): void {
    const { fftSize, window, firstBin, lastBin } = request;
    const key = `${fftSize} ${window}`;
    let meter = this.meters.get(key);
    if (!meter) {
      const spectrum = new PowerSpectrum(fftSize, window);
      meter = { spectrum, powers: new Float32Array(spectrum.binCount) };
      this.meters.set(key, meter);
    }
    const { spectrum, powers } = meter;
    const frames = frameCount(samples.length);
    for (let frame = 0; frame < frames; frame++) {
      spectrum.at(samples, frame * HOP_SAMPLES, powers, 0, firstBin, lastBin);
      visit(frame, powers, 0);
    }
  }
}

/**
 * Keeps the spectra of whole sounds, so that dragging a range costs sums only. When `budgetBytes` would be
 * passed, the longest unused are dropped; a sound too large for the budget is computed afresh each time.
 * The numbers are the same as those of {@link DirectSpectra}, bit for bit.
 */
export class CachedSpectra implements SpectrumSource {
  private readonly direct = new DirectSpectra();
  private readonly kept = new Map<string, Float32Array>();
  private readonly soundIds = new WeakMap<Float32Array, number>();
  private nextSoundId = 0;
  private usedBytes = 0;
  private readonly budgetBytes: number;

  constructor(budgetBytes = 512 * 1024 * 1024) {
    this.budgetBytes = budgetBytes;
  }

  eachFrame(samples: Float32Array, request: SpectrumRequest, visit: FrameVisitor): void {
    const { fftSize, window } = request;
    const frames = frameCount(samples.length);
    const binCount = fftSize / 2 + 1;
    const bytes = frames * binCount * 4;
    if (bytes > this.budgetBytes) {
      this.direct.eachFrame(samples, request, visit);
      return;
    }
    let soundId = this.soundIds.get(samples);
    if (soundId === undefined) {
      soundId = this.nextSoundId++;
      this.soundIds.set(samples, soundId);
    }
    const key = `${soundId} ${fftSize} ${window}`;
    let powers = this.kept.get(key);
    if (powers) {
      this.kept.delete(key);
    } else {
      const fresh = new Float32Array(frames * binCount);
      const allBins = { ...request, firstBin: 0, lastBin: binCount - 1 };
      this.direct.eachFrame(samples, allBins, (frame, one) => fresh.set(one, frame * binCount));
      powers = fresh;
      this.usedBytes += bytes;
    }
    this.kept.set(key, powers);
    for (const [oldKey, old] of this.kept) {
      if (this.usedBytes <= this.budgetBytes || oldKey === key) break;
      this.kept.delete(oldKey);
      this.usedBytes -= old.byteLength;
    }
    for (let frame = 0; frame < frames; frame++) visit(frame, powers, frame * binCount);
  }
}
