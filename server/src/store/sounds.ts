import { createHash, randomUUID } from "node:crypto";
import { SoundFormatError } from "@bumbrel/core/errors";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import { and, eq, sql } from "drizzle-orm";
import type { Database } from "../db/open";
import { blobChunks, blobs, sounds } from "../db/schema";

/** Bytes in a stored chunk: small enough to hold many at once, large enough to keep their number low. */
export const CHUNK_BYTES = 256 * 1024;

export interface StoredSound {
  id: string;
  name: string;
  facts: SoundFacts;
  byteLength: number;
}

/**
 * Sounds, whose bytes are kept in chunks and once for each content.
 *
 * Bytes cross to and from the database as Base64: the embedded one takes them ten times faster so than as
 * its own escaped text.
 */
export class SoundStore {
  private readonly db: Database;

  constructor(db: Database) {
    this.db = db;
  }

  /** Announces a sound; its bytes follow with {@link receive}. */
  async announce(name: string, facts: SoundFacts): Promise<string> {
    const id = randomUUID();
    await this.db.insert(sounds).values({ id, name, facts });
    return id;
  }

  /**
   * Stores a sound's bytes as they arrive, never holding more than a chunk of them.
   *
   * @throws SoundFormatError when they begin neither as a WAV file nor as a Standard MIDI File does
   */
  async receive(soundId: string, bytes: AsyncIterable<Uint8Array>): Promise<void> {
    const blobId = randomUUID();
    await this.db.insert(blobs).values({ id: blobId, byteLength: 0, complete: false });
    try {
      const { byteLength, sha256 } = await this.writeChunks(blobId, bytes);
      const keptId = (await this.twin(sha256)) ?? (await this.complete(blobId, byteLength, sha256));
      if (keptId !== blobId) await this.db.delete(blobs).where(eq(blobs.id, blobId));
      await this.db.update(sounds).set({ blobId: keptId }).where(eq(sounds.id, soundId));
    } catch (error) {
      await this.db.delete(blobs).where(eq(blobs.id, blobId));
      throw error;
    }
  }

  async get(id: string): Promise<(StoredSound & { blobId: string }) | undefined> {
    const [row] = await this.db
      .select({
        id: sounds.id,
        name: sounds.name,
        facts: sounds.facts,
        blobId: blobs.id,
        byteLength: blobs.byteLength,
      })
      .from(sounds)
      .innerJoin(blobs, eq(blobs.id, sounds.blobId))
      .where(eq(sounds.id, id));
    return row;
  }

  async exists(id: string): Promise<boolean> {
    const rows = await this.db.select({ id: sounds.id }).from(sounds).where(eq(sounds.id, id));
    return rows.length > 0;
  }

  /** A stored sound's bytes from `first` to `last`, both included, in pieces of at most a chunk. */
  async *bytes(blobId: string, first: number, last: number): AsyncGenerator<Uint8Array> {
    const lastChunk = Math.floor(last / CHUNK_BYTES);
    for (let index = Math.floor(first / CHUNK_BYTES); index <= lastChunk; index++) {
      const [row] = await this.db
        .select({ base64: sql<string>`encode(${blobChunks.bytes}, 'base64')` })
        .from(blobChunks)
        .where(and(eq(blobChunks.blobId, blobId), eq(blobChunks.index, index)));
      if (!row) throw new Error(`chunk ${index} of blob ${blobId} is missing`);
      const start = index * CHUNK_BYTES;
      const bytes = Buffer.from(row.base64, "base64");
      yield bytes.subarray(Math.max(0, first - start), Math.min(CHUNK_BYTES, last + 1 - start));
    }
  }

  /** Removes what an upload that never ended left behind. */
  async sweep(): Promise<void> {
    await this.db.delete(blobs).where(eq(blobs.complete, false));
  }

  private async twin(sha256: string): Promise<string | undefined> {
    const [row] = await this.db.select({ id: blobs.id }).from(blobs).where(eq(blobs.sha256, sha256));
    return row?.id;
  }

  /** Marks a blob as whole; gives the id of its twin instead if one was completed in the meantime. */
  private async complete(blobId: string, byteLength: number, sha256: string): Promise<string> {
    try {
      await this.db.update(blobs).set({ byteLength, sha256, complete: true }).where(eq(blobs.id, blobId));
      return blobId;
    } catch (error) {
      const twin = await this.twin(sha256);
      if (twin === undefined) throw error;
      return twin;
    }
  }

  private async writeChunks(blobId: string, bytes: AsyncIterable<Uint8Array>) {
    const hash = createHash("sha256");
    const chunk = new Uint8Array(CHUNK_BYTES);
    let filled = 0;
    let index = 0;
    let byteLength = 0;
    const flush = async () => {
      if (index === 0) assertSound(chunk.subarray(0, filled));
      const base64 = Buffer.from(chunk.buffer, 0, filled).toString("base64");
      await this.db.insert(blobChunks).values({ blobId, index, bytes: sql`decode(${base64}, 'base64')` });
      index++;
      filled = 0;
    };
    for await (const piece of bytes) {
      hash.update(piece);
      byteLength += piece.length;
      for (let at = 0; at < piece.length; ) {
        const part = piece.subarray(at, at + CHUNK_BYTES - filled);
        chunk.set(part, filled);
        filled += part.length;
        at += part.length;
        if (filled === CHUNK_BYTES) await flush();
      }
    }
    if (filled > 0 || index === 0) await flush();
    return { byteLength, sha256: hash.digest("hex") };
  }
}

/** Sounds are kept as WAV, notes as Standard MIDI Files. */
function assertSound(start: Uint8Array): void {
  const text = new TextDecoder("latin1").decode(start.subarray(0, 12));
  if ((text.startsWith("RIFF") && text.endsWith("WAVE")) || text.startsWith("MThd")) return;
  throw new SoundFormatError({
    code: "sound-not-wav",
    what: "the bytes are neither a WAV file nor a Standard MIDI File",
    where: "the upload",
    remedy: "Add the sound through the Sounds view, which brings other formats into this one",
  });
}
