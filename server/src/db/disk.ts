import { statfsSync } from "node:fs";

/**
 * Free bytes on the disk of a file or folder.
 *
 * @throws Error when it is not there
 */
export function freeBytesAt(path: string): number {
  const { bavail, bsize } = statfsSync(path);
  return bavail * bsize;
}
