import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync } from "node:fs";
import { dirname, join } from "node:path";
import { BumbrelError } from "@bumbrel/core/errors";
import type { PGlite } from "@electric-sql/pglite";
import { type SQLWrapper, sql } from "drizzle-orm";
import { drizzle as drizzleNode } from "drizzle-orm/node-postgres";
import { migrate as migrateNode } from "drizzle-orm/node-postgres/migrator";
import { type PgDatabase, PgDialect, type PgQueryResultHKT } from "drizzle-orm/pg-core";
import { drizzle as drizzlePglite } from "drizzle-orm/pglite";
import { migrate as migratePglite } from "drizzle-orm/pglite/migrator";
import pg from "pg";
import { copyFolder, FolderCopies } from "./copies";
import { copiedRows } from "./copy";
import { freeBytesAt } from "./disk";
import { openDurable, syncFolder, syncPath } from "./durable";
import { lockFolder } from "./folderLock";
import { Listeners } from "./listeners";
import * as schema from "./schema";

export type Database = PgDatabase<PgQueryResultHKT, typeof schema> & {
  /** The bytes of a query's only column, one of each row, by the quickest way that the database has. */
  readBytes(query: SQLWrapper): Promise<Uint8Array[]>;
  /**
   * Calls back at each notification of a channel, whichever process it comes from, and with `undefined` when some may
   * have been missed.
   */
  listen(channel: string, onNotice: (payload: string | undefined) => void): Promise<void>;
  /** Carries out SQL as it is written: several statements where there are no values. */
  executeSql(text: string, values?: unknown[]): Promise<{ rows: unknown[] }>;
};

export interface OpenDatabase {
  db: Database;
  /** Why nothing can be changed, if so. */
  readOnly?: string;
  /** Takes a copy of an embedded database that has none yet, while it is open. */
  takeFirstCopy(): Promise<void>;
  close(): Promise<void>;
}

export interface DatabaseSettings {
  /** A PostgreSQL server; without it the database lives in `dataDir`. */
  databaseUrl?: string;
  dataDir: string;
  migrationsDir: string;
  /** A data folder that a new one starts as a copy of, where there is one: making it takes far longer. */
  preparedDir?: string;
  /** Called when another process has taken the data, for instance while this machine stood still: write no more. */
  onLost?(error: Error): void;
}

/**
 * Opens the database and brings its tables up to date.
 *
 * @throws BumbrelError when another process uses the folder, or the server cannot be reached
 */
export async function openDatabase(settings: DatabaseSettings): Promise<OpenDatabase> {
  return settings.databaseUrl
    ? openServer(settings.databaseUrl, settings.migrationsDir)
    : openFolder(settings);
}

