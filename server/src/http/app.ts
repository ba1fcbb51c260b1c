import { randomBytes } from "node:crypto";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { openApi } from "@bumbrel/api/openapi";
import compression from "compression";
import express, { type Express, type RequestHandler, type Response } from "express";
import helmet from "helmet";
import type { Logger } from "pino";
import type { PageParts } from "../deliver/pageCode";
import type { Access } from "../door/access";
import type { FeedRoom } from "../feed/feedRoom";
import type { FilmJobs } from "../film/filmJobs";
import { HttpProblem, notFound, problemHandler } from "../problem/problem";
import type { AnalysisStore } from "../store/analyses";
import type { AssetStore } from "../store/assets";
import type { FilmStore } from "../store/films";
import type { ProjectStore } from "../store/projects";
import type { SoundStore } from "../store/sounds";
import { analysisRoutes } from "./analysisRoutes";
import { archiveRoutes } from "./archiveRoutes";
import { assetRoutes } from "./assetRoutes";
import { deliverRoutes } from "./deliverRoutes";
import { feedRoutes } from "./feedRoutes";
import { filmRoutes, projectFilmRoutes } from "./filmRoutes";
import { projectRoutes } from "./projectRoutes";
import { needsRoom, type Room } from "./room";
import { requireToken } from "./signIn";
import { soundRoutes } from "./soundRoutes";
import { storageRoutes } from "./storageRoutes";

const BODY_LIMIT = "20mb";
const VERSION = "0.1.0";

export interface AppParts {
  /** Free space on the disk that holds the data. */
  room: Room;
  /** True if the room on that disk limits what is taken. */
  isRoomLimited?: boolean;
  /** State of the stored data, shown on the Shelf. */
  notices?(): string[];
  /** Called at each request. */
  onRequest?(): void;
  projects: ProjectStore;
  sounds: SoundStore;
  analyses: AnalysisStore;
  assets: AssetStore;
  films: FilmStore;
  jobs: FilmJobs;
  feeds: FeedRoom;
  page: PageParts;
  /** The built workbench. */
  studioDir: string;
  /** Path of the page that finds people in pictures. */
  personDir: string;
  /** Without it, everybody who reaches the server is let in. */
  access?: Access | undefined;
  /** True if it speaks TLS. */
  isSecure?: boolean;
  log: Logger;
}

/** Refuses texts with a zero character in them, which no database keeps. */
const withoutZeros: RequestHandler = (request, _response, next) => {
  const refuse = (where: string) => {
    throw new HttpProblem(
      400,
      "zero-character",
      `There is a zero character in ${where}, which cannot be kept.`,
    );
  };
  if (/%00|\0/.test(request.url)) refuse("the address");
  // A text may also spell it out as a backslash and five letters, which is none.
  if ((request as { mayHoldZeros?: boolean }).mayHoldZeros && holdsZero(request.body)) refuse("the request");
  next();
};

function holdsZero(value: unknown): boolean {
  const open = [value];
  while (open.length > 0) {
    const one = open.pop();
    if (typeof one === "string" && one.includes("\0")) return true;
    if (typeof one !== "object" || one === null) continue;
    for (const [key, inside] of Object.entries(one)) {
      if (key.includes("\0")) return true;
      open.push(inside);
    }
  }
  return false;
}

/** A mark of this answer alone, by which its page may admit styles of its own. */
function nonceOf(response: Response): string {
  response.locals.nonce ??= randomBytes(16).toString("base64");
  return response.locals.nonce;
}

/** The whole HTTP side: the interface under `/api`, and the workbench for everything else. */
export function createApp({
  room,
  isRoomLimited = false,
  notices = () => [],
  onRequest,
  projects,
  sounds,
  analyses,
  assets,
  films,
  jobs,
  feeds,
  page,
  studioDir,
  personDir,
  access,
  isSecure = false,
  log,
}: AppParts): Express {
  const app = express();
  app.disable("x-powered-by");
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          // Spectra are computed in WebAssembly.
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          styleSrc: ["'self'", (_request, response) => `'nonce-${nonceOf(response as Response)}'`],
          imgSrc: ["'self'", "data:", "blob:"],
          fontSrc: ["'self'"],
          // Images inside of models are read from memory.
          connectSrc: ["'self'", "blob:"],
          // The encoder of AAC comes as code that makes its own worker.
          workerSrc: ["'self'", "blob:"],
          mediaSrc: ["'self'", "blob:"],
          manifestSrc: ["'self'"],
          frameSrc: ["'self'"],
          baseUri: ["'none'"],
          // Only the page for signing in sends a form.
          formAction: [access ? "'self'" : "'none'"],
          frameAncestors: ["'none'"],
        },
      },
      // With none at all a browser would not say either where the form for signing in comes from.
      referrerPolicy: { policy: "same-origin" },
      crossOriginEmbedderPolicy: { policy: "require-corp" },
      // Served over plain HTTP, a promise of HTTPS would lock its users out.
      strictTransportSecurity: isSecure,
    }),
  );
  app.use(
    compression({
      filter: (request, response) =>
        !request.path.endsWith("/bytes") && compression.filter(request, response),
    }),
  );

  if (access) app.use(requireToken(access, isSecure));
  if (onRequest) {
    app.use((_request, _response, next) => {
      onRequest();
      next();
    });
  }

  const api = express.Router();
  if (isRoomLimited) api.use(needsRoom(room));
  api.use(
    express.json({
      limit: BODY_LIMIT,
      verify: (request, _response, body) => {
        Object.assign(request, { mayHoldZeros: body.includes("\\u0000") });
      },
    }),
  );
  api.use(withoutZeros);
  api.get("/health", (_request, response) => {
    response.json({ ready: true });
  });
  const description = openApi(VERSION);
  api.get("/openapi.json", (_request, response) => {
    response.json(description);
  });
  api.use("/projects", projectRoutes(projects));
  api.use(storageRoutes(projects, room, notices));
  api.use("/sounds", soundRoutes(sounds));
  api.use("/analyses", analysisRoutes(analyses));
  api.use("/assets", assetRoutes(assets));
  api.use("/deliver", deliverRoutes({ projects, sounds, assets }, page));
  api.use("/projects", projectFilmRoutes({ projects, assets }, films, jobs));
  api.use("/films", filmRoutes(films, jobs));
  api.use("/feed", feedRoutes(projects, sounds, page, feeds));
  api.use("/archives", archiveRoutes({ projects, sounds, assets }, room));
  api.use(() => {
    throw notFound("This address");
  });
  app.use("/api", api);

  // The finder of people runs in a frame of its own that may reach nothing, and compiles its own code.
  app.use("/person", (_request, response, next) => {
    response.removeHeader("Origin-Agent-Cluster");
    response.set(
      "Content-Security-Policy",
      "sandbox allow-scripts; default-src 'none'; script-src 'unsafe-inline' 'unsafe-eval' blob:; connect-src blob: data:; frame-ancestors 'self'",
    );
    next();
  });
  app.use("/person", express.static(personDir, { maxAge: "1h", fallthrough: false }));
  app.use(
    "/assets",
    express.static(join(studioDir, "assets"), { immutable: true, maxAge: "1y", fallthrough: false }),
  );
  app.use(express.static(studioDir, { index: false }));
  app.get("/{*path}", async (_request, response) => {
    const html = await readFile(join(studioDir, "index.html"), "utf8");
    response
      .type("html")
      .set("Cache-Control", "no-store")
      .send(html.replace("STYLE-NONCE", nonceOf(response)));
  });
  app.use(() => {
    throw notFound("This address");
  });
  app.use(problemHandler(log));
  return app;
}
