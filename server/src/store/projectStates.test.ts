import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { eq } from "drizzle-orm";
import { projectStates, projects } from "../db/schema";
import { DATABASES, openData, type TestData } from "../testing/openData";
import { cleanUp } from "./cleanUp";
import { MOST_STATES } from "./projectStates";
import { ProjectStore } from "./projects";

describe.each(DATABASES)("earlier states of projects, database: %s", (kind) => {
  let data: TestData;
  let store: ProjectStore;
  beforeAll(async () => {
    data = await openData(kind);
    store = new ProjectStore(data.db);
  });
  afterAll(() => data.remove());

  it("are the state before the first save and the last of each minute, with what they changed", async () => {
    const { id } = await store.create(newScene("Quay"));
    expect(await store.states.list(id)).toEqual([]);
    for (const [i, name] of ["Pier", "Mole"].entries()) {
      const scene = newScene(name);
      if (i === 1) scene.objects.push(newObject("moon", "sphere", "Moon"));
      expect(await store.save(id, i + 1, scene)).toEqual({ saved: true, revision: i + 2 });
    }
    const states = await store.states.list(id);
    // Two saves of one minute are one state; where a minute ended between them, there is one more.
    expect([2, 3]).toContain(states.length);
    expect(states[0].revision).toBe(3);
    expect(states[0].changes).toEqual(expect.arrayContaining(["Project name", "Object Moon, added"]));
    expect(states.at(-1)).toMatchObject({ revision: 1, changes: [] });
    expect((await store.states.get(id, states.at(-1)!.id))?.name).toBe("Quay");
    expect((await store.states.get(id, states[0].id))?.name).toBe("Mole");
    expect(await store.states.get(id, 7)).toBeUndefined();
    // A save that is refused is none.
    expect(await store.save(id, 1, newScene("Late"))).toEqual({ saved: false, revision: 3 });
    expect((await store.states.list(id))[0].revision).toBe(3);
  });

  it("are the last fifty", async () => {
    const { id } = await store.create(newScene("Long"));
    const nowMinute = Math.floor(Date.now() / 60_000);
    for (let back = 70; back > 0; back--) {
      await data.db.insert(projectStates).values({
        projectId: id,
        minute: nowMinute - back,
        revision: 71 - back,
        scene: newScene(`Minute ${back}`),
        savedAt: new Date(Date.now() - back * 60_000),
      });
    }
    await store.save(id, 1, newScene("Now"));
    const states = await store.states.list(id);
    expect(states).toHaveLength(MOST_STATES);
    expect((await store.states.get(id, states[0].id))?.name).toBe("Now");
    expect((await store.states.get(id, states.at(-1)!.id))?.name).toBe("Minute 49");
  });

  it("go with their project", async () => {
    const { id } = await store.create(newScene("Gone"));
    await store.save(id, 1, newScene("Soon"));
    await store.remove(id);
    expect(await store.states.list(id)).not.toEqual([]);
    await data.db
      .update(projects)
      .set({ deletedAt: new Date(0) })
      .where(eq(projects.id, id));
    await cleanUp(data.db);
    expect(await store.states.list(id)).toEqual([]);
  });
});