async function openServer(url: string, migrationsFolder: string): Promise<OpenDatabase> {
  const pool = new pg.Pool({ connectionString: url });
  // A connection that breaks while nobody uses it is replaced at the next query, which reports any error itself.
  pool.on("error", () => {});
  const listeners = new Listeners(url);
  const db = Object.assign(drizzleNode(pool, { schema }), {
    listen: listeners.listen,
    executeSql: async (text: string, values?: unknown[]) => {
      const result = await pool.query(text, values);
      // Several statements give several results.
      return Array.isArray(result) ? (result.at(-1) as { rows: unknown[] }) : result;
    },
    readBytes: async (query: SQLWrapper) => {
      const { rows } = await db.execute(query.getSQL());
      return rows.map((row) => Object.values(row)[0] as Buffer);
    },
  });
  try {
    await migrateAlone(pool, migrationsFolder);
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
  return {
    db,
    // Copies are the business of that server.
    async takeFirstCopy() {},
    async close() {
      await listeners.close();
      await pool.end();
    },
  };
}

/** Names the lock under which tables are brought up to date; any number that no other program here uses. */
const MIGRATION_LOCK = 7_240_117;

/** Brings the tables up to date while no other process does, which may have been started at the same moment. */
async function migrateAlone(pool: pg.Pool, migrationsFolder: string): Promise<void> {
  const client = await pool.connect();
  try {
    await client.query("select pg_advisory_lock($1)", [MIGRATION_LOCK]);
    await migrateNode(drizzleNode(client, { schema }), { migrationsFolder });
    await client.query("select pg_advisory_unlock($1)", [MIGRATION_LOCK]);
  } finally {
    // The connection is not used again: a lock that was left on it goes with it.
    client.release(true);
  }
}

async function openFolder({
  dataDir,
  migrationsDir: migrationsFolder,
  preparedDir,
  onLost = () => {},
}: DatabaseSettings): Promise<OpenDatabase> {
  try {
    mkdirSync(dataDir, { recursive: true });
  } catch (error) {
    throw new BumbrelError({
      code: "data-no-folder",
      what: `this cannot be used as a folder (${(error as NodeJS.ErrnoException).code})`,
      where: dataDir,
      remedy: "Choose a folder that may be written with --data",
    });
  }
  // The embedded database can be used by one process only: a second one would damage it.
  const { release } = await lockFolder(dataDir, onLost);
  try {
    const folder = join(dataDir, CLUSTER);
    if (!existsSync(folder)) await createCluster(folder, migrationsFolder, preparedDir);
    const { client, readOnly } = await openEmbedded(folder, migrationsFolder);
    const db = Object.assign(drizzlePglite(client, { schema }), {
      readBytes: (query: SQLWrapper) => copyOut(client, query),
      executeSql: async (text: string, values?: unknown[]) =>
        values && values.length > 0
          ? client.query(text, values)
          : ((await client.exec(text)).at(-1) ?? { rows: [] }),
      listen: async (channel: string, onNotice: (payload: string) => void) => {
        await client.listen(channel, onNotice);
      },
    });
    return {
      db,
      readOnly,
      async takeFirstCopy() {
        const copies = new FolderCopies(folder);
        if (readOnly !== undefined || copies.list().length > 0 || !copies.hasRoom()) return;
        await client.exec("checkpoint");
        // Nothing is written meanwhile; whatever wants to waits for the fraction of a second that it takes.
        await client.runExclusive(() => copies.takeAside());
      },
      async close() {
        await client.close();
        await release();
      },
    };
  } catch (error) {
    await release();
    throw error;
  }
}

/** Folder of the embedded database inside the data folder. */
const CLUSTER = "postgres";

interface Embedded {
  client: PGlite;
  /** Why nothing can be changed, when the database itself does not open and a copy is shown instead. */
  readOnly?: string;
}

async function openEmbedded(folder: string, migrationsFolder: string): Promise<Embedded> {
  const copies = new FolderCopies(folder);
  if (copies.isDue() && copies.hasRoom()) copies.take();
  let client: PGlite;
  try {
    client = await openDurable(folder);
  } catch (error) {
    return openCopy(folder, copies, migrationsFolder, error as Error);
  }
  const pending = await pendingMigrations(client, migrationsFolder);
  if (pending > 0) {
    await client.close();
    if (!copies.hasRoom()) {
      throw new BumbrelError({
        code: "data-no-room",
        what: "there is no room on its disk for the copy that is taken before it is brought up to date",
        where: folder,
        remedy: "Free as much space as twice its size, and start again",
      });
    }
    copies.take();
    client = await openDurable(folder);
  }
  await migratePglite(drizzlePglite(client, { schema }), { migrationsFolder });
  return { client };
}

/** How many migrations a database has not had yet. */
async function pendingMigrations(client: PGlite, migrationsFolder: string): Promise<number> {
  const journal = JSON.parse(readFileSync(join(migrationsFolder, "meta/_journal.json"), "utf8"));
  const { rows } = await client.query<{ is: string | null }>(
    "select to_regclass('drizzle.__drizzle_migrations') as is",
  );
  if (rows[0].is === null) return journal.entries.length;
  const done = await client.query<{ count: number }>(
    "select count(*)::int as count from drizzle.__drizzle_migrations",
  );
  return journal.entries.length - done.rows[0].count;
}

/** Free bytes below which a database may not open for lack of space alone. */
const OPENING_BYTES = 64 * 2 ** 20;

/**
 * Shows the newest copy of a database that does not open, for reading only: what is damaged is left as it is.
 *
 * @throws BumbrelError when there is no copy, or it does not open either
 */
async function openCopy(
  folder: string,
  copies: FolderCopies,
  migrationsFolder: string,
  error: Error,
): Promise<Embedded> {
  const damaged = (remedy: string) =>
    new BumbrelError({
      code: "data-damaged",
      what: `the database does not open (${error.message || error.name})`,
      where: folder,
      remedy,
    });
  if (freeBytesAt(folder) < OPENING_BYTES) {
    throw damaged("Its disk is full: free some space and start again. Nothing that was saved is lost");
  }
  const [newest] = copies.list();
  if (!newest) {
    throw damaged(
      "Nothing of it was changed. Put a copy of this folder back that was taken before, or move it away to start with an empty one",
    );
  }
  const shown = `${folder}.shown`;
  rmSync(shown, { recursive: true, force: true });
  try {
    copyFolder(newest.path, shown);
    const client = await openDurable(shown);
    await migratePglite(drizzlePglite(client, { schema }), { migrationsFolder });
    await client.exec("set default_transaction_read_only = on");
    const day = newest.takenAt.toISOString().slice(0, 10);
    return {
      client,
      readOnly: `The database does not open. This is its copy of ${day}, to be looked at only: nothing can be saved. To go on with that copy, stop Bumbrel and run \`npx bumbrel restore\`; what does not open is kept.`,
    };
  } catch {
    throw damaged(
      `Nothing of it was changed, and its copy of ${newest.takenAt.toISOString()} does not open either. Put back a copy of your own`,
    );
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

/** Space for a new database, the examples and the free reserve: with less, starting would stop half-way. */
const NEW_BYTES = 256 * 2 ** 20;

/** Made aside and moved into place when whole, so that a start cut short leaves no half database behind. */
async function createCluster(
  folder: string,
  migrationsFolder: string,
  preparedDir: string | undefined,
): Promise<void> {
  const dataDir = dirname(folder);
  const freeBytes = freeBytesAt(dataDir);
  if (freeBytes < NEW_BYTES) {
    throw new BumbrelError({
      code: "data-no-room",
      what: `its disk has ${Math.floor(freeBytes / 2 ** 20)} MB left, and a new database with its examples takes ${NEW_BYTES / 2 ** 20} MB`,
      where: dataDir,
      remedy: "Free some space, or choose another folder with --data",
    });
  }
  if (preparedDir && existsSync(preparedDir)) {
    for (const name of readdirSync(preparedDir)) {
      if (name !== CLUSTER) cpSync(join(preparedDir, name), join(dataDir, name), { recursive: true });
    }
    copyFolder(join(preparedDir, CLUSTER), folder);
    return;
  }
  const aside = `${folder}.new`;
  rmSync(aside, { recursive: true, force: true });
  const client = await openDurable(aside);
  await migratePglite(drizzlePglite(client, { schema }), { migrationsFolder });
  await client.close();
  // Sync the files: they were not written by transactions, which wait for the disk.
  syncFolder(aside);
  renameSync(aside, folder);
  syncPath(dataDir);
}
