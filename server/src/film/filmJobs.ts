import { randomUUID } from "node:crypto";
import { hostname } from "node:os";
import { setTimeout as wait } from "node:timers/promises";
import { type FilmOrder, type FilmTask, piecesOf } from "@bumbrel/core/document/film/filmPieces";
import { BumbrelError } from "@bumbrel/core/errors";
import PgBoss from "pg-boss";
import type { Stores } from "../archive/stores";
import type { Database } from "../db/open";
import type { PageParts } from "../deliver/pageCode";
import type { FilmStore } from "../store/films";
import { renderPieces } from "./renderPieces";

/** Pieces that a worker takes at once: twenty seconds of a film, for which a browser is started. */
const SHARE = 10;
const QUEUE = "film-share";
/** How often a share is tried before its film is given up. */
const MOST_TRIES = 5;
/** How often a worker says that it is alive, and how long one that says nothing is waited for, s. */
const ALIVE_S = 2;
const SILENT_S = 12;
/** How often a worker without work looks for some, ms. */
const LOOK_MS = 1000;
/** A share that nobody is known to have in hand is given to somebody else after this, s. */
const EXPIRES_S = 15 * 60;

/** Shares that are put down at once. */
const BATCH = 100;
const HANDLING = { retryLimit: MOST_TRIES - 1, retryDelay: 0, expireInSeconds: EXPIRES_S };

/** Takes jobs back that are in nobody's hand, and have been for a while. */
const LEFT_JOBS = `
  update pgboss.job set state = 'cancelled', completed_on = now()
  where name = $1 and state = 'active' and started_on < now() - make_interval(secs => $2)
    and not exists (select 1 from film_shares where film_shares.job_id = pgboss.job.id::text)
  returning data`;

interface Share {
  filmId: string;
  names: string[];
}

export interface FilmJobsParts {
  db: Database;
  stores: Stores;
  films: FilmStore;
  page: PageParts;
  /** How pieces are made; in a browser unless said. */
  render?: typeof renderPieces;
  /** Name of this worker among others; that of its machine and process unless said. */
  worker?: string;
  /** No other process uses the database: whatever was in hand when this one starts is in nobody's hand. */
  isAlone?: boolean;
  /** How long a worker that says nothing is waited for, s. */
  silentS?: number;
  /** Told of what goes wrong beside a film. */
  onError(error: Error): void;
}

/**
 * Films as jobs in the database, on the embedded one and on a server alike. Each is cut into shares that any number of
 * workers on any number of machines take; those of a worker that is gone are taken by others.
 */
export class FilmJobs {
  private readonly parts: FilmJobsParts;
  private readonly boss: PgBoss;
  private stopping = new AbortController();
  private working: Promise<void>[] = [];
  /** Stops the share in hand, by its film. */
  private readonly inHand = new Map<string, AbortController>();
  /** Names this worker among others. */
  readonly worker: string;

  constructor(parts: FilmJobsParts) {
    this.parts = parts;
    this.worker = parts.worker ?? `${hostname()}-${process.pid}`;
    this.boss = new PgBoss({
      db: { executeSql: (text: string, values?: unknown[]) => parts.db.executeSql(text, values) },
      schedule: false,
    });
    this.boss.on("error", parts.onError);
  }

  /** Makes sure of the queue. */
  async open(): Promise<void> {
    await this.boss.start();
    if (!(await this.boss.getQueue(QUEUE))) await this.boss.createQueue(QUEUE);
    if (this.parts.isAlone) await this.passOn(0);
  }

  /** Hands a film that has been ordered to the workers. */
  async order(filmId: string, order: FilmOrder): Promise<void> {
    const { names } = piecesOf(order);
    // Jobs that are put down at once are taken in the order of their ids.
    const ids = Array.from({ length: Math.ceil(names.length / SHARE) }, () => randomUUID()).sort();
    const shares = ids.map((id, i) => ({
      id,
      name: QUEUE,
      data: { filmId, names: names.slice(i * SHARE, (i + 1) * SHARE) } satisfies Share,
      ...HANDLING,
    }));
    // Others get their turn between two batches.
    for (let at = 0; at < shares.length; at += BATCH) {
      await this.boss.insert(shares.slice(at, at + BATCH));
      await new Promise((resolve) => setImmediate(resolve));
    }
  }

  /** Stops a film: workers leave it within seconds. */
  async cancel(filmId: string): Promise<void> {
    await this.parts.films.changeState(filmId, "cancelled");
    this.inHand.get(filmId)?.abort(new Left());
  }

