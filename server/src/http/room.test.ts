import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import express from "express";
import pino from "pino";
import { problemHandler } from "../problem/problem";
import { needsRoom, RESERVE_BYTES, Room } from "./room";

class FakeRoom extends Room {
  free = 0;
  override freeBytes() {
    return this.free;
  }
}

describe("a disk that is nearly full", () => {
  const room = new FakeRoom(tmpdir());
  let server: Server;
  let base: string;
  beforeAll(async () => {
    const app = express();
    app.use(needsRoom(room));
    app.use((_request, response) => {
      response.status(204).end();
    });
    app.use(problemHandler(pino({ level: "silent" })));
    server = app.listen(0, "127.0.0.1");
    await new Promise((resolve) => server.once("listening", resolve));
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
  });
  afterAll(() => {
    server.close();
  });
  const ask = async (method: string, body?: string) => {
    const response = await fetch(base, { method, body });
    return { status: response.status, text: await response.text() };
  };

  it("refuses uploads that would use up the space of the database, and says so; reading and deleting still work", async () => {
    room.free = RESERVE_BYTES - 2 ** 20;
    for (const method of ["PUT", "POST"]) {
      const { status, text } = await ask(method, "{}");
      expect(status).toBe(507);
      expect(JSON.parse(text).detail).toMatch(/is full \(95 MB are left\)\. Nothing that was saved is lost/);
    }
    expect((await ask("GET")).status).toBe(204);
    expect((await ask("DELETE")).status).toBe(204);
    room.free = RESERVE_BYTES + 1000;
    expect((await ask("PUT", "x".repeat(500))).status).toBe(204);
    // A body that would not fit is refused before any of it is taken.
    expect((await ask("PUT", "x".repeat(1500))).status).toBe(507);
  });

  it("is asked about at the real disk", () => {
    const real = new Room(tmpdir());
    expect(real.freeBytes()).toBeGreaterThan(0);
    expect(() => real.assert(1e18)).toThrow(/is full/);
    expect(new Room("/nowhere/at/all").freeBytes()).toBeUndefined();
  });
});
