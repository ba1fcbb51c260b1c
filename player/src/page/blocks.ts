import { fromBase64 } from "@bumbrel/core/format/base64";

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
  const { src } = block.dataset;
  if (src === undefined) return fromBase64(block.textContent);
  const response = await fetch(src);
  if (!response.ok) throw new Error(`${src} cannot be loaded (${response.status}).`);
  return new Uint8Array(await response.arrayBuffer());
}

/** Address of a worker's or worklet's code. A page from disk may load it from a data address only: its own origin is none. */
export function codeAddress(id: string): string {
  const block = document.getElementById(`code-${id}`);
  if (block?.dataset.src !== undefined) return block.dataset.src;
  const source = block?.textContent ?? "";
  if (source.length > LONG_SOURCE) {
    return URL.createObjectURL(new Blob([source], { type: "text/javascript" }));
  }
  return `data:text/javascript,${encodeURIComponent(source)}`;
}
