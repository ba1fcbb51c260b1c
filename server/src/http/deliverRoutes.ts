import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { neededAssets } from "@bumbrel/core/analyse/needed";
import { ASSET_KINDS } from "@bumbrel/core/document/scene";
import { plainFileName } from "@bumbrel/core/format/fileName";
import { isStored } from "@bumbrel/core/sound/kinds";
import { Router } from "express";
import { writeArchive } from "../archive/writeArchive";
import { type PageParts, webPage } from "../deliver/page";
import type { AssetStore } from "../store/assets";
import type { ProjectStore } from "../store/projects";
import type { SoundStore } from "../store/sounds";
import { HttpProblem, notFound } from "./problem";

export function deliverRoutes(
  projects: ProjectStore,
  sounds: SoundStore,
  assets: AssetStore,
  parts: PageParts,
): Router {
  const router = Router();

  router.get("/:id/page", async (request, response) => {
    const project = await projects.get(request.params.id);
    if (!project) throw notFound("This project");
    for (const sound of project.scene.sounds) {
      if (!isStored(sound) || (await sounds.get(sound.storedId))) continue;
      throw new HttpProblem(
        422,
        "sound-missing",
        `The sound "${sound.name}" has not been stored whole. Add it again in the Sounds view, then deliver.`,
      );
    }
    for (const asset of neededAssets(project.scene)) {
      if (await assets.get(asset.storedId)) continue;
      throw new HttpProblem(
        422,
        "asset-missing",
        `The ${ASSET_KINDS[asset.kind].label} "${asset.name}" is not stored here. Add it again in the Stage view, then deliver.`,
      );
    }
    response.attachment(`${plainFileName(project.scene.name, "scene")}.html`).type("html");
    await pipeline(Readable.from(webPage(project.scene, sounds, assets, parts)), response);
  });

  router.get("/:id/scene", async (request, response) => {
    const project = await projects.get(request.params.id);
    if (!project) throw notFound("This project");
    response
      .attachment(`${plainFileName(project.scene.name, "scene")}.scene.json`)
      .type("json")
      .send(`${JSON.stringify(project.scene, null, 2)}\n`);
  });

  router.get("/:id/archive", async (request, response) => {
    const project = await projects.get(request.params.id);
    if (!project) throw notFound("This project");
    response.attachment(`${plainFileName(project.scene.name, "scene")}.zip`).type("zip");
    await pipeline(Readable.from(writeArchive([request.params.id], { projects, sounds, assets })), response);
  });

  return router;
}
