import { setTimeout as wait } from "node:timers/promises";
import { FILM_SETTINGS } from "@bumbrel/core/document/film/film";
import { type FilmOrder, piecesOf } from "@bumbrel/core/document/film/filmPieces";
import { BumbrelError } from "@bumbrel/core/errors";
import { newScene } from "@bumbrel/core/kinds/create";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { storesOf } from "../archive/stores";
import type { Database } from "../db/open";
import type { PageParts } from "../deliver/pageCode";
import { BlobStore } from "../store/blobs";
import { FilmStore } from "../store/films";
import { DATABASES, openData, type TestData } from "../testing/openData";
import { FilmJobs, type FilmJobsParts } from "./filmJobs";

/** A minute at 30 frames a second: 30 segments and the sound, in four shares. */
const ORDER: FilmOrder = {
  settings: { ...defaultsOf(FILM_SETTINGS), framesPerSecond: 30 },
  stretch: { fromS: 0, toS: 60 },
  title: "Harbour",
};
const NAMES = piecesOf(ORDER).names;

/** The same tests against the embedded database and, over the wire, against a database server. */
describe.each(DATABASES)("films as jobs, database %s", (kind) => {
  let data: TestData;
  let db: Database;
  let films: FilmStore;
  let projectId: string;

  beforeAll(async () => {
    data = await openData(kind);
    db = data.db;
    films = new FilmStore(db, new BlobStore(db));
    ({ id: projectId } = await storesOf(db).projects.create(newScene("Harbour")));
  });
  afterAll(() => data.remove());

  /** A worker whose pieces are their own names. */
  async function worker(name: string, change: Partial<FilmJobsParts> = {}): Promise<FilmJobs> {
    const jobs = new FilmJobs({
      db,
      stores: storesOf(db),
      films,
      page: {} as PageParts,
      worker: name,
      silentS: 3,
      render: async (_scene, _stores, _page, { made }, { put, signal }) => {
        for (const piece of NAMES) {
          if (made.includes(piece)) continue;
          signal?.throwIfAborted();
          await wait(5);
          await put(piece, Buffer.from(piece));
        }
      },
      onError: (error) => {
        throw error;
      },
      ...change,
    });
    await jobs.open();
    return jobs;
  }
  const order = async (jobs: FilmJobs): Promise<string> => {
    const id = await films.create(projectId, newScene("Harbour"), ORDER);
    await jobs.order(id, ORDER);
    return id;
  };
  const filmOf = async (id: string) => (await films.list(projectId)).find((one) => one.id === id)!;
  async function settled(id: string) {
    for (let i = 0; i < 300; i++) {
      const film = await filmOf(id);
      if (film.state !== "making") return film;
      await wait(50);
    }
    throw new Error("the film is not made");
  }

  it("are shared by workers, and each piece is kept once", async () => {
    const workers = [await worker("one"), await worker("two")];
    const id = await order(workers[0]);
    expect(await filmOf(id)).toMatchObject({
      state: "making",
      pieces: 0,
      ofPieces: NAMES.length,
      title: "Harbour",
    });
    for (const jobs of workers) jobs.work();
    expect(await settled(id)).toMatchObject({ state: "whole", pieces: NAMES.length, workers: [] });
    for (const name of NAMES) expect(Buffer.from(await films.piece(id, name)).toString()).toBe(name);
    // Finished twice, what came first stays.
    await films.addPiece(id, NAMES[0], Buffer.from("late"), "three");
    expect(Buffer.from(await films.piece(id, NAMES[0])).toString()).toBe(NAMES[0]);
    for (const jobs of workers) await jobs.close();
  });

  it("go on with another worker when one is gone", async () => {
    // One that takes a share, makes a piece and is never heard of again: its clock stands still as well.
    let wake = () => {};
    const gone = await worker("gone", {
      render: async (_scene, _stores, _page, { made }, { put }) => {
        await put(NAMES.find((name) => !made.includes(name))!, Buffer.from("by the one that is gone"));
        await new Promise<void>((resolve) => {
          wake = resolve;
        });
      },
      films: Object.assign(Object.create(films), { keepShare: async () => {} }) as FilmStore,
    });
    const id = await order(gone);
    gone.work();
    for (let i = 0; i < 200 && (await films.madePieces(id)).length === 0; i++) await wait(20);
    expect((await filmOf(id)).workers).toEqual(["gone"]);
    const other = await worker("other");
    other.work();
    expect(await settled(id)).toMatchObject({ state: "whole", pieces: NAMES.length });
    expect(Buffer.from(await films.piece(id, NAMES[0])).toString()).toBe("by the one that is gone");
    await other.close();
    wake();
    await gone.close();
    expect((await filmOf(id)).state).toBe("whole");
  });

  it("are tried again after an error that may pass, and given up with its words after one that stays", async () => {
    let tries = 0;
    const shaky = await worker("shaky", {
      render: async (_scene, _stores, _page, { made }, { put }) => {
        if (tries++ === 0) throw new Error("the graphics gave up");
        for (const name of NAMES) if (!made.includes(name)) await put(name, Buffer.from(name));
      },
    });
    const id = await order(shaky);
    shaky.work();
    expect(await settled(id)).toMatchObject({ state: "whole" });
    await shaky.close();
    const unable = await worker("unable", {
      render: async () => {
        throw new BumbrelError({
          code: "no",
          what: "it cannot be encoded",
          where: "H.264",
          remedy: "Choose WebM",
        });
      },
    });
    const other = await order(unable);
    unable.work();
    expect(await settled(other)).toMatchObject({
      state: "failed",
      failure: "H.264: it cannot be encoded. Choose WebM",
    });
    await unable.close();
  });

  it("stop when they are cancelled, and are gone when they are removed", async () => {
    const slow = await worker("slow", {
      render: (_scene, _stores, _page, _task, { signal }) =>
        new Promise((_resolve, reject) => {
          signal?.addEventListener("abort", () => reject(signal.reason as Error));
        }),
    });
    const id = await order(slow);
    slow.work();
    for (let i = 0; i < 200 && (await filmOf(id)).workers.length === 0; i++) await wait(20);
    await slow.cancel(id);
    expect((await settled(id)).state).toBe("cancelled");
    expect(await films.remove(id)).toBe(true);
    expect(await films.remove(id)).toBe(false);
    await slow.close();
  });
});
