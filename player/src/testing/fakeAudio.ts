/**
 * A stand-in for the parts of Web Audio that the transport uses, with a clock that a test moves by hand.
 * It keeps to the standard where the transport depends on it: sources start once, end on time, and run nowhere
 * while the context is suspended.
 */
export class FakeAudioContext {
  static made: FakeAudioContext[] = [];
  /** Whether `resume` is granted, as after a gesture. */
  static allowed = true;

  currentTime = 0;
  outputLatency = 0;
  state: "suspended" | "running" | "closed" = "suspended";
  onstatechange: (() => void) | null = null;
  readonly destination = {};
  readonly sources: FakeSource[] = [];
  readonly gains: FakeGain[] = [];

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
    this.currentTime += seconds;
    for (const source of this.sources) source.settle(this.currentTime);
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
    const source = new FakeSource();
    this.sources.push(source);
    return source;
  }

  createConstantSource(): FakeSource {
    return this.createBufferSource();
  }

  /** Sources of sounds that are running now. */
  get sounding(): FakeSource[] {
    return this.sources.filter(({ buffer, startedAt, ended }) => buffer && startedAt !== undefined && !ended);
  }
}

export class FakeGain {
  readonly gain = {
    value: 1,
    setTargetAtTime(value: number) {
      this.value = value;
    },
  };
  connect<T>(node: T): T {
    return node;
  }
  disconnect(): void {}
}

export class FakeSource {
  buffer: { duration: number; getChannelData(channel: number): Float32Array } | undefined;
  loop = false;
  startedAt: number | undefined;
  offsetS = 0;
  ended = false;
  onended: (() => void) | null = null;
  private stopsAt = Number.POSITIVE_INFINITY;

  connect<T>(node: T): T {
    return node;
  }
  disconnect(): void {}

  start(when: number, offsetS = 0): void {
    if (this.startedAt !== undefined) throw new Error("InvalidStateError: a source starts only once");
    this.startedAt = when;
    this.offsetS = offsetS;
    if (this.buffer && !this.loop) this.stopsAt = when + this.buffer.duration - offsetS;
  }

  stop(when?: number): void {
    if (when !== undefined) this.stopsAt = when;
    else this.ended = true;
  }

  settle(now: number): void {
    if (this.ended || now < this.stopsAt) return;
    this.ended = true;
    this.onended?.();
  }
}
