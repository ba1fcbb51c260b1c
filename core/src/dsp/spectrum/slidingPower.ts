import { FRAME_RATE_HZ, HOP_SAMPLES } from "../../constants";

/** A filter, as the sum of squares of what it makes of a stretch; its memory is an array of so many numbers. */
export interface PowerFilter {
  energy(channel: Float32Array, from: number, to: number, memory: Float64Array): number;
  memory: number;
}

/** In silence a filter's memory fades into numbers so small that processors count with them fifty times as slowly. */
export const rested = (memory: number): number => (Math.abs(memory) < 1e-60 ? 0 : memory);

/** Mean square of a filtered sound in a window around one instant after another, as sounds are read or come in. */
export class SlidingPower {
  private readonly half: number;
  private readonly weights: readonly number[];
  private readonly filter: PowerFilter;
  private readonly memories: Float64Array[];
  private readonly hop = new Float32Array(HOP_SAMPLES);
  private readonly energies: Float64Array;
  private nextHop = Number.NEGATIVE_INFINITY;

  /**
   * @param windowS  a whole number of twice 10 ms
   * @param weights  weight of each channel's power
   */
  constructor(windowS: number, weights: readonly number[], filter: PowerFilter) {
    this.half = Math.round((windowS * FRAME_RATE_HZ) / 2);
    this.energies = new Float64Array(2 * this.half);
    this.weights = weights;
    this.filter = filter;
    this.memories = weights.map(() => new Float64Array(filter.memory));
  }

  /**
   * @param channels  samples around the instant; those before 0 and after the end count as 0
   * @param centre  index of the instant
   * @param frame  its number; frames follow one another
   */
  at(channels: readonly Float32Array[], centre: number, frame: number): number {
    const { half, energies, memories, weights } = this;
    for (let hop = Math.max(this.nextHop, frame - half); hop < frame + half; hop++) {
      const start = centre + (hop - frame) * HOP_SAMPLES;
      let sum = 0;
      for (let c = 0; c < weights.length; c++) {
        if (weights[c] > 0) sum += weights[c] * this.energyFrom(channels[c], start, memories[c]);
      }
      energies[((hop % energies.length) + energies.length) % energies.length] = sum;
    }
    this.nextHop = frame + half;
    let sum = 0;
    for (let i = 0; i < energies.length; i++) sum += energies[i];
    return sum / (energies.length * HOP_SAMPLES);
  }

  private energyFrom(channel: Float32Array, start: number, memory: Float64Array): number {
    const end = start + HOP_SAMPLES;
    if (start >= 0 && end <= channel.length) return this.filter.energy(channel, start, end, memory);
    const { hop } = this;
    for (let i = 0; i < HOP_SAMPLES; i++) hop[i] = channel[start + i] ?? 0;
    return this.filter.energy(hop, 0, HOP_SAMPLES, memory);
  }
}
