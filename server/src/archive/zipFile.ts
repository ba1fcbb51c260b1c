import { type FileHandle, open } from "node:fs/promises";
import { createInflateRaw } from "node:zlib";

/** A file inside a ZIP file. */
export interface ZipEntry {
  path: string;
  /** How its bytes are kept: as they are, or deflated. */
  method: "stored" | "deflated";
  /** Offset of its bytes in the ZIP file. */
  offset: number;
  /** Bytes that it takes there; `undefined` where the ZIP file is damaged and they have to be found. */
  packedBytes: number | undefined;
  /** Bytes that it says it has. */
  bytes: number | undefined;
}

const LOCAL = 0x04034b50;
const CENTRAL = 0x02014b50;
const END = 0x06054b50;
const LOCAL_BYTES = 30;
const CENTRAL_BYTES = 46;
const END_BYTES = 22;
const MOST_COMMENT = 65_535;
const METHODS: Record<number, ZipEntry["method"]> = { 0: "stored", 8: "deflated" };
/** Size and signature after data whose size was not known before. */
const DESCRIBED = 8;
const PIECE_BYTES = 256 * 1024;

/**
 * A ZIP file, read entry by entry and never held whole. Of a damaged one, whatever is whole is found: where its directory is
 * gone, its files are looked for one after the other.
 *
 * Format: APPNOTE.TXT 6.3, without encryption and ZIP64.
 */
export class ZipFile {
  /** The entries by their paths; of two with one path the first. */
  readonly entries: ReadonlyMap<string, ZipEntry>;
  /** True if its directory was whole. */
  readonly isWhole: boolean;
  private readonly file: FileHandle;

  private constructor(file: FileHandle, entries: readonly ZipEntry[], isWhole: boolean) {
    this.file = file;
    this.entries = new Map([...entries].reverse().map((entry) => [entry.path, entry]));
    this.isWhole = isWhole;
  }

  /**
   * Opens a ZIP file.
   *
   * @param mostEntries  more are not looked at
   */
  static async open(path: string, mostEntries: number): Promise<ZipFile> {
    const file = await open(path, "r");
    try {
      const { size } = await file.stat();
      const listed = await directoryOf(file, size, mostEntries);
      return new ZipFile(file, listed ?? (await scan(file, size, mostEntries)), listed !== undefined);
    } catch (error) {
      await file.close();
      throw error;
    }
  }

  /**
   * The bytes of an entry.
   *
   * @param mostBytes  throws a RangeError when there are more: a small file can claim to hold terabytes
   */
  async *read(entry: ZipEntry, mostBytes: number): AsyncGenerator<Uint8Array> {
    const packed = pieces(this.file, entry.offset, entry.packedBytes ?? Number.POSITIVE_INFINITY);
    let count = 0;
    for await (const piece of entry.method === "stored" ? packed : inflated(packed)) {
      const isCut =
        entry.method === "stored" && entry.packedBytes === undefined && count + piece.length > mostBytes;
      // If the end of the stored bytes is not known, take as many as there should be.
      const part = isCut ? piece.subarray(0, mostBytes - count) : piece;
      count += part.length;
      if (count > mostBytes) throw new RangeError(`more than ${mostBytes} bytes`);
      yield part;
      if (isCut) return;
    }
  }

  close(): Promise<void> {
    return this.file.close();
  }
}

async function bytesAt(file: FileHandle, at: number, count: number): Promise<Buffer> {
  const buffer = Buffer.alloc(count);
  const { bytesRead } = await file.read(buffer, 0, count, at);
  return buffer.subarray(0, bytesRead);
}

async function* pieces(file: FileHandle, offset: number, count: number): AsyncGenerator<Uint8Array> {
  for (let at = offset; at < offset + count; ) {
    const piece = await bytesAt(file, at, Math.min(PIECE_BYTES, offset + count - at));
    if (piece.length === 0) return;
    at += piece.length;
    yield piece;
  }
}

