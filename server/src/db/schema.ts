import type { FilmState } from "@bumbrel/api/contracts";
import type { FilmOrder } from "@bumbrel/core/document/film/filmPieces";
import type { Asset, Scene } from "@bumbrel/core/document/scene";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import { sql } from "drizzle-orm";
import {
  bigint,
  boolean,
  customType,
  integer,
  json,
  pgTable,
  primaryKey,
  text,
  timestamp,
} from "drizzle-orm/pg-core";

const bytea = customType<{ data: Uint8Array; driverData: Uint8Array }>({ dataType: () => "bytea" });
const instant = (name: string) => timestamp(name, { withTimezone: true, mode: "date" });

export const projects = pgTable("projects", {
  id: text("id").primaryKey(),
  /** Increases by one with each save; a save must name the revision it builds on. */
  revision: integer("revision").notNull(),
  /** The name of the last save, by which a window whose answer was lost recognises its own. */
  saveId: text("save_id"),
  scene: json("scene").$type<Scene>().notNull(),
  /** Shown in lists of projects: these columns spare reading the scenes. */
  name: text("name").generatedAlwaysAs(sql`scene ->> 'name'`),
  about: text("about").generatedAlwaysAs(sql`scene ->> 'about'`),
  sounds: json("sounds").$type<Scene["sounds"]>().generatedAlwaysAs(sql`scene -> 'sounds'`),
  thumbnail: bytea("picture"),
  createdAt: instant("created_at").notNull().defaultNow(),
  changedAt: instant("changed_at").notNull().defaultNow(),
  /** False until the user has allowed the programs of an imported document to run. */
  programsAllowed: boolean("programs_allowed").notNull().default(true),
  /** Set while a project is deleted but can still be brought back. */
  deletedAt: instant("deleted_at"),
});

/** Earlier saved states of projects: the last save of each minute. */
export const projectStates = pgTable(
  "project_states",
  {
    projectId: text("project_id")
      .notNull()
      .references(() => projects.id, { onDelete: "cascade" }),
    /** Minutes since 1970; the state that a project begins with stands in the minute before its first save. */
    minute: integer("minute").notNull(),
    revision: integer("revision").notNull(),
    scene: json("scene").$type<Scene>().notNull(),
    savedAt: instant("saved_at").notNull(),
  },
  (table) => [primaryKey({ columns: [table.projectId, table.minute] })],
);

/** Bytes kept once for each content. */
export const blobs = pgTable("blobs", {
  id: text("id").primaryKey(),
  sha256: text("sha256").unique(),
  byteLength: bigint("byte_length", { mode: "number" }).notNull(),
  /** False while bytes are still arriving. */
  complete: boolean("complete").notNull(),
  createdAt: instant("created_at").notNull().defaultNow(),
});

export const blobChunks = pgTable(
  "blob_chunks",
  {
    blobId: text("blob_id")
      .notNull()
      .references(() => blobs.id, { onDelete: "cascade" }),
    index: integer("index").notNull(),
    bytes: bytea("bytes").notNull(),
  },
  (table) => [primaryKey({ columns: [table.blobId, table.index] })],
);

export const sounds = pgTable("sounds", {
  id: text("id").primaryKey(),
  name: text("name").notNull(),
  facts: json("facts").$type<SoundFacts>().notNull(),
  /** Missing until the bytes have arrived whole. */
  blobId: text("blob_id").references(() => blobs.id),
  createdAt: instant("created_at").notNull().defaultNow(),
});

/** Images and models that objects show. */
export const assets = pgTable("assets", {
  id: text("id").primaryKey(),
  name: text("name").notNull(),
  kind: text("kind").$type<Asset["kind"]>().notNull(),
  blobId: text("blob_id")
    .notNull()
    .references(() => blobs.id),
  createdAt: instant("created_at").notNull().defaultNow(),
});

/** Results of measures over whole sounds, by what they were computed from; the longest unused are dropped. */
export const analyses = pgTable("analyses", {
  key: text("key").primaryKey(),
  bytes: bytea("bytes").notNull(),
  byteLength: integer("byte_length").notNull(),
  usedAt: instant("used_at").notNull().defaultNow(),
});

/** Worked examples, made once: scenes to copy new projects from. */
export const examples = pgTable("examples", {
  id: text("id").primaryKey(),
  scene: json("scene").$type<Scene>().notNull(),
});

/** Films that are made as jobs: with the scene as it was when they were ordered. */
export const films = pgTable("films", {
  id: text("id").primaryKey(),
  projectId: text("project_id")
    .notNull()
    .references(() => projects.id, { onDelete: "cascade" }),
  scene: json("scene").$type<Scene>().notNull(),
  order: json("film_order").$type<FilmOrder>().notNull(),
  state: text("state").$type<FilmState>().notNull(),
  /** Why it cannot be made. */
  failure: text("failure"),
  createdAt: instant("created_at").notNull().defaultNow(),
});

/** Pieces of films that are finished, each once. */
export const filmPieces = pgTable(
  "film_pieces",
  {
    filmId: text("film_id")
      .notNull()
      .references(() => films.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    blobId: text("blob_id")
      .notNull()
      .references(() => blobs.id),
    byteLength: bigint("byte_length", { mode: "number" }).notNull(),
    /** The worker that made it. */
    madeBy: text("made_by").notNull(),
  },
  (table) => [primaryKey({ columns: [table.filmId, table.name] })],
);

/** Shares of films that workers have in hand, with when each was last heard of. */
export const filmShares = pgTable("film_shares", {
  jobId: text("job_id").primaryKey(),
  filmId: text("film_id")
    .notNull()
    .references(() => films.id, { onDelete: "cascade" }),
  worker: text("worker").notNull(),
  aliveAt: instant("alive_at").notNull().defaultNow(),
});
