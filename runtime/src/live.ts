import type { NumbersPlan as FullPlan, PlannedStrand } from "@bumbrel/core/analyse/planned";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { CombinedLive, LiveListening, LiveStrand as Reader } from "@bumbrel/core/strand/live";
import { windowLatencyS } from "@bumbrel/core/strand/measures/table";
import { fullPlan } from "./fullPlan";
import { byName } from "./trackNumbers";
import type { LiveNumbers, LiveStrand, NumbersPlan } from "./types";

export type { LiveNumbers, LiveStrand, NumbersPlan } from "./types";

/** Hands blocks of its mono mix to the page. */
const CAPTURE = `registerProcessor("bumbrel-capture",class extends AudioWorkletProcessor{
process([channels]){if(channels[0]){const block=channels[0].slice();this.port.postMessage(block,[block.buffer])}return true}})`;

class HeardStrand implements LiveStrand {
  readonly id: string;
  readonly name: string;
  readonly latencyS: number;
  readonly reader: Reader | CombinedLive;

  constructor({ id, name, measure }: PlannedStrand, reader: Reader | CombinedLive) {
    this.id = id;
    this.name = name;
    this.latencyS = windowLatencyS(measure);
    this.reader = reader;
  }

  get width(): number {
    return this.reader.track.width;
  }

  get cueCount(): number {
    return this.reader.cueCount;
  }

  get lastStrength(): number {
    return this.reader.lastCue?.strength ?? 0;
  }

  now(band = 0): number {
    return this.reader.track.values[band];
  }

  fill(out: Float32Array): void {
    out.set(this.reader.track.values);
  }
}

/** Strands of a plan that are fed with samples by hand: in a worker, in Node, or from {@link listen}. */
export class LiveFeed implements LiveNumbers {
  readonly strands: readonly LiveStrand[];
  /** Ids of sounds that are summed, with their gains, and the strands that hear that sum. */
  readonly mixes: readonly { gains: ReadonlyMap<string, number>; feed(block: Float32Array): void }[];
  private readonly heard: readonly HeardStrand[];
  private readonly listeners = new Set<(strand: LiveStrand, strength: number) => void>();
  private hops = 0;

  /** @throws Error for a plan this runtime does not read */
  constructor(plan: NumbersPlan) {
    const { strands } = fullPlan(plan);
    this.heard = strands.map(
      (strand) =>
        new HeardStrand(
          strand,
          strand.from.kind === "strands" ? new CombinedLive(strand) : new Reader(strand),
        ),
    );
    this.strands = this.heard;
    const sources = new Map(this.heard.map(({ id, reader }) => [id, reader]));
    const combined = strands.flatMap(({ id, from }) =>
      from.kind === "strands" ? [{ reader: sources.get(id) as CombinedLive, ids: from.ids }] : [],
    );
    const mixes = new Map<string, { gains: Map<string, number>; readers: Reader[] }>();
    for (const { id, from } of strands) {
      if (from.kind === "strands") continue;
      const gains = gainsOf(from);
      const key = JSON.stringify([...gains]);
      const mix = mixes.get(key) ?? { gains, readers: [] };
      mixes.set(key, mix);
      mix.readers.push(sources.get(id) as Reader);
    }
    const all = [...mixes.values()];
    this.mixes = all.map(({ gains, readers }, i) => {
      const listening = new LiveListening();
      const seen = new Map<HeardStrand, number>();
      // Strands made of others are read once a hop, after those of the last mix.
      const onHop = () => {
        if (i < all.length - 1) return;
        this.hops++;
        for (const { reader, ids } of combined) {
          reader.readStrands(
            ids.map((id) => sources.get(id)!.track),
            this.hops / 100,
          );
        }
      };
      return {
        gains,
        feed: (block) => {
          listening.take(block, readers, onHop);
          this.tellCues(seen);
        },
      };
    });
  }

  strand(name: string): LiveStrand {
    return byName(this.heard, name);
  }

  onCue(take: (strand: LiveStrand, strength: number) => void): () => void {
    this.listeners.add(take);
    return () => this.listeners.delete(take);
  }

