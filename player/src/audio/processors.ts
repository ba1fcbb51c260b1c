import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { energy } from "@bumbrel/core/dsp/level/loudness";
import { SHORT_TERM_S } from "@bumbrel/core/dsp/maths/measureWindows";
import { METER_FIELDS, type MeterOptions } from "./meterLayout";

/**
 * Processors on the audio thread: meters that read strips, and the capture of inputs. Bundled on its own and
 * loaded as a worklet.
 */
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(
  name: string,
  processor: new (options: { processorOptions: never }) => AudioWorkletProcessor,
): void;
declare const currentFrame: number;

/** Loudness is kept in steps of 100 ms, as short-term loudness is reported. */
const STEP_SAMPLES = HOP_SAMPLES * 10;
const STEPS = Math.round((SHORT_TERM_S * SAMPLE_RATE_HZ) / STEP_SAMPLES);

class MeterProcessor extends AudioWorkletProcessor {
  private readonly peaks: Int32Array;
  private readonly levels: Float32Array;
  private readonly states: Float64Array[][];
  private readonly sums: Float64Array;
  private readonly rings: Float64Array[];
  private readonly asBits = new Int32Array(1);
  private readonly asFloat = new Float32Array(this.asBits.buffer);
  private filled = 0;
  private step = 0;

  constructor({ processorOptions }: { processorOptions: MeterOptions }) {
    super();
    const { memory, points } = processorOptions;
    this.peaks = new Int32Array(memory);
    this.levels = new Float32Array(memory);
    this.states = Array.from({ length: points }, () => [new Float64Array(6), new Float64Array(6)]);
    this.sums = new Float64Array(points);
    this.rings = Array.from({ length: points }, () => new Float64Array(STEPS));
  }

  process(inputs: Float32Array[][]): boolean {
    let start = 0;
    while (start < 128) {
      const end = Math.min(128, start + STEP_SAMPLES - this.filled);
      for (let point = 0; point < this.sums.length; point++) {
        const channels = inputs[point] ?? [];
        for (let c = 0; c < Math.min(2, channels.length); c++) {
          this.sums[point] += energy(channels[c], start, end, this.states[point][c]);
        }
      }
      this.filled += end - start;
      start = end;
      if (this.filled === STEP_SAMPLES) this.closeStep();
    }
    for (let point = 0; point < this.sums.length; point++) {
      const channels = inputs[point] ?? [];
      for (let c = 0; c < Math.min(2, channels.length); c++)
        this.notePeak(point * METER_FIELDS + c, channels[c]);
    }
    return true;
  }

  /** Non-negative floats are in the same order as their bits, so the larger can be kept as an integer. */
  private notePeak(field: number, samples: Float32Array): void {
    let peak = 0;
    for (let i = 0; i < samples.length; i++) peak = Math.max(peak, Math.abs(samples[i]));
    this.asFloat[0] = peak;
    if (this.asBits[0] > Atomics.load(this.peaks, field)) Atomics.store(this.peaks, field, this.asBits[0]);
  }

  private closeStep(): void {
    this.filled = 0;
    for (let point = 0; point < this.sums.length; point++) {
      const ring = this.rings[point];
      ring[this.step % STEPS] = this.sums[point];
      this.sums[point] = 0;
      let sum = 0;
      for (let i = 0; i < STEPS; i++) sum += ring[i];
      this.levels[point * METER_FIELDS + 2] = sum / (STEPS * STEP_SAMPLES);
    }
    this.step++;
  }
}

/** Hands on the channels that are wanted, in blocks. */
class CaptureProcessor extends AudioWorkletProcessor {
  private readonly size: number;
  private readonly channel: number | null;
  private block: Float32Array[] = [];
  private filled = 0;

  constructor({ processorOptions }: { processorOptions: { bufferSamples: number; channel: number | null } }) {
    super();
    this.size = processorOptions.bufferSamples;
    this.channel = processorOptions.channel;
  }

  process([input]: Float32Array[][]): boolean {
    const wanted = this.channel === null ? input : input.slice(this.channel, this.channel + 1);
    if (this.filled === 0) {
      this.block = Array.from({ length: Math.max(1, wanted.length) }, () => new Float32Array(this.size));
    }
    this.block.forEach((out, c) => {
      if (wanted[c]) out.set(wanted[c], this.filled);
    });
    this.filled += 128;
    if (this.filled === this.size) {
      this.port.postMessage(
        { channels: this.block, endFrame: currentFrame + 128 },
        this.block.map(({ buffer }) => buffer),
      );
      this.filled = 0;
    }
    return true;
  }
}

registerProcessor("bumbrel-meter", MeterProcessor);
registerProcessor("bumbrel-capture", CaptureProcessor);
