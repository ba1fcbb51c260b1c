import type { PlayableSound } from "../audio/transport";

/**
 * A stand-in for the parts of Web Audio that the transport uses, with a clock that a test moves by hand.
 * It keeps to the standard where the transport depends on it: sources start once, end on time, and run nowhere
 * while the context is suspended.
 */
export class FakeAudioContext {
  static made: FakeAudioContext[] = [];
  /** True if `resume` is granted, as after a gesture. */
  static allowed = true;

  currentTime = 0;
  outputLatency = 0;
  state: "suspended" | "running" | "closed" = "suspended";
  onstatechange: (() => void) | null = null;
  readonly destination = {};
  readonly sources: FakeSource[] = [];
  readonly gains: FakeGain[] = [];

  /** Called as time passes, for what is due by the page's own timers. */
  onPass: () => void = () => {};

  constructor() {
    FakeAudioContext.made.push(this);
  }

  resume(): Promise<void> {
    if (FakeAudioContext.allowed && this.state === "suspended") {
      this.state = "running";
      this.onstatechange?.();
    }
    return Promise.resolve();
  }

  /** The system takes the sound away, as a phone call does. */
  interrupt(): void {
    this.state = "suspended";
    this.onstatechange?.();
  }

  close(): Promise<void> {
    this.state = "closed";
    return Promise.resolve();
  }

  /** Lets time pass for a context that runs; sources that end do so on the way. */
  pass(seconds: number): void {
    if (this.state !== "running") return;
    const end = this.currentTime + seconds;
    while (this.currentTime < end) {
      this.currentTime = Math.min(end, this.currentTime + 0.1);
      this.onPass();
      for (const source of this.sources) source.settle(this.currentTime);
    }
  }

  createBuffer(channels: number, length: number, sampleRate: number) {
    const data = Array.from({ length: channels }, () => new Float32Array(length));
    return {
      length,
      sampleRate,
      duration: length / sampleRate,
      copyToChannel: (source: Float32Array, channel: number) => data[channel].set(source),
      getChannelData: (channel: number) => data[channel],
    };
  }

  createGain(): FakeGain {
    const gain = new FakeGain();
    this.gains.push(gain);
    return gain;
  }

  createBufferSource(): FakeSource {
    const source = new FakeSource(this);
    this.sources.push(source);
    return source;
  }

  createChannelSplitter(): FakeSplitter {
    return new FakeSplitter();
  }

  createChannelMerger(): FakeGain {
    return new FakeGain();
  }

  createStereoPanner() {
    return Object.assign(this.createGain(), { pan: new FakeParam() });
  }

  /**
   * Samples that reach a node from the sources connected to it, sample by sample of the audio clock.
   *
   * @returns the first channel of `count` samples from `fromFrame` on
   */
  rendered(node: unknown, fromFrame: number, count: number): Float32Array {
    const out = new Float32Array(count);
    for (const { buffer, startedAt, target, stoppedAt } of this.sources) {
      if (!buffer || startedAt === undefined) continue;
      for (const { channel, silentAt } of waysTo(node, target, 0)) {
        const data = buffer.getChannelData(channel);
        const start = Math.round(startedAt * buffer.sampleRate);
        const stop = Math.min(stoppedAt, silentAt);
        const end = Math.min(start + data.length, Math.round(stop * buffer.sampleRate));
        for (let i = Math.max(start, fromFrame); i < Math.min(end, fromFrame + count); i++) {
          out[i - fromFrame] += data[i - start];
        }
      }
    }
    return out;
  }

  createConstantSource(): FakeSource {
    return this.createBufferSource();
  }
}

/** First channels of a source that reach a node by the way of another, and when they fall silent. */
function waysTo(node: unknown, from: unknown, channel: number): { channel: number; silentAt: number }[] {
  if (from === node) return [{ channel, silentAt: Number.POSITIVE_INFINITY }];
  if (from instanceof FakeSplitter) {
    const firsts = from.connections.filter(({ input }) => input === 0);
    return firsts.flatMap(({ to, output }) => waysTo(node, to, output));
  }
  if (!(from instanceof FakeGain)) return [];
  return waysTo(node, from.wentTo, channel).map((way) => ({
    ...way,
    silentAt: Math.min(way.silentAt, from.gain.silentAt),
  }));
}

class FakeSplitter {
  readonly connections: { to: unknown; output: number; input: number }[] = [];
  connect(to: unknown, output = 0, input = 0): void {
    this.connections.push({ to, output, input });
  }
  disconnect(): void {}
}

class FakeParam {
  value = 1;
  silentAt = Number.POSITIVE_INFINITY;
  setValueAtTime(value: number, timeS: number): void {
    if (value === 0) this.silentAt = timeS;
  }
  setTargetAtTime(value: number): void {
    this.value = value;
  }
}

export class FakeGain {
  readonly gain = new FakeParam();
  /** The node it is connected to. */
  goesTo: unknown;
  /** The node it was connected to last, which what has been heard went to. */
  wentTo: unknown;
  connect<T>(node: T): T {
    this.goesTo = node;
    this.wentTo = node;
    return node;
  }
  disconnect(): void {
    this.goesTo = undefined;
  }
}

export class FakeSource {
  buffer: { duration: number; sampleRate: number; getChannelData(channel: number): Float32Array } | undefined;
  startedAt: number | undefined;
  stoppedAt = Number.POSITIVE_INFINITY;
  target: unknown;
  ended = false;
  onended: (() => void) | null = null;
  private readonly context: FakeAudioContext;

  constructor(context: FakeAudioContext) {
    this.context = context;
  }

  connect<T>(node: T): T {
    this.target = node;
    return node;
  }
  disconnect(): void {}

  start(when = 0): void {
    if (this.startedAt !== undefined) throw new Error("InvalidStateError: a source starts only once");
    this.startedAt = when;
    if (this.buffer) this.stoppedAt = when + this.buffer.duration;
  }

  stop(when?: number): void {
    this.stoppedAt = Math.min(this.stoppedAt, when ?? this.context.currentTime);
    if (when === undefined) this.ended = true;
  }

  settle(now: number): void {
    if (this.ended || this.startedAt === undefined || now < this.stoppedAt) return;
    this.ended = true;
    this.onended?.();
  }
}

/** A sound that runs with the tape, straight to the output. */
export function playable(
  id: string,
  channels: Float32Array[],
  changes: Partial<PlayableSound> = {},
): PlayableSound {
  return {
    id,
    channels,
    heard: true,
    muted: false,
    faderDb: 0,
    pan: 0,
    busId: null,
    runs: "tape",
    loops: false,
    unitId: id,
    ...changes,
  };
}
