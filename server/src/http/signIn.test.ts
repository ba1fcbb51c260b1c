import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import express from "express";
import pino from "pino";
import { Access, type AccessToken, accessToken } from "../door/access";
import { problemHandler } from "../problem/problem";
import { requireToken, SIGN_IN } from "./signIn";

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A server that answers "inside" to whoever is let in. */
async function serving(token: AccessToken) {
  const app = express();
  const access = new Access(token);
  app.use(requireToken(access, false));
  app.use((_request, response) => {
    response.send("inside");
  });
  app.use(problemHandler(pino({ level: "silent" })));
  const server: Server = app.listen(0, "127.0.0.1");
  await new Promise((resolve) => server.once("listening", resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const ask = (path: string, headers: Record<string, string> = {}) =>
    fetch(base + path, { headers, redirect: "manual" });
  const signIn = (given: string) =>
    fetch(base + SIGN_IN, {
      method: "POST",
      body: new URLSearchParams({ token: given }),
      redirect: "manual",
    });
  return { ask, signIn, close: () => [server.close(), access.close()] };
}

describe("accessToken", () => {
  it("is shown once, kept as a hash, and stays until another is asked for", () => {
    const first = accessToken(folder, false);
    expect(first.shown).toMatch(/^[\w-]{43}$/);
    expect(readFileSync(join(folder, "access-token.sha256"), "utf8")).not.toContain(first.shown);
    expect(accessToken(folder, false)).toEqual({ hash: first.hash, shown: undefined });
    const second = accessToken(folder, true);
    expect(second.shown).not.toBe(first.shown);
    expect(accessToken(folder, false).hash.equals(second.hash)).toBe(true);
  });
});

describe("requireToken", () => {
  it("lets nobody in without: pages lead to signing in, everything else is refused", async () => {
    const { ask, close } = await serving(accessToken(folder, true));
    const page = await ask("/projects/1/stage");
    expect([page.status, page.headers.get("location")]).toEqual([303, SIGN_IN]);
    const api = await ask("/api/projects");
    expect([api.status, api.headers.get("content-type")]).toEqual([
      401,
      expect.stringMatching("application/problem\\+json"),
    ]);
    expect((await ask(SIGN_IN)).status).toBe(200);
    close();
  });

  it("lets in whoever gives the token, by cookie or by header, until there is another", async () => {
    const token = accessToken(folder, true);
    const { ask, signIn, close } = await serving(token);
    const answer = await signIn(token.shown!);
    expect([answer.status, answer.headers.get("location")]).toEqual([303, "/"]);
    const cookie = answer.headers.get("set-cookie")!;
    expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
    expect(cookie).not.toContain(token.shown);
    const held = { Cookie: cookie.split(";")[0] };
    expect(await (await ask("/api/projects", held)).text()).toBe("inside");
    expect(await (await ask("/api/projects", { Authorization: `Bearer ${token.shown}` })).text()).toBe(
      "inside",
    );
    const later = { Cookie: held.Cookie.replace(/=(\d)/, (_, digit) => `=${(Number(digit) % 9) + 1}`) };
    expect((await ask("/api/projects", later)).status).toBe(401);
    close();
    const renewed = await serving(accessToken(folder, true));
    expect((await renewed.ask("/api/projects", held)).status).toBe(401);
    renewed.close();
  });

  it("takes ten wrong tokens a minute, and then none for a while", async () => {
    const token = accessToken(folder, true);
    const { ask, signIn, close } = await serving(token);
    for (let i = 0; i < 5; i++) expect((await signIn(`guess ${i}`)).status).toBe(401);
    for (let i = 0; i < 5; i++) {
      expect((await ask("/api/projects", { Authorization: `Bearer guess${i}` })).status).toBe(401);
    }
    expect((await signIn("guess")).status).toBe(429);
    expect((await ask("/api/projects", { Authorization: "Bearer guess" })).status).toBe(429);
    close();
  });

  it("never keeps out who has the token: forty at once, and after others have guessed", async () => {
    const token = accessToken(folder, true);
    const { ask, signIn, close } = await serving(token);
    const right = { Authorization: `Bearer ${token.shown}` };
    const statuses = async () =>
      new Set(
        await Promise.all(Array.from({ length: 40 }, async () => (await ask("/api/projects", right)).status)),
      );
    expect(await statuses()).toEqual(new Set([200]));
    for (let i = 0; i < 30; i++) await signIn(`guess ${i}`);
    expect((await signIn("guess")).status).toBe(429);
    expect(await statuses()).toEqual(new Set([200]));
    expect((await signIn(token.shown!)).status).toBe(303);
    close();
  });
});
