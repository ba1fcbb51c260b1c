import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Scene } from "@bumbrel/core/document/scene";
import { Take } from "@bumbrel/core/document/take/take";
import { takeToFile } from "@bumbrel/core/document/take/takeFile";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { itInFull } from "@bumbrel/core/testing/full";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { unzipSync, zipSync } from "fflate";
import { type OpenDatabase, openDatabase } from "../db/open";
import { assets as assetRows, blobs, sounds as soundRows } from "../db/schema";
import { emptyData } from "../testing/emptyData";
import { readArchive } from "./readArchive";
import { type Stores, storesOf } from "./stores";
import { writeArchive } from "./writeArchive";

const FACTS = {
  originalRateHz: 48_000,
  channels: 1,
  durationS: 1,
  peak: 1,
  integratedLufs: -23,
  bandPrint: [],
};

async function* once(bytes: Uint8Array) {
  yield bytes;
}

describe("archives of projects", () => {
  let folder: string;
  const open: OpenDatabase[] = [];
  /** A machine of its own, with nothing on it. */
  async function machine(name: string): Promise<Stores & { counts(): Promise<number[]> }> {
    const database = await openDatabase({
      dataDir: join(folder, name),
      migrationsDir: "server/migrations",
      preparedDir: await emptyData(),
    });
    open.push(database);
    const { db } = database;
    return {
      ...storesOf(db),
      counts: async () => [await db.$count(soundRows), await db.$count(assetRows), await db.$count(blobs)],
    };
  }
  let home: Stores;
  let projectId: string;
  let archive: Uint8Array;

  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
    home = await machine("home");
    projectId = (await home.projects.create(await quay(home))).id;
    await home.projects.setThumbnail(projectId, Uint8Array.of(0xff, 0xd8, 1, 2, 3));
    archive = await written([projectId]);
  });
  afterAll(async () => {
    for (const database of open) await database.close();
    rmSync(folder, { recursive: true, force: true });
  });

  const wav = (seed: number, length = 200_000) => {
    const random = seededRandom(seed);
    return writeWav([Float32Array.from({ length }, () => random() * 2 - 1)], 48_000, "pcm16");
  };
  async function quay(stores: Stores): Promise<Scene> {
    const scene = newScene("Quay / évening");
    for (const [id, seed] of [
      ["bell", 1],
      ["horn", 2],
    ] as const) {
      const storedId = await stores.sounds.announce(`${id}.wav`, FACTS);
      await stores.sounds.receive(storedId, once(wav(seed)));
      scene.sounds.push({ ...newSoundBasics(id, id), kind: "file", storedId });
    }
    const take = new Take();
    take.record({ kind: "key", step: 3, key: "k" });
    const bytes = Buffer.from(JSON.stringify(takeToFile(take)));
    const storedId = await stores.assets.receive("take", "Walk", once(bytes));
    scene.assets.push({ id: "walk", name: "Walk", kind: "take", storedId, lengthS: 1, tryOut: "window" });
    scene.programs.push({
      id: "p",
      name: "Hills",
      kind: "surface",
      code: "void move(inout Point p) {}",
      draft: null,
    });
    return scene;
  }

  async function written(ids: string[], stores = home): Promise<Uint8Array> {
    const pieces: Uint8Array[] = [];
    for await (const piece of writeArchive(ids, stores, new Date("2026-11-27T08:00:00Z"))) pieces.push(piece);
    return Buffer.concat(pieces);
  }
  function file(bytes: Uint8Array): string {
    const path = join(folder, `${createHash("sha256").update(bytes).digest("hex")}.zip`);
    writeFileSync(path, bytes);
    return path;
  }
  const bytesOf = async (stores: Stores, storedId: string) => {
    const found = (await stores.sounds.get(storedId)) ?? (await stores.assets.get(storedId));
    const pieces: Uint8Array[] = [];
    for await (const piece of stores.sounds.bytes(found!.blobId, 0, found!.byteLength - 1))
      pieces.push(piece);
    return Buffer.concat(pieces);
  };
  /** A scene with its stored things named by their content: what must be the same everywhere. */
  async function content(stores: Stores, id: string): Promise<unknown> {
    const { scene } = (await stores.projects.get(id))!;
    const copy = structuredClone(scene) as Scene;
    for (const one of [...copy.sounds, ...copy.assets]) {
      if (!("storedId" in one) || one.storedId === undefined) continue;
      one.storedId = createHash("sha256")
        .update(await bytesOf(stores, one.storedId))
        .digest("hex");
    }
    return copy;
  }

  it("are ZIP files that other programs open, with a page of contents and right checksums", () => {
    const path = file(archive);
    // Info-ZIP by Python: it checks every CRC.
    const listed = execFileSync("python3", ["-c", PYTHON, path], { encoding: "utf8" });
    const { bad, names } = JSON.parse(listed);
    expect(bad).toBe(null);
    expect(names.slice(0, 2)).toEqual(["archive.json", "CONTENTS.txt"]);
    expect(names).toEqual(
      expect.arrayContaining([
        "projects/quay-evening/scene.json",
        "projects/quay-evening/programs/hills.glsl",
        "projects/quay-evening/thumbnail.jpg",
        "sounds/bell.wav",
        "sounds/horn.wav",
        "takes/walk.json",
      ]),
    );
    const files = unzipSync(archive);
    const page = Buffer.from(files["CONTENTS.txt"]).toString();
    expect(page).toContain("1 project: Quay / évening");
    const sum = createHash("sha256").update(files["sounds/bell.wav"]).digest("hex");
    expect(page).toContain(`sounds/bell.wav\n    400.0 kB, SHA-256 ${sum}`);
    expect(Buffer.from(files["sounds/bell.wav"]).equals(wav(1))).toBe(true);
  });

  it("come in elsewhere with the same content to the bit, once", async () => {
    const away = await machine("away");
    const report = await readArchive(file(archive), away);
    expect(report.problems).toEqual([]);
    expect(report.projects).toMatchObject([{ name: "Quay / évening", isNew: true }]);
    const [{ id }] = report.projects;
    expect(await content(away, id)).toEqual(await content(home, projectId));
    expect([...(await away.projects.thumbnail(id))!]).toEqual([0xff, 0xd8, 1, 2, 3]);
    // Programs from elsewhere wait to be allowed.
    expect((await away.projects.get(id))!.programsAllowed).toBe(false);
    const counts = await away.counts();
    expect(await readArchive(file(archive), away)).toMatchObject({ projects: [{ id, isNew: false }] });
    expect(await away.counts()).toEqual(counts);
    // Again on request: another project on the same sounds.
    const [again] = (await readArchive(file(archive), away, true)).projects;
    expect(again.id).not.toBe(id);
    expect(await away.counts()).toEqual(counts);
    // And back home everything is there already.
    expect(await readArchive(file(archive), home)).toMatchObject({
      projects: [{ id: projectId, isNew: false }],
    });
    // Written from there, the archive holds the same files.
    const back = unzipSync(await written([id], away));
    expect(Buffer.from(back["sounds/horn.wav"]).equals(wav(2))).toBe(true);
  });

  itInFull("hold several projects, and shared sounds once", async () => {
    const other = structuredClone((await home.projects.get(projectId))!.scene);
    other.name = "Quay / évening";
    other.sounds.pop();
    const { id } = await home.projects.create(other);
    const both = await written([projectId, id]);
    const names = Object.keys(unzipSync(both));
    expect(names.filter((name) => name.startsWith("sounds/"))).toEqual([
      "sounds/bell.wav",
      "sounds/horn.wav",
    ]);
    expect(names).toContain("projects/quay-evening-2/scene.json");
    const away = await machine("both");
    const { projects } = await readArchive(file(both), away);
    expect(projects.map(({ isNew }) => isNew)).toEqual([true, true]);
    expect(await away.counts()).toEqual([2, 1, 3]);
    await home.projects.remove(id);
  });

  it("list files that were missing when they were made", async () => {
    const scene = newScene("Pier");
    scene.sounds.push({ ...newSoundBasics("s", "Gull"), kind: "file", storedId: "gone" });
    const { id } = await home.projects.create(scene);
    const away = await machine("pier");
    const report = await readArchive(file(await written([id])), away);
    expect(report.projects).toHaveLength(1);
    expect(report.problems).toEqual(['The sound "Gull" of "Pier" was not stored.']);
    await home.projects.remove(id);
    await expect(written(["nobody"])).rejects.toThrow("there is no such project");
  });

  itInFull("bring in the whole parts of fifty damaged ones, and report the rest", async () => {
    const away = await machine("damaged");
    const random = seededRandom(7);
    let opened = 0;
    for (let i = 0; i < 50; i++) {
      const bytes = Uint8Array.from(archive);
      let damaged = bytes;
      // A third of them cut short, a third with bytes changed, a third with a stretch overwritten.
      if (i % 3 === 0) damaged = bytes.subarray(0, Math.floor(random() * bytes.length));
      else if (i % 3 === 1) for (let n = 0; n < 5; n++) bytes[Math.floor(random() * bytes.length)] ^= 0x55;
      else bytes.fill(0, Math.floor(random() * bytes.length)).copyWithin(0, 0, 1);
      const path = file(damaged);
      try {
        const { projects, problems } = await readArchive(path, away, true);
        opened++;
        if (problems.length === 0) {
          const [{ id }] = projects;
          expect(await content(away, id)).toEqual(await content(home, projectId));
        } else for (const problem of problems) expect(problem).toMatch(/\.$|Correct|cannot be used/);
      } catch (error) {
        // Nothing could be read: it says so in words.
        expect((error as Error).message).toMatch(/archive\.json|no ZIP file/);
      }
      rmSync(path);
    }
    expect(opened).toBeGreaterThan(20);
    // No sound has come in that is not just what was archived.
    for (const { sha256 } of await storedSums(away)) {
      expect([sha256Of(wav(1)), sha256Of(wav(2)), sha256Of(Buffer.from(takeText()))]).toContain(sha256);
    }
  });
  const sha256Of = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");
  const storedSums = (_stores: Stores) => open.at(-1)!.db.select({ sha256: blobs.sha256 }).from(blobs);
  const takeText = () => {
    const take = new Take();
    take.record({ kind: "key", step: 3, key: "k" });
    return JSON.stringify(takeToFile(take));
  };

  it("bring in the sounds before the cut of one that is cut short", async () => {
    const away = await machine("cut");
    const at = Buffer.from(archive).indexOf("sounds/horn.wav", Math.floor(archive.length / 3), "latin1");
    const { projects, problems } = await readArchive(file(archive.subarray(0, at + 5000)), away);
    expect(projects).toHaveLength(1);
    expect(problems).toEqual([
      "The archive is cut short or damaged: only what is whole was brought in.",
      'The sound "horn" is missing or damaged in the archive.',
    ]);
    const { scene } = (await away.projects.get(projects[0].id))!;
    const [bell] = scene.sounds as { storedId: string }[];
    expect((await bytesOf(away, bell.storedId)).equals(wav(1))).toBe(true);
  });

  /** An archive of the given files beside a manifest that lists them as they are. */
  function forged(
    scenes: { path: string; text: string }[],
    list: (file: (path: string) => { path: string; bytes: number; sha256: string }) => object[],
  ): Uint8Array {
    const files = Object.fromEntries(scenes.map(({ path, text }) => [path, Buffer.from(text)]));
    const fileOf = (path: string) => ({
      path,
      bytes: files[path].length,
      sha256: createHash("sha256").update(files[path]).digest("hex"),
    });
    const manifest = {
      format: "bumbrel-archive",
      version: 1,
      madeAt: "2026-12-01",
      projects: list(fileOf),
      sounds: [],
      assets: [],
      missing: [],
    };
    return zipSync({ "archive.json": Buffer.from(JSON.stringify(manifest)), ...files });
  }

  itInFull("bring a scene in once, however many projects name it, and in no time", async () => {
    const away = await machine("named");
    const text = JSON.stringify(newScene("One")) + " ".repeat(2_000_000);
    const bytes = forged([{ path: "s.json", text }], (fileOf) =>
      Array.from({ length: 300 }, (_none, i) => ({
        name: `P${i}`,
        scene: fileOf("s.json"),
        thumbnail: null,
      })),
    );
    const began = performance.now();
    const { projects, problems } = await readArchive(file(bytes), away, true);
    expect(performance.now() - began).toBeLessThan(5000);
    expect(projects).toHaveLength(1);
    expect(problems).toHaveLength(51);
    expect(problems.at(-1)).toBe("249 more problems.");
  });

  itInFull("are refused when they unpack to many times their size, and leave nothing", async () => {
    const away = await machine("bomb");
    const good = JSON.stringify(newScene("Good"));
    const bytes = forged(
      [
        { path: "good.json", text: good },
        { path: "bomb.json", text: `{"a":"${"x".repeat(60_000_000)}"}` },
      ],
      (fileOf) => [
        { name: "Good", scene: fileOf("good.json"), thumbnail: null },
        { name: "Bomb", scene: fileOf("bomb.json"), thumbnail: fileOf("bomb.json") },
        { name: "Good", scene: { ...fileOf("bomb.json"), bytes: 19_000_000 }, thumbnail: null },
      ],
    );
    const { projects, problems } = await readArchive(file(bytes), away, true);
    // A file that is larger than a scene may be is not unpacked at all.
    expect(projects.map(({ name }) => name)).toEqual(["Good"]);
    expect(problems).toHaveLength(2);
    const huge = forgedSound(80_000_000);
    await expect(readArchive(file(huge), away, true)).rejects.toThrow(/more than 40 times its size/);
    expect((await away.projects.list()).map(({ name }) => name)).toEqual(["Good"]);
    expect(await away.counts()).toEqual([0, 0, 0]);
  });

  /** An archive of one project with a sound of zeros. */
  function forgedSound(length: number): Uint8Array {
    const scene = newScene("Zeros");
    scene.sounds.push({ ...newSoundBasics("z", "Z"), kind: "file", storedId: "z" });
    const zeros = Buffer.alloc(length);
    Buffer.from(writeWav([new Float32Array(1)], 48_000, "pcm16")).copy(zeros);
    const text = Buffer.from(JSON.stringify(scene));
    const fileOf = (path: string, bytes: Buffer) => ({
      path,
      bytes: bytes.length,
      sha256: createHash("sha256").update(bytes).digest("hex"),
    });
    const manifest = {
      format: "bumbrel-archive",
      version: 1,
      madeAt: "2026-12-01",
      projects: [{ name: "Zeros", scene: fileOf("s.json", text), thumbnail: null }],
      sounds: [{ ...fileOf("z.wav", zeros), storedId: "z", name: "Z", facts: FACTS }],
      assets: [],
      missing: [],
    };
    return zipSync({ "archive.json": Buffer.from(JSON.stringify(manifest)), "s.json": text, "z.wav": zeros });
  }

  it("leave nothing half when the disk is full in the middle", async () => {
    const away = await machine("full");
    const full = { ...away, sounds: Object.assign(Object.create(away.sounds), {}) as typeof away.sounds };
    let taken = 0;
    full.sounds.receive = async (id, bytes) => {
      if (taken++ === 1) throw Object.assign(new Error("no space left"), { code: "53100" });
      return away.sounds.receive(id, bytes);
    };
    await expect(readArchive(file(archive), full)).rejects.toThrow("no space left");
    expect(await away.projects.list()).toEqual([]);
    expect(await away.counts()).toEqual([0, 0, 0]);
    // With room again it comes in whole.
    expect((await readArchive(file(archive), away)).problems).toEqual([]);
  });

  itInFull("are refused when they are none, or claim more than they hold", async () => {
    const away = await machine("refused");
    const refused = async (bytes: Uint8Array) => {
      const path = file(bytes);
      return readArchive(path, away).then(
        () => "taken",
        ({ message }: Error) => message,
      );
    };
    expect(await refused(Buffer.from("not a zip"))).toContain("this is no ZIP file");
    expect(await refused(zipSync({ "a.txt": Buffer.from("hello") }))).toContain("no archive.json in it");
    expect(await refused(zipSync({ "archive.json": Buffer.from("{}") }))).toContain("no archive of Bumbrel");
    expect(
      await refused(zipSync({ "archive.json": Buffer.from('{"format":"bumbrel-archive","version":99}') })),
    ).toContain("version 99");
    // A scene of a few kilobytes that unpacks to 100 MB is not unpacked.
    const files = unzipSync(archive);
    const bomb = Buffer.alloc(100 * 2 ** 20, 0x20);
    const manifest = JSON.parse(Buffer.from(files["archive.json"]).toString());
    manifest.projects[0].scene.bytes = bomb.length;
    manifest.projects[0].scene.sha256 = sha256Of(bomb);
    files["archive.json"] = Buffer.from(JSON.stringify(manifest));
    files["projects/quay-evening/scene.json"] = bomb;
    const zipped = zipSync(files);
    expect(zipped.length).toBeLessThan(2 ** 20);
    const report = await readArchive(file(zipped), away);
    expect(report.projects).toEqual([]);
    expect(report.problems[0]).toContain("missing or damaged");
  });
});

const PYTHON = `import json, sys, zipfile
archive = zipfile.ZipFile(sys.argv[1])
print(json.dumps({"bad": archive.testzip(), "names": archive.namelist()}))`;
