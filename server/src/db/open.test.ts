import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { newScene } from "@bumbrel/core/kinds/create";
import { itInFull } from "@bumbrel/core/testing/full";
import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { ProjectStore } from "../store/projects";
import { openDatabase } from "./open";

describe("openDatabase", () => {
  let dataDir: string;
  const settings = () => ({ dataDir, migrationsDir: "server/migrations" });
  beforeEach(() => {
    dataDir = mkdtempSync(join(tmpdir(), "bumbrel-"));
  });
  afterEach(() => rmSync(dataDir, { recursive: true, force: true }));

  itInFull("finds everything again when it is opened a second time", async () => {
    const first = await openDatabase(settings());
    const { id } = await new ProjectStore(first.db).create(newScene("Kept"));
    await first.close();
    const second = await openDatabase(settings());
    expect((await new ProjectStore(second.db).get(id))?.scene.name).toBe("Kept");
    await second.close();
  });

  it("says so when a database server does not answer", async () => {
    const databaseUrl = "postgres://nobody@127.0.0.1:1/none";
    await expect(openDatabase({ ...settings(), databaseUrl })).rejects.toThrow(
      /DATABASE_URL: the database cannot be opened/,
    );
  });
});
