import { createHash, createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import { mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import type { IncomingMessage } from "node:http";
import { join } from "node:path";
import { MemoryStore } from "express-rate-limit";
import { HttpProblem } from "../problem/problem";

/** How long signing in holds. */
export const SESSION_MS = 30 * 24 * 3600 * 1000;
export const COOKIE = "bumbrel_session";
/** Wrong tokens that are taken from one address in a minute: with 256 random bits in a token, far from enough to guess. */
const TRIES_A_MINUTE = 10;

const hashOf = (token: string) => createHash("sha256").update(token).digest();
const isSame = (a: Uint8Array, b: Uint8Array) => a.length === b.length && timingSafeEqual(a, b);

/** The access token of a data folder: only its hash is kept, so that it is shown once and can be replaced. */
export interface AccessToken {
  hash: Buffer;
  /** The token itself, when it has just been made. */
  shown: string | undefined;
}

/**
 * The access token that a folder's server asks for; one is made when there is none.
 *
 * @param isNew  makes another: the one of before opens nothing any more
 */
export function accessToken(dataDir: string, isNew: boolean): AccessToken {
  const path = join(dataDir, "access-token.sha256");
  if (!isNew) {
    try {
      const hash = Buffer.from(readFileSync(path, "utf8").trim(), "hex");
      if (hash.length === 32) return { hash, shown: undefined };
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    }
  }
  mkdirSync(dataDir, { recursive: true });
  const made = newToken();
  writeFileSync(`${path}.new`, `${made.hash.toString("hex")}\n`, { mode: 0o600 });
  renameSync(`${path}.new`, path);
  return made;
}

/** A token that nobody has had before, of 256 random bits. */
export function newToken(): AccessToken {
  const shown = randomBytes(32).toString("base64url");
  return { hash: hashOf(shown), shown };
}

/** The value of the session cookie: its end, and a signature by the token's hash, so that a new token ends all sessions. */
export function sessionUntil(untilMs: number, hash: Buffer): string {
  const signature = createHmac("sha256", hash).update(`session ${untilMs}`).digest("base64url");
  return `${untilMs}.${signature}`;
}

function isSession(value: string, hash: Buffer): boolean {
  const untilMs = Number(value.split(".")[0]);
  return untilMs > Date.now() && isSame(Buffer.from(value), Buffer.from(sessionUntil(untilMs, hash)));
}

function cookieOf(header: string | undefined): string | undefined {
  for (const part of (header ?? "").split(";")) {
    const [name, value] = part.trim().split("=");
    if (name === COOKIE) return value;
  }
  return undefined;
}

/** Credential of a request: a session or the token itself, a wrong one, or none. */
export type Shown = "right" | "wrong" | "nothing";

/** Tells who has the access token, and how often wrong ones may be tried. */
export class Access {
  private readonly hash: Buffer;
  private readonly tries = new MemoryStore();

  constructor({ hash }: AccessToken) {
    this.hash = hash;
    this.tries.init({ windowMs: 60_000 } as Parameters<MemoryStore["init"]>[0]);
  }

  isToken(text: unknown): boolean {
    return typeof text === "string" && isSame(hashOf(text.trim()), this.hash);
  }

  /** A session that begins now, as its cookie says it. */
  newSession(): string {
    return sessionUntil(Date.now() + SESSION_MS, this.hash);
  }

  /** @param query  `token` of the address, for those who cannot send headers */
  shownBy({ headers }: IncomingMessage, query?: string | null): Shown {
    const session = cookieOf(headers.cookie);
    if (session !== undefined && isSession(session, this.hash)) return "right";
    const [, bearer] = /^Bearer (\S+)$/i.exec(headers.authorization ?? "") ?? [];
    const given = bearer ?? query ?? undefined;
    if (given === undefined) return headers.authorization === undefined ? "nothing" : "wrong";
    return this.isToken(given) ? "right" : "wrong";
  }

  /**
   * Counts a wrong token. Right ones are never counted: nobody can lock out who has it.
   *
   * @throws HttpProblem 429 (as a rejection) after too many from one address
   */
  async countWrong({ socket }: IncomingMessage): Promise<void> {
    const { totalHits } = await this.tries.increment(socket.remoteAddress ?? "");
    if (totalHits <= TRIES_A_MINUTE) return;
    throw new HttpProblem(429, "too-many-tries", "Too many wrong tokens. Wait a minute and try again.");
  }

  close(): void {
    this.tries.shutdown();
  }
}
