import { randomUUID } from "node:crypto";
import { SoundFormatError } from "@bumbrel/core/errors";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import { and, eq, isNull, or } from "drizzle-orm";
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
   * Stores a sound's bytes as they arrive. They are never replaced: whatever was computed from them stays right.
   *
   * @returns whether they were taken: `false` when it has others already
   * @throws SoundFormatError when they begin neither as a WAV file, a Standard MIDI File nor a table does
   */
  async receive(soundId: string, bytes: AsyncIterable<Uint8Array>): Promise<boolean> {
    const blobId = await this.blobs.receive(bytes, assertSound);
    const rows = await this.db
      .update(sounds)
      .set({ blobId })
      .where(and(eq(sounds.id, soundId), or(isNull(sounds.blobId), eq(sounds.blobId, blobId))))
      .returning({ id: sounds.id });
    return rows.length > 0;
  }

  /** Removes one that nothing refers to, with its bytes where nobody else has them. */
  async remove(id: string): Promise<void> {
    const [gone] = await this.db.delete(sounds).where(eq(sounds.id, id)).returning({ blobId: sounds.blobId });
    if (gone?.blobId) await this.blobs.removeUnused(gone.blobId);
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

  /** A stored sound with just these bytes, if there is one. */
  async withContent(sha256: string): Promise<string | undefined> {
    const [row] = await this.db
      .select({ id: sounds.id })
      .from(sounds)
      .innerJoin(blobs, eq(blobs.id, sounds.blobId))
      .where(eq(blobs.sha256, sha256));
    return row?.id;
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

/** Bytes of a Standard MIDI File's header chunk. */
const MIDI_HEADER_BYTES = 14;

/** True if a RIFF/WAVE file says how its samples are written: a header alone is no sound. */
function hasSamples(start: Uint8Array): boolean {
  const view = new DataView(start.buffer, start.byteOffset, start.byteLength);
  for (let at = 12; at + 8 <= start.length; ) {
    const id = String.fromCharCode(...start.subarray(at, at + 4));
    const length = view.getUint32(at + 4, true);
    if (id === "fmt ") return length >= 16;
    at += 8 + length + (length % 2);
  }
  return false;
}

/** Sounds are kept as WAV or as they were encoded, notes as Standard MIDI Files, tables as CSV. */
function assertSound(start: Uint8Array): void {
  const text = new TextDecoder("latin1").decode(start.subarray(0, 12));
  if (text.startsWith("RIFF") && text.endsWith("WAVE") && hasSamples(start)) return;
  if (text.startsWith("MThd") && start.length >= MIDI_HEADER_BYTES) return;
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
