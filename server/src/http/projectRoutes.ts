import { NewProject, type ProjectState, SaveScene } from "@bumbrel/api/contracts";
import { parseScene } from "@bumbrel/core/check/readScene";
import { newProject } from "@bumbrel/core/kinds/create";
import { createSession } from "better-sse";
import express, { Router } from "express";
import { checked, HttpProblem, notFound } from "../problem/problem";
import type { ProjectStore } from "../store/projects";

const THUMBNAIL_LIMIT = "1mb";

export function projectRoutes(store: ProjectStore): Router {
  const router = Router();

  router.get("/", async (_request, response) => {
    response.json({ projects: await store.list() });
  });

  router.post("/", async (request, response) => {
    const body = checked(NewProject, request.body);
    const scene = await startingScene(store, body);
    if (body.name) scene.name = body.name;
    // A document from outside brings its own programs: nobody here has seen them yet.
    response.status(201).json(await store.create(scene, body.copyOf, body.scene !== undefined));
  });

  router.get("/:id", async (request, response) => {
    const project = await store.get(request.params.id);
    if (!project) throw notFound("This project");
    response.json(project);
  });

  router.get("/:id/events", async (request, response) => {
    const { id } = request.params;
    const session = await createSession(request, response);
    let isTelling = false;
    let isAsked = false;
    const tell = async () => {
      isAsked = true;
      if (isTelling) return;
      isTelling = true;
      try {
        while (isAsked && session.isConnected) {
          isAsked = false;
          const state: ProjectState = { revision: (await store.revisionOf(id)) ?? null };
          if (session.isConnected) session.push(state, "state");
        }
      } catch {
        // Its page connects again, and is told then.
        response.end();
      } finally {
        isTelling = false;
      }
    };
    const stop = await store.watch(id, () => void tell());
    session.once("disconnected", stop);
    if (!session.isConnected) stop();
    await tell();
  });

  router.put("/:id/scene", async (request, response) => {
    const { revision, scene, ...save } = checked(SaveScene, request.body);
    const outcome = await store.save(request.params.id, revision, parseScene(scene), save);
    if (!outcome) throw notFound("This project");
    if (!outcome.saved) {
      throw new HttpProblem(
        409,
        "stale-revision",
        `The project was saved elsewhere: it is at revision ${outcome.revision}, this save builds on ${revision}. Nothing was overwritten.`,
        { revision: outcome.revision },
      );
    }
    response.json({ revision: outcome.revision });
  });

  router.get("/:id/states", async (request, response) => {
    if ((await store.revisionOf(request.params.id)) === undefined) throw notFound("This project");
    response.json({ states: await store.states.list(request.params.id) });
  });

  router.get("/:id/states/:state", async (request, response) => {
    const minute = Number(request.params.state);
    const scene = Number.isInteger(minute) && (await store.states.get(request.params.id, minute));
    if (!scene) throw notFound("This state");
    response.json({ scene, facts: await store.factsOf([scene.sounds]) });
  });

  router.post("/:id/allow-programs", async (request, response) => {
    if (!(await store.allowPrograms(request.params.id))) throw notFound("This project");
    response.status(204).end();
  });

  router.delete("/:id", async (request, response) => {
    if (!(await store.remove(request.params.id))) throw notFound("This project");
    response.status(204).end();
  });

  router.post("/:id/restore", async (request, response) => {
    if (!(await store.restore(request.params.id))) throw notFound("This project");
    response.status(204).end();
  });

  router.put(
    "/:id/thumbnail",
    express.raw({ type: "image/jpeg", limit: THUMBNAIL_LIMIT }),
    async (request, response) => {
      const thumbnail: unknown = request.body;
      const isJpeg =
        Buffer.isBuffer(thumbnail) && thumbnail.length > 3 && thumbnail.readUInt16BE(0) === 0xffd8;
      if (!isJpeg) throw new HttpProblem(400, "not-a-thumbnail", "A project's thumbnail must be a JPEG.");
      if (!(await store.setThumbnail(request.params.id, thumbnail as Buffer))) throw notFound("This project");
      response.status(204).end();
    },
  );

  router.get("/:id/thumbnail", async (request, response) => {
    const thumbnail = await store.thumbnail(request.params.id);
    if (!thumbnail) throw notFound("This thumbnail");
    response.type("image/jpeg").set("Cache-Control", "no-cache").send(Buffer.from(thumbnail));
  });

  return router;
}

async function startingScene(store: ProjectStore, body: NewProject) {
  if (body.scene !== undefined) return parseScene(body.scene);
  if (body.copyOf !== undefined) {
    const original = await store.get(body.copyOf);
    if (!original) throw notFound("The project to copy");
    return { ...original.scene, name: `${original.scene.name} copy`.slice(0, 120) };
  }
  if (body.example !== undefined) {
    const scene = await store.example(body.example);
    if (!scene) throw notFound(`The example "${body.example}"`);
    return scene;
  }
  return newProject("New project");
}
