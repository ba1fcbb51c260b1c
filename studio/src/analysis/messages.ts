import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrogram";
import type { MadeSound } from "@bumbrel/core/scene/soundSource";
import type { Measure } from "@bumbrel/core/strand/measures";
import type { Shaping } from "@bumbrel/core/strand/shaping";

/** Rows of a spectrogram picture: about one a screen pixel of the spine. */
export const SPECTROGRAM_ROWS = 256;

export type ToWorker =
  /** Load and keep a sound's samples, from where they are stored or by making them. */
  | { kind: "load"; key: string; name: string; from: string | MadeSound }
  | { kind: "forget"; key: string }
  /** Compute a strand; a newer request for the same strand takes its place. */
  | {
      kind: "strand";
      strandId: string;
      key: string;
      measure: Measure;
      shaping: Shaping;
      request: number;
    }
  /** Compute the spectrogram of a sound; a newer request takes its place. */
  | { kind: "spectrogram"; request: number; key: string; axis: FrequencyAxis; fftSize: number };

export type FromWorker =
  | { kind: "loading"; key: string; share: number }
  | { kind: "loaded"; key: string; channels: Float32Array[]; mono: Float32Array; badSampleCount: number }
  | { kind: "strand"; strandId: string; request: number; raw: Float32Array; shaped: Float32Array }
  /** `levels` holds `SPECTROGRAM_ROWS` bytes a frame, from frame `firstFrame` on. */
  | { kind: "spectrogram"; request: number; firstFrame: number; levels: Uint8Array }
  | { kind: "failed"; key?: string; strandId?: string; message: string };
