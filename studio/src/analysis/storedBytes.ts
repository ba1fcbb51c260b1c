import { SoundFormatError } from "@bumbrel/core/errors";
import type { ByteSource } from "@bumbrel/core/format/samples/wav";

/** Fetched at once to begin with: the headers of a file, and all of a small one. */
const HEAD_BYTES = 256 * 1024;

/** Stored bytes, and the name of their content: the same bytes have the same, whatever they are stored as. */
export interface StoredBytes extends ByteSource {
  content: string | undefined;
  /** All bytes from one to before another, as they arrive. */
  stream(from: number, to: number): AsyncGenerator<Uint8Array>;
}

const brokenOff = () =>
  new SoundFormatError({
    code: "sound-broken-off",
    what: "the server stopped in the middle of its bytes",
    where: "",
    remedy: "Check that the server runs, then reload the page",
  });

/**
 * A stored sound's bytes, fetched in the parts that are asked for.
 *
 * @throws SoundFormatError when the server does not give them
 */
export async function storedBytes(url: string): Promise<StoredBytes> {
  const fetchPart = async (first: number, last: number, cache: RequestCache = "default") => {
    const headers = { Range: `bytes=${first}-${last}` };
    const response = await fetch(url, { headers, cache }).catch(() => undefined);
    if (response?.ok) return response;
    const isGone = response?.status === 404;
    throw new SoundFormatError({
      code: "sound-not-there",
      what: isGone
        ? "its bytes are not stored any more"
        : response
          ? `the server answered ${response.status} when asked for its bytes`
          : "the server does not answer",
      where: "",
      remedy: isGone ? "Replace it with its file" : "Check that the server runs, then reload the page",
    });
  };
  const response = await fetchPart(0, HEAD_BYTES - 1);
  const head = new Uint8Array(await response.arrayBuffer());
  const total = /\/(\d+)$/.exec(response.headers.get("Content-Range") ?? "")?.[1];
  const size = total === undefined ? head.length : Number(total);
  return {
    size,
    content: response.headers.get("ETag") ?? undefined,
    // The browser would copy a long sound to its own disk as it comes.
    stream: async function* (from, to) {
      const reader = (await fetchPart(from, to - 1, "no-store")).body!.getReader();
      for (;;) {
        const { done, value } = await reader.read().catch(() => {
          throw brokenOff();
        });
        if (done) return;
        yield value;
      }
    },
    read: async (offset, length) => {
      if (length === 0) return new Uint8Array(0);
      if (offset + length <= head.length) return head.subarray(offset, offset + length);
      const part = await fetchPart(offset, offset + length - 1);
      return new Uint8Array(await part.arrayBuffer());
    },
  };
}
