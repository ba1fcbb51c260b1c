import type { RequestHandler } from "express";
import { freeBytesAt } from "../db/disk";
import { diskFull } from "../problem/problem";

/** Space that the database needs for its own ends: nothing new is taken when less is left. */
export const RESERVE_BYTES = 96 * 2 ** 20;

/** How much room the disk of a folder has, and what to say when it is not enough. */
export class Room {
  readonly folder: string;

  constructor(folder: string) {
    this.folder = folder;
  }

  /** Free bytes; `undefined` when that cannot be told. */
  freeBytes(): number | undefined {
    try {
      return freeBytesAt(this.folder);
    } catch {
      return undefined;
    }
  }

  /** @throws HttpProblem 507 when so many bytes more would use up what the database needs for itself */
  readonly assert = (bytes = 0): void => {
    const free = this.freeBytes();
    if (free === undefined || free - bytes >= RESERVE_BYTES) return;
    throw diskFull(free);
  };
}

/** Refuses what would be kept while the disk is full; deleting goes on. */
export function needsRoom(room: Room): RequestHandler {
  return (request, _response, next) => {
    if (request.method === "PUT" || request.method === "POST") {
      room.assert(Number(request.headers["content-length"] ?? 0));
    }
    next();
  };
}
