import { FRAME_RATE_HZ } from "../constants";
import { levelToDb } from "../dsp/level/decibel";
import { declarationOf, type Measure, rangeLimits } from "./measures/table";
import { AUDIBLE_DB, countedFrames, percentile, tenth, within } from "./shape/fit";
import { SHAPING_STEPS, type Shaping, type ShapingChange, shape } from "./shape/shaping";

/** How often each level occurs before shaping. */
export interface Levels {
  /** The levels are in dBFS; else they are in the measure's own unit. */
  inDb: boolean;
  /** Lower end of the first bin, and the width of each. */
  from: number;
  step: number;
  /** Share of the frames in each bin; what lies outside is in the first and the last. */
  shares: number[];
}

/** How a strand does over its whole sound. */
export interface Health {
  levels: Levels;
  /** Nothing of it is above −80 dBFS, or above 0 for measures that are not levels. */
  silent: boolean;
  /** Share of its numbers that stand at the floor, and at the ceiling. */
  atFloor: number;
  atCeiling: number;
  /** Mean change from one frame to the next. */
  jitter: number;
  /** Milliseconds by which it comes after what it hears, by shaping alone. */
  lagMs: number;
  /** Its highest number. */
  highest: number;
  /** Stretch of a few seconds in which it is at its ceiling most, and the share of it. */
  fullest: { fromS: number; toS: number; share: number } | undefined;
}

/** Bars of a song are about this long; a stretch is recognised by it. */
const STRETCH_S = 8;
/** Later than this nobody would call it the same hit. */
const MOST_LAG_FRAMES = 40;

/**
 * Looks at a strand over its whole sound.
 *
 * @param raw  numbers before shaping, `width` a frame
 * @param shaped  the same after it
 */
export function healthOf(
  raw: Float32Array,
  shaped: Float32Array,
  width: number,
  { measure, shaping }: { measure: Measure; shaping: Shaping },
): Health {
  const frames = shaped.length / width;
  const { unit } = declarationOf(measure.kind);
  const quiet = unit === "level" || unit === "loudness" ? 10 ** (AUDIBLE_DB / 20) : 0;
  // Floor and ceiling are judged before clamping, so that the output step does not matter.
  const { output, clamp } = shaping;
  const plain =
    output.on || !clamp.on
      ? shape(raw, { ...shaping, output: { ...output, on: false }, clamp: { on: true } }, width)
      : shaped;
  let [floor, ceiling, change, highest] = [0, 0, 0, 0];
  let silent = true;
  const stretchFrames = STRETCH_S * FRAME_RATE_HZ;
  const full = new Float64Array(Math.max(1, Math.ceil(frames / stretchFrames)));
  for (let i = 0; i < plain.length; i++) {
    if (raw[i] > quiet) silent = false;
    if (plain[i] <= 0.005) floor++;
    if (plain[i] >= 0.995) {
      ceiling++;
      full[Math.floor(i / width / stretchFrames)]++;
    }
    if (plain[i] > highest) highest = plain[i];
    if (i >= width) change += Math.abs(plain[i] - plain[i - width]);
  }
  const count = Math.max(1, plain.length);
  const inDb = unit === "level" || unit === "loudness";
  const most = full.indexOf(Math.max(...full));
  const stretchCount = Math.min(stretchFrames, frames - most * stretchFrames) * width;
  return {
    levels: levelsOf(raw, inDb),
    silent,
    atFloor: floor / count,
    atCeiling: ceiling / count,
    jitter: change / Math.max(1, count - width),
    lagMs: lagMs(raw, plain, width, shaping),
    highest,
    fullest:
      ceiling > 0
        ? {
            fromS: most * STRETCH_S,
            toS: Math.min(frames / FRAME_RATE_HZ, (most + 1) * STRETCH_S),
            share: full[most] / Math.max(1, stretchCount),
          }
        : undefined,
  };
}

