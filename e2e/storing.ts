import type { Scene } from "@bumbrel/core/document/scene";
import { describeSound, readProjectSound } from "@bumbrel/core/format/sound";
import { writeWav } from "@bumbrel/core/format/wav";
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