/** Inflates up to the end of what was deflated; damage throws. */
async function* inflated(packed: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const inflate = createInflateRaw();
  let isOver = false;
  const feed = async () => {
    for await (const piece of packed) {
      if (isOver) return;
      if (!inflate.write(piece))
        await new Promise<void>((resolve) => {
          inflate.once("drain", resolve);
          inflate.once("close", resolve);
        });
    }
    inflate.end();
  };
  const feeding = feed().catch((error) => void inflate.destroy(error));
  try {
    for await (const piece of inflate) yield piece;
  } finally {
    isOver = true;
    inflate.destroy();
    await feeding;
  }
}

/** The entries that the directory at the end lists; `undefined` when it is not there or does not hold. */
async function directoryOf(
  file: FileHandle,
  size: number,
  mostEntries: number,
): Promise<ZipEntry[] | undefined> {
  const tailAt = Math.max(0, size - END_BYTES - MOST_COMMENT);
  const tail = await bytesAt(file, tailAt, size - tailAt);
  let end = tail.length - END_BYTES;
  while (end >= 0 && tail.readUInt32LE(end) !== END) end--;
  if (end < 0) return undefined;
  const count = tail.readUInt16LE(end + 10);
  const bytes = tail.readUInt32LE(end + 12);
  const at = tail.readUInt32LE(end + 16);
  if (at + bytes > size || count > mostEntries) return undefined;
  const directory = await bytesAt(file, at, bytes);
  const entries: ZipEntry[] = [];
  for (let i = 0, from = 0; i < count; i++) {
    if (from + CENTRAL_BYTES > directory.length || directory.readUInt32LE(from) !== CENTRAL) return undefined;
    const packedBytes = directory.readUInt32LE(from + 20);
    const [nameBytes, extraBytes, commentBytes] = [28, 30, 32].map((k) => directory.readUInt16LE(from + k));
    const path = directory.toString("utf8", from + CENTRAL_BYTES, from + CENTRAL_BYTES + nameBytes);
    const method = METHODS[directory.readUInt16LE(from + 10)];
    const localAt = directory.readUInt32LE(from + 42);
    const local = await bytesAt(file, localAt, LOCAL_BYTES);
    if (local.length < LOCAL_BYTES || local.readUInt32LE(0) !== LOCAL) return undefined;
    const offset = localAt + LOCAL_BYTES + local.readUInt16LE(26) + local.readUInt16LE(28);
    if (offset + packedBytes > size) return undefined;
    if (method) entries.push({ path, method, offset, packedBytes, bytes: directory.readUInt32LE(from + 24) });
    from += CENTRAL_BYTES + nameBytes + extraBytes + commentBytes;
  }
  return entries;
}

/** Looks for entries by their headers, wherever they stand. */
async function scan(file: FileHandle, size: number, mostEntries: number): Promise<ZipEntry[]> {
  const entries: ZipEntry[] = [];
  const overlap = 3;
  for (let at = 0; at < size && entries.length < mostEntries; ) {
    const window = await bytesAt(file, at, PIECE_BYTES);
    if (window.length < LOCAL_BYTES) break;
    const found = window.indexOf("PK\x03\x04", 0, "latin1");
    if (found < 0) {
      at += window.length - overlap;
      continue;
    }
    const header = await bytesAt(file, at + found, LOCAL_BYTES);
    if (header.length < LOCAL_BYTES) break;
    const entry = await localEntry(file, at + found, header);
    if (entry) entries.push(entry);
    // Do not skip the stored bytes: it may hold the next header, if these were cut short.
    at = entry ? entry.offset + (entry.packedBytes ?? 0) : at + found + 4;
  }
  return entries;
}

async function localEntry(file: FileHandle, at: number, header: Buffer): Promise<ZipEntry | undefined> {
  const method = METHODS[header.readUInt16LE(8)];
  const nameBytes = header.readUInt16LE(26);
  if (!method || nameBytes === 0 || nameBytes > 400) return undefined;
  const name = await bytesAt(file, at + LOCAL_BYTES, nameBytes);
  const path = name.toString("utf8");
  if (name.length < nameBytes || /[^\w./-]/.test(path)) return undefined;
  const isDescribed = (header.readUInt16LE(6) & DESCRIBED) !== 0;
  return {
    path,
    method,
    offset: at + LOCAL_BYTES + nameBytes + header.readUInt16LE(28),
    packedBytes: isDescribed ? undefined : header.readUInt32LE(18),
    bytes: isDescribed ? undefined : header.readUInt32LE(22),
  };
}
