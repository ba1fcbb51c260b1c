import type { AnalysedScene, NoNumbers, StrandNumbers } from "@bumbrel/core/analyse/sceneAnalysis";
import type { PackedSamples } from "@bumbrel/core/dsp/maths/samples";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { Sound } from "@bumbrel/core/sound/kinds";
import type { SoundData } from "@bumbrel/core/sound/signal";
import type { Advice, Health } from "@bumbrel/core/strand/health";
import type { Section } from "@bumbrel/core/strand/sections";

export type ToWorker =
  /** Load and keep a sound's samples: from a URL, or by making them. */
  | { kind: "load"; key: string; sound: Sound; url: string | undefined }
  | { kind: "forget"; key: string }
  /** Compute the strands of a scene; only what depends on a change is computed again. */
  | { kind: "scene"; scene: AnalysedScene }
  /** Compute the spectrogram of a sound for one of its viewers; a newer request replaces it. */
  | {
      kind: "spectrogram";
      viewer: string;
      request: number;
      key: string;
      axis: FrequencyAxis;
      fftSize: number;
    }
  | { kind: "stopSpectrogram"; viewer: string }
  /** Compute the loudness curves and the average spectrum of a sound. */
  | { kind: "loudness"; key: string }
  | { kind: "averageSpectrum"; key: string }
  /** Find the sections of a sound, instead of those of another one. */
  | { kind: "sections"; key: string }
  | { kind: "stopSections" };

/** A sound's samples on their way to the page. */
export interface PackedSound extends Pick<SoundData, "notes" | "table"> {
  channels: PackedSamples[];
  mono: PackedSamples;
  badSampleCount: number;
}

export type FromWorker =
  /** `pairs` are those of `waveformPairs`, from hop `firstHop` on. */
  | { kind: "loading"; key: string; share: number; firstHop: number; hops: number; pairs: Float32Array }
  | { kind: "loaded"; key: string; data: PackedSound }
  | { kind: "soundFailed"; key: string; message: string }
  /** Numbers of a strand as far as they have been computed; all of them when there are cues. */
  | { kind: "strand"; numbers: StrandNumbers }
  /** A strand has no numbers. */
  | { kind: "noStrand"; strandId: string; request: number; why: NoNumbers }
  /** How a strand does, some time after its numbers. */
  | { kind: "health"; strandId: string; request: number; health: Health; advice: Advice[] }
  /** Everything that can be computed of the scenes sent so far has been. */
  | { kind: "settled"; scenes: number }
  /** `levels` holds `SPECTROGRAM_ROWS` bytes a frame, from frame `firstFrame` on. */
  | { kind: "spectrogram"; viewer: string; request: number; firstFrame: number; levels: Uint8Array }
  /** LUFS a frame. */
  | { kind: "loudness"; key: string; momentary: Float32Array; shortTerm: Float32Array }
  /** Mean level of each third-octave band over the whole sound. */
  | { kind: "averageSpectrum"; key: string; bands: AverageSpectrum }
  /** How far the search for sections is, 0 to 1, and at its end what it found. */
  | { kind: "sections"; key: string; share: number; found?: Section[] };

export interface AverageSpectrum {
  centresHz: number[];
  levelsDb: number[];
}
