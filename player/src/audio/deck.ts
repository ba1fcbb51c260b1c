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
  /** Buffers that have been handed on, with their sounds. */
  private readonly sources = new Map<AudioBufferSourceNode, string>();
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
    for (const source of this.sources.keys()) {
      source.onended = null;
      source.stop();
      source.disconnect();
    }
    this.sources.clear();
  }

  /** Lets what has been handed on sound no longer than to a sample of the audio clock, which lies ahead. */
  stopAt(frame: number): void {
    for (const source of [...this.sources.keys()]) this.end(source, frame);
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
      for (const sound of this.sounds)
        this.play(context, sound, this.nextFrame, this.nextPosition, count, entryOf);
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
    for (const [source, id] of this.sources) if (!kept.has(id)) this.end(source, frame);
    this.sounds = sounds;
    let position = this.positionAt(frame);
    for (let at = frame; at < this.nextFrame; ) {
      const count = Math.min(this.nextFrame - at, this.roomAt(position));
      if (count <= 0) break;
      for (const sound of fresh) this.play(context, sound, at, position, count, entryOf);
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

  private end(source: AudioBufferSourceNode, frame: number): void {
    source.onended = null;
    source.stop(frame / SAMPLE_RATE_HZ);
    this.sources.delete(source);
  }

  /** Hands on `count` samples of a sound from a position, to be heard from a sample of the audio clock on. */
  private play(
    context: BaseAudioContext,
    sound: DeckSound,
    frame: number,
    position: number,
    count: number,
    entryOf: EntryOf,
  ): void {
    const { id, channels, period } = sound;
    const length = channels[0].length;
    const entry = entryOf(id);
    if (!entry || (period === 0 && position >= length)) return;
    const buffer = context.createBuffer(channels.length, count, SAMPLE_RATE_HZ);
    for (let at = 0; at < count; ) {
      const from = period > 0 ? (position + at) % period : position + at;
      const share = Math.min(count - at, period > 0 ? period - from : count - at);
      const own = Math.max(0, Math.min(share, length - from));
      for (let c = 0; c < channels.length && own > 0; c++) {
        copySamples(channels[c], from, buffer.getChannelData(c).subarray(at, at + own));
      }
      at += share;
    }
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.connect(entry);
    source.onended = () => {
      source.disconnect();
      this.sources.delete(source);
    };
    source.start(frame / SAMPLE_RATE_HZ);
    this.sources.set(source, id);
  }
}

/** Target of a sound's samples. */
type EntryOf = (soundId: string) => AudioNode | undefined;