/** The delay at which the rises of the shaped numbers best meet those of the unfollowed ones. */
function lagMs(raw: Float32Array, shaped: Float32Array, width: number, shaping: Shaping): number {
  if (!shaping.follow.on && !shaping.average.on) return 0;
  const { follow, average } = shaping;
  const direct = shape(
    raw,
    { ...shaping, follow: { ...follow, on: false }, average: { ...average, on: false } },
    width,
  );
  const frames = shaped.length / width;
  const rise = (values: Float32Array) =>
    Float64Array.from({ length: frames }, (_, i) =>
      i === 0 ? 0 : Math.max(0, values[i * width] - values[(i - 1) * width]),
    );
  const [before, after] = [rise(direct), rise(shaped)];
  const alike = new Float64Array(MOST_LAG_FRAMES + 1);
  for (let lag = 0; lag <= MOST_LAG_FRAMES; lag++) {
    for (let i = lag; i < frames; i++) alike[lag] += before[i - lag] * after[i];
  }
  // The middle of the delays around the one that fits best: a rise that is drawn out has many.
  const best = alike.indexOf(Math.max(...alike));
  const fits = (lag: number) => lag >= 0 && lag <= MOST_LAG_FRAMES && alike[lag] > 0.3 * alike[best];
  let [from, to] = [best, best];
  while (fits(from - 1)) from--;
  while (fits(to + 1)) to++;
  let [sum, moment] = [0, 0];
  for (let lag = from; lag <= to; lag++) {
    sum += alike[lag];
    moment += lag * alike[lag];
  }
  return sum > 0 ? ((moment / sum) * 1000) / FRAME_RATE_HZ : 0;
}

/** Something that would make a strand more useful, in words, with the change that does it. */
export interface Advice {
  code: "silent" | "pinned" | "low" | "floored" | "jittery" | "late";
  text: string;
  /** None when only a person can tell. */
  change: ShapingChange | undefined;
}

const percent = (share: number) => `${Math.round(share * 100)} %`;
const clock = (timeS: number) =>
  `${Math.floor(timeS / 60)}:${String(Math.floor(timeS % 60)).padStart(2, "0")}`;

/**
 * Changes that make a strand livelier, steadier or less pinned, most pressing first.
 *
 * @param health  from {@link healthOf}
 */
export function adviseOn(
  health: Health,
  raw: Float32Array,
  { measure, shaping }: { measure: Measure; shaping: Shaping },
): Advice[] {
  const { window, gain, follow } = shaping;
  const { unit } = declarationOf(measure.kind);
  const hasRange = rangeLimits(measure.kind) !== undefined;
  if (health.silent) {
    const where = hasRange ? "in this range" : "here";
    return [
      {
        code: "silent",
        text: `Nothing sounds ${where}${unit === "level" ? " above −80 dBFS" : ""}: ${hasRange ? "widen the range or " : ""}listen to something else.`,
        change: undefined,
      },
    ];
  }
  const out: Advice[] = [];
  const { rangeDb: range, floorDb: floor, high: highSetting } = SHAPING_STEPS.window.settings;
  const inDb = window.scale === "dB";
  const values = window.on ? countedFrames(raw, inDb) : [];
  const gainDb = gain.on ? gain.db : 0;
  const heard = (value: number) => (inDb ? value + gainDb : value * 10 ** (gainDb / 20));
  const ceiling = inDb ? window.floorDb + window.rangeDb : window.high;
  if (window.on && values.length > 0 && health.atCeiling > 0.08) {
    const top = heard(percentile(values, 0.97));
    const [share, where] =
      health.fullest && health.fullest.share > 1.5 * health.atCeiling
        ? [health.fullest.share, `from ${clock(health.fullest.fromS)} to ${clock(health.fullest.toS)}`]
        : [health.atCeiling, "of the time"];
    if (inDb && top > ceiling + 0.5) {
      const rangeDb = within(range, tenth(top - window.floorDb));
      out.push({
        code: "pinned",
        text: `At its ceiling ${percent(share)} ${where}: raise the range by ${tenth(rangeDb - window.rangeDb)} dB.`,
        change: { window: { rangeDb } },
      });
    } else if (!inDb && top > ceiling * 1.05) {
      const high = within(highSetting, Number(top.toPrecision(3)));
      out.push({
        code: "pinned",
        text: `At its ceiling ${percent(share)} ${where}: raise the high end to ${high}.`,
        change: { window: { high } },
      });
    }
  }
  if (health.atCeiling > 0.08 && !out.some(({ code }) => code === "pinned")) {
    const { hint, change } = unpin(shaping);
    out.push({
      code: "pinned",
      text: `At its ceiling ${percent(health.atCeiling)} of the time: ${hint}.`,
      change,
    });
  }
  if (window.on && values.length > 0 && health.highest < 0.6) {
    const top = heard(percentile(values, 0.97));
    if (inDb && top > window.floorDb + range.min) {
      const rangeDb = within(range, Math.max(1, tenth(top - window.floorDb)));
      out.push({
        code: "low",
        text: `It never comes above ${health.highest.toFixed(2)}: lower the range by ${tenth(window.rangeDb - rangeDb)} dB.`,
        change: { window: { rangeDb } },
      });
    } else if (inDb) {
      const floorDb = within(floor, tenth(heard(percentile(values, 0.1))));
      out.push({
        code: "low",
        text: `All of it lies below the floor: lower the floor by ${tenth(window.floorDb - floorDb)} dB.`,
        change: { window: { floorDb, rangeDb: within(range, Math.max(1, tenth(top - floorDb))) } },
      });
    } else if (top > window.low) {
      const high = Number(top.toPrecision(3));
      out.push({
        code: "low",
        text: `It never comes above ${health.highest.toFixed(2)}: lower the high end to ${high}.`,
        change: { window: { high } },
      });
    }
  } else if (window.on && inDb && values.length > 0 && health.atFloor > 0.7) {
    const floorDb = within(floor, tenth(heard(percentile(values, 0.1))));
    if (floorDb < window.floorDb - 3) {
      out.push({
        code: "floored",
        text: `At its floor ${percent(health.atFloor)} of the time: lower the floor by ${tenth(window.floorDb - floorDb)} dB.`,
        change: { window: { floorDb, rangeDb: within(range, tenth(ceiling - floorDb)) } },
      });
    }
  }
  const { releaseMs: release } = SHAPING_STEPS.follow.settings;
  if (health.jitter > 0.06 && unit !== "share") {
    const releaseMs = within(release, Math.max(80, Math.round(follow.on ? follow.releaseMs * 2 : 120)));
    out.push({
      code: "jittery",
      text: `It changes by ${health.jitter.toFixed(2)} from frame to frame: lengthen the release to ${releaseMs} ms.`,
      change: { follow: { on: true, releaseMs } },
    });
  }
  if (health.lagMs >= 60 && follow.on && follow.attackMs > 20) {
    const attackMs = Math.round(follow.attackMs / 3);
    out.push({
      code: "late",
      text: `It comes ${Math.round(health.lagMs)} ms after what it hears: shorten the attack to ${attackMs} ms.`,
      change: { follow: { attackMs } },
    });
  }
  return out;
}

