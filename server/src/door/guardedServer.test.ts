import { readdirSync, readFileSync } from "node:fs";
import { request } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "@jest/globals";
import { breakConnections } from "../testing/brokenConnections";
import { Door, type DoorSettings } from "./door";
import { guardedServer } from "./guardedServer";

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
});

/** Sources of the rooms that run in Node. */
function sourcesOf(...rooms: string[]): string[] {
  return rooms.flatMap((room) =>
    readdirSync(room, { recursive: true, encoding: "utf8" })
      .filter((file) => file.endsWith(".ts") && !file.endsWith(".test.ts") && !file.includes("testing"))
      .map((file) => join(room, file)),
  );
}

async function serving(settings: Partial<DoorSettings> = {}) {
  const server = guardedServer({
    door: new Door({ host: "127.0.0.1", pages: "own", ...settings }),
    answer: (asked, response) => {
      if (asked.url === "/throws") throw new Error("inside");
      response.end("inside");
    },
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  closing.push(() => {
    server.closeAllConnections();
    server.close();
  });
  const { port } = server.address() as AddressInfo;
  const ask = (method: string, headers: Record<string, string> = {}, path = "/") =>
    new Promise<number>((resolve, reject) => {
      request({ port, host: "127.0.0.1", method, path, headers }, (response) => {
        response.resume();
        resolve(response.statusCode!);
      })
        .on("error", reject)
        .end();
    });
  return { ask, port };
}

describe("a guarded port", () => {
  it("is the only kind there is: nothing else in the product opens one", () => {
    const opening = sourcesOf("server/src", "cli/src").filter((file) =>
      /\bcreateServer\b|new WebSocketServer\(\{(?! noServer: true)|\bapp\.listen\(/.test(
        readFileSync(file, "utf8"),
      ),
    );
    expect(opening).toEqual(["server/src/door/guardedServer.ts"]);
    const guarded = sourcesOf("server/src", "cli/src").filter(
      (file) => /\bguardedServer\(/.test(readFileSync(file, "utf8")) && !opening.includes(file),
    );
    expect(guarded.sort()).toEqual([
      "server/src/chromium/inChromium.ts",
      "server/src/feed/feedServer.ts",
      "server/src/serve.ts",
    ]);
  });

  it("answers under its own names, and lets its own pages alone change anything", async () => {
    const { ask, port } = await serving();
    const own = `127.0.0.1:${port}`;
    expect(await ask("GET")).toBe(200);
    expect(await ask("GET", { Host: "evil.example" })).toBe(403);
    expect(await ask("GET", { Host: "localhost.evil.example:80" })).toBe(403);
    expect(await ask("POST", { Origin: `http://${own}` })).toBe(200);
    expect(await ask("POST", { Origin: "http://evil.example" })).toBe(403);
    expect(await ask("POST", { Origin: "null" })).toBe(403);
    expect(await ask("POST", { Origin: `http://127.0.0.1:${port + 1}` })).toBe(403);
    // The port speaks http: a page of https is somebody else's.
    expect(await ask("POST", { Origin: `https://${own}` })).toBe(403);
    expect(await ask("POST", { "Sec-Fetch-Site": "cross-site" })).toBe(403);
    expect(await ask("POST")).toBe(200);
  });

  it("has no other protocol unless somebody speaks it, and outlives every connection and error", async () => {
    const { ask, port } = await serving();
    expect(await ask("GET", { Connection: "Upgrade", Upgrade: "websocket" })).toBe(404);
    expect(await ask("GET", {}, "/throws")).toBe(500);
    await breakConnections(port, 126);
    expect(await ask("GET")).toBe(200);
  });
});
