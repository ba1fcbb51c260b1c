import type { Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { describeSound, readProjectSound } from "@bumbrel/core/format/samples/sound";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { changeShaping } from "@bumbrel/core/strand/shape/shaping";
import { type APIRequestContext, expect } from "@playwright/test";

/**
 * Stores a mono sound and a project that has it.
 *
 * @param sceneOf  makes the scene from the id that the sound is stored under
 * @returns the project's id
 */
export async function storeProject(
  request: APIRequestContext,
  address: string,
  samples: Float32Array,
  sceneOf: (storedId: string) => Scene,
): Promise<string> {
  const post = async (path: string, data: object) => {
    const answer = await (await request.post(`${address}/api${path}`, { data })).json();
    expect(answer).toHaveProperty("id");
    return answer.id as string;
  };
  const bytes = writeWav([samples], 48_000, "float32");
  const storedId = await post("/sounds", { name: "Drum", facts: describeSound(readProjectSound(bytes)) });
  await request.put(`${address}/api/sounds/${storedId}/bytes`, { data: Buffer.from(bytes) });
  return post("/projects", { scene: sceneOf(storedId) });
}

/** A wall of light that shows the level of a stored sound at once. */
export function wallScene(
  name: string,
  storedId: string,
  { wall: rest, releaseMs, light }: { wall: StageObject["rest"]; releaseMs: number; light: number },
): Scene {
  const scene = newProject(name);
  scene.quality = "plain";
  scene.sounds.push({
    ...newSoundBasics("drum", "Drum"),
    kind: "file",
    storedId,
    pan: -1,
  } as Scene["sounds"][number]);
  const listensTo = { kind: "sound", id: "drum", tap: "before" } as const;
  const strand = newStrand(scene, "hit", "Hit", listensTo, { kind: "peak" } as never);
  changeShaping(strand.shaping, { follow: { attackMs: 0, releaseMs } });
  scene.strands.push(strand);
  const wall = newObject("wall", "box", "Wall");
  wall.rest = { position: [0, 1, 0], emissionStrength: 0, ...rest };
  scene.objects.push(wall);
  const binding = newBinding("light", "hit", wall, "emissionStrength");
  binding.output = { kind: "range", low: 0, high: light };
  scene.bindings.push(binding);
  return scene;
}
