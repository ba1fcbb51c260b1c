import { Type } from "@sinclair/typebox";
import { FRAME_RATE_HZ } from "../constants";
import { defaultsOf, number, type Settings } from "../setting/descriptor";
import { closed, oneOf, settingSchemas } from "../setting/schema";
import type { Cue } from "../sound/cue";

/** Rules by which a strand's number becomes cues, and the settings of each. */
export const CUE_RULES = {
  rise: {
    label: "Rises past the mark",
    help: "When the number reaches the mark; before the next cue it must fall below the mark by the hysteresis.",
    settings: ["mark", "slack", "gapMs"],
  },
  jump: {
    label: "Sudden rise",
    help: "When the number rises by more than this within one frame, 10 ms.",
    settings: ["rise", "gapMs"],
  },
  peak: {
    label: "Peak",
    help: "At each peak above the mark that also exceeds the half second on either side, at the time of the hit that leads to it.",
    settings: ["mark", "sensitivity", "gapMs"],
  },
} as const;
export type CueRule = keyof typeof CUE_RULES;
export const CUE_RULE_NAMES = Object.keys(CUE_RULES) as CueRule[];

export const CUE_SETTINGS = {
  mark: number("Mark", "", [0, 1, 0.01], 0.5, "The number that must be reached.", { chars: 4 }),
  slack: number(
    "Hysteresis",
    "",
    [0, 1, 0.01],
    0.1,
    "How far below the mark it must fall before the next cue.",
    {
      chars: 4,
    },
  ),
  rise: number("Rise", "", [0.01, 1, 0.01], 0.2, "Rise within one frame.", { chars: 4 }),
  sensitivity: number(
    "Prominence",
    "",
    [0, 20, 0.1],
    1,
    "Deviations above the median of its surroundings; 0 is off.",
    {
      chars: 4,
    },
  ),
  gapMs: number("Min gap", "ms", [0, 5000, 10], 100, "Least time between two cues.", {
    chars: 4,
    travel: "square",
  }),
} satisfies Settings;
export type CueSettingName = keyof typeof CUE_SETTINGS;

export const CueSettingsSchema = Type.Object(
  {
    on: Type.Boolean(),
    rule: oneOf(CUE_RULE_NAMES),
    ...settingSchemas(CUE_SETTINGS),
  },
  closed,
);
export type CueSettings = { on: boolean; rule: CueRule } & Record<CueSettingName, number>;

export function defaultCues(): CueSettings {
  return { on: false, rule: "rise", ...defaultsOf(CUE_SETTINGS) };
}

/** Strength is the largest number in this long after a rise: 50 ms. */
const STRENGTH_FRAMES = 5;
/** Frames before and after a peak that it is measured against: half a second. */
const AROUND_FRAMES = 50;
/** A peak is the largest within this much on either side: 30 ms. */
const PEAK_FRAMES = 3;

/**
 * Takes a strand's numbers frame after frame and gives its cues. To know a cue's strength, or whether a peak stands
 * out, it has to wait: cues come `latencyFrames` after the frame they belong to.
 */
export class CuePicker {
  readonly latencyFrames: number;
  private readonly settings: CueSettings;
  /** The newest numbers, the very newest at `frame % length`. */
  private readonly ring = new Float32Array(2 * AROUND_FRAMES + 2);
  private readonly sorted = new Float64Array(2 * AROUND_FRAMES + 1);
  private readonly deviations = new Float64Array(2 * AROUND_FRAMES + 1);
  private frame = -1;
  private armed = true;
  private lastS = Number.NEGATIVE_INFINITY;

  constructor(settings: CueSettings) {
    this.settings = settings;
    this.latencyFrames =
      settings.rule === "peak" && settings.sensitivity > 0 ? AROUND_FRAMES : STRENGTH_FRAMES;
  }

  /** Takes the next frame's number; gives the cue of the frame `latencyFrames` ago, if it has one. */
  push(value: number): Cue | undefined {
    this.frame++;
    this.ring[this.frame % this.ring.length] = value;
    const at = this.frame - this.latencyFrames;
    if (at < 0) return undefined;
    const timeS = this.timeOf(at);
    if (timeS === undefined || timeS - this.lastS < this.settings.gapMs / 1000) return undefined;
    this.lastS = timeS;
    let strength = 0;
    for (let i = at; i <= at + STRENGTH_FRAMES; i++) strength = Math.max(strength, this.value(i));
    return { timeS, strength: Math.min(1, strength) };
  }

  private value(frame: number): number {
    return frame < 0 || frame > this.frame ? 0 : this.ring[frame % this.ring.length];
  }

  private timeOf(at: number): number | undefined {
    const { rule, mark, slack, rise } = this.settings;
    const [before, now] = [this.value(at - 1), this.value(at)];
    if (rule === "jump") return now - before > rise ? at / FRAME_RATE_HZ : undefined;
    if (rule === "peak") return this.standsOut(at) ? at / FRAME_RATE_HZ : undefined;
    if (now < mark - slack) this.armed = true;
    if (!this.armed || !(now >= mark)) return undefined;
    this.armed = false;
    // Between the frames, where a straight line crosses the mark.
    const share = at > 0 && now > before && before < mark ? (mark - before) / (now - before) : 1;
    return Math.max(0, at - 1 + share) / FRAME_RATE_HZ;
  }

  /** A peak above the mark, and above median + k · deviation of what lies around it. */
  private standsOut(at: number): boolean {
    const { mark, sensitivity } = this.settings;
    const now = this.value(at);
    if (!(now > 0) || now < mark) return false;
    for (let i = 1; i <= PEAK_FRAMES; i++) {
      if (this.value(at - i) >= now || this.value(at + i) > now) return false;
    }
    if (sensitivity === 0) return true;
    const { sorted, deviations } = this;
    const last = sorted.length - 1;
    for (let i = 0; i <= last; i++) sorted[i] = this.value(at - AROUND_FRAMES + i);
    sorted.sort();
    const median = sorted[last / 2];
    for (let i = 0; i <= last; i++) deviations[i] = Math.abs(sorted[i] - median);
    deviations.sort();
    // The median of the deviations, so that hits themselves do not raise it; as large as a standard deviation.
    return now > median + sensitivity * Math.max(1.4826 * deviations[last / 2], LEAST_DEVIATION);
  }
}

/** In perfect silence the smallest number would be a peak. */
const LEAST_DEVIATION = 0.005;

/** The number of a frame that cues are taken from: a fan's largest band. */
export function cueValue(values: Float32Array, at: number, width: number): number {
  let most = values[at];
  for (let i = at + 1; i < at + width; i++) if (values[i] > most) most = values[i];
  return most;
}

/**
 * All cues of a whole sound.
 *
 * @param values  shaped numbers at 100 frames a second, `width` a frame
 * @returns in order; none when they are off
 */
export function pickCues(values: Float32Array, width: number, settings: CueSettings): Cue[] {
  const cues: Cue[] = [];
  if (!settings.on) return cues;
  const picker = new CuePicker(settings);
  const frames = values.length / width;
  for (let frame = 0; frame < frames + picker.latencyFrames; frame++) {
    const cue = picker.push(frame < frames ? cueValue(values, frame * width, width) : 0);
    if (cue) cues.push(cue);
  }
  return cues;
}
