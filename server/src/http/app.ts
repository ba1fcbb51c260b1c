import { randomBytes } from "node:crypto";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { openApi } from "@bumbrel/api/openapi";
import compression from "compression";
import express, { type Express, type RequestHandler, type Response } from "express";
import helmet from "helmet";
import type { Logger } from "pino";
import type { PageParts } from "../deliver/page";
import type { AnalysisStore } from "../store/analyses";
import type { AssetStore } from "../store/assets";
import type { ProjectStore } from "../store/projects";
import type { SoundStore } from "../store/sounds";
import { analysisRoutes } from "./analysisRoutes";
import { assetRoutes } from "./assetRoutes";
import { deliverRoutes } from "./deliverRoutes";
import { HttpProblem, notFound, problemHandler } from "./problem";
import { projectRoutes } from "./projectRoutes";
import { soundRoutes } from "./soundRoutes";

const BODY_LIMIT = "20mb";
const VERSION = "0.1.0";

export interface AppParts {
  projects: ProjectStore;
  sounds: SoundStore;
  analyses: AnalysisStore;
  assets: AssetStore;
  page: PageParts;
  /** The built workbench. */
  studioDir: string;
  /** The address it listens on. */
  host: string;
  log: Logger;
}

/** What a server that only this machine can reach is called. */
const LOOPBACK_NAMES: ReadonlySet<string> = new Set(["127.0.0.1", "localhost", "::1", "[::1]"]);

/**
 * Refuses requests under other names: a web page elsewhere could point a name of its own at this machine and
 * read projects through its visitor's browser.
 */
const onlyFromThisMachine: RequestHandler = (request, _response, next) => {
  if (LOOPBACK_NAMES.has(request.hostname)) next();
  else {
    throw new HttpProblem(
      403,
      "other-host",
      `This server answers as 127.0.0.1 or localhost only, not as "${request.hostname}". Start it with --host to open it to others.`,
    );
  }
};

/** A mark of this answer alone, by which its page may admit styles of its own. */
function nonceOf(response: Response): string {
  response.locals.nonce ??= randomBytes(16).toString("base64");
  return response.locals.nonce;
}

/** The whole HTTP side: the interface under `/api`, and the workbench for everything else. */
export function createApp({
  projects,
  sounds,
  analyses,
  assets,
  page,
  studioDir,
  host,
  log,
}: AppParts): Express {
  const app = express();
  app.disable("x-powered-by");
  if (LOOPBACK_NAMES.has(host)) app.use(onlyFromThisMachine);
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
          workerSrc: ["'self'"],
          mediaSrc: ["'self'", "blob:"],
          manifestSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      crossOriginEmbedderPolicy: { policy: "require-corp" },
      // Bumbrel is served to this machine over plain HTTP; a promise of HTTPS would lock its users out.
      strictTransportSecurity: false,
    }),
  );
  app.use(
    compression({
      filter: (request, response) =>
        !request.path.endsWith("/bytes") && compression.filter(request, response),
    }),
  );

  const api = express.Router();
  api.use(express.json({ limit: BODY_LIMIT }));
  api.get("/health", (_request, response) => {
    response.json({ ready: true });
  });
  const description = openApi(VERSION);
  api.get("/openapi.json", (_request, response) => {
    response.json(description);
  });
  api.use("/projects", projectRoutes(projects));
  api.use("/sounds", soundRoutes(sounds));
  api.use("/analyses", analysisRoutes(analyses));
  api.use("/assets", assetRoutes(assets));
  api.use("/deliver", deliverRoutes(projects, sounds, assets, page));
  api.use(() => {
    throw notFound("This address");
  });
  app.use("/api", api);

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
  app.use(problemHandler(log));
  return app;
}
