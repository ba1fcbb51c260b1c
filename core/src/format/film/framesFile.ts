import { unzipSync, Zip, ZipPassThrough, zipSync } from "fflate";

const FOLDER = "frames/";

/** Name of a frame's file: as many digits as sort by themselves. */
const nameOf = (frame: number, image: string): string =>
  `${FOLDER}${String(frame).padStart(6, "0")}.${image === "jpeg" ? "jpg" : image}`;

/**
 * Images of frames in a row, as a ZIP file that holds them as they are.
 *
 * @param from  number of the first one in the film
 */
export const framesFile = (images: readonly Uint8Array[], from: number, image: string): Uint8Array =>
  zipSync(Object.fromEntries(images.map((bytes, i) => [nameOf(from + i, image), bytes])), {
    level: 0,
    mtime: FIXED_TIME,
  });

/** Files carry no time: two renders are equal to the byte. */
const FIXED_TIME = new Date(1980, 0, 1, 12);

/** A file in a ZIP file. */
export interface ZippedFile {
  name: string;
  bytes: Uint8Array;
}

/** The frames in a ZIP file of them, in order. */
export const framesIn = (zip: Uint8Array): ZippedFile[] =>
  Object.entries(unzipSync(zip, { filter: ({ name }) => isFrame(name) })).map(([name, bytes]) => ({
    name,
    bytes,
  }));

/** True for the name of a frame's file. */
export const isFrame = (name: string): boolean => name.startsWith(FOLDER);

/**
 * Puts frames and other files into a ZIP file, written as it is made.
 *
 * @param frames  in order
 * @param others  further files, piece by piece
 * @param write  called with what comes next, one call after the other
 * @returns the number of frames
 */
export async function writeFrames(
  frames: AsyncIterable<ZippedFile>,
  others: Readonly<Record<string, AsyncIterable<Uint8Array>>>,
  write: (bytes: Uint8Array) => Promise<void>,
): Promise<number> {
  const waiting: Uint8Array[] = [];
  let failure: Error | undefined;
  const zip = new Zip((error, data) => {
    if (error) failure = error;
    else waiting.push(data);
  });
  const flush = async () => {
    if (failure) throw failure;
    for (const bytes of waiting.splice(0)) await write(bytes);
  };
  const open = (name: string) => {
    const file = new ZipPassThrough(name);
    file.mtime = FIXED_TIME;
    zip.add(file);
    return file;
  };
  let count = 0;
  for await (const { name, bytes } of frames) {
    open(name).push(bytes, true);
    count++;
    await flush();
  }
  for (const [name, parts] of Object.entries(others)) {
    const file = open(name);
    for await (const bytes of parts) {
      file.push(bytes, false);
      await flush();
    }
    file.push(new Uint8Array(0), true);
  }
  zip.end();
  await flush();
  return count;
}