  /** Begins to take shares, until it is closed. */
  work(): void {
    this.working = [this.takeShares(), this.watchShares()];
  }

  /** Stops the share in hand: another worker, or this one when it is started again, goes on with it. */
  async close(): Promise<void> {
    this.stopping.abort(new Left());
    for (const stop of this.inHand.values()) stop.abort(new Left());
    await Promise.all(this.working);
    await this.boss.stop({ graceful: false, wait: true, close: false });
  }

  private get isStopping(): boolean {
    return this.stopping.signal.aborted;
  }

  /** Waits, at most until it is closed. */
  private async rest(ms: number): Promise<void> {
    await wait(ms, undefined, { signal: this.stopping.signal }).catch(() => {});
  }

  private async takeShares(): Promise<void> {
    while (!this.isStopping) {
      try {
        const [job] = await this.boss.fetch<Share>(QUEUE, { includeMetadata: true });
        if (job) await this.make(job);
        else await this.rest(LOOK_MS);
      } catch (error) {
        if (!this.isStopping) this.parts.onError(error as Error);
        await this.rest(LOOK_MS);
      }
    }
  }

  /**
   * Hands on the shares of workers that have not been heard of for so long, as new jobs: being killed is not a try that
   * failed.
   */
  private async passOn(silentS: number): Promise<void> {
    await this.parts.films.dropLostShares(silentS);
    const { rows } = await this.parts.db.executeSql(LEFT_JOBS, [QUEUE, silentS]);
    for (const { data } of rows as { data: Share }[]) await this.send(data);
  }

  private async send(share: Share): Promise<void> {
    await this.boss.send(QUEUE, share, HANDLING);
  }

  /** Watches for workers that are gone. */
  private async watchShares(): Promise<void> {
    while (!this.isStopping) {
      try {
        await this.passOn(this.parts.silentS ?? SILENT_S);
      } catch (error) {
        if (!this.isStopping) this.parts.onError(error as Error);
      }
      await this.rest(ALIVE_S * 1000);
    }
  }

  private async make({ id: jobId, data, retryCount }: PgBoss.JobWithMetadata<Share>): Promise<void> {
    const { films, stores, page, render = renderPieces } = this.parts;
    const { filmId, names } = data;
    const stop = new AbortController();
    this.inHand.set(filmId, stop);
    await films.takeShare(jobId, filmId, this.worker).catch(() => stop.abort(new Left()));
    const alive = setInterval(() => void this.keep(jobId, filmId, stop), ALIVE_S * 1000);
    try {
      const film = await films.get(filmId);
      if (film?.state === "making") {
        const made = new Set(await films.madePieces(filmId));
        const all = piecesOf(film.order).names;
        const task: FilmTask = {
          request: requestOf(film.order),
          made: all.filter((name) => made.has(name) || !names.includes(name)),
        };
        await render(film.scene, stores, page, task, {
          onOrder: () => {},
          put: (name, bytes) => films.addPiece(filmId, name, bytes, this.worker),
          signal: stop.signal,
        });
      }
      await this.boss.complete(QUEUE, jobId);
    } catch (error) {
      const film = await films.look(filmId);
      if (error instanceof Left || (film && film.state !== "making")) {
        await this.boss.complete(QUEUE, jobId);
        if (film?.state === "making") await this.send(data);
      } else await this.boss.fail(QUEUE, jobId, { reason: (error as Error).message });
      const isLast = retryCount >= MOST_TRIES - 1;
      if (!(error instanceof Left) && (isLast || error instanceof BumbrelError))
        await films.changeState(filmId, "failed", (error as Error).message);
    } finally {
      clearInterval(alive);
      this.inHand.delete(filmId);
      await films.leaveShare(jobId);
    }
  }

  /** Says that this worker is alive, and leaves a film that was cancelled. */
  private async keep(jobId: string, filmId: string, stop: AbortController): Promise<void> {
    try {
      await this.parts.films.keepShare(jobId);
      const film = await this.parts.films.look(filmId);
      if (film?.state !== "making") stop.abort(new Left());
    } catch (error) {
      if (!this.isStopping) this.parts.onError(error as Error);
    }
  }
}

/** A share that is left on purpose. */
class Left extends Error {}

const requestOf = ({ settings, title, stretch, part }: FilmOrder): FilmTask["request"] => ({
  settings,
  title,
  fromS: stretch.fromS,
  toS: stretch.toS,
  part,
});
