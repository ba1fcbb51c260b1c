import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";

/** A sound on a deck. */
export interface DeckSound {
  id: string;
  /** Channels at 48 kHz, of equal length. */
  channels: readonly Float32Array[];
  /** Samples after which it goes round while the deck goes on; 0 to play once. */
  period: number;
}

/** A stretch of a deck that goes round, in samples. */
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
  private readonly sources = new Set<AudioBufferSourceNode>();
  private running = false;
  /** Position in samples while it stands, between two if it was sent there; while it runs, that at `startFrame` of the audio clock. */
  private offset = 0;
  private startFrame = 0;
  private nextFrame = 0;
  private nextPosition = 0;

  get isRunning(): boolean {
    return this.running;
  }

  /** Whether these are the very sounds it has. */
  holds(sounds: readonly DeckSound[]): boolean {
    return (
      sounds.length === this.sounds.length &&
      sounds.every(({ id, channels, period }, i) => {
        const own = this.sounds[i];
        return id === own.id && channels === own.channels && period === own.period;
      })
    );
  }

  /** Takes other sounds or another loop; it must stand. */
  load(sounds: readonly DeckSound[], loop: Stretch | undefined): void {
    this.sounds = sounds;
    this.length = sounds.reduce((length, { channels }) => Math.max(length, channels[0].length), 0);
    this.loop =
      loop && loop.to > loop.from ? { from: loop.from, to: Math.min(loop.to, this.length) } : undefined;
    if (this.loop && this.loop.from >= this.length) this.loop = undefined;
    this.offset = Math.min(this.offset, this.length);
  }

  /** Sets where it stands. */
  place(position: number): void {
    this.offset = Math.min(this.length, Math.max(0, position));
  }

  /** Runs from where it stands, from a sample of the audio clock on. */
  start(frame: number): void {
    if (this.loop ? this.offset >= this.loop.to : this.offset >= this.length) {
      this.offset = this.loop?.from ?? 0;
    }
    this.offset = Math.round(this.offset);
    this.running = true;
    this.startFrame = frame;
    this.nextFrame = frame;
    this.nextPosition = this.offset;
  }

  /** Stops, and stands at a position. */
  stop(position: number): void {
    this.running = false;
    this.place(position);
    for (const source of this.sources) {
      source.onended = null;
      source.stop();
      source.disconnect();
    }
    this.sources.clear();
  }

  /** Position in samples when the audio clock is at `frame`, which may lie between samples. */
  positionAt(frame: number): number {
    if (!this.running) return this.offset;
    const position = this.offset + Math.max(0, frame - this.startFrame);
    const { loop } = this;
    if (!loop) return Math.min(position, this.length);
    return position < loop.to ? position : loop.from + ((position - loop.from) % (loop.to - loop.from));
  }

  /** Sample of the audio clock at which it has played to its end; infinite while it loops. */
  get endFrame(): number {
    return this.loop ? Number.POSITIVE_INFINITY : this.startFrame + this.length - this.offset;
  }

  /** Hands on what is due before `untilFrame`. */
  pump(
    context: BaseAudioContext,
    untilFrame: number,
    entryOf: (soundId: string) => AudioNode | undefined,
  ): void {
    while (this.running && this.nextFrame < untilFrame) {
      const end = this.loop?.to ?? this.length;
      const count = Math.min(CHUNK, end - this.nextPosition);
      if (count <= 0) return;
      for (const sound of this.sounds) {
        const entry = entryOf(sound.id);
        if (entry) this.play(context, sound, count, entry);
      }
      this.nextFrame += count;
      this.nextPosition += count;
      if (this.loop && this.nextPosition === this.loop.to) this.nextPosition = this.loop.from;
    }
  }

  private play(context: BaseAudioContext, sound: DeckSound, count: number, entry: AudioNode): void {
    const { channels, period } = sound;
    const length = channels[0].length;
    if (period === 0 && this.nextPosition >= length) return;
    const buffer = context.createBuffer(channels.length, count, SAMPLE_RATE_HZ);
    for (let at = 0; at < count; ) {
      const position = this.nextPosition + at;
      const from = period > 0 ? position % period : position;
      const room = period > 0 ? period - from : count - at;
      const share = Math.min(count - at, room);
      const own = Math.max(0, Math.min(share, length - from));
      for (let c = 0; c < channels.length && own > 0; c++) {
        buffer.getChannelData(c).set(channels[c].subarray(from, from + own), at);
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
    source.start(this.nextFrame / SAMPLE_RATE_HZ);
    this.sources.add(source);
  }
}
