import { mixToMono } from "../level/mix";
import { resampledLength, resampleStretch } from "./resample";

/**
 * Samples at 48 kHz: all of them in memory, or a long sound's that are made of what is kept of it as they are read.
 * The numbers are the same, bit for bit.
 */
export type Samples = Float32Array | LongSamples;

/** Samples in a form that can be sent to another thread; see {@link unpackSamples}. */
export type PackedSamples =
  | Float32Array
  | { kind: "pcm"; pcm: Int16Array; channelCount: number; channel: number; rateHz: number }
  | { kind: "mean"; channels: PackedSamples[] }
  | { kind: "sum"; parts: (Omit<SumPart, "samples"> & { samples: PackedSamples })[]; length: number };

/** A stretch of samples in memory. */
export interface SampleWindow {
  samples: Float32Array;
  /** Index of its first sample in the sound. */
  first: number;
}

/** Samples that are made at a time, about 22 s, and how many on either side of them come along. */
const BLOCK = 1 << 20;
/** Readers of a window read at most so far on either side of its middle: two seconds. */
export const WINDOW_REACH = 96_000;
/** Blocks that are kept: as many as there are strands at work in different places, or so. */
const KEPT_BLOCKS = 8;

/** A long sound's samples, of which some blocks are in memory. */
export abstract class LongSamples {
  abstract readonly length: number;
  private readonly blocks = new Map<number, SampleWindow>();

  /**
   * Copies samples.
   *
   * @param from  the first one; those before 0 and after the end are 0
   * @param out  is filled
   */
  abstract read(from: number, out: Float32Array): void;

  /** A form of it that can be sent to another thread. */
  abstract pack(): PackedSamples;

  /** Samples around one, {@link WINDOW_REACH} of them on either side at least; those outside of the sound are 0. */
  around(centre: number): SampleWindow {
    const index = Math.floor(centre / BLOCK);
    let block = this.blocks.get(index);
    if (!block) {
      const oldest = this.blocks.size < KEPT_BLOCKS ? undefined : this.blocks.keys().next().value;
      const samples =
        oldest === undefined ? new Float32Array(BLOCK + 2 * WINDOW_REACH) : this.blocks.get(oldest)!.samples;
      if (oldest !== undefined) this.blocks.delete(oldest);
      block = { samples, first: index * BLOCK - WINDOW_REACH };
      this.read(block.first, samples);
    } else this.blocks.delete(index);
    // The last one used is the last to go.
    this.blocks.set(index, block);
    return block;
  }
}

/** A channel of interleaved 16-bit samples at any rate. */
export class PcmSamples extends LongSamples {
  readonly length: number;
  private readonly pcm: Int16Array;
  private readonly channelCount: number;
  private readonly channel: number;
  private readonly rateHz: number;

  constructor(pcm: Int16Array, channelCount: number, channel: number, rateHz: number) {
    super();
    this.pcm = pcm;
    this.channelCount = channelCount;
    this.channel = channel;
    this.rateHz = rateHz;
    this.length = resampledLength(pcm.length / channelCount, rateHz);
  }

  read(from: number, out: Float32Array): void {
    const { pcm, channelCount, channel, rateHz } = this;
    const count = pcm.length / channelCount;
    resampleStretch(rateHz, count, from, out, (first, input) => {
      for (let i = 0, at = first * channelCount + channel; i < input.length; i++, at += channelCount) {
        input[i] = pcm[at] / 32_768;
      }
    });
  }

  pack(): PackedSamples {
    const { pcm, channelCount, channel, rateHz } = this;
    return { kind: "pcm", pcm, channelCount, channel, rateHz };
  }
}

/** Samples that are mixed at a time: few enough to stay near the processor. */
const MIXED = 1 << 14;

/** The mean of channels, as {@link mixToMono} gives it. */
export class MeanSamples extends LongSamples {
  readonly length: number;
  private readonly channels: readonly Samples[];
  private readonly stretches: Float32Array[] = [];

  constructor(channels: readonly Samples[]) {
    super();
    this.channels = channels;
    this.length = channels[0].length;
  }

