import { FRAME_RATE_HZ } from "../../constants";

/**
 * One-pole follower with separate rise and fall times, starting from rest at 0.
 * `y += (x − y)·(1 − exp(−dt/τ))`, τ picked by direction.
 *
 * @param attackMs  time to cover 63 % of a rise; 0 follows at once
 * @param releaseMs  time to cover 63 % of a fall; 0 follows at once
 * @param holdMs  time to stay after the last rise before falling
 * @returns takes one frame's number after the other at `FRAME_RATE_HZ`, and gives the followed one
 * @throws RangeError if a time is negative or not finite
 */
export function follower(attackMs: number, releaseMs: number, holdMs = 0): (value: number) => number {
  const attack = stepShare(attackMs);
  const release = stepShare(releaseMs);
  const holdFrames = Math.round((checked(holdMs) * FRAME_RATE_HZ) / 1000);
  let y = 0;
  let held = 0;
  return (x) => {
    if (x >= y) held = holdFrames;
    else if (held > 0) {
      held--;
      return y;
    }
    y += (x - y) * (x > y ? attack : release);
    return y;
  };
}

/** Share of the way covered in one frame with time constant `ms`. */
function stepShare(ms: number): number {
  return checked(ms) === 0 ? 1 : 1 - Math.exp(-1000 / (FRAME_RATE_HZ * ms));
}

function checked(ms: number): number {
  if (!(ms >= 0 && Number.isFinite(ms)))
    throw new RangeError(`a time must be 0 ms or more and finite, not ${ms}`);
  return ms;
}
