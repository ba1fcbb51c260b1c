import { and, eq, isNull, lt, notInArray, or, sql } from "drizzle-orm";
import type { Database } from "../db/open";
import { assets, blobs, examples, films, projectStates, projects, sounds } from "../db/schema";
import { isUnused } from "./blobs";

export const DAY_MS = 24 * 3600 * 1000;
/** How long deleted projects can be brought back. */
export const BIN_DAYS = 30;
/** How long sounds and assets that no project uses are kept: an open editor may still undo their removal. */
const UNUSED_DAYS = 30;
/** How long films are kept that were made as jobs. */
const FILM_DAYS = 30;
/** How long an upload that was broken off may still be taken up. */
const UNFINISHED_DAYS = 1;

export interface CleanedUp {
  projects: number;
  sounds: number;
  assets: number;
  blobs: number;
}

/**
 * Removes what has been in the bin for long enough, then the sounds and assets that no project or example uses any more,
 * then their bytes, and gives the space back.
 *
 * @param nowMs  the present, ms since 1970
 */
export async function cleanUp(db: Database, nowMs = Date.now()): Promise<CleanedUp> {
  const before = (days: number) => new Date(nowMs - days * DAY_MS);
  const gone = await db
    .delete(projects)
    .where(lt(projects.deletedAt, before(BIN_DAYS)))
    .returning({ id: projects.id });
  const used = async (list: "sounds" | "assets") => {
    const ids = new Set<string>();
    for (const table of [projects, projectStates, examples]) {
      const rows = await db
        .selectDistinct({
          id: sql<string | null>`jsonb_array_elements(${table.scene}::jsonb -> ${list}) ->> 'storedId'`,
        })
        .from(table);
      for (const { id } of rows) if (id !== null) ids.add(id);
    }
    return [...ids];
  };
  const [usedSounds, usedAssets] = [await used("sounds"), await used("assets")];
  const goneSounds = await db
    .delete(sounds)
    .where(
      and(
        notInArray(sounds.id, usedSounds),
        or(
          lt(sounds.createdAt, before(UNUSED_DAYS)),
          and(isNull(sounds.blobId), lt(sounds.createdAt, before(UNFINISHED_DAYS))),
        ),
      ),
    )
    .returning({ id: sounds.id });
  const goneAssets = await db
    .delete(assets)
    .where(and(notInArray(assets.id, usedAssets), lt(assets.createdAt, before(UNUSED_DAYS))))
    .returning({ id: assets.id });
  await db.delete(films).where(lt(films.createdAt, before(FILM_DAYS)));
  const goneBlobs = await db
    .delete(blobs)
    .where(
      and(
        eq(blobs.complete, true),
        // Keep bytes that have just arrived: they are about to be used.
        lt(blobs.createdAt, before(UNFINISHED_DAYS)),
        isUnused,
      ),
    )
    .returning({ id: blobs.id });
  if (goneBlobs.length > 0) await db.execute(sql`vacuum`);
  return {
    projects: gone.length,
    sounds: goneSounds.length,
    assets: goneAssets.length,
    blobs: goneBlobs.length,
  };
}
