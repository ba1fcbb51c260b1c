import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";

/** The stretch of a sound that is looked at, in seconds. */
export interface TimeView {
  fromS: number;
  toS: number;
}

/** Narrowest view: a few samples, each a point of its own. */
const LEAST_S = 24 / SAMPLE_RATE_HZ;

/**
 * A view narrowed or widened about a place.
 *
 * @param by  how many times as wide
 * @param atShare  the place that stays where it is, 0 at the left and 1 at the right
 * @param lengthS  the sound's length; the view stays inside it
 */
export function zoomed({ fromS, toS }: TimeView, by: number, atShare: number, lengthS: number): TimeView {
  const width = Math.min(lengthS, Math.max(LEAST_S, (toS - fromS) * by));
  const place = fromS + (toS - fromS) * atShare;
  return inside(place - width * atShare, width, lengthS);
}

/** A view moved by a share of its width. */
export function moved({ fromS, toS }: TimeView, byShare: number, lengthS: number): TimeView {
  const width = toS - fromS;
  return inside(fromS + width * byShare, width, lengthS);
}

/** The view as it is, or a page further when `timeS` has left it. */
export function following(view: TimeView, timeS: number, lengthS: number): TimeView {
  if (timeS >= view.fromS && timeS <= view.toS) return view;
  const width = view.toS - view.fromS;
  return inside(timeS, width, lengthS);
}

function inside(fromS: number, width: number, lengthS: number): TimeView {
  const from = Math.max(0, Math.min(fromS, lengthS - width));
  return { fromS: from, toS: from + width };
}
