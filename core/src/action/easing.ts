/** Ways to go from one value to another. */
export const EASINGS = {
  even: "evenly",
  smooth: "smoothly",
  in: "slowly at first",
  out: "slowly at last",
  over: "a little too far and back",
} as const;
export type Easing = keyof typeof EASINGS;

/** How far the overshoot goes: a tenth of the way. */
const OVERSHOOT = 1.70158;

const CURVES: Record<Easing, (t: number) => number> = {
  even: (t) => t,
  smooth: (t) => t * t * (3 - 2 * t),
  in: (t) => t * t * t,
  out: (t) => 1 - (1 - t) ** 3,
  over: (t) => 1 + (OVERSHOOT + 1) * (t - 1) ** 3 + OVERSHOOT * (t - 1) ** 2,
};

/**
 * Share of the way at a share of the time.
 *
 * @param t  0..1; times outside are clamped
 * @returns 0 at 0 and 1 at 1; "over" goes up to 1.1 between
 */
export const eased = (easing: Easing, t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : CURVES[easing](t));
