import { randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { mkdtemp, readFile, rm } from "node:fs/promises";
import type { IncomingMessage, ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { Door } from "../door/door";
import { guardedServer } from "../door/guardedServer";
import { openInChromium } from "./chromium";

/** Work that a page does in a browser without a window. */
export interface PageWork {
  /** The page itself, and files that it asks for by their paths. */
  answer(path: string): AsyncIterable<Uint8Array | string> | undefined;
  /** Takes what the page sends to a path, which lies on the disk until this has resolved; `done`, `failed` and `lost` end the work and are not among them. */
  take(path: string, sent: Sent): Promise<void> | void;
  /** The reason why it cannot be done, as an error that says so. */
  failure(what: string): Error;
  signal?: AbortSignal | undefined;
}

/** Data that a page has sent. */
export interface Sent {
  /** Reads it; whoever needs it in memory holds it then. */
  bytes(): Promise<Buffer>;
}

/** The browser ended while a page worked in it; that says nothing about the work, which can be tried again. */
export class BrowserLost extends Error {}

/** Nothing that a page sends at once is larger, and all of it together is not. */
const MOST_BYTES = 2 ** 31;
const MOST_BYTES_IN_ALL = 2 ** 34;
/** Words that end the work are no longer. */
const MOST_WORDS = 64 * 1024;

/**
 * Has a page work in the installed Chromium, without a window, beside a server that only this machine can reach and only
 * the page knows the address of.
 *
 * @throws what `failure` gives when the page fails or the browser ends; the signal's reason when it is stopped
 */
export async function inChromium({ answer, take, failure, signal }: PageWork): Promise<void> {
  signal?.throwIfAborted();
  let end: (error?: Error) => void = () => {};
  const ended = new Promise<void>((resolve, reject) => {
    end = (error) => (error ? reject(error) : resolve());
  });
  ended.catch(() => {});
  const base = `/${randomUUID()}/`;
  const folder = await mkdtemp(join(tmpdir(), "bumbrel-page-"));
  let received = 0;
  let files = 0;
  const hear = async (path: string, request: IncomingMessage) => {
    const isEnd = path === "done" || path === "lost" || path === "failed";
    const file = join(folder, String(files++));
    try {
      await pipeline(
        bounded(request, isEnd ? MOST_WORDS : MOST_BYTES, (bytes) => {
          received += bytes;
          if (received > MOST_BYTES_IN_ALL) throw new RangeError("the page sent too much");
        }),
        createWriteStream(file),
      );
      const bytes = () => readFile(file);
      if (path === "done") end();
      else if (isEnd) {
        const words = (await bytes()).toString("utf8");
        end(path === "lost" ? new BrowserLost(words) : failure(words));
      } else await take(path, { bytes });
    } finally {
      await rm(file, { force: true });
    }
  };
  const door = new Door({ host: "127.0.0.1", pages: "own" });
  const serve = (request: IncomingMessage, response: ServerResponse) => {
    const path = request.url?.startsWith(base) ? request.url.slice(base.length) : undefined;
    const isSent = request.method === "POST";
    const answered = path === undefined || isSent ? undefined : answer(path);
    if (path === undefined || !(isSent || answered)) {
      response.writeHead(404).end();
      return;
    }
    const work = answered
      ? pipeline(
          Readable.from(answered),
          response.writeHead(200, path === "" ? { "Content-Type": "text/html; charset=utf-8" } : {}),
        )
      : hear(path, request).then(() => void response.writeHead(204).end());
    work.catch((error: Error) => {
      if (!response.headersSent) response.writeHead(500).end();
      end(error);
    });
  };
  const server = guardedServer({ door, answer: serve });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  const close = async () => {
    server.closeAllConnections();
    server.close();
    await rm(folder, { recursive: true, force: true });
  };
  const stop = () => end(signal!.reason as Error);
  signal?.addEventListener("abort", stop);
  let closeBrowser = () => {};
  try {
    signal?.throwIfAborted();
    closeBrowser = openInChromium(port, base, {
      onFailed: (why) => end(new Error(why)),
      onThrown: (message) => end(failure(message)),
      onLost: (why) => end(new BrowserLost(why)),
    });
    await ended;
  } finally {
    signal?.removeEventListener("abort", stop);
    closeBrowser();
    await close();
  }
}

/** @param count  is told of each piece, and throws when it is one too many */
async function* bounded(
  bytes: AsyncIterable<Buffer>,
  most: number,
  count: (bytes: number) => void,
): AsyncGenerator<Buffer> {
  let size = 0;
  for await (const piece of bytes) {
    size += piece.length;
    if (size > most) throw new RangeError("the page sent too much at once");
    count(piece.length);
    yield piece;
  }
}
