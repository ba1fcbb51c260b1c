import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import type { StoredSound } from "@bumbrel/core/sound/kinds";

export interface PreparedFile {
  /** Kind of sound that it becomes. */
  is: StoredSound["kind"];
  facts: SoundFacts;
  bytes: Blob;
}

/** A file to bring into a project's form, or what the page itself could decode of it. */
export type PrepareRequest =
  | { kind: "file"; file: File }
  | { kind: "decoded"; name: string; channels: Float32Array[]; sampleRateHz: number };

/** `pairs` continue the waveform; `share` may be unknown for files that do not say how long they are. */
export interface PreparedPart {
  kind: "part";
  share: number;
  pairs: Float32Array;
}
