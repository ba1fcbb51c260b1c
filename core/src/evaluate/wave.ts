import { SAMPLE_RATE_HZ } from "../constants";
import type { Scene } from "../document/scene";
import { loopLengthS, runningOf } from "../document/strands/running";
import { TAPE_UNIT, type UnitTimes } from "../document/take/units";
import { type Samples, sampleOf } from "../dsp/maths/samples";
import { settingOf } from "../kinds/table";
import type { Sound } from "../sound/kinds";
import type { ObjectPlan } from "./plan";

/** Samples of a sound at the tape's time, for objects that follow its waveform. */
export interface Wave {
  samples: Samples;
  /** Index of the sample that is heard when the tape is at a time. */
  indexAt(timeS: number): number;
  /** True if it is heard live: nothing is known of later samples. */
  isLive?: boolean;
}
/** Waveforms by sound id; the ones that are heard come first. */
export type Waves = ReadonlyMap<string, Wave>;

/**
 * The waveforms of a scene's stored and made sounds, in order of the sounds, those that are heard first.
 *
 * @param samplesOf  a sound's mono samples at 48 kHz, once they are loaded
 * @param units  where the tape and sounds are that run by themselves
 */
export function wavesOf(
  scene: Scene,
  samplesOf: (sound: Sound) => Samples | undefined,
  units: Pick<UnitTimes, "positionS">,
): Map<string, Wave> {
  const lengthS = (sound: Sound) => (samplesOf(sound)?.length ?? 0) / SAMPLE_RATE_HZ;
  const waves = new Map<string, Wave>();
  for (const sound of heardFirst(scene.sounds)) {
    const samples = samplesOf(sound);
    if (!samples) continue;
    const { runs, unitId } = runningOf(scene, sound);
    const loopS = loopLengthS(scene, sound, lengthS);
    const unit = runs === "alone" ? unitId : TAPE_UNIT;
    const ownS = (timeS: number) => units.positionS(unit, timeS);
    waves.set(sound.id, {
      samples,
      indexAt: (timeS) => (loopS > 0 ? ownS(timeS) % loopS : ownS(timeS)) * SAMPLE_RATE_HZ,
    });
  }
  return waves;
}

/** Sounds, those that are heard first. */
export function heardFirst(sounds: readonly Sound[]): Sound[] {
  return [...sounds].sort((a, b) => Number(b.heard) - Number(a.heard));
}

/** The waveform an object follows: that of the sound it names, or of the first one there is. */
export function waveOf(waves: Waves, { object }: ObjectPlan): Wave | undefined {
  const id = settingOf(object, "soundId");
  if (typeof id === "string") return waves.get(id);
  for (const wave of waves.values()) return wave;
  return undefined;
}

/** A waveform's sample at a time; 0 outside of the sound. */
export function sampleAt(wave: Wave, timeS: number): number {
  return sampleOf(wave.samples, Math.round(wave.indexAt(timeS)));
}
