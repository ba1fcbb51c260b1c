import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { MADE_WAYS, WAYS_OUT } from "@bumbrel/api/waysOut";
import { Router } from "express";
import type { Stores } from "../archive/stores";
import type { PageParts } from "../deliver/pageCode";
import { makeWay, wayFileName } from "../deliver/ways";
import { notFound, unusable } from "../problem/problem";

/** A route for each way out that the server makes. */
export function deliverRoutes(stores: Stores, parts: PageParts): Router {
  const router = Router();
  for (const name of MADE_WAYS) {
    router.get(`/:id/${name}`, async (request, response) => {
      const { id: projectId } = request.params;
      const project = await stores.projects.get(projectId);
      if (!project) throw notFound("This project");
      const { scene: document, programsAllowed } = project;
      const stop = new AbortController();
      response.on("close", () => stop.abort());
      const asked = { projectId, document, programsAllowed, stores, parts, signal: stop.signal };
      const pieces = await makeWay(name, asked, textsOf(request.query)).catch((error) => {
        throw unusable(error);
      });
      response.attachment(wayFileName(name, document)).type(WAYS_OUT[name].file.media);
      await pipeline(Readable.from(pieces), response);
    });
  }
  return router;
}

/** The texts of an address; what is given twice counts once. */
const textsOf = (query: Record<string, unknown>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(query).flatMap(([key, value]) => (typeof value === "string" ? [[key, value]] : [])),
  );
