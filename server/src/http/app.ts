import { join } from "node:path";
import compression from "compression";
import express, { type Express } from "express";
import helmet from "helmet";
import type { Logger } from "pino";
import type { PageParts } from "../deliver/page";
import type { ProjectStore } from "../store/projects";
import type { SoundStore } from "../store/sounds";
import { deliverRoutes } from "./deliverRoutes";
import { notFound, problemHandler } from "./problem";
import { projectRoutes } from "./projectRoutes";
import { soundRoutes } from "./soundRoutes";

const BODY_LIMIT = "20mb";

export interface AppParts {
  projects: ProjectStore;
  sounds: SoundStore;
  page: PageParts;
  /** The built workbench. */
  studioDir: string;
  log: Logger;
}

/** The whole HTTP side: the interface under `/api`, and the workbench for everything else. */
export function createApp({ projects, sounds, page, studioDir, log }: AppParts): Express {
  const app = express();
  app.disable("x-powered-by");
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'"],
          imgSrc: ["'self'", "data:", "blob:"],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
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
  api.use("/projects", projectRoutes(projects));
  api.use("/sounds", soundRoutes(sounds));
  api.use("/deliver", deliverRoutes(projects, sounds, page));
  api.use(() => {
    throw notFound("This address");
  });
  app.use("/api", api);

  app.use(
    "/assets",
    express.static(join(studioDir, "assets"), { immutable: true, maxAge: "1y", fallthrough: false }),
  );
  app.use(express.static(studioDir, { index: false }));
  app.get("/{*path}", (_request, response) => {
    response.sendFile(join(studioDir, "index.html"), { headers: { "Cache-Control": "no-cache" } });
  });
  app.use(problemHandler(log));
  return app;
}
