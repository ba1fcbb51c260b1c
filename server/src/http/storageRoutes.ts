import { Router } from "express";
import { notFound } from "../problem/problem";
import type { ProjectStore } from "../store/projects";
import type { Room } from "./room";

/** Deleted projects, and the space that everything takes. */
export function storageRoutes(store: ProjectStore, room: Room, notices: () => string[]): Router {
  const router = Router();

  router.get("/storage", async (_request, response) => {
    const { usedBytes } = await store.usage();
    response.json({ usedBytes, freeBytes: room.freeBytes() ?? null, notices: notices() });
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
