import { randomUUID } from "node:crypto";
import { readTake } from "@bumbrel/core/check/readTake";
import { ASSET_KINDS, type Asset } from "@bumbrel/core/document/scene";
import { AssetFormatError } from "@bumbrel/core/errors";
import { MAX_ASSET_BYTES } from "@bumbrel/core/format/image";
import { and, eq } from "drizzle-orm";
import type { Database } from "../db/open";
import { assets, blobs } from "../db/schema";
import type { BlobStore } from "./blobs";

/** Images and models: what is known of each, and where its bytes are. */
export class AssetStore {
  private readonly db: Database;
  private readonly blobs: BlobStore;

  constructor(db: Database, blobs: BlobStore) {
    this.db = db;
    this.blobs = blobs;
  }

  /**
   * Stores an image or model as it arrives.
   *
   * @throws AssetFormatError when it does not begin as one, or is too large
   */
  async receive(kind: Asset["kind"], name: string, bytes: AsyncIterable<Uint8Array>): Promise<string> {
    const fail = (code: string, what: string, remedy: string) =>
      new AssetFormatError({ code, what, where: name, remedy });
    let blobId: string;
    const arriving = kind === "take" ? wholeTake(bytes, name) : bytes;
    try {
      blobId = await this.blobs.receive(
        arriving,
        (start) => {
          if (isKind(start, kind)) return;
          throw fail(
            `not-a-${kind}`,
            `this is no ${ASSET_KINDS[kind].format}`,
            "Add it through the Stage view, which brings other formats into these",
          );
        },
        MAX_ASSET_BYTES,
      );
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      throw fail(
        "asset-too-large",
        `this is larger than ${MAX_ASSET_BYTES / 2 ** 20} MB`,
        "Make it smaller and add that file",
      );
    }
    const id = randomUUID();
    await this.db.insert(assets).values({ id, name, kind, blobId });
    return id;
  }

  /** Removes one that nothing refers to, with its bytes where nobody else has them. */
  async remove(id: string): Promise<void> {
    const [gone] = await this.db.delete(assets).where(eq(assets.id, id)).returning({ blobId: assets.blobId });
    if (gone?.blobId) await this.blobs.removeUnused(gone.blobId);
  }

  async get(
    id: string,
  ): Promise<
    | { kind: Asset["kind"]; name: string; byteLength: number; blobId: string; sha256: string | null }
    | undefined
  > {
    const [row] = await this.db
      .select({
        kind: assets.kind,
        name: assets.name,
        blobId: blobs.id,
        byteLength: blobs.byteLength,
        sha256: blobs.sha256,
      })
      .from(assets)
      .innerJoin(blobs, eq(blobs.id, assets.blobId))
      .where(eq(assets.id, id));
    return row;
  }

  /** A stored asset of a kind with just these bytes, if there is one. */
  async withContent(kind: Asset["kind"], sha256: string): Promise<string | undefined> {
    const [row] = await this.db
      .select({ id: assets.id })
      .from(assets)
      .innerJoin(blobs, eq(blobs.id, assets.blobId))
      .where(and(eq(assets.kind, kind), eq(blobs.sha256, sha256)));
    return row?.id;
  }

  bytes(blobId: string, first: number, last: number): AsyncGenerator<Uint8Array> {
    return this.blobs.bytes(blobId, first, last);
  }
}

/** Takes are small, and read whole before they are kept: what is damaged is told of at once. */
async function* wholeTake(bytes: AsyncIterable<Uint8Array>, name: string): AsyncGenerator<Uint8Array> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of bytes) {
    size += piece.length;
    if (size > MAX_TAKE_BYTES) throw new RangeError("the take is too large");
    pieces.push(piece);
  }
  const whole = Buffer.concat(pieces);
  readTake(whole.toString("utf8"), name);
  yield whole;
}
const MAX_TAKE_BYTES = 20 * 2 ** 20;

/** True if a file begins as one of its kind; its name is not asked. */
function isKind(start: Uint8Array, kind: Asset["kind"]): boolean {
  const text = Buffer.from(start.subarray(0, 12)).toString("latin1");
  switch (kind) {
    case "model":
      return text.startsWith("glTF");
    case "picture":
      return (
        text.startsWith("\x89PNG\r\n") ||
        text.startsWith("\xff\xd8\xff") ||
        (text.startsWith("RIFF") && text.endsWith("WEBP"))
      );
    case "panorama":
      return (
        text.startsWith("#?") || text.startsWith("\x76\x2f\x31\x01") || text.startsWith("\xabKTX 20\xbb")
      );
    case "take":
      return /^\s*\{/.test(text);
    case "lut":
      // A LUT is plain text: comments, keywords and numbers.
      return /^(\ufeff|\xef\xbb\xbf)?[\x20-\x7e\s]+$/.test(text);
  }
}
