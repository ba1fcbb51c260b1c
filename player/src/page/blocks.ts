import { fromBase64 } from "@bumbrel/core/format/bytes/base64";

/** Browsers take addresses of two million characters; escaped, code is up to twice as long. */
const LONG_SOURCE = 1_000_000;

export const textOf = (id: string): string => document.getElementById(id)?.textContent ?? "";

/**
 * A block of data: in the page itself, or in a file beside it that the block names.
 *
 * @returns `undefined` when there is no such block
 * @throws Error when its file cannot be loaded
 */
export async function bytesOf(id: string): Promise<Uint8Array | undefined> {
  const block = document.getElementById(id);
  if (!block) return undefined;
  const { src, packed } = block.dataset;
  if (src === undefined) {
    const bytes = fromBase64(block.textContent ?? "");
    return packed === "gzip" ? await unpacked(bytes) : bytes;
  }
  const response = await fetch(src);
  if (!response.ok) throw new Error(`${src} cannot be loaded (${response.status}).`);
  return new Uint8Array(await response.arrayBuffer());
}

/** The same for a block that stands after the script: waits until all of the page has come. */
export async function lateBytesOf(id: string): Promise<Uint8Array | undefined> {
  if (document.readyState === "loading") {
    await new Promise((resolve) => document.addEventListener("DOMContentLoaded", resolve, { once: true }));
  }
  return bytesOf(id);
}

async function unpacked(bytes: Uint8Array): Promise<Uint8Array> {
  const stream = new Blob([bytes as Uint8Array<ArrayBuffer>]).stream();
  return new Uint8Array(
    await new Response(stream.pipeThrough(new DecompressionStream("gzip"))).arrayBuffer(),
  );
}

/** Code of a worker or worklet: where its file is, or the code itself where the page carries it. */
export interface BlockCode {
  file?: string | undefined;
  source: string;
}

/** The code of a worker or worklet; empty where the page has none of that name. */
export function codeOf(id: string): BlockCode {
  const block = document.getElementById(`code-${id}`);
  const src = block?.dataset.src;
  return {
    file: src === undefined ? undefined : new URL(src, document.baseURI).href,
    source: block?.textContent ?? "",
  };
}

/** Address to load code from. A page from disk may load it from a data address only: its own origin is none. */
export function addressOf({ file, source }: BlockCode): string {
  if (file !== undefined) return file;
  if (source.length > LONG_SOURCE) {
    return URL.createObjectURL(new Blob([source], { type: "text/javascript" }));
  }
  return `data:text/javascript,${encodeURIComponent(source)}`;
}

export const codeAddress = (id: string): string => addressOf(codeOf(id));
