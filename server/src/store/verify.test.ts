import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { eq, sql } from "drizzle-orm";
import { type OpenDatabase, openDatabase } from "../db/open";
import { blobChunks, projects } from "../db/schema";
import { emptyData } from "../testing/emptyData";
import { BlobStore, CHUNK_BYTES } from "./blobs";
import { ProjectStore } from "./projects";
import { SoundStore } from "./sounds";
import { IdleVerifier, Verifier } from "./verify";

const FACTS = {
  originalRateHz: 48_000,
  channels: 1,
  durationS: 3,
  peak: 1,
  integratedLufs: -23,
  bandPrint: [],
};

describe("verifying what is stored", () => {
  let dataDir: string;
  let database: OpenDatabase;
  let verifier: Verifier;
  beforeAll(async () => {
    dataDir = mkdtempSync(join(tmpdir(), "bumbrel-"));
    database = await openDatabase({
      dataDir,
      migrationsDir: "server/migrations",
      preparedDir: await emptyData(),
    });
    verifier = new Verifier(database.db, new BlobStore(database.db));
  });
  afterAll(async () => {
    await database.close();
    rmSync(dataDir, { recursive: true });
  });

  async function store(name: string, seed: number): Promise<{ id: string; blobId: string; bytes: number }> {
    const sounds = new SoundStore(database.db, new BlobStore(database.db));
    const samples = Float32Array.from({ length: CHUNK_BYTES }, (_, i) => Math.sin(i * seed));
    const wav = writeWav([samples], 48_000, "pcm16");
    const id = await sounds.announce(name, FACTS);
    await sounds.receive(
      id,
      (async function* () {
        yield wav;
      })(),
    );
    return { id, blobId: (await sounds.get(id))!.blobId, bytes: wav.length };
  }

  it("finds a single byte that has changed, a chunk that is gone, and scenes that do not hold", async () => {
    const good = await store("Good", 1);
    const scene = newScene("Quay");
    scene.sounds.push({ ...newSoundBasics("s", "Good"), kind: "file", storedId: good.id });
    await new ProjectStore(database.db).create(scene);
    expect(await verifier.all()).toEqual({ flaws: [], bytes: good.bytes, scenes: 1 });

    const changed = await store("Changed", 2);
    await database.db
      .update(blobChunks)
      .set({ bytes: sql`set_byte(${blobChunks.bytes}, 1000, 255 - get_byte(${blobChunks.bytes}, 1000))` })
      .where(sql`${blobChunks.blobId} = ${changed.blobId} and ${blobChunks.index} = 1`);
    const torn = await store("Torn", 3);
    await database.db
      .delete(blobChunks)
      .where(sql`${blobChunks.blobId} = ${torn.blobId} and ${blobChunks.index} = 1`);
    scene.sounds[0] = { ...newSoundBasics("s", "Lost"), kind: "file", storedId: "nowhere" };
    await new ProjectStore(database.db).create(scene);
    const { id } = await new ProjectStore(database.db).create(newScene("Pier"));
    await database.db.update(projects).set({ scene: sql`'{"name":"Pier"}'` }).where(eq(projects.id, id));
    const { flaws } = await verifier.all();
    expect(flaws).toHaveLength(4);
    expect(flaws).toEqual(
      expect.arrayContaining([
        expect.stringMatching(/^"Changed" .* its bytes have changed since/),
        expect.stringMatching(/^"Torn" .* cannot be read whole/),
        expect.stringMatching(/^The sound "Lost" of the project "Quay" is not stored/),
        expect.stringContaining(`The scene ${id} cannot be read`),
      ]),
    );
  });

  it("goes on one by one while nobody asks for anything", async () => {
    const failures: unknown[] = [];
    const idle = new IdleVerifier(verifier, (error) => failures.push(error), 1);
    const until = async (done: () => boolean) => {
      while (!done()) await new Promise((resolve) => setTimeout(resolve, 5));
    };
    await until(() => idle.flaws.size === 2);
    await idle.stop();
    expect([...idle.flaws.values()].sort()).toEqual([
      expect.stringContaining('"Changed"'),
      expect.stringContaining('"Torn"'),
    ]);
    expect(failures).toEqual([]);
  });
});
