import { createWriteStream } from "node:fs";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";
import { BumbrelError } from "@bumbrel/core/errors";
import { Router } from "express";
import { readArchive } from "../archive/readArchive";
import type { Stores } from "../archive/stores";
import { HttpProblem } from "./problem";

export function archiveRoutes(stores: Stores): Router {
  const router = Router();

  router.post("/", async (request, response) => {
    // Its directory stands at its end: it is read once it has arrived.
    const folder = await mkdtemp(join(tmpdir(), "bumbrel-archive-"));
    try {
      const path = join(folder, "archive.zip");
      await pipeline(request, createWriteStream(path));
      response.status(201).json(await readArchive(path, stores));
    } catch (error) {
      if (!(error instanceof BumbrelError)) throw error;
      // Where it lies here is nobody's business.
      throw new HttpProblem(422, error.code, `The archive cannot be read: ${error.what}. ${error.remedy}.`);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });

  return router;
}
