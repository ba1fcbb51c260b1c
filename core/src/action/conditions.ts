import { number, objectOf, reference, type Settings, type ValuesOf, whole } from "../setting/descriptor";

/** Conditions under which an answer takes a cue; by default it takes every one. */
export const CONDITION_SETTINGS = {
  whilePlayingId: reference("Only while it plays", "sound", "A sound that has to be playing."),
  whileSilentId: reference("Only while it does not play", "sound", "A sound that must not be playing."),
  whileVisibleId: objectOf("Only while it is visible", "A thing that has to be visible."),
  whileAboveId: reference("Only while it is high", "strand", "A strand that has to be above the mark."),
  aboveMark: number("Mark", "", [0, 1, 0.01], 0.5, "The number that strand has to be above.", {
    chars: 4,
  }),
  gapMs: number(
    "At most every",
    "ms",
    [0, 600_000, 10],
    0,
    "Cues that come sooner do not count; 0 lets all count.",
    {
      chars: 6,
    },
  ),
  times: whole("At most so many times", [0, 10_000], 0, "Later cues do not count; 0 lets all count.", {
    chars: 5,
  }),
  chance: number("Chance", "", [0, 1, 0.01], 1, "Share of the cues that count, by seeded chance.", {
    chars: 4,
  }),
  seed: whole("Seed", [0, 4_294_967_295], 1, "Another number lets other cues count.", { chars: 10 }),
} satisfies Settings;
export type Conditions = ValuesOf<typeof CONDITION_SETTINGS>;
