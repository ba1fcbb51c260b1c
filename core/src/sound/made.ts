import { SAMPLE_RATE_HZ } from "../constants";
import { dbToLevel } from "../dsp/level/decibel";
import { CLICK_LEVEL, makeClicks, type Strike } from "../dsp/rhythm/click";
import { makeNoise, makeTone } from "../dsp/tone/tone";
import { TICK_STRENGTHS } from "./beats";
import { clockBeats } from "./clock";
import type { ClockSound, MadeSound } from "./kinds";
import type { SoundData } from "./signal";

/**
 * Computes a made sound.
 *
 * @returns one channel at 48 kHz, full scale = 1
 */
export function makeSound(sound: MadeSound): Float32Array {
  const count = Math.round(sound.seconds * SAMPLE_RATE_HZ);
  if (!sound.on) return new Float32Array(count);
  const level = dbToLevel(sound.levelDb);
  if (sound.kind === "noise") return makeNoise(sound.colour, count, sound.seed, level);
  if (sound.kind === "clock") return makeClicks(clickStrikes(sound, level), count);
  const { waveform, hz, toHz, sweep } = sound;
  return makeTone(waveform, toHz === null ? hz : { fromHz: hz, toHz, sweep }, count, level);
}

function clickStrikes(clock: ClockSound, level: number): Strike[] {
  return clockBeats(clock)
    .ticks(0, clock.seconds)
    .map(({ timeS, strength }) => ({
      timeS,
      hz: strength === TICK_STRENGTHS.bar ? 1760 : strength === TICK_STRENGTHS.beat ? 1320 : 990,
      level: level * strength * CLICK_LEVEL,
    }));
}

/** The samples of a made sound, of which there is one channel. */
export function madeSoundData(sound: MadeSound): SoundData {
  const mono = makeSound(sound);
  return { channels: [mono], mono };
}
