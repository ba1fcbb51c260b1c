import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { copySamples, type Samples } from "@bumbrel/core/dsp/maths/samples";

/** A sound on a deck. */
export interface DeckSound {
  id: string;
  /** Channels at 48 kHz, of equal length. */
  channels: readonly Samples[];
  /** Samples after which it repeats while the deck runs; 0 to play once. */
  period: number;
}

/** A stretch of a deck that loops, in samples. */
export interface Stretch {
  from: number;
  to: number;
}

/** How much is handed to the audio thread at once: small enough to seek at once, large enough to be cheap. */
const CHUNK = SAMPLE_RATE_HZ / 2;

/**
 * Sounds that run as one. Hands their samples to the audio thread piece after piece on the sample grid of the
 * audio clock, so that all of them start, loop and end on the same sample, and long sounds are never copied
 * whole.
 */
export class Deck {
  /** Samples of the longest sound. */
  length = 0;
  private sounds: readonly DeckSound[] = [];
  private loop: Stretch | undefined;
  /** Chunks that have been handed on. */
  private readonly chunks = new Set<Chunk>();
  private running = false;
  /** Position in samples while it is stopped, which may lie between two; while it runs, the position at `startFrame` of the audio clock. */
  private offset = 0;
  private startFrame = 0;
  private nextFrame = 0;
  private nextPosition = 0;

  /** Its end: without sounds it runs until it is stopped. */
  get endPosition(): number {
    return this.length > 0 ? this.length : Number.POSITIVE_INFINITY;
  }

  get isRunning(): boolean {
    return this.running;
  }

  /** The position it began from. */
  get startPosition(): number {
    return this.offset;
  }

  get isLooping(): boolean {
    return this.loop !== undefined;
  }

  /** True if these are exactly the sounds it has. */
  holds(sounds: readonly DeckSound[]): boolean {
    return (
      sounds.length === this.sounds.length &&
      sounds.every(({ id, channels, period }, i) => {
        const own = this.sounds[i];
        return id === own.id && channels === own.channels && period === own.period;
      })
    );
  }

  /** Loads other sounds or another loop; it must be stopped. */
  load(sounds: readonly DeckSound[], loop: Stretch | undefined): void {
    this.sounds = sounds;
    this.length = sounds.reduce((length, { channels }) => Math.max(length, channels[0].length), 0);
    this.loop =
      loop && loop.to > loop.from ? { from: loop.from, to: Math.min(loop.to, this.length) } : undefined;
    if (this.loop && this.loop.from >= this.length) this.loop = undefined;
    this.offset = Math.min(this.offset, this.endPosition);
  }

  /** Sets the position. */
  place(position: number): void {
    this.offset = Math.min(this.endPosition, Math.max(0, position));
  }

  /** Runs from its position, from a sample of the audio clock on. */
  start(frame: number): void {
    if (this.loop ? this.offset >= this.loop.to : this.offset >= this.endPosition) {
      this.offset = this.loop?.from ?? 0;
    }
    this.offset = Math.round(this.offset);
    this.running = true;
    this.startFrame = frame;
    this.nextFrame = frame;
    this.nextPosition = this.offset;
  }

  /** Stops at a position. */
  stop(position: number): void {
    this.running = false;
    this.place(position);
    for (const { source } of this.chunks) {
      source.onended = null;
      source.stop();
      source.disconnect();
    }
    this.chunks.clear();
  }

  /** Lets what has been handed on sound no longer than to a sample of the audio clock, which lies ahead. */
  stopAt(frame: number): void {
    for (const chunk of this.chunks) {
      chunk.source.onended = null;
      chunk.source.stop(frame / SAMPLE_RATE_HZ);
    }
    this.chunks.clear();
    this.stop(this.positionAt(frame));
  }

  /** Position in samples when the audio clock is at `frame`, which may lie between samples. */
  positionAt(frame: number): number {
    if (!this.running) return this.offset;
    const position = this.offset + Math.max(0, frame - this.startFrame);
    const { loop } = this;
    if (!loop) return Math.min(position, this.endPosition);
    return position < loop.to ? position : loop.from + ((position - loop.from) % (loop.to - loop.from));
  }

  /** Sample of the audio clock from which on it is heard. */
  get beginFrame(): number {
    return this.startFrame;
  }

  /** Sample of the audio clock at which it has played to its end; infinite while it loops. */
  get endFrame(): number {
    return this.loop ? Number.POSITIVE_INFINITY : this.startFrame + this.endPosition - this.offset;
  }

  /** Hands on what is due before `untilFrame`. */
  pump(context: BaseAudioContext, untilFrame: number, entryOf: EntryOf): void {
    while (this.running && this.nextFrame < untilFrame) {
      const count = this.roomAt(this.nextPosition);
      if (count <= 0) return;
      this.play(context, this.sounds, this.nextFrame, this.nextPosition, count, entryOf);
      this.nextFrame += count;
      this.nextPosition = this.after(this.nextPosition, count);
    }
  }

