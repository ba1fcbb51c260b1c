import { isMade, isStored, type Sound, soundKind } from "./kinds";

const MADE_PREFIX = "made ";

/**
 * Text that a sound's samples depend on: sounds with the same key have the same samples. A stored sound's
 * key is the id it is stored under; a live one has none.
 */
export function samplesKey(sound: Sound): string | undefined {
  if (isStored(sound)) return sound.storedId;
  if (!isMade(sound)) return undefined;
  const { settings, fields = {} } = soundKind(sound.kind);
  const values = sound as unknown as Record<string, unknown>;
  const keys = [...Object.keys(settings), ...Object.keys(fields)];
  return MADE_PREFIX + JSON.stringify([sound.kind, ...keys.map((key) => values[key])]);
}

/** True for the key of a made sound, whose samples can be made again at any time. */
export function isMadeKey(key: string): boolean {
  return key.startsWith(MADE_PREFIX);
}
