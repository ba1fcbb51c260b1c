/** An instant at which something happens in a strand. */
export interface Cue {
  /** Seconds on the tape. */
  timeS: number;
  /** 0 to 1. */
  strength: number;
}

/** A strand: one thing listened for, as numbers over time. */
export interface Strand {
  readonly id: string;
  readonly name: string;
  /** Numbers at each instant: 1, or the bands of a fan. */
  readonly width: number;
  /**
   * Its number at a time. Nothing is allocated.
   *
   * @param timeS  seconds on the tape; before the start the first number, after the end the last, or round again for a
   * sound that loops
   * @param band  of a fan, which of its numbers
   */
  at(timeS: number, band?: number): number;
  /** Writes all its numbers at a time into `out`. Nothing is allocated. */
  fill(timeS: number, out: Float32Array): void;
  /** Calls `take` with each cue after `fromS` and up to `toS`: give the times of the last frame and of this one. */
  eachCue(fromS: number, toS: number, take: (cue: Cue) => void): void;
}

/** The numbers of a scene's strands over its whole tape. */
export interface Numbers {
  readonly strands: readonly Strand[];
  /** Seconds of the tape. */
  readonly lengthS: number;
  /**
   * A strand by its name or its id.
   *
   * @throws RangeError that names the strands there are
   */
  strand(name: string): Strand;
}

/** A strand that is heard as it happens. */
export interface LiveStrand {
  readonly id: string;
  readonly name: string;
  readonly width: number;
  /** Its newest number. Nothing is allocated. */
  now(band?: number): number;
  /** Writes all its newest numbers into `out`. */
  fill(out: Float32Array): void;
  /** Cues there have been, and how strong the last was. */
  readonly cueCount: number;
  readonly lastStrength: number;
  /** Seconds by which it is late for what its measure looks at. */
  readonly latencyS: number;
}

/** The numbers of a scene's strands as they happen. */
export interface LiveNumbers {
  readonly strands: readonly LiveStrand[];
  /** A strand by its name or its id. @throws RangeError that names the strands there are */
  strand(name: string): LiveStrand;
  /** Calls `take` at each cue; gives a way to stop that. */
  onCue(take: (strand: LiveStrand, strength: number) => void): () => void;
  /** Stops listening. */
  stop(): void;
}

/** Numbers as they happen, from samples that are handed in. */
export interface LiveFeed extends LiveNumbers {
  /** Takes the next samples, mono at 48 000 Hz, for every strand. */
  feed(block: Float32Array): void;
}

/** How the numbers of a scene are computed: the file `numbers.json` that Bumbrel writes. */
export interface NumbersPlan {
  format: "bumbrel-numbers";
  version: 1;
  /** Name of the scene. */
  name: string;
  /** The sounds whose samples are needed, and where they lie beside the plan. */
  sounds: { id: string; name: string; file?: string }[];
  strands: { id: string; name: string }[];
  /** Strands that cannot be computed from sounds alone, and why; baked they are there. */
  left: { id: string; name: string; why: string }[];
}

/** Samples of a sound at 48 000 Hz: one channel, several, or what a browser decoded. */
export type SoundSamples =
  | Float32Array
  | readonly Float32Array[]
  | { numberOfChannels: number; sampleRate: number; getChannelData(channel: number): Float32Array };
