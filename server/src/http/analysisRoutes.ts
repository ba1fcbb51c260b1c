import express, { Router } from "express";
import { HttpProblem, notFound } from "../problem/problem";
import { type AnalysisStore, MOST_ANALYSIS_BYTES } from "../store/analyses";

/** Kept results by the SHA-256 of what they were computed from, as 64 hexadecimal digits. */
export function analysisRoutes(store: AnalysisStore): Router {
  const router = Router();
  const keyOf = (text: string) => {
    if (/^[0-9a-f]{64}$/.test(text)) return text;
    throw new HttpProblem(400, "analysis-key", "A kept result is named by 64 hexadecimal digits.");
  };

  router.get("/:key", async (request, response) => {
    const bytes = await store.get(keyOf(request.params.key));
    // Not to have it is an answer like any other: it will be computed.
    if (!bytes) response.status(204).end();
    else response.type("application/octet-stream").set("Cache-Control", "no-store").send(Buffer.from(bytes));
  });

  router.put(
    "/:key",
    express.raw({ type: () => true, limit: MOST_ANALYSIS_BYTES }),
    async (request, response) => {
      const key = keyOf(String(request.params.key));
      if (!Buffer.isBuffer(request.body) || request.body.length === 0) throw notFound("A result to keep");
      await store.put(key, request.body);
      response.status(204).end();
    },
  );

  return router;
}
