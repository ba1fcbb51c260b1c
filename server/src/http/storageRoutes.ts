import { statfs } from "node:fs/promises";
import { Router } from "express";
import type { ProjectStore } from "../store/projects";
import { notFound } from "./problem";

/** Deleted projects, and the space that everything takes. */
export function storageRoutes(store: ProjectStore, dataDir: string): Router {
  const router = Router();

  router.get("/storage", async (_request, response) => {
    const { usedBytes } = await store.usage();
    const disk = await statfs(dataDir).catch(() => undefined);
    response.json({ usedBytes, freeBytes: disk ? disk.bavail * disk.bsize : null });
  });

  router.get("/bin", async (_request, response) => {
    response.json({ projects: await store.deleted() });
  });

  router.delete("/bin", async (_request, response) => {
    await store.removeForGood();
    response.status(204).end();
  });

  router.delete("/bin/:id", async (request, response) => {
    if ((await store.removeForGood(request.params.id)) === 0) throw notFound("This deleted project");
    response.status(204).end();
  });

  return router;
}
