import { describe, expect, it } from "@jest/globals";
import { toProblem } from "./problem";

const coded = (code: string, more: Record<string, unknown> = {}) =>
  Object.assign(new Error("x"), { code, ...more });

describe("what went wrong, as an answer", () => {
  it.each([
    ["refused by the system", coded("ECONNREFUSED", { syscall: "connect" })],
    ["reset while it was read from", coded("ECONNRESET", { syscall: "read" })],
    ["shut down by its administrator", coded("57P01")],
    ["starting up", coded("57P03")],
    ["full", coded("53300")],
    ["broken off, in the driver's words", new Error("Connection terminated unexpectedly")],
    ["tried at several addresses", new AggregateError([coded("ECONNREFUSED", { syscall: "connect" })])],
    ["wrapped by the query", new Error("Failed query", { cause: coded("57P01") })],
  ])("says that a database is away: %s", (_words, error) => {
    expect(toProblem(error)).toMatchObject({
      status: 503,
      code: "database-away",
      headers: { "Retry-After": "2" },
    });
  });

  it("keeps everything else apart from that", () => {
    expect(toProblem(coded("ENOENT", { syscall: "open" })).status).toBe(500);
    expect(toProblem(coded("23505")).status).toBe(500);
    expect(toProblem(coded("53100")).status).toBe(507);
    expect(toProblem(new Error("anything")).status).toBe(500);
  });
});
