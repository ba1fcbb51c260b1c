import type { ObjectPlan } from "../evaluate/plan";

/** Length of a simulation step, whatever the display's frame rate is. */
export const STEP_S = 1 / 120;
export const STEPS_A_SECOND = 120;

/** Something with a memory: after a seek it takes every step of a stretch as long as its memory. */
export interface Stepper {
  /** Plans whose values it reads: when one of them changes, its memory is simulated again. */
  readonly reads: readonly ObjectPlan[];
  /** Seconds it remembers at most. */
  windowS(): number;
  reset(): void;
  /** Takes the step that ends at a time; sums are as of then. */
  step(step: number, timeS: number): void;
}