  read(from: number, out: Float32Array): void {
    for (let at = 0; at < out.length; at += MIXED) {
      const part = out.subarray(at, at + MIXED);
      const stretches = this.channels.map((channel, c) => {
        this.stretches[c] ??= new Float32Array(MIXED);
        const stretch = this.stretches[c].subarray(0, part.length);
        copySamples(channel, from + at, stretch);
        return stretch;
      });
      mixToMono(stretches, part);
    }
  }

  pack(): PackedSamples {
    return { kind: "mean", channels: this.channels.map(packSamples) };
  }
}

export interface SumPart {
  samples: Samples;
  /** Linear. */
  gain: number;
  /** True if it begins again at its end. */
  loops: boolean;
}

/** The sum of sounds. */
export class SumSamples extends LongSamples {
  readonly length: number;
  private readonly parts: readonly SumPart[];

  constructor(parts: readonly SumPart[], length: number) {
    super();
    this.parts = parts;
    this.length = length;
  }

  read(from: number, out: Float32Array): void {
    out.fill(0);
    const end = Math.min(out.length, this.length - from);
    for (const { samples, gain, loops } of this.parts) {
      for (let at = Math.max(0, -from); at < end; ) {
        const own = loops ? (from + at) % samples.length : from + at;
        if (own >= samples.length) break;
        const count = Math.min(end - at, samples.length - own);
        const stretch = samplesFrom(samples, own, count);
        for (let i = 0; i < count; i++) out[at + i] += gain * stretch[i];
        at += count;
      }
    }
  }

  pack(): PackedSamples {
    const parts = this.parts.map(({ samples, ...part }) => ({ ...part, samples: packSamples(samples) }));
    return { kind: "sum", parts, length: this.length };
  }
}

/** Samples around one, see {@link LongSamples.around}; of those that are all in memory simply all. */
export function windowAround(samples: Samples, centre: number): SampleWindow {
  return samples instanceof LongSamples ? samples.around(centre) : { samples, first: 0 };
}

/** Fills `out` with samples from one on; those outside of the sound are 0. */
export function copySamples(samples: Samples, from: number, out: Float32Array): void {
  if (samples instanceof LongSamples) {
    samples.read(from, out);
    return;
  }
  out.fill(0);
  out.set(samples.subarray(Math.max(0, from), Math.max(0, from + out.length)), Math.max(0, -from));
}

/** A copy of `count` samples, as {@link copySamples} gives them. */
export function samplesFrom(samples: Samples, from: number, count: number): Float32Array {
  const out = new Float32Array(count);
  copySamples(samples, from, out);
  return out;
}

const ONE = new Float32Array(1);

/** One sample; 0 outside of the sound. */
export function sampleOf(samples: Samples, index: number): number {
  if (!(samples instanceof LongSamples)) return samples[index] ?? 0;
  samples.read(index, ONE);
  return ONE[0];
}

/**
 * Reads short stretches of samples again and again, as what is drawn each frame does: of a long sound no more is made
 * than is asked for.
 */
export class StretchReader {
  private memory = new Float32Array(0);
  private readonly window: SampleWindow = { samples: this.memory, first: 0 };

  /** Samples from one to before another; they are valid until the next call, and there may be more on either side. */
  between(samples: Samples, from: number, to: number): SampleWindow {
    const { window } = this;
    if (!(samples instanceof LongSamples)) {
      window.samples = samples;
      window.first = 0;
      return window;
    }
    const count = Math.max(0, to - from);
    if (this.memory.length < count) this.memory = new Float32Array(count);
    window.samples = this.memory.subarray(0, count);
    window.first = from;
    samples.read(from, window.samples);
    return window;
  }
}

export function packSamples(samples: Samples): PackedSamples {
  return samples instanceof LongSamples ? samples.pack() : samples;
}

export function unpackSamples(packed: PackedSamples): Samples {
  if (!("kind" in packed)) return packed;
  switch (packed.kind) {
    case "pcm":
      return new PcmSamples(packed.pcm, packed.channelCount, packed.channel, packed.rateHz);
    case "mean":
      return new MeanSamples(packed.channels.map(unpackSamples));
    case "sum":
      return new SumSamples(
        packed.parts.map(({ samples, ...part }) => ({ ...part, samples: unpackSamples(samples) })),
        packed.length,
      );
  }
}
