/** Position and rotation of a visitor's head or hand. */
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
export const POSE_PARTS = ["x", "y", "z", "yaw", "pitch", "roll"] as const;

export const restingPose = (): Pose => ({ x: 0, y: 0, z: 0, yaw: 0, pitch: 0, roll: 0 });

/** Steps of what is recorded: 2 mm and a tenth of a degree. */
export const POSE_UNITS = { x: 0.002, y: 0.002, z: 0.002, yaw: 0.1, pitch: 0.1, roll: 0.1 } as const;
const FULL_TURN = 3600;

/** Numbers of a pose as they are recorded. */
function quantised(pose: Pose, into: Int32Array, at: number): void {
  POSE_PARTS.forEach((part, i) => {
    const value = Math.round((Number.isFinite(pose[part]) ? pose[part] : 0) / POSE_UNITS[part]);
    into[at + i] = Math.max(-(2 ** 30), Math.min(2 ** 30, value));
  });
}

/** A pose from a step of 1/120 s on: its numbers, counted in {@link POSE_UNITS}. */
export interface PoseChange {
  step: number;
  numbers: Int32Array;
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
  private values = new Int32Array(64 * POSE_PARTS.length);

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
    const at = this.steps.length * POSE_PARTS.length;
    if (at + POSE_PARTS.length > this.values.length) {
      const larger = new Int32Array(this.values.length * 2);
      larger.set(this.values);
      this.values = larger;
    }
    quantised(pose, this.values, at);
    let isSame = at > 0;
    for (let i = 0; i < POSE_PARTS.length && isSame; i++) {
      isSame = this.values[at + i] === this.values[at + i - POSE_PARTS.length];
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
    for (const [k, part] of POSE_PARTS.entries()) {
      const from = this.values[i * POSE_PARTS.length + k];
      let by = this.values[(i + 1) * POSE_PARTS.length + k] - from;
      if (k >= 3) by -= Math.round(by / FULL_TURN) * FULL_TURN;
      out[part] = (from + by * share) * POSE_UNITS[part];
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

  *changes(): Generator<PoseChange> {
    for (const [i, step] of this.steps.entries()) {
      yield { step, numbers: this.values.subarray(i * POSE_PARTS.length, (i + 1) * POSE_PARTS.length) };
    }
  }

  private read(i: number, out: Pose): void {
    for (let k = 0; k < POSE_PARTS.length; k++) {
      out[POSE_PARTS[k]] = this.values[i * POSE_PARTS.length + k] * POSE_UNITS[POSE_PARTS[k]];
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
}