  /**
   * Takes other sounds while it runs: those that stay play on untouched, new ones come in at `frame`.
   *
   * @returns false when its length or loop would change, which takes a fresh start
   */
  exchange(
    sounds: readonly DeckSound[],
    context: BaseAudioContext,
    frame: number,
    entryOf: EntryOf,
  ): boolean {
    const length = sounds.reduce((longest, { channels }) => Math.max(longest, channels[0].length), 0);
    if (!this.running || length !== this.length || frame >= this.nextFrame) return false;
    const stays = (one: DeckSound) =>
      this.sounds.some(
        ({ id, channels, period }) => id === one.id && channels === one.channels && period === one.period,
      );
    const fresh = sounds.filter((sound) => !stays(sound));
    const kept = new Set(sounds.filter(stays).map(({ id }) => id));
    for (const { branches } of this.chunks) {
      for (const [id, { gain }] of branches)
        if (!kept.has(id)) gain.setValueAtTime(0, frame / SAMPLE_RATE_HZ);
    }
    this.sounds = sounds;
    let position = this.positionAt(frame);
    for (let at = frame; at < this.nextFrame; ) {
      const count = Math.min(this.nextFrame - at, this.roomAt(position));
      if (count <= 0) break;
      this.play(context, fresh, at, position, count, entryOf);
      at += count;
      position = this.after(position, count);
    }
    return true;
  }

  /** Samples from a position to the end of its chunk, or to where it loops or ends. */
  private roomAt(position: number): number {
    return Math.min(CHUNK, (this.loop?.to ?? this.length) - position);
  }

  private after(position: number, count: number): number {
    return this.loop && position + count === this.loop.to ? this.loop.from : position + count;
  }

  /** Hands on `count` samples of sounds from a position, to be heard from a sample of the audio clock on. */
  private play(
    context: BaseAudioContext,
    sounds: readonly DeckSound[],
    frame: number,
    position: number,
    count: number,
    entryOf: EntryOf,
  ): void {
    let together: HeardSound[] = [];
    let channels = 0;
    const handOn = () => {
      if (together.length > 0) this.startTogether(context, together, frame, position, count);
      together = [];
      channels = 0;
    };
    for (const sound of sounds) {
      const entry = entryOf(sound.id);
      if (!entry || (sound.period === 0 && position >= sound.channels[0].length)) continue;
      if (channels + sound.channels.length > MOST_CHANNELS) handOn();
      together.push({ ...sound, entry });
      channels += sound.channels.length;
    }
    handOn();
  }

  /**
   * Starts sounds as the channels of one source: a source that is handed over late begins late, but all of its sounds still
   * begin on the same sample.
   */
  private startTogether(
    context: BaseAudioContext,
    sounds: readonly HeardSound[],
    frame: number,
    position: number,
    count: number,
  ): void {
    const channels = sounds.reduce((sum, sound) => sum + sound.channels.length, 0);
    const buffer = context.createBuffer(channels, count, SAMPLE_RATE_HZ);
    const source = context.createBufferSource();
    const branches = new Map<string, GainNode>();
    const splitter = sounds.length > 1 ? context.createChannelSplitter(channels) : undefined;
    let first = 0;
    for (const sound of sounds) {
      const own = Array.from(sound.channels, (_samples, c) => buffer.getChannelData(first + c));
      copyChunk(sound, position, own);
      const gain = context.createGain();
      if (!splitter) source.connect(gain);
      else {
        source.connect(splitter);
        connectChannels(context, splitter, first, own.length, gain);
      }
      gain.connect(sound.entry);
      branches.set(sound.id, gain);
      first += own.length;
    }
    source.buffer = buffer;
    const chunk: Chunk = { source, branches };
    source.onended = () => {
      source.disconnect();
      for (const gain of branches.values()) gain.disconnect();
      this.chunks.delete(chunk);
    };
    source.start(frame / SAMPLE_RATE_HZ);
    this.chunks.add(chunk);
  }
}

/** Channels that one buffer can have at most. */
const MOST_CHANNELS = 32;

/** A sound that is heard, and where its samples go. */
interface HeardSound extends DeckSound {
  entry: AudioNode;
}

/** Some samples of sounds that have been handed on as one. */
interface Chunk {
  source: AudioBufferSourceNode;
  /** Gain that each sound passes on its way to the mix. */
  branches: ReadonlyMap<string, GainNode>;
}

/** Copies samples of a sound from a position on, its repeats included. */
function copyChunk({ channels, period }: DeckSound, position: number, out: readonly Float32Array[]): void {
  const length = channels[0].length;
  const count = out[0].length;
  for (let at = 0; at < count; ) {
    const from = period > 0 ? (position + at) % period : position + at;
    const share = Math.min(count - at, period > 0 ? period - from : count - at);
    const own = Math.max(0, Math.min(share, length - from));
    for (let c = 0; c < channels.length && own > 0; c++) {
      copySamples(channels[c], from, out[c].subarray(at, at + own));
    }
    at += share;
  }
}

/** Connects some outputs of a splitter to a node as the channels of one signal. */
function connectChannels(
  context: BaseAudioContext,
  splitter: ChannelSplitterNode,
  first: number,
  count: number,
  to: AudioNode,
): void {
  if (count === 1) {
    splitter.connect(to, first);
    return;
  }
  const merger = context.createChannelMerger(count);
  for (let c = 0; c < count; c++) splitter.connect(merger, first + c, c);
  merger.connect(to);
}

/** Target of a sound's samples. */
type EntryOf = (soundId: string) => AudioNode | undefined;
