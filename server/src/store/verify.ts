import { createHash } from "node:crypto";
import { parseScene } from "@bumbrel/core/check/readScene";
import { isStored } from "@bumbrel/core/sound/kinds";
import { and, asc, eq, gt } from "drizzle-orm";
import type { Database } from "../db/open";
import { assets, blobs, examples, projects, sounds } from "../db/schema";
import type { BlobStore } from "./blobs";

/** A sentence about something stored that is damaged or missing. */
export type Flaw = string;

type Blob = typeof blobs.$inferSelect;

/** Compares stored bytes with what was noted of them when they came. */
export class Verifier {
  private readonly db: Database;
  private readonly store: BlobStore;

  constructor(db: Database, store: BlobStore) {
    this.db = db;
    this.store = store;
  }

  /**
   * Looks at the next stored bytes in the order of their ids.
   *
   * @param afterId  those that were looked at before; an empty text begins
   * @returns `undefined` at the end
   */
  async next(afterId: string): Promise<{ id: string; byteLength: number; flaw?: Flaw } | undefined> {
    const [blob] = await this.db
      .select()
      .from(blobs)
      .where(and(gt(blobs.id, afterId), eq(blobs.complete, true)))
      .orderBy(asc(blobs.id))
      .limit(1);
    return blob && { id: blob.id, byteLength: blob.byteLength, flaw: await this.flawOf(blob) };
  }

  /**
   * Looks at everything: all stored bytes, whether each scene can be read, and whether what it refers to is there.
   */
  async all(): Promise<{ flaws: Flaw[]; bytes: number; scenes: number }> {
    const flaws: Flaw[] = [];
    let bytes = 0;
    for (let one = await this.next(""); one; one = await this.next(one.id)) {
      if (one.flaw) flaws.push(one.flaw);
      bytes += one.byteLength;
    }
    const idsOf = async (table: typeof sounds | typeof assets) => {
      const rows = await this.db.select({ id: table.id, blobId: table.blobId }).from(table);
      return new Set(rows.filter(({ blobId }) => blobId !== null).map(({ id }) => id));
    };
    const [soundIds, assetIds] = [await idsOf(sounds), await idsOf(assets)];
    let scenes = 0;
    for (const table of [projects, examples]) {
      for (const { id } of await this.db.select({ id: table.id }).from(table)) {
        const [row] = await this.db.select({ scene: table.scene }).from(table).where(eq(table.id, id));
        scenes++;
        try {
          const scene = parseScene(row.scene);
          for (const sound of scene.sounds.filter(isStored)) {
            if (!soundIds.has(sound.storedId))
              flaws.push(`The sound "${sound.name}" of the project "${scene.name}" is not stored.`);
          }
          for (const { name, storedId } of scene.assets) {
            if (!assetIds.has(storedId))
              flaws.push(`"${name}" of the project "${scene.name}" is not stored.`);
          }
        } catch (error) {
          flaws.push(`The scene ${id} cannot be read: ${(error as Error).message}`);
        }
      }
    }
    return { flaws, bytes, scenes };
  }

  private async flawOf({ id, byteLength, sha256 }: Blob): Promise<Flaw | undefined> {
    const hash = createHash("sha256");
    let length = 0;
    try {
      for await (const piece of this.store.bytes(id, 0, byteLength - 1)) {
        hash.update(piece);
        length += piece.length;
      }
    } catch {
      return `${await this.whose(id)} cannot be read whole.`;
    }
    if (length === byteLength && hash.digest("hex") === sha256) return undefined;
    return `${await this.whose(id)} is not what was stored: its bytes have changed since.`;
  }

  private async whose(blobId: string): Promise<string> {
    for (const table of [sounds, assets]) {
      const [row] = await this.db.select({ name: table.name }).from(table).where(eq(table.blobId, blobId));
      if (row) return `"${row.name}" (${blobId})`;
    }
    return `What is stored as ${blobId}`;
  }
}

/** Quiet time after a request before stored bytes are looked at, and between them, ms. */
const IDLE_MS = 30_000;
/** From the end of one round to the beginning of the next, ms: a day. */
const ROUND_MS = 24 * 3600 * 1000;

/** Looks at stored bytes one after another while nobody asks for anything, for as long as the server runs. */
export class IdleVerifier {
  /** Findings so far. */
  readonly flaws = new Map<string, Flaw>();
  private readonly verifier: Verifier;
  private readonly timer: NodeJS.Timeout;
  private lastId = "";
  private askedMs = 0;
  /** When everything is looked at once more. */
  private roundMs = 0;
  private looking: Promise<void> = Promise.resolve();

  constructor(verifier: Verifier, onError: (error: unknown) => void, idleMs = IDLE_MS) {
    this.verifier = verifier;
    let isLooking = false;
    this.timer = setInterval(() => {
      const now = Date.now();
      if (isLooking || now < this.roundMs || now - this.askedMs < idleMs) return;
      isLooking = true;
      this.looking = this.look()
        .catch(onError)
        .finally(() => {
          isLooking = false;
        });
    }, idleMs);
    this.timer.unref();
  }

  /** Somebody asks for something. */
  readonly asked = (): void => {
    this.askedMs = Date.now();
  };

  async stop(): Promise<void> {
    clearInterval(this.timer);
    await this.looking;
  }

  private async look(): Promise<void> {
    const one = await this.verifier.next(this.lastId);
    this.lastId = one?.id ?? "";
    if (!one) {
      this.roundMs = Date.now() + ROUND_MS;
      return;
    }
    if (one.flaw) this.flaws.set(one.id, one.flaw);
    else this.flaws.delete(one.id);
  }
}
