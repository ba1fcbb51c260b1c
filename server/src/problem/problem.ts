import { BumbrelError, SceneFormatError } from "@bumbrel/core/errors";
import type { Static, TSchema } from "@sinclair/typebox";
import Ajv, { type ValidateFunction } from "ajv";
import type { ErrorRequestHandler } from "express";
import type { Logger } from "pino";

/** An answer that says what went wrong, as RFC 9457 lays it out. */
export class HttpProblem extends Error {
  readonly status: number;
  readonly code: string;
  readonly more: Record<string, unknown>;
  readonly headers: Record<string, string>;

  constructor(
    status: number,
    code: string,
    detail: string,
    more: Record<string, unknown> = {},
    headers: Record<string, string> = {},
  ) {
    super(detail);
    this.headers = headers;
    this.status = status;
    this.code = code;
    this.more = more;
  }
}

export function notFound(what: string): HttpProblem {
  return new HttpProblem(404, "not-found", `${what} is not here. It may have been deleted.`);
}

/** An error of ours as an answer that says what is wrong; any other stays as it is. */
export function unusable(error: unknown): unknown {
  if (error instanceof RangeError) return new HttpProblem(400, "bad-request", `${error.message}.`);
  if (!(error instanceof BumbrelError)) return error;
  const { code, what, where, remedy } = error;
  return new HttpProblem(422, code, `${where.charAt(0).toUpperCase()}${where.slice(1)}: ${what}. ${remedy}.`);
}

const ajv = new Ajv({ allErrors: true });
const validators = new WeakMap<TSchema, ValidateFunction>();

/** @throws HttpProblem 400 naming each place that breaks the schema */
export function checked<T extends TSchema>(schema: T, body: unknown): Static<T> {
  let validate = validators.get(schema);
  if (!validate) {
    validate = ajv.compile(schema);
    validators.set(schema, validate);
  }
  if (validate(body)) return body as Static<T>;
  const problems = (validate.errors ?? []).map(({ instancePath, message }) => ({
    where: instancePath || "/",
    what: message ?? "is not as it should be",
  }));
  throw new HttpProblem(
    400,
    "bad-request",
    `The request cannot be understood: ${problems.map(({ where, what }) => `${where} ${what}`).join("; ")}.`,
    { problems },
  );
}

const TITLES: Record<number, string> = {
  400: "Bad request",
  401: "Not signed in",
  403: "Refused",
  404: "Not found",
  409: "Conflict",
  413: "Too large",
  416: "Range not satisfiable",
  422: "Cannot be used",
  429: "Too many",
  500: "Something went wrong",
  503: "Not now",
  507: "The disk is full",
};

/** Turns whatever was thrown into `application/problem+json`. */
export function problemHandler(log: Logger): ErrorRequestHandler {
  return (error, _request, response, _next) => {
    if (response.headersSent) {
      // A client that has gone is no problem; log anything else that breaks an answer off.
      if ((error as NodeJS.ErrnoException).code !== "ERR_STREAM_PREMATURE_CLOSE") log.error(error);
      response.destroy();
      return;
    }
    const problem = toProblem(error);
    if (problem.status >= 500) log.error(error);
    response
      .status(problem.status)
      .set(problem.headers)
      .type("application/problem+json")
      .send(problemBody(problem));
  };
}

/** A problem as RFC 9457 lays it out. */
export const problemBody = (problem: HttpProblem): string =>
  JSON.stringify({
    type: `urn:bumbrel:problem:${problem.code}`,
    title: TITLES[problem.status] ?? "Problem",
    status: problem.status,
    detail: problem.message,
    ...problem.more,
  });

const megabytes = (bytes: number) => Math.floor(bytes / 2 ** 20);

/** @param free  bytes that are left, if that is known */
export function diskFull(free?: number): HttpProblem {
  const left = free === undefined ? "" : ` (${megabytes(free)} MB are left)`;
  return new HttpProblem(
    507,
    "disk-full",
    `The disk that Bumbrel keeps its data on is full${left}. Nothing that was saved is lost: free some space, and this is saved.`,
  );
}

/** PostgreSQL's own code of what went wrong, if the error comes from there. */
function databaseCodeOf(error: unknown): string | undefined {
  for (let one = error; one instanceof Error; one = one.cause) {
    const { code } = one as { code?: unknown };
    if (typeof code === "string" && /^[0-9A-Z]{5}$/.test(code)) return code;
  }
  return undefined;
}

/** System error codes of connections that are closed or not open yet. */
const AWAY_SYSTEM: ReadonlySet<string> = new Set([
  "ECONNREFUSED",
  "ECONNRESET",
  "ENOTFOUND",
  "ENOENT",
  "EPIPE",
  "ETIMEDOUT",
  "EHOSTUNREACH",
]);
/** The server shuts down, starts, or takes no more connections; a connection was lost. */
const AWAY_DATABASE = /^(57P0[1-5]|53300|08)/;
/** Messages of the driver that have no code. */
const AWAY_WORDS =
  /^(Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|Connection ended)/i;

/** True if an error comes from a database that cannot be reached. */
function isDatabaseAway(error: unknown, databaseCode: string | undefined): boolean {
  if (databaseCode !== undefined && AWAY_DATABASE.test(databaseCode)) return true;
  for (let one = error; one instanceof Error; one = one.cause) {
    const { code, syscall } = one as NodeJS.ErrnoException;
    if (
      code !== undefined &&
      AWAY_SYSTEM.has(code) &&
      (syscall === "connect" || syscall === "read" || syscall === "write" || syscall === "getaddrinfo")
    )
      return true;
    if (AWAY_WORDS.test(one.message)) return true;
    if (one instanceof AggregateError && one.errors.some((inner) => isDatabaseAway(inner, undefined)))
      return true;
  }
  return false;
}

/** Turns anything that was thrown into a problem. */
export function toProblem(error: unknown): HttpProblem {
  if (error instanceof HttpProblem) return error;
  if (error instanceof SceneFormatError) {
    return new HttpProblem(422, error.code, error.message, { problems: error.problems });
  }
  if (error instanceof BumbrelError) return new HttpProblem(422, error.code, error.message);
  const code = databaseCodeOf(error);
  if (code === "53100") return diskFull();
  if (code === "25006") {
    return new HttpProblem(
      503,
      "read-only",
      "Nothing can be saved: the database does not open, and this is a copy of it to be looked at only.",
    );
  }
  if (isDatabaseAway(error, code)) {
    return new HttpProblem(
      503,
      "database-away",
      "The database does not answer at the moment. What was saved is safe; this is tried again by itself.",
      {},
      { "Retry-After": "2" },
    );
  }
  const { status, type } = error as { status?: number; type?: string };
  if (status === 413)
    return new HttpProblem(413, "too-large", "The request is larger than this server accepts.");
  if (type === "entity.parse.failed") return new HttpProblem(400, "bad-json", "The request is not JSON.");
  if (status && status >= 400 && status < 500) {
    return new HttpProblem(status, "bad-request", "The request cannot be understood.");
  }
  return new HttpProblem(
    500,
    "internal",
    "The server could not finish this. What was saved before is safe; try again, and look at its log if it stays so.",
  );
}
