import { createHash } from "node:crypto";
import { buffer } from "node:stream/consumers";
import type { ArchiveReport } from "@bumbrel/api/contracts";
import { parseSceneText } from "@bumbrel/core/check/readScene";
import { ASSET_KINDS, type Scene } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import { isStored } from "@bumbrel/core/sound/kinds";
import { ArchiveBudget } from "./budget";
import { type ArchivedFile, MANIFEST_PATH, type Manifest, readManifest } from "./manifest";
import type { Stores } from "./stores";
import { ZipFile } from "./zipFile";

/** Limits of an archive: one beyond them is meant to do harm. */
const MOST_ENTRIES = 60_000;
const MOST_MANIFEST_BYTES = 64 * 2 ** 20;
const MOST_SCENE_BYTES = 20 * 2 ** 20;
const MOST_THUMBNAIL_BYTES = 2 ** 20;
const MOST_FILE_BYTES = 4 * 2 ** 30;
const MOST_PROJECTS = 1000;
/** Problems that are told; the rest is counted. */
const MOST_TOLD = 50;

/**
 * Brings the projects of an archive in. What is stored here already is not stored twice, and a project that is here already
 * is not made again. Of a damaged archive, whatever is whole comes in.
 *
 * @param path  of the ZIP file
 * @param again  makes projects also when they are here already
 * @returns what came in, and in words what did not
 * @throws BumbrelError when nothing can be read from it, or it unpacks to more than an archive may; whatever else stops it is
 *   thrown as it is. Then nothing of it stays.
 */
export async function readArchive(path: string, stores: Stores, again = false): Promise<ArchiveReport> {
  const zip = await ZipFile.open(path, MOST_ENTRIES);
  try {
    const manifest = await manifestOf(zip, path);
    const problems = [...manifest.missing];
    if (!zip.isWhole)
      problems.push("The archive is cut short or damaged: only what is whole was brought in.");
    const reader = new Reader(zip, stores, manifest, problems, new ArchiveBudget(path));
    const projects: ArchiveReport["projects"] = [];
    const seen = new Set<string>();
    try {
      for (const listed of manifest.projects.slice(0, MOST_PROJECTS)) {
        const { path: scenePath } = listed.scene;
        if (seen.has(scenePath)) {
          problems.push(`The project "${listed.name}" names the scene of another one.`);
          continue;
        }
        seen.add(scenePath);
        const made = await reader.project(listed, again);
        if (made) projects.push(made);
        // Others get their turn between two projects.
        await new Promise((resolve) => setImmediate(resolve));
      }
    } catch (error) {
      await reader.takeBack();
      throw error;
    }
    const untold = problems.length - MOST_TOLD;
    return {
      projects,
      problems: untold > 0 ? [...problems.slice(0, MOST_TOLD), `${untold} more problems.`] : problems,
    };
  } finally {
    await zip.close();
  }
}

async function manifestOf(zip: ZipFile, path: string): Promise<Manifest> {
  const fail = (what: string) =>
    new BumbrelError({
      code: "archive-damaged",
      what,
      where: path,
      remedy: "Use another copy of it, or export the project again",
    });
  const entry = zip.entries.get(MANIFEST_PATH);
  if (!entry) {
    throw fail(
      zip.entries.size === 0
        ? "this is no ZIP file"
        : "there is no archive.json in it, which says what it holds",
    );
  }
  let bytes: Buffer;
  try {
    bytes = await buffer(zip.read(entry, MOST_MANIFEST_BYTES));
  } catch (error) {
    throw fail(`its archive.json cannot be read (${(error as Error).message})`);
  }
  const manifest = readManifest(bytes.toString("utf8"));
  if (typeof manifest === "string") throw fail(`its archive.json does not hold: ${manifest}`);
  return manifest;
}

class Reader {
  private readonly zip: ZipFile;
  private readonly stores: Stores;
  private readonly manifest: Manifest;
  private readonly problems: string[];
  /** Ids of stored things here, by their ids in the archive. */
  private readonly ids = new Map<string, string>();
  private known: { id: string; key: string }[] | undefined;
  /** Projects and stored things made so far. */
  private readonly made = { projects: [] as string[], sounds: [] as string[], assets: [] as string[] };
  private readonly budget: ArchiveBudget;

  constructor(zip: ZipFile, stores: Stores, manifest: Manifest, problems: string[], budget: ArchiveBudget) {
    this.budget = budget;
    this.zip = zip;
    this.stores = stores;
    this.manifest = manifest;
    this.problems = problems;
  }

  async project(
    { name, scene: file, thumbnail }: Manifest["projects"][number],
    again: boolean,
  ): Promise<ArchiveReport["projects"][number] | undefined> {
    const { projects } = this.stores;
    const bytes = await this.whole(file, MOST_SCENE_BYTES);
    if (!bytes) {
      this.problems.push(`The project "${name}" is missing or damaged in the archive.`);
      return undefined;
    }
    let scene: Scene;
    try {
      scene = parseSceneText(bytes.toString("utf8"));
    } catch (error) {
      this.problems.push(`The project "${name}" cannot be used: ${(error as Error).message}`);
      return undefined;
    }
    await this.bringIn(scene);
    const twin = again ? undefined : await this.twinOf(scene);
    if (twin !== undefined) return { id: twin, name: scene.name, isNew: false };
    // An archive from elsewhere may bring programs that nobody here has seen.
    const { id } = await projects.create(scene, undefined, true);
    this.made.projects.push(id);
    const picture = thumbnail && (await this.whole(thumbnail, MOST_THUMBNAIL_BYTES));
    if (picture) await projects.setThumbnail(id, picture);
    return { id, name: scene.name, isNew: true };
  }

