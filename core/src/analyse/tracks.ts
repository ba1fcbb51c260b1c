import type { Scene, Strand } from "../document/scene";
import { samplesKey } from "../sound/key";
import { isMade, type Sound } from "../sound/kinds";
import { madeSoundData } from "../sound/made";
import type { SoundData } from "../sound/signal";
import { DirectSpectra } from "../strand/hearing/spectra";
import type { Track } from "../strand/track";
import { drivingStrands } from "./needed";
import { SceneAnalysis, type StrandNumbers } from "./sceneAnalysis";

/** A track from a strand's numbers. */
export const trackOf = ({ width, shaped, loopS, cues = [] }: StrandNumbers): Track => ({
  width,
  values: shaped,
  loopS,
  cues,
});

export interface SceneNumbers {
  numbers: ReadonlyMap<string, StrandNumbers>;
  /** Why strands have none, by their id. */
  failures: ReadonlyMap<string, string>;
}

/**
 * Numbers over time of a scene's strands.
 *
 * @param dataOf  a stored sound's samples; `undefined` when there are none
 * @param strands  those that are wanted; without it those that drive something
 */
export async function analyseScene(
  scene: Scene,
  dataOf: (sound: Sound) => SoundData | undefined,
  strands: readonly Strand[] = drivingStrands(scene),
): Promise<SceneNumbers> {
  const numbers = new Map<string, StrandNumbers>();
  const failures = new Map<string, string>();
  let onWork = () => {};
  const analysis = new SceneAnalysis({
    onNumbers: (one) => one.cues && numbers.set(one.strandId, one),
    onNone: (strandId, _request, why) => why.kind === "failed" && failures.set(strandId, why.message),
    onWork: () => onWork(),
    spectra: new DirectSpectra(),
    // Nobody else waits for this thread: no slice is ever over.
    now: () => 0,
  });
  for (const sound of scene.sounds) {
    const key = samplesKey(sound);
    if (key === undefined || analysis.has(key)) continue;
    const data = isMade(sound) ? madeSoundData(sound) : dataOf(sound);
    if (data) analysis.setSound(sound, data);
    else analysis.setSoundFailed(key, "It is not there.");
  }
  analysis.setScene(scene, strands);
  for (;;) {
    if (analysis.work()) continue;
    if (!analysis.isWaiting) return { numbers, failures };
    await new Promise<void>((resolve) => {
      onWork = resolve;
    });
  }
}