  /** Gives the same samples to every strand that hears some. */
  feed(block: Float32Array): void {
    for (const mix of this.mixes) mix.feed(block);
  }

  stop(): void {
    this.listeners.clear();
    for (const { reader } of this.heard) reader.dispose();
  }

  private tellCues(seen: Map<HeardStrand, number>): void {
    for (let i = 0; i < this.heard.length; i++) {
      const strand = this.heard[i];
      const count = strand.cueCount;
      if (count === (seen.get(strand) ?? 0)) continue;
      seen.set(strand, count);
      for (const take of this.listeners) take(strand, strand.lastStrength);
    }
  }
}

function gainsOf(from: FullPlan["strands"][number]["from"]): Map<string, number> {
  if (from.kind === "sounds")
    return new Map(from.listening.sounds.map(({ soundId, gain }) => [soundId, gain]));
  return new Map(from.kind === "live" ? [[from.soundId, 1]] : []);
}

/**
 * Listens to what a page plays or hears, and computes the strands of a scene as it happens.
 *
 * @param plan  the file `numbers.json`
 * @param source  one node that all strands hear, or nodes by the names of the sounds they stand for
 * @throws Error when the context's rate is not 48 000 Hz, or no node is given that a strand hears
 * @example
 * const context = new AudioContext({ sampleRate: 48000 });
 * const numbers = await listen(plan, context.createMediaElementSource(document.querySelector("audio")));
 * numbers.onCue((strand) => strand.name === "Kick" && burst());
 * // in the loop: lamp.intensity = numbers.strand("Glow").now();
 */
export async function listen(
  plan: NumbersPlan,
  source: AudioNode | Readonly<Record<string, AudioNode>>,
): Promise<LiveNumbers> {
  const numbers = new LiveFeed(plan);
  const isOne = (from: typeof source): from is AudioNode => typeof from.connect === "function";
  const nodeOf = ({ id, name }: { id: string; name: string }) =>
    isOne(source) ? source : (source[name] ?? source[id]);
  const nodes = new Map(plan.sounds.flatMap((sound) => [[sound.id, nodeOf(sound)] as const]));
  const context = [...nodes.values()].find((node) => node !== undefined)?.context as AudioContext | undefined;
  if (!context)
    throw new Error(`Give an AudioNode for ${plan.sounds.map(({ name }) => `"${name}"`).join(" or ")}.`);
  if (context.sampleRate !== SAMPLE_RATE_HZ) {
    throw new Error(
      `The AudioContext has ${context.sampleRate} samples a second. Make it with new AudioContext({ sampleRate: ${SAMPLE_RATE_HZ} }).`,
    );
  }
  const url = URL.createObjectURL(new Blob([CAPTURE], { type: "text/javascript" }));
  await context.audioWorklet.addModule(url).finally(() => URL.revokeObjectURL(url));
  const made: AudioNode[] = [];
  const entries: [AudioNode, AudioNode][] = [];
  for (const { gains, feed } of numbers.mixes) {
    const capture = new AudioWorkletNode(context, "bumbrel-capture", {
      channelCount: 1,
      channelCountMode: "explicit",
    });
    capture.port.onmessage = ({ data }: MessageEvent<Float32Array>) => feed(data);
    const heard = isOne(source)
      ? [[source, 1] as const]
      : [...gains].map(([id, gain]) => [nodes.get(id), gain] as const);
    for (const [node, gain] of heard) {
      if (!node) continue;
      const entry = context.createGain();
      entry.gain.value = gain;
      node.connect(entry).connect(capture);
      made.push(entry);
      entries.push([node, entry]);
    }
    // It gives silence: a node that leads nowhere need not be run.
    capture.connect(context.destination);
    made.push(capture);
  }
  const stop = numbers.stop.bind(numbers);
  numbers.stop = () => {
    for (const [node, entry] of entries) node.disconnect(entry);
    for (const node of made) node.disconnect();
    stop();
  };
  return numbers;
}
