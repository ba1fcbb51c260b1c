import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { NewSound } from "@bumbrel/api/contracts";
import { Router } from "express";
import { checked, HttpProblem, notFound } from "../problem/problem";
import type { SoundStore } from "../store/sounds";
import { parseRange } from "./range";

export function soundRoutes(store: SoundStore): Router {
  const router = Router();

  router.post("/", async (request, response) => {
    const { name, facts } = checked(NewSound, request.body);
    response.status(201).json({ id: await store.announce(name, facts) });
  });

  router.get("/:id", async (request, response) => {
    const sound = await store.get(request.params.id);
    if (!sound) throw notFound("This sound");
    const { blobId: _blobId, sha256: _sha256, ...known } = sound;
    response.json(known);
  });

  router.put("/:id/bytes", async (request, response) => {
    const { id } = request.params;
    if (!(await store.exists(id))) throw notFound("This sound");
    if (!(await store.receive(id, request))) {
      throw new HttpProblem(
        409,
        "bytes-are-there",
        "This sound has its bytes already, and keeps them. Announce another sound for other bytes.",
      );
    }
    response.status(204).end();
  });

  router.get("/:id/bytes", async (request, response) => {
    const sound = await store.get(request.params.id);
    if (!sound) throw notFound("This sound");
    const { byteLength, blobId } = sound;
    const range = parseRange(request.headers.range, byteLength);
    const { first, last } = range ?? { first: 0, last: byteLength - 1 };
    response.status(range ? 206 : 200).set({
      "Accept-Ranges": "bytes",
      "Content-Type": "application/octet-stream",
      "Content-Length": String(last - first + 1),
      ...(sound.sha256 && { ETag: `"${sound.sha256}"` }),
      // The bytes of a stored sound never change; a replaced sound gets another id.
      "Cache-Control": "private, max-age=31536000, immutable",
      ...(range && { "Content-Range": `bytes ${first}-${last}/${byteLength}` }),
    });
    await pipeline(Readable.from(store.bytes(blobId, first, last)), response);
  });

  return router;
}
