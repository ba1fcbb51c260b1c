import type { Scene, Strand } from "../document/scene";
import { finish, type Sliced } from "../dsp/slices";
import { samplesKey } from "../sound/key";
import { isMade, type Sound } from "../sound/kinds";
import { madeSoundData } from "../sound/made";
import type { SoundData } from "../sound/signal";
import { DirectSpectra } from "../strand/spectra";
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
 * Numbers over time of a scene's strands, in slices.
 *
 * @param dataOf  a stored sound's samples; `undefined` when there are none
 * @param strands  those that are wanted; without it those that drive something
 * @param onProgress  called with 0..1
 */
export function* analyseScene(
  scene: Scene,
  dataOf: (sound: Sound) => SoundData | undefined,
  strands: readonly Strand[] = drivingStrands(scene),
  onProgress: (share: number) => void = () => {},
): Sliced<SceneNumbers> {
  const numbers = new Map<string, StrandNumbers>();
  const failures = new Map<string, string>();
  let turn = 0;
  const analysis = new SceneAnalysis({
    onNumbers: (one) => one.cues && numbers.set(one.strandId, one),
    onNone: (strandId, _request, why) => why.kind === "failed" && failures.set(strandId, why.message),
    spectra: new DirectSpectra(),
    // A slice a call: whoever runs it measures time.
    now: () => turn++ * SLICE_TURN,
  });
  for (const sound of scene.sounds) {
    const key = samplesKey(sound);
    if (key === undefined || analysis.has(key)) continue;
    const data = isMade(sound) ? madeSoundData(sound) : dataOf(sound);
    if (data) analysis.setSound(sound, data);
    else analysis.setSoundFailed(key, "It is not there.");
    yield;
  }
  analysis.setScene(scene, strands);
  while (analysis.work()) {
    onProgress(analysis.share);
    yield;
  }
  onProgress(1);
  return { numbers, failures };
}
/** Turns of the analysis in a slice of this module. */
const SLICE_TURN = 2;

/** {@link analyseScene} at once. */
export const analyseSceneNow = (...all: Parameters<typeof analyseScene>): SceneNumbers =>
  finish(analyseScene(...all));
