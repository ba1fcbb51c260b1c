/** A point of a drawn curve, both 0..1. */
export interface CurvePoint {
  at: number;
  value: number;
}

/**
 * A curve through points that never leaves the span of neighbouring values: monotone cubic (Fritsch & Carlson
 * 1980). Level before the first point and after the last.
 *
 * @param points  one or more, `at` rising
 * @returns the curve's value at a place
 * @throws RangeError without points or when `at` does not rise
 */
export function drawnCurve(points: readonly CurvePoint[]): (at: number) => number {
  if (points.length === 0) throw new RangeError("a curve needs at least one point");
  const last = points.length - 1;
  const slopes = new Float64Array(points.length);
  const secants = new Float64Array(last);
  for (let i = 0; i < last; i++) {
    const width = points[i + 1].at - points[i].at;
    if (!(width > 0)) throw new RangeError("the points of a curve must go from left to right");
    secants[i] = (points[i + 1].value - points[i].value) / width;
  }
  for (let i = 0; i <= last; i++) {
    const before = secants[Math.max(0, i - 1)] ?? 0;
    const after = secants[Math.min(last - 1, i)] ?? 0;
    if (before * after <= 0) continue;
    // Up to three times the flatter neighbour, a slope cannot carry the curve past either.
    const steepest = 3 * Math.min(Math.abs(before), Math.abs(after));
    slopes[i] = Math.max(-steepest, Math.min(steepest, (before + after) / 2));
  }
  return (at) => {
    if (!(at > points[0].at)) return points[0].value;
    if (at >= points[last].at) return points[last].value;
    let i = 0;
    while (points[i + 1].at <= at) i++;
    const width = points[i + 1].at - points[i].at;
    const t = (at - points[i].at) / width;
    const [t2, t3] = [t * t, t * t * t];
    return (
      points[i].value * (2 * t3 - 3 * t2 + 1) +
      slopes[i] * width * (t3 - 2 * t2 + t) +
      points[i + 1].value * (3 * t2 - 2 * t3) +
      slopes[i + 1] * width * (t3 - t2)
    );
  };
}
