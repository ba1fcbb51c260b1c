import { describe, expect, it } from "@jest/globals";
import type { Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { newBinding, newObject, newScene } from "../kinds/create";
import { newSoundBasics } from "../sound/kinds";
import type { SoundData } from "../sound/signal";
import { DirectSpectra } from "../strand/hearing/spectra";
import { analyseStrand } from "./strandAnalysis";
import { analyseScene, trackOf } from "./tracks";

const tone = Float32Array.from(
  { length: 24_000 },
  (_, i) => 0.4 * Math.sin((2 * Math.PI * 120 * i) / 48_000),
);
const song: SoundData = { channels: [tone], mono: tone };

function sceneWith(...soundIds: string[]): Scene {
  const scene = newScene("Quay");
  scene.sounds.push(
    { ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" },
    { ...newSoundBasics("lost", "Lost"), kind: "file", storedId: "s2" },
  );
  const lantern = newObject("lantern", "sphere", "Lantern");
  scene.objects.push(lantern);
  for (const [i, soundId] of soundIds.entries()) {
    scene.strands.push(newStrand(scene, `s${i}`, `S${i}`, { kind: "sound", id: soundId, tap: "before" }));
    scene.bindings.push(newBinding(`b${i}`, `s${i}`, lantern, "scale"));
  }
  return scene;
}
const dataOf = ({ id }: { id: string }) => (id === "song" ? song : undefined);

describe("analysing a scene", () => {
  it("gives the numbers of each strand's own analysis, as tracks", async () => {
    const scene = sceneWith("song");
    const { numbers } = await analyseScene(scene, dataOf);
    const { shaped } = analyseStrand({ samples: tone }, scene.strands[0], new DirectSpectra());
    expect(trackOf(numbers.get("s0")!)).toEqual({ ...shaped, loopS: 0, cues: [] });
  });

  it("skips strands that drive nothing, says why a strand has no numbers, and finishes", async () => {
    const scene = sceneWith("song", "lost", "gone", "song", "song");
    Object.assign(scene.strands[3].measure, { lowHz: 900, highHz: 100 });
    scene.bindings.pop();
    const { numbers, failures } = await analyseScene(scene, dataOf);
    expect([...numbers.keys()]).toEqual(["s0"]);
    expect([...failures.keys()].sort()).toEqual(["s1", "s3"]);
    expect(failures.get("s1")).toMatch(/cannot be loaded/);
    expect(failures.get("s3")).toMatch(/band|range/);
  });
});
