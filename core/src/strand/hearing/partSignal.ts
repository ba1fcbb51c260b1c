import { HOP_SAMPLES } from "../../constants";
import { PartsSplitter } from "../../dsp/hits/partsSplitter";
import { PART_DELAY_HOPS } from "../../dsp/maths/measureWindows";
import { copySamples, type Samples, windowAround } from "../../dsp/maths/samples";
import type { Sliced } from "../../dsp/maths/slices";
import { SOUND_PART_NAMES, type SoundPart } from "../../sound/parts";
import type { Signal } from "./signal";

/** Parts of sounds by their samples: strands that listen to the same share them. */
const found = new WeakMap<Samples, Partial<Record<SoundPart, Float32Array>>>();
/** Hops between two chances to stop: a few milliseconds. */
const HOPS_A_SLICE = 8;

/** A part of a whole sound, in slices; it is heard in one channel, and lies where it does in the sound. */
export function* partSignalSliced(signal: Signal, part: SoundPart): Sliced<Signal> {
  const { channels: _channels, weights: _weights, ...rest } = signal;
  const parts = found.get(signal.samples) ?? {};
  found.set(signal.samples, parts);
  parts.percussive ??= yield* struckSliced(signal.samples);
  if (part === "harmonic") parts.harmonic ??= yield* restSliced(signal.samples, parts.percussive);
  return { ...rest, samples: parts[part]! };
}

function* struckSliced(samples: Samples): Sliced<Float32Array> {
  const out = new Float32Array(samples.length);
  const splitter = new PartsSplitter();
  const [hop, percussive, harmonic] = [0, 1, 2].map(() => new Float32Array(HOP_SAMPLES));
  const hops = Math.ceil(samples.length / HOP_SAMPLES) + PART_DELAY_HOPS;
  for (let i = 0; i < hops; i++) {
    const from = i * HOP_SAMPLES;
    const window = windowAround(samples, Math.min(from, samples.length));
    copySamples(window.samples, from - window.first, hop);
    // Blocks of long sounds are 0 beyond the end.
    splitter.push(hop, percussive, harmonic);
    const at = from - PART_DELAY_HOPS * HOP_SAMPLES;
    if (at >= 0) out.set(percussive.subarray(0, Math.min(HOP_SAMPLES, out.length - at)), at);
    if (i % HOPS_A_SLICE === 0) yield;
  }
  return out;
}

const COPIED_SAMPLES = 1 << 18;

function* restSliced(samples: Samples, struck: Float32Array): Sliced<Float32Array> {
  const out = new Float32Array(samples.length);
  for (let from = 0; from < out.length; from += COPIED_SAMPLES) {
    const stretch = out.subarray(from, from + COPIED_SAMPLES);
    copySamples(samples, from, stretch);
    for (let i = 0; i < stretch.length; i++) stretch[i] -= struck[from + i];
    yield;
  }
  return out;
}

/** The parts of a live sound, hop by hop, each as late as it is known. */
export class LiveParts {
  private readonly splitter = new PartsSplitter();
  private readonly histories: Record<SoundPart, Float32Array>;
  private readonly wanted: number;
  private end: number;

  /** @param wanted  samples up to now of each part that are asked for */
  constructor(wanted: number) {
    this.wanted = wanted;
    this.end = wanted;
    this.histories = { percussive: new Float32Array(4 * wanted), harmonic: new Float32Array(4 * wanted) };
  }

  /** @param latest  the sound up to now: its last hop is the new one */
  push(latest: Float32Array): void {
    const { histories, wanted } = this;
    if (this.end + HOP_SAMPLES > histories.percussive.length) {
      for (const part of SOUND_PART_NAMES) histories[part].copyWithin(0, this.end - wanted, this.end);
      this.end = wanted;
    }
    const room = (part: SoundPart) => histories[part].subarray(this.end, this.end + HOP_SAMPLES);
    this.splitter.push(latest.subarray(latest.length - HOP_SAMPLES), room("percussive"), room("harmonic"));
    this.end += HOP_SAMPLES;
  }

  /** The newest samples of a part. */
  latest(part: SoundPart): Float32Array {
    return this.histories[part].subarray(this.end - this.wanted, this.end);
  }
}
