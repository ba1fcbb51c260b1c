import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrogram";
import type { NoteFile } from "@bumbrel/core/format/midi";
import type { Table } from "@bumbrel/core/format/table";
import type { Listening } from "@bumbrel/core/scene/listening";
import type { MadeSound } from "@bumbrel/core/scene/soundSource";
import type { Tuning } from "@bumbrel/core/strand/analyse";
import type { Cue } from "@bumbrel/core/strand/cue";
import type { Advice, Health } from "@bumbrel/core/strand/health";

/** Rows of a spectrogram picture: about one a screen pixel of the spine. */
export const SPECTROGRAM_ROWS = 256;

/** Where a sound comes from: bytes that are stored, or settings it is made from. */
export type SoundOrigin = { kind: "file" | "notes" | "table"; url: string } | MadeSound;

/** What a strand hears: sounds by their keys, or other strands as of a request. */
export type StrandSource =
  | { kind: "sounds"; listening: Listening; tapeS: number }
  | { kind: "strands"; sources: { strandId: string; request: number }[]; tapeS: number };

export type ToWorker =
  /** Load and keep a sound's samples, from where they are stored or by making them. */
  | { kind: "load"; key: string; name: string; from: SoundOrigin }
  | { kind: "forget"; key: string }
  /** Compute a strand; a newer request for the same strand takes its place. */
  | { kind: "strand"; strandId: string; source: StrandSource; tuning: Required<Tuning>; request: number }
  | { kind: "forgetStrand"; strandId: string }
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
      table?: Table;
    }
  /** Numbers of a strand as far as they have come: `framesReady` of them, `width` a frame; all when there are cues. */
  | {
      kind: "strand";
      strandId: string;
      request: number;
      raw: Float32Array;
      shaped: Float32Array;
      width: number;
      framesReady: number;
      cues?: Cue[];
    }
  /** How a strand does, some time after its numbers. */
  | { kind: "health"; strandId: string; request: number; health: Health; advice: Advice[] }
  /** `levels` holds `SPECTROGRAM_ROWS` bytes a frame, from frame `firstFrame` on. */
  | { kind: "spectrogram"; viewer: string; request: number; firstFrame: number; levels: Uint8Array }
  /** LUFS a frame. */
  | { kind: "loudness"; key: string; momentary: Float32Array; shortTerm: Float32Array }
  | { kind: "failed"; key?: string; strandId?: string; message: string };
