import { choice, defaultsOf, type ValuesOf } from "@bumbrel/core/setting/descriptor";

/** How a visitor wants to be in a headset: theirs, not the scene's, and kept on their device. */
export const COMFORT_SETTINGS = {
  hand: choice(
    "Leading hand",
    { right: "right hand leads", left: "left hand leads" },
    "right",
    "The stick of this hand turns and teleports, the other one walks.",
  ),
  hands: choice(
    "Hands in use",
    { two: "two hands", one: "one hand" },
    "two",
    "With one hand, either controller turns, teleports, taps and holds; nothing needs the other.",
  ),
  turning: choice(
    "Turning",
    { small: "turns by 30°", large: "turns by 45°", smooth: "turns smoothly" },
    "small",
    "Turning in steps keeps people from feeling sick.",
  ),
  posture: choice(
    "Posture",
    { standing: "standing", seated: "seated" },
    "standing",
    "Seated, the eyes are raised to the height they have when standing.",
  ),
};
export type Comfort = ValuesOf<typeof COMFORT_SETTINGS>;

const STORED = "bumbrel.comfort";

/** The comfort settings that were chosen on this device before. */
export function storedComfort(): Comfort {
  const comfort = defaultsOf(COMFORT_SETTINGS);
  let stored: Record<string, unknown> = {};
  try {
    stored = JSON.parse(localStorage.getItem(STORED) ?? "{}") as Record<string, unknown>;
  } catch {
    // Pages from disk may have no storage: then the defaults hold.
  }
  for (const key of Object.keys(COMFORT_SETTINGS) as (keyof Comfort)[]) {
    const value = stored?.[key];
    if (typeof value === "string" && Object.hasOwn(COMFORT_SETTINGS[key].choices, value))
      Object.assign(comfort, { [key]: value });
  }
  return comfort;
}

export function storeComfort(comfort: Comfort): void {
  try {
    localStorage.setItem(STORED, JSON.stringify(comfort));
  } catch {
    // They hold for this visit then.
  }
}
