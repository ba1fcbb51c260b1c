import type { ExampleId } from "@bumbrel/api/exampleList";
import { SceneAnalysis } from "@bumbrel/core/analyse/sceneAnalysis";
import { checkScene, checkSounds } from "@bumbrel/core/check/sceneChecks";
import type { Scene } from "@bumbrel/core/document/scene";
import { describeSound, readProjectSound } from "@bumbrel/core/format/samples/sound";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { samplesKey } from "@bumbrel/core/sound/key";
import { isMade } from "@bumbrel/core/sound/kinds";
import { madeSoundData } from "@bumbrel/core/sound/made";
import { readStoredSound } from "@bumbrel/core/sound/stored";
import type { Advice } from "@bumbrel/core/strand/health";
import { isFull } from "@bumbrel/core/testing/full";
import { runScriptsInline } from "@bumbrel/core/testing/inlineScripts";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { EXAMPLES } from "./examples";

beforeAll(runScriptsInline);

/** Advice on the strands of a scene, once all have been read. */
async function adviceOf(
  scene: Scene,
  files: ReadonlyMap<string, Uint8Array>,
): Promise<Map<string, readonly Advice[]>> {
  const advice = new Map<string, readonly Advice[]>();
  let onWork = () => {};
  const analysis = new SceneAnalysis({
    onNumbers: () => {},
    onHealth: (id, _request, _health, own) => advice.set(id, own),
    onWork: () => onWork(),
    now: () => 0,
  });
  for (const sound of scene.sounds) {
    const bytes = files.get(`${sound.id}.wav`);
    if (bytes && sound.kind === "file") analysis.setSound(sound, readStoredSound(sound, bytes));
    else if (isMade(sound)) analysis.setSound(sound, madeSoundData(sound));
    else if (samplesKey(sound) !== undefined) analysis.setSoundFailed(samplesKey(sound)!, "none");
  }
  analysis.setScene(scene);
  for (;;) {
    if (analysis.work()) continue;
    if (!analysis.isWaiting) return advice;
    await new Promise<void>((resolve) => {
      onWork = resolve;
    });
  }
}

/** The full run checks all of them. */
const CHECKED = (Object.keys(EXAMPLES) as ExampleId[]).filter((id) => isFull || id === "ferry-card");

describe("the worked examples", () => {
  it.each(CHECKED)("pass the product's own checks: %s", async (id) => {
    const { sounds, files: make, scene: makeScene } = EXAMPLES[id];
    const files = make();
    const scene = makeScene(Object.fromEntries(sounds.map((sound) => [sound.id, sound.id])));
    await loadPartsFor(scene);
    const advice = await adviceOf(scene, files);
    const found = [
      ...checkScene(scene, (strandId) => advice.get(strandId)),
      ...checkSounds(scene, (sound) => {
        const bytes = files.get(`${sound.id}.wav`);
        return bytes
          ? { bytes: bytes.length, durationS: describeSound(readProjectSound(bytes)).durationS }
          : isMade(sound)
            ? { durationS: sound.seconds }
            : undefined;
      }),
    ];
    expect(found.map(({ what, remedy }) => `${what}. ${remedy}`)).toEqual([]);
  });
});
