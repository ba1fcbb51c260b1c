import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Scene } from "@bumbrel/core/document/scene";
import { loopLengthS, runningOf } from "@bumbrel/core/document/strands/running";
import { unpackSamples } from "@bumbrel/core/dsp/maths/samples";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import { isMadeKey, samplesKey } from "@bumbrel/core/sound/key";
import { isStored, type MadeSound, type Sound } from "@bumbrel/core/sound/kinds";
import type { SoundData } from "@bumbrel/core/sound/signal";
import type { FromWorker, ToWorker } from "../analysis/messages";
import { api, soundBytesUrl } from "../api/client";

/** A sound's samples in memory. */
export interface LoadedSound extends SoundData {
  badSampleCount: number;
}

/** A sound's waveform as far as it has been read. */
export interface Waveform {
  /** As `waveformPairs` gives them; those that are not there yet are 0. */
  pairs: Float32Array;
  hopsReady: number;
}

/** The samples of a project's sounds: loads them through the analysis worker, and knows how far each is. */
export class SoundLibrary {
  /** Facts of stored sounds, by the id they are stored under. */
  readonly facts: Map<string, SoundFacts>;
  /** Loaded sounds by their samples' key, see `samplesKey`. */
  readonly sounds = new Map<string, LoadedSound>();
  /** Share loaded of the sounds that are loading. */
  readonly loading = new Map<string, number>();
  readonly failures = new Map<string, string>();
  readonly waveforms = new Map<string, Waveform>();
  private readonly send: (message: ToWorker) => void;

  constructor(facts: Record<string, SoundFacts>, send: (message: ToWorker) => void) {
    this.facts = new Map(Object.entries(facts));
    this.send = send;
  }

  /** Takes in the facts of further stored sounds. */
  know(facts: Record<string, SoundFacts>): void {
    for (const [id, fact] of Object.entries(facts)) this.facts.set(id, fact);
  }

  /** A sound's samples, or `undefined` until they are loaded. */
  soundOf(sound: Sound): LoadedSound | undefined {
    const key = samplesKey(sound);
    return key === undefined ? undefined : this.sounds.get(key);
  }

  /** Seconds of a sound, 0 until it is loaded. */
  readonly lengthOf = (sound: Sound): number => (this.soundOf(sound)?.mono.length ?? 0) / SAMPLE_RATE_HZ;

  /** Position of a sound that runs with the tape, at a time of the tape: it may loop. */
  tapePositionOf(scene: Scene, sound: Sound, timeS: number): number {
    const lengthS = loopLengthS(scene, sound, this.lengthOf);
    return lengthS > 0 && runningOf(scene, sound).runs === "tape" ? timeS % lengthS : timeS;
  }

  /** Loads the sounds of a scene that are not loaded yet, and forgets made ones that are no longer used. */
  follow(scene: Scene): void {
    for (const sound of scene.sounds) {
      const key = samplesKey(sound);
      if (key === undefined) continue;
      if (this.sounds.has(key) || this.loading.has(key) || this.failures.has(key)) continue;
      this.loading.set(key, 0);
      const url = isStored(sound) ? soundBytesUrl(sound.storedId) : undefined;
      this.send({ kind: "load", key, sound: sound as MadeSound, url });
    }
    // Made sounds are quick to make again; each change of one would otherwise stay in memory.
    const used = new Set(scene.sounds.map(samplesKey));
    for (const key of this.sounds.keys()) {
      if (!isMadeKey(key) || used.has(key)) continue;
      this.sounds.delete(key);
      this.waveforms.delete(key);
      this.send({ kind: "forget", key });
    }
  }

  /**
   * Takes in what the worker says about a sound.
   *
   * @returns whether a sound was loaded
   */
  receive(message: Extract<FromWorker, { kind: "loading" | "loaded" | "soundFailed" }>): boolean {
    const { key } = message;
    if (message.kind === "loading") {
      const { share, firstHop, hops, pairs } = message;
      const waveform = this.waveforms.get(key) ?? { pairs: new Float32Array(hops * 2), hopsReady: 0 };
      if (waveform.pairs.length < hops * 2) {
        const longer = new Float32Array(hops * 2);
        longer.set(waveform.pairs);
        waveform.pairs = longer;
      }
      waveform.pairs.set(pairs.subarray(0, waveform.pairs.length - firstHop * 2), firstHop * 2);
      waveform.hopsReady = firstHop + pairs.length / 2;
      this.waveforms.set(key, waveform);
      if (this.loading.has(key)) this.loading.set(key, share);
      return false;
    }
    this.loading.delete(key);
    if (message.kind === "soundFailed") {
      this.failures.set(key, message.message);
      return false;
    }
    const { channels, mono, ...data } = message.data;
    this.sounds.set(key, { ...data, channels: channels.map(unpackSamples), mono: unpackSamples(mono) });
    return true;
  }

  /** True if every sound of a scene has been loaded or has failed. */
  isComplete(scene: Scene): boolean {
    return scene.sounds.every((sound) => {
      const key = samplesKey(sound);
      return key === undefined || this.sounds.has(key) || this.failures.has(key);
    });
  }

  /**
   * Stores a sound's bytes, and gives the id they are stored under.
   *
   * @throws ApiProblem when the server does not accept them, or the signal's reason
   */
  async store(
    name: string,
    facts: SoundFacts,
    bytes: Blob,
    onShare: (share: number) => void = () => {},
    signal: AbortSignal = new AbortController().signal,
  ): Promise<string> {
    const { id } = await api.announceSound(name, facts);
    await api.sendSoundBytes(id, bytes, onShare, signal);
    this.facts.set(id, facts);
    return id;
  }
}
