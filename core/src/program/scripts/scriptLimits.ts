/** Limits of a script; the same on every machine, except for time. */
export const SCRIPT_LIMITS = {
  /** One that does not answer within this time is stopped, however few steps it took. */
  seconds: 1,
  /** Turns of loops and calls of functions each time it is called. */
  steps: 400_000,
  megabytes: 32,
  /** The thread that scripts run in is ended when it has not answered for so long: nothing stops its engine within a native loop. */
  threadSeconds: 3,
  /** Memory of the engine and all scripts in one thread. */
  engineMegabytes: 256,
  /** Pictures before, from which the memory of a drawing is rebuilt after a seek. */
  memorySteps: 60,
} as const;

/** Seconds of the past that scripts can read. */
export const SCRIPT_PAST_S = 5;
/** Numbers that a number program gives at most, one for each band of the fan it makes. */
export const MOST_SCRIPT_BANDS = 512;