  /** Removes everything that was made here: an archive comes in as far as it is whole, or not at all. */
  async takeBack(): Promise<void> {
    const { projects, sounds, assets } = this.stores;
    for (const id of this.made.projects) {
      await projects.remove(id);
      await projects.removeForGood(id);
    }
    for (const id of this.made.sounds) await sounds.remove(id);
    for (const id of this.made.assets) await assets.remove(id);
  }

  /** Stores what a scene refers to, and has it refer to what is stored here. */
  private async bringIn(scene: Scene): Promise<void> {
    const { sounds, assets } = this.stores;
    for (const sound of scene.sounds.filter(isStored)) {
      const listed = this.manifest.sounds.find(({ storedId }) => storedId === sound.storedId);
      sound.storedId = await this.stored(sound.storedId, listed, `sound "${sound.name}"`, {
        twin: (sha256) => sounds.withContent(sha256),
        store: async (bytes) => {
          const id = await sounds.announce(listed!.name, listed!.facts);
          this.made.sounds.push(id);
          await sounds.receive(id, bytes);
          return id;
        },
      });
    }
    for (const asset of scene.assets) {
      const listed = this.manifest.assets.find(({ storedId }) => storedId === asset.storedId);
      const what = `${ASSET_KINDS[asset.kind].label} "${asset.name}"`;
      asset.storedId = await this.stored(asset.storedId, listed, what, {
        twin: (sha256) => assets.withContent(asset.kind, sha256),
        store: async (bytes) => {
          const id = await assets.receive(asset.kind, asset.name, bytes);
          this.made.assets.push(id);
          return id;
        },
      });
    }
  }

  /** The id under which something is stored here; its old one when it cannot be had. */
  private async stored(
    oldId: string,
    listed: ArchivedFile | undefined,
    what: string,
    {
      twin,
      store,
    }: {
      twin(sha256: string): Promise<string | undefined>;
      store(bytes: AsyncIterable<Uint8Array>): Promise<string>;
    },
  ): Promise<string> {
    const known = this.ids.get(oldId);
    if (known !== undefined) return known;
    let id = oldId;
    if (!listed) {
      if (!this.problems.some((one) => one.includes(what))) {
        this.problems.push(`The ${what} is not in the archive.`);
      }
    } else {
      const there = await twin(listed.sha256);
      if (there !== undefined) id = there;
      else if (!(await this.isWhole(listed))) {
        this.problems.push(`The ${what} is missing or damaged in the archive.`);
      } else {
        try {
          id = await store(this.bytesOf(listed));
        } catch (error) {
          if (!(error instanceof BumbrelError) || error.code === "archive-too-large") throw error;
          this.problems.push(`The ${what} cannot be used: ${error.message}`);
        }
      }
    }
    this.ids.set(oldId, id);
    return id;
  }

  private async *bytesOf({ path, bytes }: ArchivedFile): AsyncGenerator<Uint8Array> {
    const entry = this.zip.entries.get(path);
    if (!entry) return;
    let unpacked = 0;
    for await (const piece of this.zip.read(entry, Math.min(bytes, MOST_FILE_BYTES))) {
      unpacked += piece.length;
      this.budget.count(entry, piece.length, unpacked);
      yield piece;
    }
  }

  /** True if a file is there with just the bytes it should have. */
  private async isWhole(file: ArchivedFile): Promise<boolean> {
    if (file.bytes > MOST_FILE_BYTES || !this.zip.entries.has(file.path)) return false;
    const hash = createHash("sha256");
    let count = 0;
    try {
      for await (const piece of this.bytesOf(file)) {
        hash.update(piece);
        count += piece.length;
      }
    } catch (error) {
      if (error instanceof BumbrelError) throw error;
      return false;
    }
    return count === file.bytes && hash.digest("hex") === file.sha256;
  }

  private async whole(file: ArchivedFile, mostBytes: number): Promise<Buffer | undefined> {
    if (file.bytes > mostBytes || !(await this.isWhole(file))) return undefined;
    return buffer(this.bytesOf(file));
  }

  /** A project that is here already with just this scene. */
  private async twinOf(scene: Scene): Promise<string | undefined> {
    const { projects } = this.stores;
    if (!this.known) {
      this.known = [];
      for (const { id } of await projects.list()) {
        const project = await projects.get(id).catch(() => undefined);
        if (project) this.known.push({ id, key: keyOf(project.scene) });
      }
    }
    const key = keyOf(scene);
    return this.known.find((one) => one.key === key)?.id;
  }
}

/** The same text for scenes that are alike, whatever the order of their keys. */
function keyOf(scene: Scene): string {
  const sorted = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(sorted);
    if (typeof value !== "object" || value === null) return value;
    return Object.fromEntries(
      Object.entries(value)
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([key, one]) => [key, sorted(one)]),
    );
  };
  return createHash("sha256")
    .update(JSON.stringify(sorted(scene)))
    .digest("hex");
}
