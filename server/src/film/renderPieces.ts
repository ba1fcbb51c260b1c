import type { FilmOrder, FilmTask } from "@bumbrel/core/document/film/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import type { Stores } from "../archive/stores";
import { inChromium } from "../chromium/inChromium";
import { webPage } from "../deliver/page";
import type { PageParts } from "../deliver/pageCode";

/** How far the making of a film is. */
export interface RenderProgress {
  frames: number;
  ofFrames: number;
  /** Share of the sound that is done. */
  sound: number;
}

export interface RenderRoom {
  /** Called first, with the stretch that the film shows. */
  onOrder(order: FilmOrder): Promise<void> | void;
  /** Keeps a piece; the next one is made once this has resolved. */
  put(name: string, bytes: Uint8Array): Promise<void>;
  onProgress?(progress: RenderProgress): void;
  signal?: AbortSignal;
}

/**
 * Renders the pieces of a film in a browser without a window: the same page that is delivered, with the scene and its
 * sounds inside, draws frame by frame and hands each piece to a server that only this machine can reach.
 *
 * @param scene  `takeId` names the take that the film shows
 * @throws BumbrelError with the reason why it cannot be made; the signal's reason when it is stopped
 */
export async function renderPieces(
  scene: Scene,
  { sounds, assets }: Stores,
  parts: PageParts,
  task: FilmTask,
  room: RenderRoom,
): Promise<void> {
  const { onOrder, put, onProgress, signal } = room;
  await inChromium({
    answer: (path) =>
      path === "" ? webPage(scene, sounds, assets, parts, { work: { kind: "film", task } }) : undefined,
    take: async (path, sent) => {
      const bytes = await sent.bytes();
      if (path === "order") await onOrder(JSON.parse(bytes.toString("utf8")));
      else if (path === "progress") onProgress?.(JSON.parse(bytes.toString("utf8")));
      else if (path.startsWith("piece/")) await put(path.slice("piece/".length), bytes);
    },
    failure: cannotRender,
    signal,
  });
}

const cannotRender = (what: string) =>
  new BumbrelError({
    code: "film-failed",
    what: what.replace(/\.$/, ""),
    where: "the film",
    remedy: "Look at the scene in the workbench: Deliver lists what is wrong with it",
  });
