import { newScene } from "@bumbrel/core/kinds/create";
import { expect, test } from "@playwright/test";
import { FULL } from "./support/full";
import { TestServer } from "./support/server";

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.remove());

test(
  "killed straight after an acknowledged save, ten times: nothing acknowledged is missing",
  FULL,
  async ({ request }) => {
    test.setTimeout(300_000);
    const acknowledged = new Map<string, { revision: number; name: string }>();
    for (let round = 0; round < 10; round++) {
      const created = await request.post(`${server.address}/api/projects`, {
        data: { scene: newScene(`Round ${round}`) },
      });
      const { id } = await created.json();
      let revision = 1;
      for (let save = 0; save <= round; save++) {
        const name = `Round ${round}, save ${save}`;
        const answer = await request.put(`${server.address}/api/projects/${id}/scene`, {
          data: { revision, scene: newScene(name) },
        });
        expect(answer.status()).toBe(200);
        ({ revision } = await answer.json());
        acknowledged.set(id, { revision, name });
      }
      await server.kill();
      await server.start();
      for (const [projectId, known] of acknowledged) {
        const { revision, scene } = await (
          await request.get(`${server.address}/api/projects/${projectId}`)
        ).json();
        expect({ revision, name: scene.name }).toEqual(known);
      }
    }
  },
);
