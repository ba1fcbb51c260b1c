import { LiveFeed as Strands } from "@bumbrel/core/analyse/liveFeed";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { loadLater } from "@bumbrel/core/strand/measures/later/later";
import { fullPlan } from "./fullPlan";
import { byName } from "./trackNumbers";
import type { LiveFeed, LiveNumbers, NumbersPlan } from "./types";

export type { LiveFeed, LiveNumbers, LiveStrand, NumbersPlan } from "./types";

/** An `AudioNode`, as far as it is needed here; named so that servers and workers go without the types of pages. */
export interface SoundNode {
  readonly context: object;
  connect(to: never): unknown;
}

/** Hands blocks of its mono mix to the page. */
const CAPTURE = `registerProcessor("bumbrel-capture",class extends AudioWorkletProcessor{
process([channels]){if(channels[0]){const block=channels[0].slice();this.port.postMessage(block,[block.buffer])}return true}})`;

class Feed extends Strands implements LiveFeed {
  strand(name: string) {
    return byName(this.strands, name);
  }
}

/**
 * Strands that are fed with samples by hand, for workers and Node: give blocks of any length to `feed`.
 *
 * @param plan  the file `numbers.json`
 * @throws Error for a plan this runtime does not read
 */
export async function openFeed(plan: NumbersPlan): Promise<LiveFeed> {
  const full = fullPlan(plan);
  await loadLater(full.strands);
  return new Feed(full);
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
  source: SoundNode | Readonly<Record<string, SoundNode>>,
): Promise<LiveNumbers> {
  const full = fullPlan(plan);
  await loadLater(full.strands);
  const numbers = new Feed(full);
  const isOne = (from: typeof source): from is SoundNode => typeof from.connect === "function";
  const nodeOf = ({ id, name }: { id: string; name: string }) =>
    (isOne(source) ? source : (source[name] ?? source[id])) as unknown as AudioNode | undefined;
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
      ? [[source as unknown as AudioNode, 1] as const]
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
