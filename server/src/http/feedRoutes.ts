import { FeedClock, FeedWish } from "@bumbrel/api/contracts";
import { runnableScene } from "@bumbrel/core/document/programsAllowed";
import { Router } from "express";
import type { PageParts } from "../deliver/pageCode";
import type { FeedRoom } from "../feed/feedRoom";
import { checked, notFound, unusable } from "../problem/problem";
import type { ProjectStore } from "../store/projects";
import type { SoundStore } from "../store/sounds";

/** The live feed of a project. */
export function feedRoutes(
  projects: ProjectStore,
  sounds: SoundStore,
  parts: PageParts,
  feeds: FeedRoom,
): Router {
  const router = Router();

  router.get("/:id", (request, response) => {
    response.json(feeds.state(request.params.id));
  });

  router.put("/:id", async (request, response) => {
    const wish = checked(FeedWish, request.body);
    const { id } = request.params;
    const project = await projects.get(id);
    if (!project) throw notFound("This project");
    await feeds.follow(id, runnableScene(project), wish, sounds, parts).catch((error) => {
      throw unusable(error);
    });
    response.json(feeds.state(id));
  });

  router.post("/:id/clock", (request, response) => {
    feeds.setClock(request.params.id, checked(FeedClock, request.body));
    response.status(204).end();
  });

  return router;
}
