import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "../constants";
import { bandLevel, bandShares } from "../dsp/bands";
import { PowerSpectrum } from "../dsp/spectrum";
import type { Measure } from "./measures";
import { type Shaping, shaper } from "./shaping";
import type { Track } from "./track";

/** What is being played on a keyboard or knob box now. */
export interface NotesNow {
  /** Notes that are held, the newest last, with how hard they were struck. */
  held: readonly { note: number; velocity: number }[];
  /** The newest note, held or not. */
  last: number | undefined;
  /** Strength of a note that began since the last frame, else 0. */
  struck: number;
  /** Positions of controllers by their number, 0..1. */
  controls: ReadonlyMap<number, number>;
}

/**
 * A strand on a live sound, frame by frame: the same measures and shaping as over a whole sound. A frame's window
 * ends now, not centred on it.
 */
export class LiveStrand {
  /** The newest number, and nothing before it. */
  readonly track: Track = { width: 1, values: new Float32Array(1) };
  /** The newest level or share before shaping. */
  raw = 0;
  private readonly readSamples: ((latest: Float32Array) => number) | undefined;
  private readonly readNotes: ((now: NotesNow) => number) | undefined;
  private readonly next: (raw: number) => number;

  /** @throws RangeError for a band that is upside down or off the spectrum */
  constructor({ measure, shaping }: { measure: Measure; shaping: Shaping }) {
    this.next = shaper(shaping);
    this.readSamples = samplesReader(measure);
    this.readNotes = notesReader(measure);
  }

  /** Takes the sound up to now: at least as many samples as the largest spectrum has. */
  hearSamples(latest: Float32Array): void {
    if (this.readSamples) this.take(this.readSamples(latest));
  }

  hearNotes(now: NotesNow): void {
    if (this.readNotes) this.take(this.readNotes(now));
  }

  private take(raw: number): void {
    this.raw = Number.isFinite(raw) ? raw : 0;
    this.track.values[0] = this.next(raw);
  }
}

function samplesReader(measure: Measure): ((latest: Float32Array) => number) | undefined {
  if (measure.kind === "peak") {
    return (latest) => {
      let peak = 0;
      for (let i = latest.length - HOP_SAMPLES; i < latest.length; i++) {
        peak = Math.max(peak, Math.abs(latest[i]));
      }
      return peak;
    };
  }
  if (measure.kind !== "band") return undefined;
  const { lowHz, highHz, fftSize, window } = measure;
  const band = bandShares(lowHz, highHz, fftSize);
  const spectrum = new PowerSpectrum(fftSize, window);
  const powers = new Float32Array(spectrum.binCount);
  const lastBin = band.firstBin + band.shares.length - 1;
  return (latest) => {
    spectrum.at(latest, latest.length - fftSize / 2, powers, 0, band.firstBin, lastBin);
    return bandLevel(powers, 0, band);
  };
}

function notesReader(measure: Measure): ((now: NotesNow) => number) | undefined {
  switch (measure.kind) {
    case "velocity":
      return ({ held }) => {
        for (let i = held.length - 1; i >= 0; i--) {
          const { note, velocity } = held[i];
          if (note >= measure.lowNote && note <= measure.highNote) return velocity;
        }
        return 0;
      };
    case "note":
      return ({ last }) =>
        last === undefined
          ? 0
          : Math.min(
              1,
              Math.max(0, (last - measure.lowNote) / Math.max(1, measure.highNote - measure.lowNote)),
            );
    case "control":
      return ({ controls }) => controls.get(measure.controller) ?? 0;
    case "ticks":
      return ({ struck }) => struck;
    default:
      return undefined;
  }
}

/** How late a live strand's numbers are by its window alone: half of it, in seconds. */
export function windowLatencyS(measure: Measure): number {
  const samples = measure.kind === "band" ? measure.fftSize : measure.kind === "peak" ? HOP_SAMPLES : 0;
  return samples / 2 / SAMPLE_RATE_HZ;
}
