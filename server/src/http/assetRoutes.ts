import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { NewAsset } from "@bumbrel/api/contracts";
import { Router } from "express";
import { checked, notFound } from "../problem/problem";
import type { AssetStore } from "../store/assets";

export function assetRoutes(store: AssetStore): Router {
  const router = Router();

  router.put("/", async (request, response) => {
    const { kind, name } = checked(NewAsset, { ...request.query });
    response.status(201).json({ id: await store.receive(kind, name, request) });
  });

  router.get("/:id/bytes", async (request, response) => {
    const asset = await store.get(request.params.id);
    if (!asset) throw notFound("This image or model");
    response.set({
      // Never as something a browser would run.
      "Content-Type": "application/octet-stream",
      "Content-Length": String(asset.byteLength),
      "Cache-Control": "private, max-age=31536000, immutable",
    });
    await pipeline(Readable.from(store.bytes(asset.blobId, 0, asset.byteLength - 1)), response);
  });

  return router;
}
