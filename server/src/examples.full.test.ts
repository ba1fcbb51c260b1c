import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { EXAMPLE_LIST } from "@bumbrel/api/exampleList";
import { checkReferences } from "@bumbrel/core/check/references";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type OpenDatabase, openDatabase } from "./db/open";
import { makeExamples, showExamples } from "./examples";
import { prepareData } from "./prepare";
import { BlobStore } from "./store/blobs";
import { ProjectStore } from "./store/projects";
import { SoundStore } from "./store/sounds";

const PICTURES = "demo/pictures";

describe("worked examples", () => {
  let folder: string;
  let dataDir: string;
  let database: OpenDatabase;
  let projects: ProjectStore;
  let sounds: SoundStore;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
    // A new data folder starts as a copy of the prepared one, as it does after a build.
    const [migrationsDir, preparedDir] = ["server/migrations", join(folder, "prepared")];
    await prepareData(preparedDir, migrationsDir);
    dataDir = join(folder, "data");
    database = await openDatabase({ dataDir, migrationsDir, preparedDir });
    projects = new ProjectStore(database.db);
    sounds = new SoundStore(database.db, new BlobStore(database.db));
    await showExamples(projects, PICTURES);
  });
  afterAll(async () => {
    await database.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it("are made once, with a project of each to begin with, each with a picture and a line of what it teaches", async () => {
    const before = await projects.example("regatta-night");
    await makeExamples(projects, sounds, join(dataDir, "examples"));
    await showExamples(projects, PICTURES);
    expect(await projects.example("regatta-night")).toEqual(before);
    const listed = await projects.list();
    expect(listed.map(({ name }) => name)).toEqual(EXAMPLE_LIST.map(({ name }) => name));
    for (const { about, hasThumbnail } of listed) {
      expect(hasThumbnail).toBe(true);
      expect(about.length).toBeGreaterThan(20);
    }
    expect(listed[0].durationS).toBe(48);
    expect(Math.max(...listed[0].bandPrint)).toBe(1);
  });

  it("hold a second one that needs no file", async () => {
    const shed = (await projects.example("tuning-shed"))!;
    expect(shed.sounds.map(({ kind }) => kind)).toEqual(["tone", "noise", "noise"]);
    expect(checkReferences(shed)).toEqual([]);
  });

  it("store the very bytes that lie beside the table of hits", async () => {
    const scene = (await projects.example("regatta-night"))!;
    expect(checkReferences(scene)).toEqual([]);
    for (const sound of scene.sounds) {
      if (sound.kind !== "file") throw new Error(`${sound.name} is no file`);
      const stored = (await sounds.get(sound.storedId))!;
      const pieces: Uint8Array[] = [];
      for await (const piece of sounds.bytes(stored.blobId, 0, stored.byteLength - 1)) pieces.push(piece);
      const file = readFileSync(join(dataDir, "examples/regatta-night", `${sound.id}.wav`));
      expect(Buffer.concat(pieces).equals(file)).toBe(true);
      expect(stored.facts).toMatchObject({
        originalRateHz: 48_000,
        channels: sound.id === "mix" ? 2 : 1,
        durationS: ["bell", "caller"].includes(sound.id) ? 9.6 : 48,
      });
      expect(stored.facts.integratedLufs).toBeLessThan(-8);
    }
    expect(readFileSync(join(dataDir, "examples/regatta-night", "hits.csv"), "utf8")).toMatch(
      /^time_s,drum,velocity\n/,
    );
  });
});
