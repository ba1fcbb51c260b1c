import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { MADE_WAYS, WAYS_OUT } from "@bumbrel/api/waysOut";
import { BumbrelError } from "@bumbrel/core/errors";
import { Router } from "express";
import type { Stores } from "../archive/stores";
import type { PageParts } from "../deliver/page";
import { makeWay, wayFileName } from "../deliver/ways";
import { HttpProblem, notFound } from "./problem";

/** A route for each way out that the server makes. */
export function deliverRoutes(stores: Stores, parts: PageParts): Router {
  const router = Router();
  for (const name of MADE_WAYS) {
    router.get(`/:id/${name}`, async (request, response) => {
      const { id: projectId } = request.params;
      const project = await stores.projects.get(projectId);
      if (!project) throw notFound("This project");
      const { scene } = project;
      const stop = new AbortController();
      response.on("close", () => stop.abort());
      const room = { projectId, scene, stores, parts, signal: stop.signal };
      const pieces = await makeWay(name, room, textsOf(request.query)).catch((error: Error) => {
        if (error instanceof RangeError) throw new HttpProblem(400, "bad-request", `${error.message}.`);
        if (error instanceof BumbrelError) {
          const { what, where, remedy } = error;
          throw new HttpProblem(422, error.code, `${upper(where)}: ${what}. ${remedy}.`);
        }
        throw error;
      });
      response.attachment(wayFileName(name, scene)).type(WAYS_OUT[name].file.media);
      await pipeline(Readable.from(pieces), response);
    });
  }
  return router;
}

const upper = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The texts of an address; what is given twice counts once. */
const textsOf = (query: Record<string, unknown>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(query).flatMap(([key, value]) => (typeof value === "string" ? [[key, value]] : [])),
  );
