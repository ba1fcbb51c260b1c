import { fromBase64, toBase64 } from "../format/base64";

/** Where something of a visitor is and how it is turned. */
export interface Pose {
  /** Metres. */
  x: number;
  y: number;
  z: number;
  /** Degrees: about the upright axis, then up and down, then to the side. */
  yaw: number;
  pitch: number;
  roll: number;
}
const PARTS = ["x", "y", "z", "yaw", "pitch", "roll"] as const;

export const restingPose = (): Pose => ({ x: 0, y: 0, z: 0, yaw: 0, pitch: 0, roll: 0 });

/** Steps of what is recorded: 2 mm and a tenth of a degree. */
const UNITS = { x: 0.002, y: 0.002, z: 0.002, yaw: 0.1, pitch: 0.1, roll: 0.1 } as const;
const FULL_TURN = 3600;

/** Numbers of a pose as they are recorded. */
function quantised(pose: Pose, into: Int32Array, at: number): void {
  PARTS.forEach((part, i) => {
    const value = Math.round((Number.isFinite(pose[part]) ? pose[part] : 0) / UNITS[part]);
    into[at + i] = Math.max(-(2 ** 30), Math.min(2 ** 30, value));
  });
}

/**
 * A pose over time, as what a visitor did is remembered: quantised, at steps of 1/120 s, and only where it changed.
 * Reading gives the same values during recording and during replay.
 *
 * @example
 * const head = new PoseTrack();
 * head.record(12, { x: 0, y: 1.6, z: 3, yaw: 0, pitch: 0, roll: 0 });
 * head.at(20, pose); // as of step 12
 */
export class PoseTrack {
  private steps: number[] = [];
  private values = new Int32Array(64 * PARTS.length);

  get count(): number {
    return this.steps.length;
  }

  /** The step of the last change; −1 without any. */
  get lastStep(): number {
    return this.steps[this.steps.length - 1] ?? -1;
  }

  /**
   * Remembers a pose from a step on; what was remembered of later steps goes.
   *
   * @param step  whole, not negative
   */
  record(step: number, pose: Pose): void {
    this.dropFrom(step);
    const at = this.steps.length * PARTS.length;
    if (at + PARTS.length > this.values.length) {
      const larger = new Int32Array(this.values.length * 2);
      larger.set(this.values);
      this.values = larger;
    }
    quantised(pose, this.values, at);
    let isSame = at > 0;
    for (let i = 0; i < PARTS.length && isSame; i++) {
      isSame = this.values[at + i] === this.values[at + i - PARTS.length];
    }
    if (!isSame) this.steps.push(step);
  }

  /** Forgets what was remembered from a step on. */
  dropFrom(step: number): void {
    while (this.steps.length > 0 && this.lastStep >= step) this.steps.pop();
  }

  /** Writes the pose as of a step; false before there is any. */
  at(step: number, out: Pose): boolean {
    const i = this.indexAt(step);
    if (i < 0) return false;
    this.read(i, out);
    return true;
  }

  /**
   * Writes the pose between what is remembered before and after a time, for a view that moves evenly.
   *
   * @param step  may lie between two steps
   * @param mostSteps  a pose that did not change for longer than this stood still, and is not drawn to the next
   */
  between(step: number, mostSteps: number, out: Pose): boolean {
    const i = this.indexAt(Math.floor(step));
    if (i < 0) return false;
    this.read(i, out);
    if (i + 1 >= this.steps.length) return true;
    const began = Math.max(this.steps[i], this.steps[i + 1] - mostSteps);
    const share = Math.max(0, (step - began) / (this.steps[i + 1] - began));
    if (share === 0) return true;
    for (const [k, part] of PARTS.entries()) {
      const from = this.values[i * PARTS.length + k];
      let by = this.values[(i + 1) * PARTS.length + k] - from;
      if (k >= 3) by -= Math.round(by / FULL_TURN) * FULL_TURN;
      out[part] = (from + by * share) * UNITS[part];
    }
    return true;
  }

  /** The part of it between two steps, moved to begin at 0. */
  trimmed(fromStep: number, toStep: number): PoseTrack {
    const out = new PoseTrack();
    const pose = restingPose();
    if (this.at(fromStep, pose)) out.record(0, pose);
    for (const [i, step] of this.steps.entries()) {
      if (step <= fromStep || step > toStep) continue;
      this.read(i, pose);
      out.record(step - fromStep, pose);
    }
    return out;
  }

  private read(i: number, out: Pose): void {
    for (let k = 0; k < PARTS.length; k++) {
      out[PARTS[k]] = this.values[i * PARTS.length + k] * UNITS[PARTS[k]];
    }
  }

  private indexAt(step: number): number {
    let low = 0;
    let high = this.steps.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.steps[middle] <= step) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  }

  /**
   * All of it as Base64: for each change the steps since the one before, a byte that says which numbers changed, and by how
   * much, each as a zigzag varint.
   */
  encode(): string {
    const bytes: number[] = [];
    const varint = (value: number) => {
      let rest = value;
      while (rest > 127) {
        bytes.push((rest & 127) | 128);
        rest = Math.floor(rest / 128);
      }
      bytes.push(rest);
    };
    this.steps.forEach((step, i) => {
      varint(step - (i > 0 ? this.steps[i - 1] : 0));
      const changes = PARTS.map((_part, k) => {
        const at = i * PARTS.length + k;
        return this.values[at] - (i > 0 ? this.values[at - PARTS.length] : 0);
      });
      bytes.push(changes.reduce((mask, change, k) => mask | (change !== 0 ? 1 << k : 0), 0));
      for (const change of changes) if (change !== 0) varint(change < 0 ? -2 * change - 1 : 2 * change);
    });
    return toBase64(Uint8Array.from(bytes));
  }

  /**
   * Reads what {@link encode} wrote.
   *
   * @throws RangeError when the text is cut off or no Base64
   */
  static decode(text: string): PoseTrack {
    const bytes = fromBase64(text);
    const track = new PoseTrack();
    const values = new Int32Array(PARTS.length);
    let at = 0;
    let step = 0;
    const byte = () => {
      if (at >= bytes.length) throw new RangeError("the poses are cut off");
      return bytes[at++];
    };
    const varint = () => {
      let value = 0;
      for (let scale = 1; ; scale *= 128) {
        const next = byte();
        value += (next & 127) * scale;
        if (next < 128) return value;
        if (scale > 2 ** 35) throw new RangeError("the poses are damaged");
      }
    };
    const pose = restingPose();
    while (at < bytes.length) {
      step += varint();
      const mask = byte();
      for (let k = 0; k < PARTS.length; k++) {
        if (!(mask & (1 << k))) continue;
        const coded = varint();
        values[k] += coded % 2 === 1 ? -(coded + 1) / 2 : coded / 2;
      }
      for (let k = 0; k < PARTS.length; k++) pose[PARTS[k]] = values[k] * UNITS[PARTS[k]];
      track.record(step, pose);
    }
    return track;
  }
}
