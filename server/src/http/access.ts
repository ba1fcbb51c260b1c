import { createHash, createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import { mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import express, { type RequestHandler, Router } from "express";
import { rateLimit } from "express-rate-limit";
import { HttpProblem } from "./problem";

/** How long signing in holds. */
const SESSION_MS = 30 * 24 * 3600 * 1000;
const COOKIE = "bumbrel_session";
export const SIGN_IN = "/sign-in";
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
  const shown = randomBytes(32).toString("base64url");
  writeFileSync(`${path}.new`, `${hashOf(shown).toString("hex")}\n`, { mode: 0o600 });
  renameSync(`${path}.new`, path);
  return { hash: hashOf(shown), shown };
}

/** The value of the session cookie: its end, and a signature by the token's hash, so that a new token ends all sessions. */
function sessionUntil(untilMs: number, hash: Buffer): string {
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

/**
 * Lets only those in who have the access token: by a cookie that the sign-in page gives, or as `Authorization: Bearer`.
 *
 * @param isSecure  whether the server speaks TLS, so that the cookie never travels without
 */
export function requireToken({ hash }: AccessToken, isSecure: boolean): Router {
  const router = Router();
  const guessing = rateLimit({
    windowMs: 60_000,
    limit: TRIES_A_MINUTE,
    standardHeaders: "draft-8",
    legacyHeaders: false,
    skipSuccessfulRequests: true,
    handler: () => {
      throw new HttpProblem(429, "too-many-tries", "Too many wrong tokens. Wait a minute and try again.");
    },
  });

  router.get(SIGN_IN, (_request, response) => {
    response.type("html").set("Cache-Control", "no-store").send(signInPage(""));
  });
  router.post(
    SIGN_IN,
    guessing,
    express.urlencoded({ extended: false, limit: "4kb" }),
    (request, response) => {
      const { token } = (request.body ?? {}) as { token?: unknown };
      if (typeof token !== "string" || !isSame(hashOf(token.trim()), hash)) {
        response
          .status(401)
          .type("html")
          .set("Cache-Control", "no-store")
          .send(signInPage("This is not the token. It was shown where Bumbrel was started."));
        return;
      }
      response.cookie(COOKIE, sessionUntil(Date.now() + SESSION_MS, hash), {
        httpOnly: true,
        sameSite: "strict",
        secure: isSecure,
        maxAge: SESSION_MS,
        encode: String,
      });
      response.redirect(303, "/");
    },
  );

  const onlyInsiders: RequestHandler = (request, response, next) => {
    const session = cookieOf(request.headers.cookie);
    if (session !== undefined && isSession(session, hash)) {
      next();
      return;
    }
    const [, bearer] = /^Bearer (\S+)$/i.exec(request.headers.authorization ?? "") ?? [];
    if (bearer !== undefined && isSame(hashOf(bearer), hash)) {
      next();
      return;
    }
    if (!request.path.startsWith("/api/") && request.method === "GET") {
      response.redirect(303, SIGN_IN);
      return;
    }
    response.set("WWW-Authenticate", "Bearer");
    throw new HttpProblem(401, "sign-in-first", "Sign in with the access token first.");
  };
  router.use((request, response, next) => {
    // A wrong bearer counts as a try as well.
    if (request.headers.authorization === undefined) onlyInsiders(request, response, next);
    else
      guessing(request, response, (error) => (error ? next(error) : onlyInsiders(request, response, next)));
  });
  return router;
}

/** Nothing of it needs styles or scripts, which the policy would have to let in. */
function signInPage(note: string): string {
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Sign in to Bumbrel</title>
<h1>Bumbrel</h1>
<form method="post" action="${SIGN_IN}">
<p><label for="token">Access token</label></p>
<p><input id="token" name="token" type="password" autocomplete="current-password" size="48" required autofocus></p>
<p role="alert">${note}</p>
<p><button>Sign in</button></p>
<p>The token was shown where this server was started. Starting it with <code>--new-token</code> makes another.</p>
</form>
</html>
`;
}
