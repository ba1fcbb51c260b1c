import { newBinding, newObject, newScene, newSoundBasics, newStrand } from "@bumbrel/core/scene/create";
import { analyseStrand } from "@bumbrel/core/strand/analyse";
import { DirectSpectra } from "@bumbrel/core/strand/spectrumSource";
import { describe, expect, it } from "@jest/globals";
import { computeTracks } from "./tracks";

const tone = Float32Array.from(
  { length: 24_000 },
  (_, i) => 0.4 * Math.sin((2 * Math.PI * 120 * i) / 48_000),
);

function sceneWith(...soundIds: string[]) {
  const scene = newScene("Quay");
  scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" });
  const lantern = newObject("lantern", "sphere", "Lantern");
  scene.objects.push(lantern);
  for (const [i, soundId] of soundIds.entries()) {
    scene.strands.push(newStrand(scene, `s${i}`, `S${i}`, { kind: "sound", id: soundId, tap: "before" }));
    scene.bindings.push(newBinding(`b${i}`, `s${i}`, lantern, "scale"));
  }
  return scene;
}

describe("computeTracks", () => {
  it("gives the numbers that the core gives for the mono mix", async () => {
    const scene = sceneWith("song");
    const right = tone.map((x) => x * 0.5);
    const tracks = await computeTracks(scene, new Map([["song", { channels: [tone, right] }]]), 1);
    const mix = tone.map((x, i) => (x + right[i]) / 2);
    const { shaped } = analyseStrand({ samples: mix }, scene.strands[0], new DirectSpectra());
    expect(tracks.get("s0")).toEqual({ ...shaped, loopS: 0, cues: [] });
  });

  it("skips what drives nothing, has no sound, or cannot be measured, and finishes", async () => {
    const scene = sceneWith("song", "lost", "gone", "song", "song");
    Object.assign(scene.strands[3].measure, { lowHz: 900, highHz: 100 });
    scene.bindings.pop();
    const shares: number[] = [];
    const tracks = await computeTracks(scene, new Map([["song", { channels: [tone] }]]), 1, (share) =>
      shares.push(share),
    );
    expect([...tracks.keys()]).toEqual(["s0"]);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.at(-1)).toBe(1);
  });
});
