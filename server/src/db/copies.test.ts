import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { newScene } from "@bumbrel/core/kinds/create";
import { itInFull } from "@bumbrel/core/testing/full";
import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { sql } from "drizzle-orm";
import { restoreData } from "../restore";
import { ProjectStore } from "../store/projects";
import { emptyData } from "../testing/emptyData";
import { FolderCopies } from "./copies";
import { openDatabase } from "./open";

describe("copies of the embedded database", () => {
  let dataDir: string;
  beforeEach(() => {
    dataDir = mkdtempSync(join(tmpdir(), "bumbrel-"));
  });
  afterEach(() => rmSync(dataDir, { recursive: true, force: true }));
  const folder = () => join(dataDir, "postgres");
  const open = async (migrationsDir?: string) =>
    openDatabase({
      dataDir,
      migrationsDir: migrationsDir ?? "server/migrations",
      // Older tables have to be made.
      ...(migrationsDir === undefined && { preparedDir: await emptyData() }),
    });
  const names = async (database: Awaited<ReturnType<typeof open>>) =>
    (await new ProjectStore(database.db).list()).map(({ name }) => name);

  /** The first migrations alone, as an older Bumbrel had them. */
  function olderMigrations(count: number): string {
    const older = join(dataDir, "older");
    cpSync("server/migrations", older, { recursive: true });
    const path = join(older, "meta/_journal.json");
    const journal = JSON.parse(readFileSync(path, "utf8"));
    writeFileSync(path, JSON.stringify({ ...journal, entries: journal.entries.slice(0, count) }));
    return older;
  }

  itInFull("are taken before the tables are brought up to date, and not otherwise", async () => {
    const old = await open(olderMigrations(4));
    // As that Bumbrel wrote it: its table had fewer columns.
    const id = "quay";
    const scene = JSON.stringify(newScene("Quay"));
    await old.db.execute(sql`insert into projects (id, revision, scene) values (${id}, 1, ${scene})`);
    await old.close();
    const copies = new FolderCopies(folder());
    expect(copies.list()).toEqual([]);
    const updated = await open();
    expect((await new ProjectStore(updated.db).get(id))?.scene.name).toBe("Quay");
    expect(await names(updated)).toEqual(["Quay"]);
    await updated.close();
    expect(copies.list()).toHaveLength(1);
    await (await open()).close();
    expect(copies.list()).toHaveLength(1);
  });

  it("are there from the first start on, and open: the first is taken while the database is in use", async () => {
    const first = await open();
    const projects = new ProjectStore(first.db);
    await projects.create(newScene("Quay"));
    const saving = Promise.all([
      first.takeFirstCopy(),
      ...Array.from({ length: 20 }, (_none, i) => projects.create(newScene(`Later ${i}`))),
    ]);
    await saving;
    const copies = new FolderCopies(folder());
    expect(copies.list()).toHaveLength(1);
    await first.takeFirstCopy();
    expect(copies.list()).toHaveLength(1);
    expect(await names(first)).toHaveLength(21);
    await first.close();
    rmSync(folder(), { recursive: true });
    cpSync(copies.list()[0].path, folder(), { recursive: true });
    const again = await open();
    expect(await names(again)).toContain("Quay");
    await again.close();
  });

  itInFull("are shown for reading when the database does not open, and put back when asked for", async () => {
    const first = await open();
    await new ProjectStore(first.db).create(newScene("Quay"));
    await first.close();
    const copies = new FolderCopies(folder());
    const { takenAt } = copies.take();
    const second = await open();
    await new ProjectStore(second.db).create(newScene("Made since"));
    await second.close();
    writeFileSync(join(folder(), "global/pg_control"), "nothing of use");

    const shown = await open();
    expect(shown.readOnly).toContain(takenAt.toISOString().slice(0, 10));
    expect(await names(shown)).toEqual(["Quay"]);
    await expect(new ProjectStore(shown.db).create(newScene("New"))).rejects.toMatchObject({
      cause: { code: "25006" },
    });
    await shown.close();
    expect(readFileSync(join(folder(), "global/pg_control"), "utf8")).toBe("nothing of use");

    const restored = await restoreData(dataDir);
    expect(restored.takenAt).toEqual(takenAt);
    expect(existsSync(join(restored.movedTo, "PG_VERSION"))).toBe(true);
    const again = await open();
    expect(again.readOnly).toBeUndefined();
    await new ProjectStore(again.db).create(newScene("New"));
    expect((await names(again)).sort()).toEqual(["New", "Quay"]);
    await again.close();
  });

  itInFull("are due once a week, two are kept, and none is missed in plain words", async () => {
    await (await open()).close();
    const copies = new FolderCopies(folder());
    const day = 24 * 3600 * 1000;
    const now = Date.now();
    expect(copies.isDue(now + 6 * day)).toBe(false);
    expect(copies.isDue(now + 8 * day)).toBe(true);
    for (const days of [0, 8, 16]) copies.take(now + days * day);
    expect(copies.list().map(({ takenAt }) => Math.round((takenAt.getTime() - now) / day))).toEqual([16, 8]);
    expect(copies.isDue(now + 17 * day)).toBe(false);
    expect(readdirSync(dataDir).filter((name) => name.endsWith(".part"))).toEqual([]);

    // Without any, what does not open is said to be as it was.
    rmSync(join(dataDir, "copies"), { recursive: true });
    writeFileSync(join(folder(), "global/pg_control"), "nothing of use");
    await expect(open()).rejects.toThrow(/postgres: the database does not open .*Nothing of it was changed/s);
    await expect(restoreData(dataDir)).rejects.toThrow(/there is no copy/);
  });
});
