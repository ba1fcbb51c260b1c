import { Zip, ZipDeflate, ZipPassThrough } from "fflate";

/** A file on its way into a ZIP file. */
export type ZipSource = { path: string } & (
  | { text: string }
  | { size: number; bytes: () => AsyncIterable<Uint8Array> }
);

/** A single piece as a stream of them. */
export async function* onePiece<T>(piece: T): AsyncGenerator<T> {
  yield piece;
}

/** A file whose bytes are at hand. */
export const heldFile = (path: string, bytes: Uint8Array): ZipSource => ({
  path,
  size: bytes.length,
  bytes: () => onePiece(bytes),
});

/** A ZIP file of these files, piece by piece: texts are packed, all else goes in as it is. */
export async function* zipped(sources: readonly ZipSource[], madeAt: Date): AsyncGenerator<Uint8Array> {
  const ready: Uint8Array[] = [];
  const zip = new Zip((error, piece) => {
    if (error) throw error;
    ready.push(piece);
  });
  for (const source of sources) {
    const entry =
      "text" in source ? new ZipDeflate(source.path, { level: 6 }) : new ZipPassThrough(source.path);
    entry.mtime = madeAt;
    zip.add(entry);
    if ("text" in source) entry.push(new TextEncoder().encode(source.text), true);
    else {
      for await (const piece of source.bytes()) {
        entry.push(piece);
        yield* ready.splice(0);
      }
      entry.push(new Uint8Array(0), true);
    }
    yield* ready.splice(0);
  }
  zip.end();
  yield* ready.splice(0);
}
