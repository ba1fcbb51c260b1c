import { randomUUID } from "node:crypto";
import { SoundFormatError } from "@bumbrel/core/errors";
import { encodedFormatOf } from "@bumbrel/core/format/encoded";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import { eq } from "drizzle-orm";
import type { Database } from "../db/open";
import { blobs, sounds } from "../db/schema";
import type { BlobStore } from "./blobs";

export interface StoredSound {
  id: string;
  name: string;
  facts: SoundFacts;
  byteLength: number;
}

/** Sounds: what is known of each, and where its bytes are. */
export class SoundStore {
  private readonly db: Database;
  private readonly blobs: BlobStore;

  constructor(db: Database, blobs: BlobStore) {
    this.db = db;
    this.blobs = blobs;
  }

  /** Announces a sound; its bytes follow with {@link receive}. */
  async announce(name: string, facts: SoundFacts): Promise<string> {
    const id = randomUUID();
    await this.db.insert(sounds).values({ id, name, facts });
    return id;
  }

  /**
   * Stores a sound's bytes as they arrive.
   *
   * @throws SoundFormatError when they begin neither as a WAV file, a Standard MIDI File nor a table does
   */
  async receive(soundId: string, bytes: AsyncIterable<Uint8Array>): Promise<void> {
    const blobId = await this.blobs.receive(bytes, assertSound);
    await this.db.update(sounds).set({ blobId }).where(eq(sounds.id, soundId));
  }

  async get(id: string): Promise<(StoredSound & { blobId: string; sha256: string | null }) | undefined> {
    const [row] = await this.db
      .select({
        id: sounds.id,
        name: sounds.name,
        facts: sounds.facts,
        blobId: blobs.id,
        byteLength: blobs.byteLength,
        sha256: blobs.sha256,
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

  /** A stored sound's bytes from `first` to `last`, both included. */
  bytes(blobId: string, first: number, last: number): AsyncGenerator<Uint8Array> {
    return this.blobs.bytes(blobId, first, last);
  }
}

/** Sounds are kept as WAV or as they were encoded, notes as Standard MIDI Files, tables as CSV. */
function assertSound(start: Uint8Array): void {
  const text = new TextDecoder("latin1").decode(start.subarray(0, 12));
  if ((text.startsWith("RIFF") && text.endsWith("WAVE")) || text.startsWith("MThd")) return;
  if (encodedFormatOf(start)) return;
  // A table's first line names its columns, time_s among them.
  const [heads] = new TextDecoder().decode(start.subarray(0, 4096)).split(/[\r\n]/);
  if (
    heads
      .replaceAll('"', "")
      .split(",")
      .some((head) => head.trim().replace(/^\uFEFF/, "") === "time_s")
  )
    return;
  throw new SoundFormatError({
    code: "sound-not-wav",
    what: "the bytes are no WAV, MP3, OGG, FLAC or M4A sound, no Standard MIDI File and no table with a time_s column",
    where: "the upload",
    remedy: "Add the sound through the Sounds view, which brings other formats into this one",
  });
}
