import { get as httpGet, request as httpRequest, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { FILM_SETTINGS } from "@bumbrel/core/document/film/film";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { Take } from "@bumbrel/core/document/take/take";
import { takeToFile } from "@bumbrel/core/document/take/takeFile";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { newSound } from "@bumbrel/core/sound/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import pino from "pino";
import { projects as projectRows } from "../db/schema";
import type { PageParts } from "../deliver/pageCode";
import { Door } from "../door/door";
import { guardedServer } from "../door/guardedServer";
import { FeedRoom } from "../feed/feedRoom";
import { FilmJobs } from "../film/filmJobs";
import { AnalysisStore } from "../store/analyses";
import { AssetStore } from "../store/assets";
import { BlobStore, CHUNK_BYTES } from "../store/blobs";
import { cleanUp as removeUnused } from "../store/cleanUp";
import { FilmStore } from "../store/films";
import { ProjectStore } from "../store/projects";
import { SoundStore } from "../store/sounds";
import { DATABASES, openData, type TestData } from "../testing/openData";
import { createApp } from "./app";
import { parseRange } from "./range";
import { Room } from "./room";

const FACTS = {
  originalRateHz: 44_100,
  channels: 1,
  durationS: 3,
  peak: 0.5,
  integratedLufs: -23,
  bandPrint: [0, 0.5, 1],
};

/** The same tests against the embedded database and, over the wire, against a database server. */
describe.each(DATABASES)("the HTTP side, database %s", (kind) => {
  let data: TestData;
  let jobs: FilmJobs;
  let sounds: SoundStore;
  let server: Server;
  let base: string;

  beforeAll(async () => {
    data = await openData(kind);
    const { db, dataDir } = data;
    const blobs = new BlobStore(db);
    sounds = new SoundStore(db, blobs);
    const assets = new AssetStore(db, blobs);
    const projects = new ProjectStore(db);
    const films = new FilmStore(db, blobs);
    const page = PAGE_PARTS;
    jobs = new FilmJobs({
      db,
      stores: { projects, sounds, assets },
      films,
      page,
      onError: (error) => {
        throw error;
      },
    });
    await jobs.open();
    const app = createApp({
      films,
      jobs,
      room: new Room(dataDir),
      projects,
      sounds,
      analyses: new AnalysisStore(db),
      assets,
      page,
      feeds: new FeedRoom({ port: 0, host: "127.0.0.1", allowed: [] }),
      studioDir: dataDir,
      personDir: dataDir,
      log: pino({ level: "silent" }),
    });
    server = guardedServer({ door: new Door({ host: "127.0.0.1", pages: "own" }), answer: app });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
  });
  afterAll(async () => {
    server.closeAllConnections();
    server.close();
    await jobs.close();
    await data.remove();
  });

  const send = async (method: string, path: string, body?: unknown) => {
    const response = await fetch(base + path, {
      method,
      ...(body !== undefined && {
        body: JSON.stringify(body),
        headers: { "Content-Type": "application/json" },
      }),
    });
    const text = await response.text();
    return { status: response.status, headers: response.headers, body: text ? JSON.parse(text) : undefined };
  };
  const create = async (scene: Scene = newScene("Quay")) =>
    (await send("POST", "/projects", { scene })).body.id as string;
  const storeSound = async (bytes: Uint8Array<ArrayBuffer>) => {
    const { id } = (await send("POST", "/sounds", { name: "Horn", facts: FACTS })).body;
    const response = await fetch(`${base}/sounds/${id}/bytes`, { method: "PUT", body: bytes });
    return { id: id as string, status: response.status };
  };
  const noise = (seed: number, length = 700_000) =>
    writeWav([Float32Array.from({ length }, (_, i) => Math.sin(i * seed))], 48_000, "pcm16");

  it("keeps a project's scene and counts its revisions", async () => {
    const id = await create();
    const scene = newScene("Renamed");
    scene.objects.push(newObject("lantern", "sphere", "Lantern"));
    scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "nothing" }));
    expect(await send("PUT", `/projects/${id}/scene`, { revision: 1, scene })).toMatchObject({
      body: { revision: 2 },
    });
    expect((await send("GET", `/projects/${id}`)).body).toMatchObject({ id, revision: 2, scene });
    const { projects } = (await send("GET", "/projects")).body;
    expect(projects.find((one: { id: string }) => one.id === id)).toMatchObject({
      name: "Renamed",
      hasThumbnail: false,
    });
  });

  it("tells a project's state at once and after each change, deletion and return included", async () => {
    const id = await create();
    const response = await fetch(`${base}/projects/${id}/events`);
    expect(response.headers.get("content-type")).toMatch("text/event-stream");
    const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
    let text = "";
    const told = async (count: number) => {
      const states = () => [...text.matchAll(/^data:(.*)$/gm)].map(([, data]) => JSON.parse(data).revision);
      while (states().length < count) text += (await reader.read()).value;
      return states();
    };
    expect(await told(1)).toEqual([1]);
    await send("PUT", `/projects/${id}/scene`, { revision: 1, scene: newScene("First"), saveId: "mine" });
    expect(await told(2)).toEqual([1, 2]);
    expect((await send("GET", `/projects/${id}`)).body.saveId).toBe("mine");
    // Another project's changes are none of its own.
    await send("DELETE", `/projects/${await create()}`);
    await send("DELETE", `/projects/${id}`);
    expect(await told(3)).toEqual([1, 2, null]);
    await send("POST", `/projects/${id}/restore`);
    expect(await told(4)).toEqual([1, 2, null, 2]);
    await reader.cancel();
  });

  it("lists projects beside one whose scene nothing here can read", async () => {
    const id = await create();
    await data.db.insert(projectRows).values({
      id: "odd",
      revision: 1,
      scene: { name: "From elsewhere", sounds: [{ kind: "whistle" }, null, 3] } as unknown as Scene,
    });
    const { status, body } = await send("GET", "/projects");
    expect(status).toBe(200);
    const names = body.projects.map((one: { id: string; name: string }) => [one.id, one.name]);
    expect(names).toEqual(
      expect.arrayContaining([
        ["odd", "From elsewhere"],
        [id, "Quay"],
      ]),
    );
    const odd = await send("GET", "/projects/odd");
    expect(odd.status).toBe(422);
    expect(odd.body.detail).toMatch(/format|version|scene/);
    await send("DELETE", "/projects/odd");
  });

  it("refuses a stale save with 409 and loses nothing", async () => {
    const id = await create();
    await send("PUT", `/projects/${id}/scene`, { revision: 1, scene: newScene("First") });
    const stale = await send("PUT", `/projects/${id}/scene`, { revision: 1, scene: newScene("Second") });
    expect(stale.status).toBe(409);
    expect(stale.headers.get("content-type")).toMatch("application/problem+json");
    expect(stale.body).toMatchObject({
      type: "urn:bumbrel:problem:stale-revision",
      status: 409,
      revision: 2,
    });
    expect((await send("GET", `/projects/${id}`)).body.scene.name).toBe("First");
  });

  it("knows a window's own save whose answer was lost, and nobody else's", async () => {
    const id = await create();
    const save = (revision: number, name: string, saveId: string, unanswered: string[] = []) =>
      send("PUT", `/projects/${id}/scene`, { revision, scene: newScene(name), saveId, unanswered });
    // The answer to the first never came: the window still builds on revision 1.
    expect((await save(1, "First", "s1")).body).toEqual({ revision: 2 });
    expect((await save(1, "Second", "s2", ["s1"])).body).toEqual({ revision: 3 });
    expect((await save(2, "Elsewhere", "other", ["s1"])).status).toBe(409);
    expect((await save(3, "Elsewhere", "other")).body).toEqual({ revision: 4 });
    expect((await save(1, "Third", "s3", ["s1", "s2"])).status).toBe(409);
    expect((await send("GET", `/projects/${id}`)).body.scene.name).toBe("Elsewhere");
  });

  it("lets exactly one of many saves at once win", async () => {
    const id = await create();
    const saves = await Promise.all(
      Array.from({ length: 8 }, (_, i) =>
        send("PUT", `/projects/${id}/scene`, { revision: 1, scene: newScene(`Save ${i}`) }),
      ),
    );
    expect(saves.filter(({ status }) => status === 200)).toHaveLength(1);
    expect(saves.filter(({ status }) => status === 409)).toHaveLength(7);
    const winner = saves.findIndex(({ status }) => status === 200);
    expect((await send("GET", `/projects/${id}`)).body.scene.name).toBe(`Save ${winner}`);
  });

  it("says what is wrong with a body, and where", async () => {
    const id = await create();
    const damaged = { ...newScene("Quay"), objects: [{ id: "a", name: "A", kind: "teapot", rest: {} }] };
    const schema = await send("PUT", `/projects/${id}/scene`, { revision: 1, scene: damaged });
    expect(schema.status).toBe(422);
    expect(schema.body.problems[0]).toMatchObject({ where: "/objects/0" });
    expect(await send("PUT", `/projects/${id}/scene`, { scene: newScene("Quay") })).toMatchObject({
      status: 400,
      body: { problems: [{ where: "/", what: expect.stringContaining("revision") }] },
    });
    expect(await send("POST", "/sounds", { name: "", facts: FACTS })).toMatchObject({ status: 400 });
    const broken = await fetch(`${base}/projects`, {
      method: "POST",
      body: "{",
      headers: { "Content-Type": "application/json" },
    });
    expect([broken.status, (await broken.json()).type]).toEqual([400, "urn:bumbrel:problem:bad-json"]);
    expect(await send("GET", "/projects/none")).toMatchObject({ status: 404 });
    expect(await send("GET", "/nowhere")).toMatchObject({ status: 404, body: { title: "Not found" } });
  });

  it("deletes so that it can be brought back, and copies", async () => {
    const id = await create(newScene("Mole"));
    const copyId = (await send("POST", "/projects", { copyOf: id })).body.id;
    expect((await send("GET", `/projects/${copyId}`)).body.scene.name).toBe("Mole copy");
    expect(await send("DELETE", `/projects/${id}`)).toMatchObject({ status: 204 });
    expect(await send("GET", `/projects/${id}`)).toMatchObject({ status: 404 });
    expect(await send("PUT", `/projects/${id}/scene`, { revision: 1, scene: newScene("x") })).toMatchObject({
      status: 404,
    });
    expect(await send("POST", `/projects/${id}/restore`)).toMatchObject({ status: 204 });
    expect((await send("GET", `/projects/${id}`)).body.scene.name).toBe("Mole");
  });

  it("holds programs of documents from elsewhere back until they are allowed, in copies as well", async () => {
    const isAllowed = async (id: string) => (await send("GET", `/projects/${id}`)).body.programsAllowed;
    const copyOf = async (id: string) => (await send("POST", "/projects", { copyOf: id })).body.id;
    const scene = newScene("Flotsam");
    expect(await isAllowed(await create(scene))).toBe(true);
    scene.programs.push({ id: "p", name: "P", kind: "drawing", code: "function draw() {}", draft: null });
    const id = await create(scene);
    expect(await isAllowed(id)).toBe(false);
    expect(await isAllowed(await copyOf(id))).toBe(false);
    expect(await send("PUT", `/projects/${id}/scene`, { revision: 1, scene })).toMatchObject({ status: 200 });
    expect(await isAllowed(id)).toBe(false);
    expect(await send("POST", `/projects/${id}/allow-programs`)).toMatchObject({ status: 204 });
    expect(await isAllowed(id)).toBe(true);
    expect(await isAllowed(await copyOf(id))).toBe(true);
    expect(await send("POST", "/projects/none/allow-programs")).toMatchObject({ status: 404 });
  });

  it("gives no document from outside the permission of another project, unless its programs are that project's", async () => {
    const isAllowed = async (id: string) => (await send("GET", `/projects/${id}`)).body.programsAllowed;
    const trusted = await create(newScene("Trusted"));
    const scene = newScene("Flotsam");
    scene.programs.push({ id: "p", name: "P", kind: "drawing", code: "function draw() {}", draft: null });
    const smuggled = (await send("POST", "/projects", { scene, copyOf: trusted })).body.id;
    expect(await isAllowed(smuggled)).toBe(false);
    expect(await send("PUT", `/projects/${trusted}/scene`, { revision: 1, scene })).toMatchObject({
      status: 200,
    });
    const kept = (await send("POST", "/projects", { scene, copyOf: trusted })).body.id;
    expect(await isAllowed(kept)).toBe(true);
  });

  it.each(["page", "folder", "csv"])("delivers no program that nobody has allowed: %s", async (way) => {
    const scene = newScene("Flotsam");
    const code = "function next() { return 0.123456; } // smuggled";
    scene.programs.push({ id: "p", name: "P", kind: "number", code, draft: null });
    scene.sounds = [newSound("tone", "t", "Tone")];
    const strand = newStrand(scene, "s", "Peak", { kind: "sound", id: "t", tap: "before" });
    strand.measure = MEASURES.peak.defaults;
    scene.strands.push(strand);
    const id = await create(scene);
    const read = async () => {
      const response = await fetch(`${base}/deliver/${id}/${way}`);
      expect(response.status).toBe(200);
      return Buffer.from(await response.arrayBuffer()).toString("latin1");
    };
    expect(await read()).not.toContain("smuggled");
    await send("POST", `/projects/${id}/allow-programs`);
    if (way === "page") expect(await read()).toContain("smuggled");
  });

  it("takes no film that is longer than the tape, and no more films than it can keep track of", async () => {
    const scene = newScene("Long");
    scene.sounds = [{ ...newSound("tone", "t", "Tone"), seconds: 30 } as Scene["sounds"][number]];
    const id = await create(scene);
    const settings = defaultsOf(FILM_SETTINGS);
    const order = (toS: number) =>
      send("POST", `/projects/${id}/films`, { settings, stretch: { fromS: 0, toS } });
    const began = performance.now();
    expect(await order(86_400)).toMatchObject({ status: 422, body: { detail: /30\.0 s long/ } });
    expect(performance.now() - began).toBeLessThan(1000);
    const answers = await Promise.all(Array.from({ length: 50 }, () => order(30)));
    const taken = answers.filter(({ status }) => status === 201);
    expect(taken).toHaveLength(8);
    expect(answers.filter(({ status }) => status === 429)).toHaveLength(42);
    expect(await order(30)).toMatchObject({ status: 429, body: { detail: /8 films/ } });
    for (const { body } of taken) await send("DELETE", `/films/${body.id}`);
    expect((await order(30)).status).toBe(201);
  });

  it("lists deleted projects, and removes them for good when asked", async () => {
    const [kept, gone] = [await create(newScene("Kept in the bin")), await create(newScene("Gone"))];
    for (const id of [kept, gone]) await send("DELETE", `/projects/${id}`);
    const { projects } = (await send("GET", "/bin")).body;
    const listed = projects.find((one: { id: string }) => one.id === kept);
    expect(listed.name).toBe("Kept in the bin");
    expect(Date.parse(listed.goneAt) - Date.parse(listed.deletedAt)).toBe(30 * 24 * 3600 * 1000);
    expect((await send("DELETE", `/bin/${gone}`)).status).toBe(204);
    expect((await send("DELETE", `/bin/${gone}`)).status).toBe(404);
    expect((await send("POST", `/projects/${gone}/restore`)).status).toBe(404);
    expect((await send("POST", `/projects/${kept}/restore`)).status).toBe(204);
    // One that is not in the bin is none of its business.
    expect((await send("DELETE", `/bin/${kept}`)).status).toBe(404);
    expect((await send("GET", `/projects/${kept}`)).status).toBe(200);
  });

  it("frees space: projects deleted long ago, then unused sounds, then their bytes", async () => {
    const [used, unused, binned] = [
      await storeSound(noise(0.61, 900)),
      await storeSound(noise(0.62, 900)),
      await storeSound(noise(0.63, 900)),
    ];
    const with_ = async (name: string, storedId: string) => {
      const scene = newScene(name);
      scene.sounds.push({ ...newSoundBasics("s", "S"), kind: "file", storedId });
      return create(scene);
    };
    await with_("Uses it", used.id);
    await send("DELETE", `/projects/${await with_("Used it", binned.id)}`);
    const has = async ({ id }: { id: string }) => (await fetch(`${base}/sounds/${id}/bytes`)).status === 200;
    const { usedBytes } = (await send("GET", "/storage")).body;
    await removeUnused(data.db);
    expect([await has(used), await has(unused), await has(binned)]).toEqual([true, true, true]);
    const later = Date.now() + 31 * 24 * 3600 * 1000;
    const done = await removeUnused(data.db, later);
    expect(done.projects).toBeGreaterThanOrEqual(1);
    expect(done.blobs).toBeGreaterThanOrEqual(2);
    expect([await has(used), await has(unused), await has(binned)]).toEqual([true, false, false]);
    const after = (await send("GET", "/storage")).body;
    expect(after.usedBytes).toBeLessThanOrEqual(usedBytes - 2 * 1800);
    expect(after.freeBytes).toBeGreaterThan(0);
  });

  it("keeps a project's thumbnail, and nothing that is none", async () => {
    const id = await create();
    const jpeg = Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 1, 2, 3);
    const put = (body: Uint8Array<ArrayBuffer>, type: string) =>
      fetch(`${base}/projects/${id}/thumbnail`, { method: "PUT", body, headers: { "Content-Type": type } });
    expect((await put(Uint8Array.of(1, 2, 3, 4), "image/jpeg")).status).toBe(400);
    expect((await put(jpeg, "image/svg+xml")).status).toBe(400);
    expect((await put(jpeg, "image/jpeg")).status).toBe(204);
    // A copy of the project begins with the same.
    const copyId = (await send("POST", "/projects", { copyOf: id })).body.id;
    for (const one of [id, copyId]) {
      const back = await fetch(`${base}/projects/${one}/thumbnail`);
      expect(new Uint8Array(await back.arrayBuffer())).toEqual(jpeg);
    }
  });

  it("stores sounds in chunks and serves any range of them", async () => {
    const bytes = noise(0.7);
    expect(bytes.length).toBeGreaterThan(5 * CHUNK_BYTES);
    const { id, status } = await storeSound(bytes);
    expect(status).toBe(204);
    const whole = await fetch(`${base}/sounds/${id}/bytes`);
    expect(whole.headers.get("accept-ranges")).toBe("bytes");
    expect(Buffer.from(await whole.arrayBuffer()).equals(Buffer.from(bytes))).toBe(true);
    for (const [first, last] of [
      [0, 0],
      [CHUNK_BYTES - 3, CHUNK_BYTES + 2],
      [10, 3 * CHUNK_BYTES],
      [bytes.length - 5, bytes.length - 1],
    ]) {
      const part = await fetch(`${base}/sounds/${id}/bytes`, {
        headers: { Range: `bytes=${first}-${last}` },
      });
      expect(part.status).toBe(206);
      expect(part.headers.get("content-range")).toBe(`bytes ${first}-${last}/${bytes.length}`);
      expect(Buffer.from(await part.arrayBuffer()).equals(Buffer.from(bytes.subarray(first, last + 1)))).toBe(
        true,
      );
    }
    const outside = await fetch(`${base}/sounds/${id}/bytes`, {
      headers: { Range: `bytes=${bytes.length}-` },
    });
    expect(outside.status).toBe(416);
    expect((await send("GET", `/sounds/${id}`)).body).toMatchObject({
      name: "Horn",
      byteLength: bytes.length,
      facts: FACTS,
    });
  });

  it("stores the same bytes once", async () => {
    const [first, second] = [await storeSound(noise(0.3, 2000)), await storeSound(noise(0.3, 2000))];
    expect(first.id).not.toBe(second.id);
    expect((await sounds.get(first.id))!.blobId).toBe((await sounds.get(second.id))!.blobId);
    expect((await sounds.get((await storeSound(noise(0.4, 2000))).id))!.blobId).not.toBe(
      (await sounds.get(first.id))!.blobId,
    );
  });

  it("refuses bytes that are no sound and keeps nothing of them", async () => {
    for (const nothing of ["RIFF____WAVE", "MThd", "RIFF____WAVEdata____and more"]) {
      expect((await storeSound(new TextEncoder().encode(nothing))).status).toBe(422);
    }
    const { id, status } = await storeSound(new TextEncoder().encode("not a sound at all"));
    expect(status).toBe(422);
    expect((await fetch(`${base}/sounds/${id}/bytes`)).status).toBe(404);
    expect((await fetch(`${base}/sounds/none/bytes`, { method: "PUT", body: noise(1, 10) })).status).toBe(
      404,
    );
  });

  const storeAsset = async (kind: string, name: string, body: Uint8Array<ArrayBuffer>) => {
    const query = new URLSearchParams({ kind, name });
    const response = await fetch(`${base}/assets?${query}`, { method: "PUT", body });
    return { status: response.status, body: await response.json() };
  };
  /** Begins as a PNG does; what follows is of no account to the store. */
  const png = (length: number) => {
    const bytes = new Uint8Array(length).fill(7);
    bytes.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
    return bytes;
  };

  it("keeps whole takes, and reports the problem of others", async () => {
    const take = new Take();
    take.record({ kind: "key", step: 5, key: "a" });
    const text = (file: object) => new TextEncoder().encode(JSON.stringify(file)) as Uint8Array<ArrayBuffer>;
    const stored = await storeAsset("take", "Walk", text(takeToFile(take)));
    expect(stored.status).toBe(201);
    const back = await fetch(`${base}/assets/${stored.body.id}/bytes`);
    expect(await back.json()).toEqual(takeToFile(take));
    const damaged = await storeAsset("take", "Walk", text({ ...takeToFile(take), lengthSteps: -4 }));
    expect(damaged.status).toBe(422);
    expect(damaged.body.detail).toMatch(/no take that can be read.*lengthSteps/);
    expect((await storeAsset("take", "Walk", png(50))).status).toBe(422);
  });

  it("stores images and models, and hands them out as nothing a browser would run", async () => {
    const image = png(3 * CHUNK_BYTES + 5);
    const stored = await storeAsset("picture", "Sail", image);
    expect(stored.status).toBe(201);
    const back = await fetch(`${base}/assets/${stored.body.id}/bytes`);
    expect(back.headers.get("content-type")).toBe("application/octet-stream");
    expect(back.headers.get("x-content-type-options")).toBe("nosniff");
    expect(Buffer.from(await back.arrayBuffer()).equals(Buffer.from(image))).toBe(true);
    const model = new TextEncoder().encode("glTF and the rest") as Uint8Array<ArrayBuffer>;
    expect((await storeAsset("model", "Boat", model)).status).toBe(201);
    expect((await fetch(`${base}/assets/none/bytes`)).status).toBe(404);
  });

  it.each([
    [
      "words for an image",
      "picture",
      new TextEncoder().encode("<svg onload='x'/>"),
      422,
      /no PNG, JPEG or WebP/,
    ],
    ["an image for a model", "model", png(64), 422, /no glTF model/],
    ["more than 64 MB", "picture", png(64 * 1024 * 1024 + 1), 422, /larger than 64 MB/],
    ["another kind of thing", "film", png(64), 400, /kind/],
  ])("refuses %s", async (_name, kind, bytes, status, words) => {
    const answer = await storeAsset(kind, "Sail", bytes as Uint8Array<ArrayBuffer>);
    expect(answer.status).toBe(status);
    expect(answer.body.detail).toMatch(words);
  });

  it("delivers a page with the images it shows, and the face of its words", async () => {
    const { id: storedId } = (await storeAsset("picture", "Sail", png(90))).body;
    const scene = newScene("Quay");
    const asset = { kind: "picture", name: "Sail", widthPx: 3, heightPx: 2 } as const;
    scene.assets.push({ ...asset, id: "shown", storedId }, { ...asset, id: "unused", storedId });
    scene.objects.push({ ...newObject("sail", "picture", "Sail"), settings: { pictureId: "shown" } });
    const page = async () => (await fetch(`${base}/deliver/${await create(scene)}/page`)).text();
    const html = await page();
    expect(html).toContain(`id="asset-shown">${Buffer.from(png(90)).toString("base64")}<`);
    expect(html).not.toContain("asset-unused");
    expect(html).not.toContain("@font-face");
    expect(html).not.toContain('id="letters"');
    scene.objects.push(newObject("words", "text", "Words"));
    expect(await page()).toContain("@font-face{}");
    expect(await page()).toContain(`id="letters">${Buffer.from([1, 2, 3]).toString("base64")}<`);
    scene.assets[0].storedId = "gone";
    const refused = await send("GET", `/deliver/${await create(scene)}/page`);
    expect(refused).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining('The image "Sail"') },
    });
  });

  it("delivers a project as an archive, and takes it back with everything in it", async () => {
    const { id: storedId } = await storeSound(noise(0.011, 300_000));
    const { id: imageId } = (await storeAsset("picture", "Sail", png(91))).body;
    const scene = newScene("Harbour mouth");
    scene.sounds.push({ ...newSoundBasics("s", "Horn"), kind: "file", storedId });
    scene.assets.push({
      ...{ kind: "picture", name: "Sail", widthPx: 3, heightPx: 2 },
      id: "sail",
      storedId: imageId,
    });
    const id = await create(scene);
    const response = await fetch(`${base}/deliver/${id}/archive`);
    expect(response.headers.get("content-type")).toBe("application/zip");
    expect(response.headers.get("content-disposition")).toContain("filename=harbour-mouth.zip");
    const zip = await response.arrayBuffer();
    const bring = async (body: BodyInit) => {
      const answer = await fetch(`${base}/archives`, {
        method: "POST",
        body,
        headers: { "Content-Type": "application/zip" },
      });
      return { status: answer.status, body: await answer.json() };
    };
    expect(await bring(zip)).toEqual({
      status: 201,
      body: { projects: [{ id, name: "Harbour mouth", isNew: false }], problems: [] },
    });
    // Once it has been changed, what is in the archive is another project, on the same sounds.
    await send("PUT", `/projects/${id}/scene`, { revision: 1, scene: { ...scene, name: "Renamed" } });
    const { body } = await bring(zip);
    expect(body.projects).toMatchObject([{ name: "Harbour mouth", isNew: true }]);
    const made = (await send("GET", `/projects/${body.projects[0].id}`)).body;
    expect(made.scene.sounds[0].storedId).toBe(storedId);
    expect(made.scene.assets[0].storedId).toBe(imageId);

    const refused = await bring(Buffer.from("no archive"));
    expect(refused.status).toBe(422);
    // Its path on the server is not told.
    expect(refused.body.detail).toBe(
      "The archive cannot be read: this is no ZIP file. Use another copy of it, or export the project again.",
    );
    expect((await fetch(`${base}/deliver/nobody/archive`)).status).toBe(404);
  });

  it("delivers a page with only the parts of the player that are used", async () => {
    const scene = newScene("Quay");
    scene.quality = "plain";
    const page = async () => (await fetch(`${base}/deliver/${await create(scene)}/page`)).text();
    const plain = await page();
    for (const code of ["start()", "share()", "compute()"]) expect(plain).toContain(code);
    for (const code of ["passOver()", "readModels()", "hear()", "listen()", "decode()"]) {
      expect(plain).not.toContain(code);
    }
    scene.quality = "desktop";
    expect(await page()).toContain("passOver()");
    scene.objects.push(newObject("boat", "model", "Boat"));
    expect(await page()).toContain("readModels()");
  });

  it("delivers a page with only the sounds that are needed, and its own policy", async () => {
    const heard = await storeSound(noise(0.11, 3001));
    const unused = await storeSound(noise(0.12, 3001));
    const scene = newScene("Quay </script><b>");
    scene.about = 'Lanterns "swing"';
    scene.sounds.push(
      { ...newSoundBasics("heard", "Heard"), kind: "file", storedId: heard.id },
      { ...newSoundBasics("unused", "Unused"), kind: "file", storedId: unused.id, heard: false },
    );
    const response = await fetch(`${base}/deliver/${await create(scene)}/page`);
    expect(response.headers.get("content-disposition")).toBe("attachment; filename=quay-scriptb.html");
    const html = await response.text();
    expect(html).toMatch(/script-src 'sha256-[^']+' 'wasm-unsafe-eval'; worker-src data:; style-src/);
    expect(html).toContain("default-src 'none'; script-src 'sha256-");
    expect(html).not.toContain("</script><b>");
    // The picture is read out by its name and what it is about.
    expect(html).toContain(
      '<canvas id="stage" role="img" aria-label="Quay &#60;/script&#62;&#60;b&#62;. Lanterns &#34;swing&#34;">',
    );
    const block = (id: string) => new RegExp(`<script[^>]* id="${id}">([^<]*)</script>`).exec(html)?.[1];
    expect(Buffer.from(block("sound-heard")!, "base64").equals(Buffer.from(noise(0.11, 3001)))).toBe(true);
    expect(block("sound-unused")).toBeUndefined();
    expect(JSON.parse(block("scene")!).name).toBe("Quay </script><b>");
    Object.assign(scene.sounds[0], { storedId: "gone" });
    expect(await send("GET", `/deliver/${await create(scene)}/page`)).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining("Heard") },
    });
  });

  it("answers to this machine's own names only", async () => {
    const port = new URL(base).port;
    const statusAs = (host: string) =>
      new Promise<number | undefined>((resolve, reject) => {
        const request = httpGet(
          { host: "127.0.0.1", port, path: "/api/projects", headers: { Host: host } },
          (response) => {
            response.resume();
            resolve(response.statusCode);
          },
        );
        request.on("error", reject);
      });
    expect(await statusAs(`localhost:${port}`)).toBe(200);
    expect(await statusAs(`127.0.0.1:${port}`)).toBe(200);
    expect(await statusAs("lanterns.example")).toBe(403);
  });

  const rawStatus = (method: string, path: string, headers: Record<string, string>) =>
    new Promise<number | undefined>((resolve, reject) => {
      const sent = httpRequest(new URL(base + path), { method, headers }, (response) => {
        response.resume();
        resolve(response.statusCode);
      });
      sent.on("error", reject);
      sent.end();
    });

  it("takes changes from its own pages only, and from programs that are no browser", async () => {
    const id = await create();
    const { host } = new URL(base);
    expect(await rawStatus("DELETE", `/projects/${id}`, { Origin: "https://elsewhere.example" })).toBe(403);
    expect(await rawStatus("DELETE", `/projects/${id}`, { Origin: "null" })).toBe(403);
    expect(await rawStatus("DELETE", `/projects/${id}`, { "Sec-Fetch-Site": "cross-site" })).toBe(403);
    expect((await send("GET", `/projects/${id}`)).status).toBe(200);
    expect(await rawStatus("DELETE", `/projects/${id}`, { Origin: `http://${host}` })).toBe(204);
    expect(await rawStatus("POST", `/projects/${id}/restore`, { Origin: "https://elsewhere.example" })).toBe(
      403,
    );
    expect(await rawStatus("GET", `/projects/${id}`, {})).toBe(404);
    expect(await rawStatus("POST", `/projects/${id}/restore`, {})).toBe(204);
  });

  it("never replaces the bytes of a sound", async () => {
    const { id } = await storeSound(noise(0.3, 5000));
    const again = await fetch(`${base}/sounds/${id}/bytes`, { method: "PUT", body: noise(0.3, 5000) });
    expect(again.status).toBe(204);
    const other = await fetch(`${base}/sounds/${id}/bytes`, { method: "PUT", body: noise(0.4, 5000) });
    expect(other.status).toBe(409);
    const kept = new Uint8Array(await (await fetch(`${base}/sounds/${id}/bytes`)).arrayBuffer());
    expect(Buffer.from(kept).equals(Buffer.from(noise(0.3, 5000)))).toBe(true);
  });

  it.each<[string, string, string, unknown]>([
    ["a zero character in a text", "POST", "/sounds", { name: "Ho\0rn", facts: FACTS }],
    ["a zero character in the address", "GET", "/projects/a%00b", undefined],
    ["a revision that no database counts to", "PUT", "/projects/x/scene", { revision: 2 ** 40, scene: {} }],
    ["an address that there is none of", "POST", "/nowhere", {}],
    ["a broken percent sign", "GET", "/projects/%E0%A4%A", undefined],
  ])("answers %s with a problem of the asker's", async (_name, method, path, body) => {
    const answer = await send(method, path, body);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    expect(answer.headers.get("content-type")).toMatch("application/problem+json");
    expect(answer.body.detail.length).toBeGreaterThan(10);
  });

  it("answers a body nested a hundred thousand deep with a problem of the asker's", async () => {
    const answer = await fetch(`${base}/projects`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: `{"scene":${"[".repeat(100_000)}${"]".repeat(100_000)}}`,
    });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    expect((await answer.json()).detail.length).toBeGreaterThan(10);
  });

  it("takes a text that only spells a zero character out", async () => {
    const scene = newScene("Quay \\u0000");
    expect((await send("GET", `/projects/${await create(scene)}`)).body.scene.name).toBe("Quay \\u0000");
  });

  it("answers unknown addresses outside the interface with a problem as well", async () => {
    const answer = await fetch(new URL("/anything", base), { method: "POST" });
    expect([answer.status, answer.headers.get("content-type")]).toEqual([
      404,
      expect.stringMatching("application/problem\\+json"),
    ]);
  });

  it("says how long a sound is when a range lies outside of it", async () => {
    const { id } = await storeSound(noise(0.5, 5000));
    const answer = await fetch(`${base}/sounds/${id}/bytes`, { headers: { Range: "bytes=9000000-" } });
    expect([answer.status, answer.headers.get("content-range")]).toEqual([
      416,
      `bytes */${noise(0.5, 5000).length}`,
    ]);
  });

  it("lets a page with an input load its own capture code, and nothing else", async () => {
    const scene = newScene("Quay");
    scene.sounds.push({ ...newSoundBasics("keys", "Keys"), kind: "keys", device: null });
    const html = await (await fetch(`${base}/deliver/${await create(scene)}/page`)).text();
    expect(html).toMatch(
      /default-src 'none'; script-src 'sha256-[^']+' 'wasm-unsafe-eval' data:; worker-src data:; style-src/,
    );
  });

  it("keeps results by their key, and drops the longest unused when there is no room", async () => {
    const key = (digit: string) => digit.repeat(64);
    const put = (name: string, body: Uint8Array<ArrayBuffer>) =>
      fetch(`${base}/analyses/${name}`, { method: "PUT", body });
    const numbers = new Uint8Array(Float32Array.of(0.25, -1, 3e-12).buffer);
    expect((await fetch(`${base}/analyses/${key("a")}`)).status).toBe(204);
    expect((await put(key("a"), numbers)).status).toBe(204);
    expect((await put(key("a"), new Uint8Array([9]))).status).toBe(204);
    const back = await fetch(`${base}/analyses/${key("a")}`);
    expect(new Uint8Array(await back.arrayBuffer())).toEqual(numbers);
    expect((await fetch(`${base}/analyses/nothing`)).status).toBe(400);
    expect((await put(key("b"), new Uint8Array(0))).status).toBe(404);
    expect((await put(key("b"), new Uint8Array(17 * 1024 * 1024))).status).toBe(413);
    const small = new AnalysisStore(data.db, 30);
    for (const digit of ["c", "d", "e"]) {
      await small.get(key("a"));
      await small.put(key(digit), numbers);
    }
    const left: string[] = [];
    for (const digit of ["a", "c", "d", "e"]) if (await small.get(key(digit))) left.push(digit);
    expect(left).toEqual(["a", "e"]);
  });

  it("answers with a strict policy for the workbench", async () => {
    const { headers } = await send("GET", "/health");
    const policy = headers.get("content-security-policy")!;
    expect(policy).toContain("script-src 'self' 'wasm-unsafe-eval';");
    expect(policy.replace("'wasm-unsafe-eval'", "")).not.toContain("unsafe");
    expect(headers.get("x-powered-by")).toBeNull();
    expect(headers.get("x-content-type-options")).toBe("nosniff");
  });
});

