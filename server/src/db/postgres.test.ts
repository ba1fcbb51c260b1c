import { newScene } from "@bumbrel/core/kinds/create";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { ProjectStore } from "../store/projects";
import { startPostgres, type TestPostgres } from "../testing/postgres";
import { openDatabase } from "./open";

describe("several processes on one PostgreSQL server", () => {
  let postgres: TestPostgres;
  let bumbrels: Awaited<ReturnType<typeof open>>[];
  const open = async () => {
    const { db, close } = await openDatabase({
      dataDir: "",
      databaseUrl: postgres.url,
      migrationsDir: "server/migrations",
    });
    return { projects: new ProjectStore(db), close };
  };
  beforeAll(async () => {
    postgres = await startPostgres();
    // At the same moment, so that both find no tables.
    bumbrels = await Promise.all([open(), open()]);
  });
  afterAll(async () => {
    for (const { close } of bumbrels) await close();
    await postgres.remove();
  });

  it("lets one of two saves onto one revision win, and counts every revision", async () => {
    const [one, other] = bumbrels.map(({ projects }) => projects);
    const { id } = await one.create(newScene("Quay"));
    for (let revision = 1; revision <= 40; revision++) {
      const outcomes = await Promise.all([
        one.save(id, revision, newScene(`one ${revision}`)),
        other.save(id, revision, newScene(`other ${revision}`)),
      ]);
      expect(outcomes.filter((outcome) => outcome?.saved)).toHaveLength(1);
      const winner = outcomes[0]?.saved ? "one" : "other";
      expect(await other.get(id)).toMatchObject({
        revision: revision + 1,
        scene: { name: `${winner} ${revision}` },
      });
    }
  });

  it("tells each of the other's changes, after a break of the connection as well", async () => {
    const [one, other] = bumbrels.map(({ projects }) => projects);
    const { id } = await one.create(newScene("Quay"));
    let wake = () => {};
    let told = 0;
    const stop = await other.watch(id, () => {
      told++;
      wake();
    });
    const next = async (action: () => Promise<unknown>) => {
      const before = told;
      const heard = new Promise<void>((resolve) => {
        wake = resolve;
      });
      await action();
      if (told === before) await heard;
    };
    await next(() => one.save(id, 1, newScene("First")));
    await next(() => one.remove(id));
    await next(() => one.restore(id));
    // Something may have been missed in the break, so that everybody looks again.
    await next(() => postgres.crash());
    await next(() => one.save(id, 2, newScene("Second")));
    expect(await other.revisionOf(id)).toBe(3);
    stop();
  });

  it("keeps every acknowledged save when the server goes down in the middle of many", async () => {
    const { projects } = bumbrels[0];
    let broken = 0;
    for (let round = 0; round < 3; round++) {
      const ids = await Promise.all(
        Array.from({ length: 8 }, async () => (await projects.create(newScene("Quay"))).id),
      );
      const acknowledged = new Map(ids.map((id) => [id, 1]));
      let isOver = false;
      const saving = ids.map(async (id) => {
        while (!isOver) {
          const revision = acknowledged.get(id)!;
          try {
            const outcome = await projects.save(id, revision, newScene(`save ${revision}`));
            if (outcome?.saved) acknowledged.set(id, outcome.revision);
            // The one before was taken, though its answer was lost.
            else if (outcome) return;
          } catch {
            broken++;
            return;
          }
        }
      });
      await new Promise((resolve) => setTimeout(resolve, 100 * (round + 1)));
      await postgres.crash();
      isOver = true;
      await Promise.all(saving);
      for (const [id, revision] of acknowledged) {
        const kept = await projects.get(id);
        expect(kept!.revision).toBeGreaterThanOrEqual(revision);
        expect(kept!.revision).toBeLessThanOrEqual(revision + 1);
        if (kept!.revision > 1) expect(kept!.scene.name).toBe(`save ${kept!.revision - 1}`);
      }
    }
    expect(broken).toBeGreaterThan(0);
  });
});
