import { createWriteStream, rmSync } from "node:fs";
import { mkdir, mkdtemp, rm } from "node:fs/promises";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";
import { BumbrelError } from "@bumbrel/core/errors";
import { Router } from "express";
import { readArchive } from "../archive/readArchive";
import type { Stores } from "../archive/stores";
import { HttpProblem } from "../problem/problem";
import type { Room } from "./room";

/** A ZIP file without its later extensions has no more. */
const MOST_BYTES = 4 * 2 ** 30;
/** Bytes between two looks at the room on the disk. */
const LOOK_BYTES = 8 * 2 ** 20;
/** An upload may take so long, and longer for each megabyte, s. */
const MOST_S = 60;
const S_A_MEGABYTE = 10;

/** @param room  the disk of the data, where archives lie while they are read */
export function archiveRoutes(stores: Stores, room: Room): Router {
  const router = Router();
  const incoming = join(room.folder, "incoming");
  // Remove files that a killed server left behind.
  rmSync(incoming, { recursive: true, force: true });

  router.post("/", async (request, response) => {
    await mkdir(incoming, { recursive: true });
    // Its directory stands at its end: it is read once it has arrived.
    const folder = await mkdtemp(join(incoming, "archive-"));
    try {
      const path = join(folder, "archive.zip");
      await pipeline(bounded(request, room), createWriteStream(path));
      response.status(201).json(await readArchive(path, stores));
    } catch (error) {
      if (!(error instanceof BumbrelError)) throw error;
      // Do not tell the path on this machine.
      throw new HttpProblem(422, error.code, `The archive cannot be read: ${error.what}. ${error.remedy}.`);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });

  return router;
}

/**
 * Bytes of an upload as they come.
 *
 * @throws HttpProblem when there are too many, they come too slowly, or the disk has no room for more
 */
async function* bounded(bytes: AsyncIterable<Uint8Array>, room: Room): AsyncGenerator<Uint8Array> {
  const began = performance.now();
  let count = 0;
  let lookAt = 0;
  for await (const piece of bytes) {
    count += piece.length;
    if (count > MOST_BYTES)
      throw new HttpProblem(413, "too-large", `An archive has ${MOST_BYTES / 2 ** 30} GB at most.`);
    if (count >= lookAt) {
      room.assert(LOOK_BYTES);
      lookAt = count + LOOK_BYTES;
    }
    const tookS = (performance.now() - began) / 1000;
    if (tookS > MOST_S + (S_A_MEGABYTE * count) / 2 ** 20)
      throw new HttpProblem(
        408,
        "too-slow",
        "The archive comes too slowly. Try again on a better connection.",
      );
    yield piece;
  }
}
