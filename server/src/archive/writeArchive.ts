import { createHash } from "node:crypto";
import { buffer } from "node:stream/consumers";
import { ASSET_KINDS, type Scene } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import { plainFileName } from "@bumbrel/core/format/bytes/fileName";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import { isStored } from "@bumbrel/core/sound/kinds";
import { CONTENTS_PATH, contentsPage, MANIFEST_PATH, newManifest } from "./manifest";
import type { Stores } from "./stores";
import { onePiece, type ZipSource, zipped } from "./zipped";

/** A ZIP file without ZIP64 is no larger; some room is left for its directory. */
const MOST_BYTES = 2 ** 32 - 2 ** 24;

/**
 * Writes an archive of projects: their documents, sounds as they came, images, models and takes, with checksums.
 *
 * @param ids  of the projects, in the order they are listed
 * @returns the bytes of a ZIP file, piece by piece
 * @throws BumbrelError when one of them is not there, or all of them are larger than a ZIP file may be
 */
export async function* writeArchive(
  ids: readonly string[],
  { projects, sounds, assets }: Stores,
  madeAt = new Date(),
): AsyncGenerator<Uint8Array> {
  const manifest = newManifest(madeAt);
  const names = new Names();
  const texts: ZipSource[] = [];
  const files: Extract<ZipSource, { size: number }>[] = [];
  const isDone = new Set<string>();

  const addText = (path: string, text: string) => {
    texts.push({ path, text });
    return { path, bytes: Buffer.byteLength(text), sha256: sha256(text) };
  };
  for (const id of ids) {
    const project = await projects.get(id);
    if (!project) {
      throw new BumbrelError({
        code: "project-unknown",
        what: "there is no such project",
        where: id,
        remedy: "Look at the list of projects for the ones that are there",
      });
    }
    const { scene } = project;
    const folder = names.folder(scene.name);
    const listed = addText(`${folder}/scene.json`, `${JSON.stringify(scene, null, 1)}\n`);
    for (const { name, kind, code } of scene.programs) {
      const extension = kind === "surface" || kind === "pass" ? "glsl" : "ts";
      addText(names.file(`${folder}/programs`, name, extension), code);
    }
    const thumbnail = await projects.thumbnail(id);
    let shown = null;
    if (thumbnail) {
      shown = { path: `${folder}/thumbnail.jpg`, bytes: thumbnail.length, sha256: sha256(thumbnail) };
      files.push({ path: shown.path, size: thumbnail.length, bytes: () => onePiece(thumbnail) });
    }
    manifest.projects.push({ name: scene.name, scene: listed, thumbnail: shown });
    for (const { storedId, name } of scene.sounds.filter(isStored)) {
      if (isDone.has(storedId)) continue;
      isDone.add(storedId);
      const found = await sounds.get(storedId);
      if (!found?.sha256) {
        manifest.missing.push(`The sound "${name}" of "${scene.name}" was not stored.`);
        continue;
      }
      const { blobId, byteLength: bytes, facts, sha256: sum } = found;
      const start = await buffer(sounds.bytes(blobId, 0, Math.min(63, bytes - 1)));
      const path = names.file("sounds", found.name, extensionOf(start));
      manifest.sounds.push({ path, bytes, sha256: sum, storedId, name: found.name, facts });
      files.push({ path, size: bytes, bytes: () => sounds.bytes(blobId, 0, bytes - 1) });
    }
    for (const { storedId, name, kind } of scene.assets) {
      if (isDone.has(storedId)) continue;
      isDone.add(storedId);
      const found = await assets.get(storedId);
      if (!found?.sha256) {
        manifest.missing.push(`The ${ASSET_KINDS[kind].label} "${name}" of "${scene.name}" was not stored.`);
        continue;
      }
      const { blobId, byteLength: bytes, sha256: sum } = found;
      const start = await buffer(assets.bytes(blobId, 0, Math.min(63, bytes - 1)));
      const path = names.file(kind === "take" ? "takes" : "assets", found.name, assetExtension(kind, start));
      manifest.assets.push({ path, bytes, sha256: sum, storedId, name: found.name, kind });
      files.push({ path, size: bytes, bytes: () => assets.bytes(blobId, 0, bytes - 1) });
    }
  }
  assertSize([...manifest.sounds, ...manifest.assets].reduce((sum, { bytes }) => sum + bytes, 0));
  yield* zipped(
    [
      { path: MANIFEST_PATH, text: `${JSON.stringify(manifest, null, 1)}\n` },
      { path: CONTENTS_PATH, text: contentsPage(manifest) },
      ...texts,
      // The small ones first: of an archive that is cut short, most is whole.
      ...files.sort((a, b) => a.size - b.size),
    ],
    madeAt,
  );
}

function assertSize(bytes: number): void {
  if (bytes <= MOST_BYTES) return;
  throw new BumbrelError({
    code: "archive-too-large",
    what: `its sounds, images and models take ${(bytes / 1e9).toFixed(1)} GB, and an archive holds 4 GB`,
    where: "the archive",
    remedy: "Archive fewer projects at a time, or keep long sounds as FLAC",
  });
}

const sha256 = (content: string | Uint8Array) => createHash("sha256").update(content).digest("hex");

function extensionOf(start: Uint8Array): string {
  const text = Buffer.from(start.subarray(0, 4)).toString("latin1");
  if (text === "RIFF") return "wav";
  if (text === "MThd") return "mid";
  return encodedFormatOf(start) ?? "csv";
}

function assetExtension(kind: Scene["assets"][number]["kind"], start: Uint8Array): string {
  const text = Buffer.from(start.subarray(0, 4)).toString("latin1");
  switch (kind) {
    case "take":
      return "json";
    case "model":
      return "glb";
    case "lut":
      return "cube";
    case "panorama":
      return text.startsWith("#?") ? "hdr" : text.startsWith("\xabKTX") ? "ktx2" : "exr";
    case "picture":
      return text.startsWith("\x89PNG") ? "png" : text.startsWith("RIFF") ? "webp" : "jpg";
  }
}

/** File names that every system takes, none of them twice. */
class Names {
  private readonly used = new Set<string>();

  folder(name: string): string {
    return this.free(`projects/${plainFileName(name, "unnamed")}`, "");
  }

  file(folder: string, name: string, extension: string): string {
    const stem = plainFileName(name.replace(/\.[A-Za-z0-9]{1,5}$/, ""), "unnamed");
    return this.free(`${folder}/${stem}`, `.${extension}`);
  }

  private free(stem: string, end: string): string {
    let name = `${stem}${end}`;
    for (let n = 2; this.used.has(name.toLowerCase()); n++) name = `${stem}-${n}${end}`;
    this.used.add(name.toLowerCase());
    return name;
  }
}