/** Finds the step that keeps a strand from its ceiling when its window is wide enough. */
function unpin({ autoRange, gain, output, window }: Shaping): {
  hint: string;
  change: ShapingChange | undefined;
} {
  if (autoRange.on && autoRange.fallDbPerS > 0) {
    const fallDbPerS = tenth(autoRange.fallDbPerS / 4);
    return { hint: `let auto-range fall by ${fallDbPerS} dB/s only`, change: { autoRange: { fallDbPerS } } };
  }
  if (gain.on && gain.db > 0) {
    const db = tenth(Math.max(0, gain.db - 6));
    return { hint: `lower the gain to ${db} dB`, change: { gain: { db } } };
  }
  if (output.on && output.scale + output.offset > 1) {
    return { hint: "lower the output's scale", change: undefined };
  }
  if (!window.on) return { hint: "switch its window on and fit it", change: { window: { on: true } } };
  return { hint: "raise its range, or listen to something that changes more", change: undefined };
}

/** Levels are counted in bins of 3 dB down to this. */
const LOWEST_DB = -96;
const BIN_DB = 3;
const PLAIN_BINS = 32;

/** How often each level occurs, in bins of 3 dB, or of a 32nd of the largest number. */
export function levelsOf(raw: Float32Array, inDb: boolean): Levels {
  let largest = 0;
  if (!inDb) for (const value of raw) largest = Math.max(largest, value);
  const step = inDb ? BIN_DB : (largest || 1) / PLAIN_BINS;
  const from = inDb ? LOWEST_DB : 0;
  const bins = inDb ? -LOWEST_DB / BIN_DB : PLAIN_BINS;
  const shares = new Array<number>(bins).fill(0);
  for (const value of raw) {
    const level = inDb ? levelToDb(value) : value;
    shares[Math.min(bins - 1, Math.max(0, Math.floor((level - from) / step)))] += 1 / raw.length;
  }
  return { inDb, from, step, shares };
}
