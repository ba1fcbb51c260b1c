import { randomUUID } from "node:crypto";
import { createServer, type IncomingMessage } from "node:http";
import type { AddressInfo } from "node:net";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { FilmOrder, FilmTask } from "@bumbrel/core/document/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import type { Stores } from "../archive/stores";
import { type PageParts, webPage } from "../deliver/page";
import { startChromium } from "./chromium";

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

/** No piece is larger. */
const MOST_BYTES = 2 ** 31;

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
  room.signal?.throwIfAborted();
  let end: (error?: Error) => void = () => {};
  const ended = new Promise<void>((resolve, reject) => {
    end = (error) => (error ? reject(error) : resolve());
  });
  ended.catch(() => {});
  // Only the page knows the address.
  const base = `/${randomUUID()}/`;
  const take = async (path: string, request: IncomingMessage): Promise<void> => {
    const bytes = await bodyOf(request);
    const text = () => bytes.toString("utf8");
    if (path === "order") await room.onOrder(JSON.parse(text()));
    else if (path === "progress") room.onProgress?.(JSON.parse(text()));
    else if (path.startsWith("piece/")) await room.put(path.slice("piece/".length), bytes);
    else if (path === "failed") end(cannotRender(text()));
    else if (path === "done") end();
  };
  const server = createServer((request, response) => {
    const path = request.url ?? "";
    if (!path.startsWith(base)) {
      response.writeHead(404).end();
      return;
    }
    const work =
      request.method === "POST"
        ? take(path.slice(base.length), request).then(() => void response.writeHead(204).end())
        : pipeline(
            Readable.from(webPage(scene, sounds, assets, parts, task)),
            response.writeHead(200, { "Content-Type": "text/html; charset=utf-8" }),
          );
    work.catch((error: Error) => {
      if (!response.headersSent) response.writeHead(500).end();
      end(error);
    });
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const browser = await startChromium();
  const stop = () => end(room.signal!.reason as Error);
  room.signal?.addEventListener("abort", stop);
  const lost = () => end(cannotRender("The browser ended before the film was whole."));
  browser.on("disconnected", lost);
  try {
    const page = await browser.newPage();
    page.on("crash", () => end(cannotRender("The browser ran out of memory or its graphics gave up.")));
    page.on("pageerror", (error) => end(cannotRender(error.message)));
    await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}${base}`, {
      waitUntil: "commit",
    });
    await ended;
  } finally {
    room.signal?.removeEventListener("abort", stop);
    browser.off("disconnected", lost);
    await browser.close().catch(() => {});
    server.closeAllConnections();
    server.close();
  }
}

const cannotRender = (what: string) =>
  new BumbrelError({
    code: "film-failed",
    what,
    where: "the film",
    remedy: "Look at the scene in the workbench: Deliver lists what is wrong with it",
  });

async function bodyOf(request: IncomingMessage): Promise<Buffer> {
  const pieces: Buffer[] = [];
  let size = 0;
  for await (const piece of request as AsyncIterable<Buffer>) {
    size += piece.length;
    if (size > MOST_BYTES) throw new RangeError("a piece of the film is too large");
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}
