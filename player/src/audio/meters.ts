import { toLufs } from "@bumbrel/core/dsp/level/loudness";
import { METER_FIELDS, type MeterOptions } from "./meterLayout";
import type { Mixer } from "./mixer";
import type { Transport } from "./transport";

/** Values that a meter shows. */
export interface MeterReading {
  /** Largest sample of either channel, falling slowly; full scale = 1. */
  level: number;
  /** The largest of the last while. */
  hold: number;
  /** True if full scale was reached since the clip mark was last cleared. */
  clipped: boolean;
  /** Loudness over the last 3 s; `-Infinity` for silence. */
  lufs: number;
}

/** How fast a level falls when the sound is gone. */
const FALL_DB_PER_S = 26;
const HOLD_MS = 1500;
const SILENT: Readonly<MeterReading> = {
  level: 0,
  hold: 0,
  clipped: false,
  lufs: Number.NEGATIVE_INFINITY,
};

interface State extends MeterReading {
  heldAt: number;
}

/** Reads the level of every strip of a transport from the audio thread, from the very samples that pass. */
export class Meters {
  private readonly workletUrl: string;
  private readonly states = new Map<string, State>();
  private ids: string[] = [];
  private peaks: Int32Array = new Int32Array(0);
  private levels: Float32Array = new Float32Array(0);
  private node: AudioWorkletNode | undefined;
  /** The node each input of the meter is fed from. */
  private tapped: AudioNode[] = [];
  private stop: (() => void)[] = [];
  private readAt = 0;
  private readonly asBits = new Int32Array(1);
  private readonly asFloat = new Float32Array(this.asBits.buffer);

  /** @param workletUrl  where `processors` was built to; needs a page that may share memory */
  constructor(transport: Transport, workletUrl: string) {
    this.workletUrl = workletUrl;
    this.stop.push(transport.onContext((context, mixer) => void this.begin(transport, context, mixer)));
  }

  /** Meter values of a sound, a bus or the output; silence before anything has played. */
  read(id: string): Readonly<MeterReading> {
    return this.states.get(id) ?? SILENT;
  }

  /** Takes over what passed since the last frame. Call it once a frame. */
  update(now: number): void {
    const fall = 10 ** ((-FALL_DB_PER_S * Math.min(1, (now - this.readAt) / 1000)) / 20);
    this.readAt = now;
    for (let i = 0; i < this.ids.length; i++) {
      const state = this.states.get(this.ids[i]);
      if (!state) continue;
      const at = i * METER_FIELDS;
      const peak = Math.max(this.take(at), this.take(at + 1));
      const fallen = state.level * fall;
      state.level = peak > fallen ? peak : fallen > 1e-5 ? fallen : 0;
      if (peak >= state.hold || now - state.heldAt > HOLD_MS) {
        state.hold = state.level;
        state.heldAt = now;
      }
      if (peak >= 1) state.clipped = true;
      state.lufs = toLufs(this.levels[at + 2]);
    }
  }

  /** Puts out the mark that full scale was reached. */
  forgetClip(id: string): void {
    const state = this.states.get(id);
    if (state) state.clipped = false;
  }

  dispose(): void {
    for (const stop of this.stop) stop();
    this.node?.disconnect();
  }

  private async begin(transport: Transport, context: AudioContext, mixer: Mixer): Promise<void> {
    await context.audioWorklet.addModule(this.workletUrl);
    this.stop.push(transport.onMix(() => this.follow(context, mixer)));
    this.follow(context, mixer);
  }

  /** Taps the strips there are now; what the meters showed stays. */
  private follow(context: AudioContext, mixer: Mixer): void {
    const points = mixer.meterPoints();
    for (const id of this.states.keys()) {
      if (!points.some((point) => point.id === id)) this.states.delete(id);
    }
    const ids = points.map(({ id }) => id);
    if (!this.node || ids.join() !== this.ids.join()) {
      this.node?.disconnect();
      const memory = new SharedArrayBuffer(points.length * METER_FIELDS * 4);
      this.peaks = new Int32Array(memory);
      this.levels = new Float32Array(memory);
      const processorOptions: MeterOptions = { memory, points: points.length };
      this.node = new AudioWorkletNode(context, "bumbrel-meter", {
        numberOfInputs: points.length,
        numberOfOutputs: 1,
        channelCount: 2,
        channelCountMode: "max",
        processorOptions,
      });
      // Only what leads to the output is sure to run.
      this.node.connect(context.destination);
      this.tapped = [];
      this.ids = ids;
    }
    points.forEach(({ id, node }, i) => {
      if (!this.states.has(id)) this.states.set(id, { ...SILENT, heldAt: 0 });
      if (this.tapped[i] === node) return;
      if (this.tapped[i]) this.tapped[i].disconnect(this.node!, 0, i);
      node.connect(this.node!, 0, i);
      this.tapped[i] = node;
    });
  }

  private take(field: number): number {
    this.asBits[0] = Atomics.exchange(this.peaks, field, 0);
    return this.asFloat[0];
  }
}
