import { SAMPLE_RATE_HZ } from "../constants";
import { dbToLevel } from "../dsp/decibel";
import { makeNoise, makeTone } from "../dsp/tone";
import type { Sound } from "./document";

/** A sound that is computed from its settings, and so needs no bytes anywhere. */
export type MadeSound = Exclude<Sound, { kind: "file" }>;

const MADE_PREFIX = "made ";

/**
 * What a sound's samples depend on, as text: sounds with the same key have the same samples. A file's key is
 * the id it is stored under.
 */
export function samplesKey(sound: Sound): string {
  switch (sound.kind) {
    case "file":
      return sound.storedId;
    case "tone": {
      const { kind, waveform, hz, toHz, sweep, seconds, levelDb } = sound;
      return MADE_PREFIX + JSON.stringify([kind, waveform, hz, toHz, sweep, seconds, levelDb]);
    }
    case "noise": {
      const { kind, colour, seed, seconds, levelDb } = sound;
      return MADE_PREFIX + JSON.stringify([kind, colour, seed, seconds, levelDb]);
    }
  }
}

/** Whether a key is that of a made sound, whose samples can be made again at any time. */
export function isMadeKey(key: string): boolean {
  return key.startsWith(MADE_PREFIX);
}

/**
 * Computes a made sound.
 *
 * @returns one channel at 48 kHz, full scale = 1
 */
export function makeSound(sound: MadeSound): Float32Array {
  const count = Math.round(sound.seconds * SAMPLE_RATE_HZ);
  const level = dbToLevel(sound.levelDb);
  if (sound.kind === "noise") return makeNoise(sound.colour, count, sound.seed, level);
  const { waveform, hz, toHz, sweep } = sound;
  return makeTone(waveform, toHz === null ? hz : { fromHz: hz, toHz, sweep }, count, level);
}
