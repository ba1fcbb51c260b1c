import { mkdtemp, open, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";
import { NewFilm } from "@bumbrel/api/contracts";
import { FILM_FORMATS } from "@bumbrel/core/document/film/film";
import { assembleFilm } from "@bumbrel/core/document/film/filmPieces";
import { plainFileName } from "@bumbrel/core/format/bytes/fileName";
import { Router } from "express";
import type { Stores } from "../archive/stores";
import type { FilmJobs } from "../film/filmJobs";
import { orderedScene } from "../film/filmLimits";
import { checked, HttpProblem, notFound } from "../problem/problem";
import type { FilmStore } from "../store/films";

/** Films that are made or wait at once, each with its copy of the scene. */
const MOST_FILMS = 8;

/** Films of a project, under its address. */
export function projectFilmRoutes(
  { projects, assets }: Pick<Stores, "projects" | "assets">,
  films: FilmStore,
  jobs: FilmJobs,
): Router {
  const router = Router();
  // One order after the other, so that none is counted before the one before it is there.
  let ordering: Promise<unknown> = Promise.resolve();

  router.get("/:id/films", async (request, response) => {
    if (!(await projects.get(request.params.id))) throw notFound("This project");
    response.json({ films: await films.list(request.params.id) });
  });

  router.post("/:id/films", async (request, response) => {
    const { settings, stretch } = checked(NewFilm, request.body);
    const project = await projects.get(request.params.id);
    if (!project) throw notFound("This project");
    const order = { settings, stretch, title: project.scene.name };
    const scene = await orderedScene(project, assets, order);
    const place = async () => {
      if ((await films.inTheMaking()) >= MOST_FILMS) {
        throw new HttpProblem(
          429,
          "films-waiting",
          `${MOST_FILMS} films are being made or wait to be. Order this one when one of them is done, or cancel one.`,
        );
      }
      const id = await films.create(request.params.id, scene, order);
      await jobs.order(id, order);
      return id;
    };
    const placed = ordering.then(place);
    ordering = placed.catch(() => undefined);
    response.status(201).json({ id: await placed });
  });

  return router;
}

/** Films by their ids. */
export function filmRoutes(films: FilmStore, jobs: FilmJobs): Router {
  const router = Router();

  router.post("/:id/cancel", async (request, response) => {
    if (!(await films.look(request.params.id))) throw notFound("This film");
    await jobs.cancel(request.params.id);
    response.status(204).end();
  });

  router.delete("/:id", async (request, response) => {
    await jobs.cancel(request.params.id);
    if (!(await films.remove(request.params.id))) throw notFound("This film");
    response.status(204).end();
  });

  router.get("/:id/file", async (request, response) => {
    const film = await films.look(request.params.id);
    if (!film) throw notFound("This film");
    if (film.state !== "whole")
      throw new HttpProblem(
        409,
        "film-not-whole",
        "This film is not whole yet. Wait until its pieces are made.",
      );
    // Put together aside: the head of a film is written last.
    const folder = await mkdtemp(join(tmpdir(), "bumbrel-film-"));
    try {
      const file = await open(join(folder, "film"), "w+");
      await assembleFilm(
        film.order,
        (name) => films.piece(request.params.id, name),
        async (position, bytes) => void (await file.write(bytes, 0, bytes.length, position)),
      );
      const { extension } = FILM_FORMATS[film.order.settings.format];
      response
        .attachment(`${plainFileName(film.order.title, "film")}.${extension}`)
        .set("Content-Length", String((await file.stat()).size));
      await pipeline(file.createReadStream({ start: 0 }), response);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });

  return router;
}
