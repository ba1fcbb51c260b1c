import { BumbrelError } from "@bumbrel/core/errors";
import type { ZipEntry } from "./zipFile";

/** Bytes that everything in an archive has at most, once it is unpacked. */
const MOST_BYTES = 16 * 2 ** 30;
/** Larger compression ratios are refused: such files are meant to fill disks. Small files may have them. */
const MOST_RATIO = 40;
const SMALL_BYTES = 32 * 2 ** 20;
/** Seconds of work on an archive, and more for each megabyte that it unpacks to. */
const MOST_S = 30;
const S_A_MEGABYTE = 0.5;

/** Bounds what an archive may unpack to and how long that takes, while it is read. */
export class ArchiveBudget {
  private bytes = 0;
  private readonly beganMs: number;
  private readonly path: string;
  private readonly now: () => number;

  /** @param path  of the archive, for words */
  constructor(path: string, now: () => number = () => performance.now()) {
    this.path = path;
    this.now = now;
    this.beganMs = now();
  }

  /**
   * Counts bytes of an entry as they come.
   *
   * @param unpacked  bytes of this entry so far
   * @throws BumbrelError beyond what an archive may be
   */
  count(entry: ZipEntry, piece: number, unpacked: number): void {
    this.bytes += piece;
    const { packedBytes, path } = entry;
    if (packedBytes !== undefined && unpacked > SMALL_BYTES && unpacked > MOST_RATIO * packedBytes)
      throw this.refusal(`${path} unpacks to more than ${MOST_RATIO} times its size`);
    if (this.bytes > MOST_BYTES) throw this.refusal(`it unpacks to more than ${MOST_BYTES / 2 ** 30} GB`);
    this.assertTime();
  }

  assertTime(): void {
    const tookS = (this.now() - this.beganMs) / 1000;
    if (tookS > MOST_S + (S_A_MEGABYTE * this.bytes) / 2 ** 20)
      throw this.refusal("reading it takes too long for what is in it");
  }

  private refusal(what: string): BumbrelError {
    return new BumbrelError({
      code: "archive-too-large",
      what,
      where: this.path,
      remedy: "Export fewer projects at once",
    });
  }
}