/** Parts of a page that do nothing. */
const PAGE_PARTS: PageParts = {
  code: {
    main: {
      entry: "main",
      modules: {
        main: { code: "start()", needs: ["shared"], mayNeed: ["passes", "gltf"], packages: [] },
        shared: { code: "share()", needs: [], mayNeed: [], packages: [] },
        passes: { code: "passOver()", needs: ["shared"], mayNeed: [], packages: [] },
        gltf: { code: "readModels()", needs: [], mayNeed: [], packages: [] },
      },
      parts: {
        effects: "passes",
        occlusion: "passes",
        models: "gltf",
        words: "shared",
        panorama: "gltf",
        lut: "passes",
        programs: "shared",
        answers: "shared",
        visits: "shared",
        bodies: "shared",
        camera: "shared",
        person: "shared",
        headset: "shared",
        inputs: "shared",
        limiter: "shared",
        film: "shared",
      },
    },
    analysis: {
      entry: "analysis",
      modules: {
        analysis: { code: "compute()", needs: [], mayNeed: ["decoder", "others"], packages: [] },
        decoder: { code: "decode()", needs: [], mayNeed: [], packages: [] },
        others: { code: "others()", needs: [], mayNeed: [], packages: [] },
      },
      parts: {
        made: "others",
        files: "decoder",
        encoded: "decoder",
        notes: "others",
        tables: "others",
        scripts: "others",
        pitch: "others",
        hits: "others",
        parts: "others",
        weighted: "others",
        beats: "others",
      },
    },
    scripts: {
      entry: "scripts",
      modules: { scripts: { code: "", needs: [], mayNeed: [], packages: [] } },
      parts: { engine: "scripts" },
    },
    live: {
      entry: "live",
      modules: {
        live: { code: "listen()", needs: [], mayNeed: ["engine"], packages: [] },
        engine: { code: "runPrograms()", needs: [], mayNeed: [], packages: [] },
      },
      parts: { scripts: "engine" },
    },
    reading: {
      entry: "reading",
      modules: {
        reading: { code: "read()", needs: [], mayNeed: ["decoder"], packages: [] },
        decoder: { code: "decode()", needs: [], mayNeed: [], packages: [] },
      },
      parts: { made: "decoder", files: "decoder", encoded: "decoder", notes: "decoder", tables: "decoder" },
    },
    model: {
      entry: "model",
      modules: { model: { code: "", needs: [], mayNeed: [], packages: [] } },
      parts: {} as never,
    },
    encode: {
      entry: "encode",
      modules: { encode: { code: "", needs: [], mayNeed: [], packages: [] } },
      parts: {},
    },
    decode: {
      entry: "decode",
      modules: { decode: { code: "", needs: [], mayNeed: [], packages: [] } },
      parts: {},
    },
  },
  notices: { own: "MIT License", packages: {} },
  worklet: "hear()",
  letters: Uint8Array.of(1, 2, 3),
  packed: async (name) => ({ file: `${name.slice(1).replace("/", "-")}.tgz`, bytes: Uint8Array.of(7) }),
  person: { page: "<script>find()</script>", files: { model: Uint8Array.of(1, 2) } },
  style: "b{}",
  font: "@font-face{}",
};

describe("parseRange", () => {
  it.each([
    ["bytes=0-9", { first: 0, last: 9 }],
    ["bytes=5-", { first: 5, last: 99 }],
    ["bytes=-10", { first: 90, last: 99 }],
    ["bytes=-500", { first: 0, last: 99 }],
    ["bytes=90-500", { first: 90, last: 99 }],
    ["bytes=9-5", undefined],
    ["bytes=0-1,3-4", undefined],
    ["lines=0-5", undefined],
    ["bytes=-", undefined],
    [undefined, undefined],
  ])("reads %s", (header, range) => {
    expect(parseRange(header, 100)).toEqual(range);
  });

  it.each(["bytes=100-", "bytes=500-600", "bytes=-0"])("refuses %s", (header) => {
    expect(() => parseRange(header, 100)).toThrow(/lies outside/);
  });
});
