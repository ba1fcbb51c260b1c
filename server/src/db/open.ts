import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { BumbrelError } from "@bumbrel/core/errors";
import { PGlite } from "@electric-sql/pglite";
import { type SQLWrapper, sql } from "drizzle-orm";
import { drizzle as drizzleNode } from "drizzle-orm/node-postgres";
import { migrate as migrateNode } from "drizzle-orm/node-postgres/migrator";
import { type PgDatabase, PgDialect, type PgQueryResultHKT } from "drizzle-orm/pg-core";
import { drizzle as drizzlePglite } from "drizzle-orm/pglite";
import { migrate as migratePglite } from "drizzle-orm/pglite/migrator";
import pg from "pg";
import { lock } from "proper-lockfile";
import { copiedRows } from "./copy";
import * as schema from "./schema";

/** A lock that has not been renewed for so long, and does not say whose it is, is free. */
const STALE_MS = 60_000;
const RENEW_MS = 5000;

export type Database = PgDatabase<PgQueryResultHKT, typeof schema> & {
  /** The bytes of a query's only column, one of each row, by the quickest way that the database has. */
  readBytes(query: SQLWrapper): Promise<Uint8Array[]>;
};

export interface OpenDatabase {
  db: Database;
  close(): Promise<void>;
}

export interface DatabaseSettings {
  /** A PostgreSQL server; without it the database lives in `dataDir`. */
  databaseUrl?: string;
  dataDir: string;
  migrationsDir: string;
}

/**
 * Opens the database and brings its tables up to date.
 *
 * @throws BumbrelError when another process uses the folder, or the server cannot be reached
 */
export async function openDatabase(settings: DatabaseSettings): Promise<OpenDatabase> {
  return settings.databaseUrl
    ? openServer(settings.databaseUrl, settings.migrationsDir)
    : openFolder(settings.dataDir, settings.migrationsDir);
}

async function openServer(url: string, migrationsFolder: string): Promise<OpenDatabase> {
  const pool = new pg.Pool({ connectionString: url });
  // A connection that breaks while nobody uses it is replaced at the next query, which reports any error itself.
  pool.on("error", () => {});
  const db = Object.assign(drizzleNode(pool, { schema }), {
    readBytes: async (query: SQLWrapper) => {
      const { rows } = await db.execute(query.getSQL());
      return rows.map((row) => Object.values(row)[0] as Buffer);
    },
  });
  try {
    await migrateNode(db, { migrationsFolder });
  } catch (error) {
    await pool.end();
    const cause = (error as Error & { cause?: Error }).cause ?? (error as Error);
    throw new BumbrelError({
      code: "database-unreachable",
      what: `the database cannot be opened (${cause.message || (cause as NodeJS.ErrnoException).code})`,
      where: "DATABASE_URL",
      remedy: "Check that the server runs and that the address, user and password are right",
    });
  }
  return { db, close: () => pool.end() };
}

async function openFolder(dataDir: string, migrationsFolder: string): Promise<OpenDatabase> {
  mkdirSync(dataDir, { recursive: true });
  const unlock = await lockFolder(dataDir);
  try {
    const folder = join(dataDir, "postgres");
    if (!existsSync(folder)) await createCluster(folder, migrationsFolder);
    const client = await PGlite.create(folder);
    const db = Object.assign(drizzlePglite(client, { schema }), {
      readBytes: (query: SQLWrapper) => copyOut(client, query),
    });
    await migratePglite(db, { migrationsFolder });
    return {
      db,
      async close() {
        await client.close();
        await unlock();
      },
    };
  } catch (error) {
    await unlock();
    throw error;
  }
}

/**
 * Bytes from the embedded database as they are: as the result of a plain query it would write each byte as two letters.
 */
async function copyOut(client: PGlite, query: SQLWrapper): Promise<Uint8Array[]> {
  // COPY takes no parameters.
  const statement = sql`copy (${query}) to '/dev/blob' with (format binary)`.inlineParams();
  const { blob } = await client.query(new PgDialect().sqlToQuery(statement).sql);
  return copiedRows(new Uint8Array(await blob!.arrayBuffer()));
}

/** Made aside and moved into place when whole, so that a start cut short leaves no half database behind. */
async function createCluster(folder: string, migrationsFolder: string): Promise<void> {
  const aside = `${folder}.new`;
  rmSync(aside, { recursive: true, force: true });
  const client = await PGlite.create(aside);
  await migratePglite(drizzlePglite(client, { schema }), { migrationsFolder });
  await client.close();
  renameSync(aside, folder);
}

/** The embedded database can be used by one process only: a second one would damage it. */
async function lockFolder(dataDir: string): Promise<() => Promise<void>> {
  const lockfilePath = join(dataDir, "in-use.lock");
  const holderFile = join(dataDir, "in-use-by");
  // A machine that stood still renews its lock late; its process still runs, so nobody takes the lock from it.
  const take = () =>
    lock(dataDir, { lockfilePath, stale: STALE_MS, update: RENEW_MS, onCompromised: () => {} });
  const release = await take().catch((error: NodeJS.ErrnoException) => {
    if (error.code !== "ELOCKED") throw error;
    const holder = existsSync(holderFile) ? Number(readFileSync(holderFile, "utf8")) : undefined;
    if (holder !== undefined && !isRunning(holder)) {
      rmSync(lockfilePath, { recursive: true, force: true });
      return take();
    }
    throw new BumbrelError({
      code: "data-in-use",
      what: `another Bumbrel${holder === undefined ? "" : ` (process ${holder})`} is using this data`,
      where: dataDir,
      remedy: "Use the one that runs, stop it, or choose another folder with --data",
    });
  });
  writeFileSync(holderFile, String(process.pid));
  return async () => {
    rmSync(holderFile, { force: true });
    await release().catch(() => undefined);
  };
}

function isRunning(pid: number): boolean {
  try {
    return pid > 0 && process.kill(pid, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}
