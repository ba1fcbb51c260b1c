import { eq, inArray, sql } from "drizzle-orm";
import type { Database } from "../db/open";
import { analyses } from "../db/schema";

/** Results larger than this are computed again instead: an hour of one number, or five minutes of 128 bands. */
export const MOST_ANALYSIS_BYTES = 16 * 1024 * 1024;
/** Limit of all kept results, bytes; the least recently used are evicted first. */
export const KEPT_BYTES = 512 * 1024 * 1024;

/** Results of measures over whole sounds, by what they were computed from. They can always be computed again. */
export class AnalysisStore {
  private readonly db: Database;
  private readonly keptBytes: number;

  constructor(db: Database, keptBytes = KEPT_BYTES) {
    this.db = db;
    this.keptBytes = keptBytes;
  }

  /** A kept result, which counts as used now. */
  async get(key: string): Promise<Uint8Array | undefined> {
    const [bytes] = await this.db.readBytes(
      this.db.select({ bytes: analyses.bytes }).from(analyses).where(eq(analyses.key, key)),
    );
    if (bytes) {
      const used = this.db.update(analyses).set({ usedAt: sql`now()` }).where(eq(analyses.key, key));
      // A result is still of use if it cannot be written.
      await used.catch(() => undefined);
    }
    return bytes;
  }

  /** Keeps a result; the same one again changes nothing. */
  async put(key: string, bytes: Uint8Array): Promise<void> {
    const base64 = Buffer.from(bytes).toString("base64");
    await this.db
      .insert(analyses)
      .values({ key, byteLength: bytes.length, bytes: sql`decode(${base64}, 'base64')` })
      .onConflictDoNothing();
    await this.dropUnused();
  }

  private async dropUnused(): Promise<void> {
    const rows = await this.db
      .select({ key: analyses.key, byteLength: analyses.byteLength })
      .from(analyses)
      .orderBy(sql`${analyses.usedAt} desc`);
    let used = 0;
    const over = rows.filter(({ byteLength }) => {
      used += byteLength;
      return used > this.keptBytes;
    });
    if (over.length > 0) {
      await this.db.delete(analyses).where(
        inArray(
          analyses.key,
          over.map(({ key }) => key),
        ),
      );
    }
  }
}
