import { randomUUID } from "node:crypto";
import { buffer } from "node:stream/consumers";
import type { FilmJob } from "@bumbrel/api/contracts";
import { type FilmOrder, piecesOf } from "@bumbrel/core/document/film/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { and, desc, eq, lt, sql } from "drizzle-orm";
import type { Database } from "../db/open";
import { filmPieces, filmShares, films } from "../db/schema";
import type { BlobStore } from "./blobs";

/** Films that are made as jobs, and the pieces of them that are finished. */
export class FilmStore {
  private readonly db: Database;
  private readonly blobs: BlobStore;

  constructor(db: Database, blobs: BlobStore) {
    this.db = db;
    this.blobs = blobs;
  }

  /** Keeps an order; gives the film's id. */
  async create(projectId: string, scene: Scene, order: FilmOrder): Promise<string> {
    const id = randomUUID();
    await this.db.insert(films).values({ id, projectId, scene, order, state: "making" });
    return id;
  }

  /** Films that are made or wait to be. */
  inTheMaking(): Promise<number> {
    return this.db.$count(films, eq(films.state, "making"));
  }

  async get(id: string) {
    const [film] = await this.db.select().from(films).where(eq(films.id, id));
    return film;
  }

  /** How a film stands and how it was ordered, without its scene. */
  async look(id: string) {
    const { state, order } = films;
    const [film] = await this.db.select({ state, order }).from(films).where(eq(films.id, id));
    return film;
  }

  /** The films of a project, the newest first. */
  async list(projectId: string): Promise<FilmJob[]> {
    const rows = await this.db
      .select({
        id: films.id,
        order: films.order,
        state: films.state,
        failure: films.failure,
        createdAt: films.createdAt,
        pieces: sql<number>`(select count(*)::int from ${filmPieces} where ${filmPieces.filmId} = ${films.id})`,
        workers: sql<
          string[]
        >`(select coalesce(json_agg(distinct ${filmShares.worker}), '[]') from ${filmShares} where ${filmShares.filmId} = ${films.id})`,
      })
      .from(films)
      .where(eq(films.projectId, projectId))
      .orderBy(desc(films.createdAt));
    return rows.map(({ id, order, state, failure, createdAt, pieces, workers }) => {
      const { plan, names } = piecesOf(order);
      return {
        id,
        title: order.title,
        settings: order.settings,
        lengthS: plan.lengthS,
        state,
        failure,
        pieces,
        ofPieces: names.length,
        workers: state === "making" ? workers : [],
        createdAt: createdAt.toISOString(),
      };
    });
  }

  /** Names of the pieces that are finished. */
  async madePieces(filmId: string): Promise<string[]> {
    const rows = await this.db
      .select({ name: filmPieces.name })
      .from(filmPieces)
      .where(eq(filmPieces.filmId, filmId));
    return rows.map(({ name }) => name);
  }

  /** Keeps a piece; one that another worker has finished meanwhile stays. The last one makes the film whole. */
  async addPiece(filmId: string, name: string, bytes: Uint8Array, madeBy: string): Promise<void> {
    async function* whole() {
      yield bytes;
    }
    const blobId = await this.blobs.receive(whole(), () => {});
    await this.db
      .insert(filmPieces)
      .values({ filmId, name, blobId, byteLength: bytes.length, madeBy })
      .onConflictDoNothing();
    const film = await this.look(filmId);
    if (!film) return;
    const made = new Set(await this.madePieces(filmId));
    if (piecesOf(film.order).names.every((one) => made.has(one))) await this.changeState(filmId, "whole");
  }

  async piece(filmId: string, name: string): Promise<Uint8Array> {
    const [found] = await this.db
      .select()
      .from(filmPieces)
      .where(and(eq(filmPieces.filmId, filmId), eq(filmPieces.name, name)));
    if (!found) throw new Error(`the piece ${name} of the film is missing`);
    return buffer(this.blobs.bytes(found.blobId, 0, found.byteLength - 1));
  }

  /** A film that waits or is being made ends in another state; others stay as they are. */
  async changeState(filmId: string, state: FilmJob["state"], failure?: string): Promise<void> {
    await this.db
      .update(films)
      .set({ state, failure: failure ?? null })
      .where(and(eq(films.id, filmId), eq(films.state, "making")));
  }

  async remove(filmId: string): Promise<boolean> {
    const gone = await this.db.delete(films).where(eq(films.id, filmId)).returning({ id: films.id });
    return gone.length > 0;
  }

  /** A worker has a share in hand. */
  async takeShare(jobId: string, filmId: string, worker: string): Promise<void> {
    await this.db
      .insert(filmShares)
      .values({ jobId, filmId, worker })
      .onConflictDoUpdate({ target: filmShares.jobId, set: { worker, aliveAt: sql`now()` } });
  }

  /** Says that the worker of a share is alive. */
  async keepShare(jobId: string): Promise<void> {
    await this.db.update(filmShares).set({ aliveAt: sql`now()` }).where(eq(filmShares.jobId, jobId));
  }

  async leaveShare(jobId: string): Promise<void> {
    await this.db.delete(filmShares).where(eq(filmShares.jobId, jobId));
  }

  /** Takes shares from workers that have not been heard of for so long. */
  async dropLostShares(silentS: number): Promise<void> {
    await this.db
      .delete(filmShares)
      .where(lt(filmShares.aliveAt, sql`now() - make_interval(secs => ${silentS})`));
  }
}
