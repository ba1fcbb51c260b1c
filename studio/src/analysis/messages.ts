import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrogram";
import type { NoteFile } from "@bumbrel/core/format/midi";
import type { Listening } from "@bumbrel/core/scene/listening";
import type { MadeSound } from "@bumbrel/core/scene/soundSource";
import type { Measure } from "@bumbrel/core/strand/measures";
import type { Shaping } from "@bumbrel/core/strand/shaping";

/** Rows of a spectrogram picture: about one a screen pixel of the spine. */
export const SPECTROGRAM_ROWS = 256;

/** Where a sound comes from: bytes that are stored, or settings it is made from. */
export type SoundOrigin = { kind: "file" | "notes"; url: string } | MadeSound;

export type ToWorker =
  /** Load and keep a sound's samples, from where they are stored or by making them. */
  | { kind: "load"; key: string; name: string; from: SoundOrigin }
  | { kind: "forget"; key: string }
  /** Compute a strand; a newer request for the same strand takes its place. The sounds it hears go by their keys. */
  | {
      kind: "strand";
      strandId: string;
      listening: Listening;
      tapeS: number;
      measure: Measure;
      shaping: Shaping;
      request: number;
    }
  /** Compute the spectrogram of a sound for one of its viewers; a newer request takes its place. */
  | {
      kind: "spectrogram";
      viewer: string;
      request: number;
      key: string;
      axis: FrequencyAxis;
      fftSize: number;
    }
  | { kind: "stopSpectrogram"; viewer: string }
  /** Compute the loudness curves of a sound. */
  | { kind: "loudness"; key: string };

export type FromWorker =
  /** `pairs` are those of `waveformPairs`, from hop `firstHop` on. */
  | { kind: "loading"; key: string; share: number; firstHop: number; hops: number; pairs: Float32Array }
  | {
      kind: "loaded";
      key: string;
      channels: Float32Array[];
      mono: Float32Array;
      badSampleCount: number;
      notes?: NoteFile;
    }
  | { kind: "strand"; strandId: string; request: number; raw: Float32Array; shaped: Float32Array }
  /** `levels` holds `SPECTROGRAM_ROWS` bytes a frame, from frame `firstFrame` on. */
  | { kind: "spectrogram"; viewer: string; request: number; firstFrame: number; levels: Uint8Array }
  /** LUFS a frame. */
  | { kind: "loudness"; key: string; momentary: Float32Array; shortTerm: Float32Array }
  | { kind: "failed"; key?: string; strandId?: string; message: string };
