import { execFileSync, spawn, spawnSync } from "node:child_process";
import { createSocket } from "node:dgram";
import { once } from "node:events";
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { extname, join } from "node:path";
import { gzipSync } from "node:zlib";
import { MADE_WAYS, WAYS_OUT } from "@bumbrel/api/waysOut";
import { planNumbers } from "@bumbrel/core/analyse/numbersPlan";
import { analysePlan } from "@bumbrel/core/analyse/planned";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import { finish } from "@bumbrel/core/dsp/maths/slices";
import { readCurves } from "@bumbrel/core/format/curves";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { type MadeSound, newSoundBasics, SOUND_KINDS } from "@bumbrel/core/sound/kinds";
import { madeSoundData } from "@bumbrel/core/sound/made";
import { MEASURE_KINDS, MEASURES } from "@bumbrel/core/strand/measures/table";
import { trackValueAt } from "@bumbrel/core/strand/track";
import { makeDrumPiece } from "@bumbrel/demo/pieces/drumPiece";
import { expect, type Page, test } from "@playwright/test";
import validator from "gltf-validator";
import { parseMidi } from "midi-file";
import { fromBuffer } from "osc-min";
import Papa from "papaparse";
import { CC, PYTHON } from "../tools/setup.mjs";
import { FULL } from "./support/full";
import { complaintsOf, openDemo } from "./support/helpers";
import { TestServer } from "./support/server";

/** Files of the worked example that a game takes away. */
const ROOM = mkdtempSync(join(tmpdir(), "bumbrel-handover-"));
const KIT = join(ROOM, "music");
const ROOT = join(import.meta.dirname, "..");
const server = new TestServer();

const bumbrel = (...args: string[]) =>
  execFileSync(process.execPath, [join(ROOT, "cli/bin/bumbrel.mjs"), ...args], { encoding: "utf8" });
const node = (folder: string, ...args: string[]) =>
  execFileSync(process.execPath, args, {
    cwd: folder,
    encoding: "utf8",
    maxBuffer: 2 ** 28,
    env: { ...process.env, FORCE_COLOR: "0" },
  });

/** The worked example for a game that draws it with three.js. */
const PLAYER_KIT = join(ROOM, "staged");

/** An empty project into which the package of a kit is installed, as its README says. */
function installed(name: string, kit = KIT): string {
  const folder = join(ROOM, name);
  mkdirSync(folder, { recursive: true });
  if (!existsSync(join(folder, "package.json")))
    writeFileSync(join(folder, "package.json"), '{ "name": "game", "private": true, "type": "module" }');
  for (const file of readdirSync(kit)) cpSync(join(kit, file), join(folder, file), { recursive: true });
  const [, file, three] = /npm install \.\/(\S+\.tgz)( three)?/.exec(
    readFileSync(join(kit, "README.md"), "utf8"),
  )!;
  // three.js comes from this checkout instead of the registry.
  const named = [`./${file}`, ...(three ? [join(ROOT, "node_modules/three")] : [])];
  execFileSync("npm", ["install", ...named, "--offline", "--no-audit", "--no-fund", "--silent"], {
    cwd: folder,
  });
  return folder;
}

/** The first piece of JavaScript after a heading. */
const codeAfter = (text: string, heading: string): string =>
  /```js\n([\s\S]*?)```/.exec(text.slice(text.indexOf(heading)))![1];

const TYPES: Record<string, string> = {
  ".html": "text/html",
  ".js": "text/javascript",
  ".css": "text/css",
  ".json": "application/json",
};
/** A host of static files, and nothing else. */
async function hostOf(folder: string) {
  const host = createServer((request, response) => {
    const path = join(folder, decodeURIComponent(new URL(request.url!, "http://host").pathname));
    if (path.endsWith("favicon.ico")) {
      response.writeHead(204).end();
      return;
    }
    if (!path.startsWith(folder) || !existsSync(path) || statSync(path).isDirectory()) {
      response.writeHead(404).end();
      return;
    }
    response.writeHead(200, { "Content-Type": TYPES[extname(path)] ?? "application/octet-stream" });
    response.end(readFileSync(path));
  });
  await new Promise<void>((resolve) => host.listen(0, "127.0.0.1", resolve));
  const { port } = host.address() as AddressInfo;
  return { address: `http://127.0.0.1:${port}`, close: () => void host.close() };
}

test.beforeAll(async () => {
  test.setTimeout(120_000);
  bumbrel("deliver", "--example", "regatta-night", "--as", "numbers", "--out", KIT);
  bumbrel("deliver", "--example", "regatta-night", "--as", "player", "--out", PLAYER_KIT);
  await server.start();
});
test.afterAll(async () => {
  await server.remove();
  rmSync(ROOM, { recursive: true, force: true });
});

/** Times at which numbers are compared: on frames and between them, before the start and after the end. */
const TIMES = [-1, 0, 0.004, ...Array.from({ length: 16 }, (_none, i) => 1.237 + i * 2.9131), 60];

test("a stranger gets from an empty folder to numbers by the README's lines", () => {
  const folder = installed("empty");
  const own = readFileSync(join(folder, "node_modules/@bumbrel/runtime/README.md"), "utf8");
  writeFileSync(join(folder, "first.mjs"), codeAfter(own, "## Baked"));
  const rows = node(folder, "first.mjs").trim().split("\n");
  expect(rows.length).toBe(readCurves(readFileSync(join(KIT, "numbers.curves"))).curves.length);
  for (const row of rows) expect(row).toMatch(/^\S.* \d+(\.\d+)?(e-\d+)?$/);
  // The types are those of the code.
  writeFileSync(
    join(folder, "typed.ts"),
    `import { openBaked, type Numbers, type Strand } from "@bumbrel/runtime";
import { computeNumbers } from "@bumbrel/runtime/compute";
import { listen, openFeed, type LiveNumbers } from "@bumbrel/runtime/live";
const numbers: Numbers = openBaked(new ArrayBuffer(0));
const strand: Strand = numbers.strand("Glow");
const value: number = strand.at(1, 2);
export const other: Promise<Numbers> = computeNumbers(JSON.parse("{}"), { Song: new Float32Array(3) });
export const live: Promise<LiveNumbers> = listen(JSON.parse("{}"), null as unknown as AudioNode);
(await openFeed(JSON.parse("{}"))).feed(new Float32Array(value));
// @ts-expect-error
strand.at("1");
`,
  );
  const tsc = join(ROOT, "node_modules/typescript/bin/tsc");
  const flags = [
    "--noEmit",
    "--strict",
    "--target",
    "es2022",
    "--module",
    "nodenext",
    "--lib",
    "es2022,dom",
    "--types",
    "",
  ];
  node(folder, tsc, ...flags, "typed.ts");
});

/** A ball that swells with a tone. */
function simpleScene() {
  const scene = newProject("Ball");
  scene.quality = "plain";
  scene.sounds.push({
    ...newSoundBasics("tone", "Tone"),
    kind: "tone",
    ...defaultsOf(SOUND_KINDS.tone.settings),
  } as never);
  scene.strands.push(newStrand(scene, "level", "Level", { kind: "sound", id: "tone", tap: "before" }));
  const ball = newObject("ball", "sphere", "Ball");
  scene.objects.push(ball);
  scene.bindings.push(newBinding("swell", "level", ball, "scale"));
  return scene;
}

test("what is taken away is small", async ({ request }) => {
  const packed = (path: string) => gzipSync(readFileSync(path), { level: 9 }).length / 1024;
  for (const name of ["index", "compute", "live"])
    expect(packed(join(ROOT, `runtime/dist/${name}.js`))).toBeLessThanOrEqual(15);
  // The player's entry, and everything that it loads at once.
  const dist = join(ROOT, "player/package/dist");
  const entry = readFileSync(join(dist, "index.js"), "utf8");
  const atOnce = [...entry.matchAll(/(?:from|import)\s*"\.\/([^"]+)"/g)].map(([, file]) => file);
  const bytes = ["index.js", ...atOnce].map((file) => packed(join(dist, file)) * 1024);
  expect(bytes.reduce((sum, one) => sum + one, 0) / 1000).toBeLessThanOrEqual(60);
  const curves = readFileSync(join(KIT, "numbers.curves"));
  const read = readCurves(curves).curves;
  const minutes = read.reduce((sum, { values }) => sum + values.length / 6000, 0);
  expect(curves.length / 1000 / minutes).toBeLessThanOrEqual(15);
  expect(gzipSync(curves, { level: 9 }).length / 1000 / minutes).toBeLessThanOrEqual(6);
  // A page of a simple scene, which has no stored sound.
  const created = await request.post(`${server.address}/api/projects`, { data: { scene: simpleScene() } });
  const { id } = await created.json();
  for (const numbers of ["computed", "baked"]) {
    const answer = await request.get(`${server.address}/api/deliver/${id}/page?numbers=${numbers}`);
    const body = await answer.body();
    expect(gzipSync(body, { level: 9 }).length / 1000).toBeLessThanOrEqual(250);
    expect(body.toString()).toContain("MIT License");
    expect(body.toString()).toMatch(/^--- three \d/m);
  }
});

test("packages and pages may be used: under MIT, with the licences of what is inside", () => {
  for (const room of ["runtime", "player/package"]) {
    const folder = join(ROOT, room);
    const { license, files } = JSON.parse(readFileSync(join(folder, "package.json"), "utf8"));
    expect(license).toBe("MIT");
    for (const name of ["LICENSE", "THIRD-PARTY-NOTICES.txt"]) expect(files).toContain(name);
    expect(readFileSync(join(folder, "LICENSE"), "utf8")).toContain("Permission is hereby granted");
  }
  const notices = readFileSync(join(ROOT, "player/package/THIRD-PARTY-NOTICES.txt"), "utf8");
  for (const name of ["@dimforge/rapier3d-deterministic-compat", "quickjs-emscripten-core", "opentype.js"])
    expect(notices).toContain(`--- ${name} `);
});

test("the types of the runtime fit without those of pages or Node", () => {
  const folder = mkdtempSync(join(tmpdir(), "bumbrel-types-"));
  const imports = ["index", "compute", "live"].map(
    (name) => `export * as ${name} from ${JSON.stringify(join(ROOT, `runtime/dist/${name}.js`))};`,
  );
  writeFileSync(join(folder, "all.ts"), imports.join("\n"));
  const compilerOptions = {
    lib: ["ES2022"],
    types: [],
    strict: true,
    module: "ESNext",
    moduleResolution: "bundler",
    noEmit: true,
    skipLibCheck: false,
  };
  writeFileSync(join(folder, "tsconfig.json"), JSON.stringify({ compilerOptions, files: ["all.ts"] }));
  const tsc = join(ROOT, "node_modules/typescript/bin/tsc");
  const { status, stdout } = spawnSync(process.execPath, [tsc, "-p", folder], { encoding: "utf8" });
  expect({ status, stdout }).toEqual({ status: 0, stdout: "" });
  rmSync(folder, { recursive: true });
});

test("a page carries what hears pitches, beats and parts where its strands do", async ({ page, request }) => {
  const complaints = complaintsOf(page);
  const scene = simpleScene();
  scene.strands[0].measure = { ...MEASURES.pitch.defaults };
  scene.strands.push(
    newStrand(
      scene,
      "beat",
      "Beat",
      { kind: "sound", id: "tone", tap: "before" },
      {
        ...MEASURES.beatPhase.defaults,
      },
    ),
  );
  scene.bindings.push(newBinding("turn", "beat", scene.objects.at(-1)!, "rotation"));
  const lasting = { kind: "sound", id: "tone", tap: "before", part: "harmonic" } as const;
  scene.strands.push(newStrand(scene, "lasting", "Lasting", lasting, { ...MEASURES.rms.defaults }));
  scene.bindings.push(newBinding("fade", "lasting", scene.objects.at(-1)!, "opacity"));
  const created = await request.post(`${server.address}/api/projects`, { data: { scene } });
  const { id } = await created.json();
  const html = join(ROOM, "pitch.html");
  writeFileSync(html, await (await request.get(`${server.address}/api/deliver/${id}/page`)).body());
  const host = await hostOf(ROOM);
  writeFileSync(
    join(ROOM, "aroundPitch.html"),
    '<iframe src="pitch.html" allow="autoplay" style="width:64px;height:36px"></iframe>',
  );
  await page.goto(`${host.address}/aroundPitch.html`);
  await page.frameLocator("iframe").locator("#note").waitFor({ state: "hidden" });
  const strands = await page.evaluate(
    () =>
      new Promise<Record<string, number>>((resolve) => {
        addEventListener("message", ({ data }) => {
          if (data?.bumbrel === "numbers" && data.id === 2) resolve(data.strands);
        });
        const frame = document.querySelector("iframe")!.contentWindow!;
        frame.postMessage({ bumbrel: "pause", id: 1 }, "*");
        frame.postMessage({ bumbrel: "seek", timeS: 2, id: 2 }, "*");
      }),
  );
  host.close();
  const [tone] = scene.sounds;
  const { tracks } = finish(
    analysePlan(planNumbers(scene, scene.strands), () => madeSoundData(tone as MadeSound)),
  );
  const expected = (strandId: string) => trackValueAt(tracks.get(strandId)!, 2);
  expect(strands.Level).toBe(expected("level"));
  expect(strands.Level).toBeGreaterThan(0.2);
  expect(strands.Lasting).toBe(expected("lasting"));
  expect(strands.Lasting).toBeGreaterThan(0.2);
  expect(strands.Beat).toBe(expected("beat"));
  expect(complaints).toEqual([]);
});

test(
  "numbers are the same everywhere: workbench, Node, worker, baked, C, Python and page",
  FULL,
  async ({ page }) => {
    test.setTimeout(240_000);
    const folder = installed("parity");
    // The workbench, by the table that it saves of all strands.
    await openDemo(page, server.address);
    await page.getByRole("link", { name: "Strands" }).click();
    // The table has the strands whose numbers have come: all of them.
    await page.waitForFunction(() => window.bumbrel!.isLoaded());
    await page.getByRole("button", { name: "Save numbers" }).click();
    const saving = page.waitForEvent("download");
    await page.getByRole("menuitem", { name: "All strands as CSV" }).click();
    const csv = readFileSync(await (await saving).path(), "utf8");
    const [heads, ...rows] = Papa.parse<string[]>(csv.trim()).data;
    const plan = JSON.parse(readFileSync(join(KIT, "numbers.json"), "utf8"));
    const last = rows.length - 1;
    const truth = new Map<string, number[][]>();
    for (const { name } of plan.strands) {
      const columns = heads.flatMap((head, i) =>
        head === `${name} shaped` || head.startsWith(`${name} shaped `) ? [i] : [],
      );
      expect(columns.length).toBeGreaterThan(0);
      const at = (timeS: number, column: number) => {
        const place = Math.min(last, Math.max(0, timeS * 100));
        const frame = Math.floor(place);
        const [before, after] = [frame, Math.min(last, frame + 1)].map((row) => Number(rows[row][column]));
        return before + (after - before) * (place - frame);
      };
      truth.set(
        name,
        TIMES.map((timeS) => columns.map((column) => at(timeS, column))),
      );
    }
    const compare = (what: string, found: Record<string, number[][]>, within: number) => {
      expect(Object.keys(found).sort(), what).toEqual([...truth.keys()].sort());
      let worst = 0;
      for (const [name, expected] of truth) {
        for (const [t, numbers] of expected.entries())
          for (const [band, value] of numbers.entries())
            worst = Math.max(worst, Math.abs(found[name][t][band] - value));
      }
      expect(worst, what).toBeLessThanOrEqual(within);
    };

    // The runtime, computing in Node's thread and in a worker.
    writeFileSync(
      join(folder, "all.mjs"),
      `import { readFile, writeFile } from "node:fs/promises";
import { isMainThread, Worker } from "node:worker_threads";
import { openBaked } from "@bumbrel/runtime";
import { computeNumbers } from "@bumbrel/runtime/compute";
const times = ${JSON.stringify(TIMES)};
const read = (numbers) => Object.fromEntries(numbers.strands.map((strand) => [strand.name,
  times.map((timeS) => Array.from({ length: strand.width }, (_none, band) => strand.at(timeS, band)))]));
const plan = JSON.parse(await readFile("numbers.json", "utf8"));
const sounds = {};
for (const { name, file } of plan.sounds) {
  // A WAV file of 32-bit floats at 48 kHz: its samples follow the data chunk's head.
  const bytes = await readFile(file);
  const channels = bytes.readUInt16LE(22);
  const start = bytes.indexOf("data") + 8;
  const count = bytes.readUInt32LE(start - 4) / 4 / channels;
  sounds[name] = Array.from({ length: channels }, (_none, c) =>
    Float32Array.from({ length: count }, (_one, i) => bytes.readFloatLE(start + 4 * (i * channels + c))));
}
const computed = read(await computeNumbers(plan, sounds));
if (isMainThread) {
  await writeFile("main.json", JSON.stringify(computed));
  await writeFile("baked.json", JSON.stringify(read(openBaked(await readFile("numbers.curves")))));
  new Worker(new URL(import.meta.url));
} else await writeFile("worker.json", JSON.stringify(computed));
`,
    );
    node(folder, "all.mjs");
    const result = (name: string) => JSON.parse(readFileSync(join(folder, `${name}.json`), "utf8"));
    // The table has nine digits.
    compare("Node", result("main"), 1e-7);
    compare("worker", result("worker"), 1e-7);
    compare("baked", result("baked"), 1 / 32_768);

    // Readers that share no code with any of these, where there is what builds and runs them.
    const readers = join(ROOT, "examples/readers");
    const program = join(ROOM, "print");
    const asked = [join(KIT, "numbers.curves"), ...TIMES.map(String)];
    const prints: [what: string, command: string, args: string[]][] = [];
    if (existsSync(CC)) {
      const flags = ["-std=c99", "-Wall", "-Wextra", "-Wpedantic", "-Werror", "-O2", "-o", program];
      execFileSync(CC, [...flags, join(readers, "print.c"), join(readers, "curves.c"), "-lm"]);
      prints.push(["C", program, asked]);
    }
    if (existsSync(PYTHON)) prints.push(["Python", PYTHON, [join(readers, "curves.py"), ...asked]]);
    for (const [what, command, args] of prints) {
      const printed = execFileSync(command, args, { encoding: "utf8" });
      const found: Record<string, number[][]> = {};
      for (const row of printed.trim().split("\n")) {
        const [name, width, , , ...numbers] = row.split("\t");
        found[name] = TIMES.map((_time, t) =>
          numbers.slice(t * Number(width), (t + 1) * Number(width)).map(Number),
        );
      }
      compare(what, found, 1 / 32_768);
    }

    // The page, by what it answers to the page around it.
    const html = join(ROOM, "page.html");
    bumbrel("deliver", "--example", "regatta-night", "--as", "page", "--out", html);
    const host = await hostOf(ROOM);
    writeFileSync(
      join(ROOM, "around.html"),
      '<iframe src="page.html" allow="autoplay" style="width:64px;height:36px"></iframe>',
    );
    await page.goto(`${host.address}/around.html`);
    await page.frameLocator("iframe").locator("#note").waitFor({ state: "hidden", timeout: 120_000 });
    const answers = await page.evaluate(
      async (all) => {
        const frame = document.querySelector("iframe")!.contentWindow!;
        const ask = (message: object) =>
          new Promise<{
            state: string;
            timeS: number;
            durationS: number;
            strands: Record<string, number | number[]>;
          }>((resolve) => {
            const id = Math.random();
            const hear = ({ data }: MessageEvent) => {
              if (data?.id !== id) return;
              removeEventListener("message", hear);
              resolve(data);
            };
            addEventListener("message", hear);
            frame.postMessage({ ...message, id }, "*");
          });
        await ask({ bumbrel: "pause" });
        const found = [];
        for (const timeS of all) found.push(await ask({ bumbrel: "seek", timeS }));
        return found;
      },
      TIMES.filter((timeS) => timeS >= 0 && timeS < 48),
    );
    host.close();
    for (const { state, timeS, durationS, strands } of answers) {
      expect([state, durationS]).toEqual(["paused", 48]);
      const t = TIMES.findIndex((one) => Math.abs(one - timeS) < 1e-6);
      for (const [name, own] of Object.entries(strands))
        for (const [band, value] of [own].flat().entries())
          expect(Math.abs(value - truth.get(name)![t][band])).toBeLessThan(1e-6);
    }
    expect(answers.length).toBeGreaterThanOrEqual(18);
    expect(Object.keys(answers[0].strands).length).toBeGreaterThan(3);
  },
);

test("the packed runtime computes every measure of a sound as the core does", () => {
  const folder = installed("measures");
  const scene = newProject("Measures");
  scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s" } as never);
  for (const kind of MEASURE_KINDS) {
    // Programs are not handed over: the kit says so.
    if (kind === "program" || !MEASURES[kind].reads.some((part) => part === "samples")) continue;
    const heard = { kind: "sound", id: "song", tap: "before" } as const;
    const strand = newStrand(scene, kind, kind, heard, { ...MEASURES[kind].defaults });
    strand.cues = { ...strand.cues, on: true, rule: "peak", mark: 0.2 };
    scene.strands.push(strand);
  }
  const plan = JSON.parse(JSON.stringify(planNumbers(scene, scene.strands)));
  const { samples } = makeDrumPiece({ seed: 5, bpm: 120, gainDb: -6, bars: 6 });
  const right = Float32Array.from(samples, (x, i) => 0.8 * x + 0.02 * Math.sin(i / 11));
  const channels = [samples, right];
  writeFileSync(join(folder, "plan.json"), JSON.stringify(plan));
  channels.forEach((channel, c) => {
    writeFileSync(join(folder, `${c}.f32`), Buffer.from(channel.buffer));
  });
  writeFileSync(
    join(folder, "measures.mjs"),
    `import { readFile } from "node:fs/promises";
import { computeNumbers } from "@bumbrel/runtime/compute";
const channel = async (c) => new Float32Array(new Uint8Array(await readFile(c + ".f32")).buffer);
const plan = JSON.parse(await readFile("plan.json", "utf8"));
const numbers = await computeNumbers(plan, { Song: [await channel(0), await channel(1)] });
console.log(JSON.stringify(numbers.strands.map((strand) => {
  const cues = [];
  strand.eachCue(-1, 99, ({ timeS }) => cues.push(timeS));
  const values = Array.from({ length: 100 }, (_none, i) =>
    Array.from({ length: strand.width }, (_one, band) => strand.at(i * 0.11, band)));
  return { name: strand.name, cues, values };
})));
`,
  );
  const found = JSON.parse(node(folder, "measures.mjs")) as {
    name: string;
    cues: number[];
    values: number[][];
  }[];
  const mono = mixToMono(channels).samples;
  const { tracks, failures } = finish(analysePlan(plan, () => ({ channels, mono })));
  expect([...failures]).toEqual([]);
  expect(found.map(({ name }) => name)).toEqual(scene.strands.map(({ name }) => name));
  expect(found.length).toBeGreaterThan(14);
  for (const { name, cues, values } of found) {
    const track = tracks.get(name)!;
    expect(cues, name).toEqual(track.cues!.map(({ timeS }) => timeS));
    values.forEach((row, i) => {
      row.forEach((value, band) => {
        expect(value, `${name} at ${i * 0.11} s`).toBe(trackValueAt(track, i * 0.11, band));
      });
    });
  }
});

/** Opens an example in the browser, with the runtime installed and three.js beside it. */
async function openExample(page: Page, name: string, kit = KIT) {
  const folder = join(ROOM, `example-${name}`);
  cpSync(join(ROOT, "examples", name), folder, { recursive: true });
  installed(`example-${name}`, kit);
  cpSync(kit, join(folder, "music"), { recursive: true });
  const three = join(folder, "node_modules/three");
  if (!existsSync(three)) symlinkSync(join(ROOT, "node_modules/three"), three);
  const host = await hostOf(folder);
  await page.goto(`${host.address}/index.html`);
  await page.waitForFunction(() => "game" in window);
  return host;
}

test("the example games follow the numbers", async ({ page }) => {
  const complaints = complaintsOf(page);
  const boat = await openExample(page, "canvas");
  const seen = await page.evaluate(() => {
    const { game } = window as unknown as { game: { show(timeS: number): void } };
    const canvas = document.querySelector("canvas")!;
    const bright = (timeS: number) => {
      game.show(timeS);
      const { data } = canvas.getContext("2d")!.getImageData(0, 40, 640, 90);
      return data.reduce((sum, value) => sum + value, 0);
    };
    return [0.2, 40].map(bright);
  });
  expect(seen[1]).toBeGreaterThan(1.02 * seen[0]);
  await page.getByRole("button", { name: "Start the music" }).click();
  await expect(page.getByRole("button")).toHaveCount(0);
  await page.goto("about:blank");
  boat.close();
  for (const name of ["three", "webxr"]) {
    const host = await openExample(page, name);
    const wrong = await page.evaluate(
      (key) => {
        const { game } = window as unknown as {
          game: {
            show(timeS: number): void;
            numbers: { strand(name: string): { at(timeS: number, band: number): number } };
            pulses?(): number;
          } & Record<string, { scale: { x: number } }[]>;
        };
        const row = game.numbers.strand("Row of lamps");
        let worst = 0;
        for (const timeS of [2, 18.5, 40.03]) {
          game.show(timeS);
          const things = game[key];
          things.forEach(({ scale }, band) => {
            const expected =
              key === "lamps" ? 0.4 + 2 * row.at(timeS, band) : 0.5 + 1.5 * row.at(timeS, band);
            if (key === "lamps") worst = Math.max(worst, Math.abs(scale.x - expected));
            else if (scale.x < expected - 1e-6) worst = 1;
          });
        }
        return [worst, game.pulses?.() ?? 1];
      },
      name === "three" ? "lamps" : "lanterns",
    );
    expect(wrong[0]).toBeLessThan(1e-6);
    expect(wrong[1]).toBeGreaterThan(0);
    await page.goto("about:blank");
    host.close();
  }
  const desk = join(ROOM, "example-node");
  cpSync(join(ROOT, "examples/node"), desk, { recursive: true });
  installed("example-node");
  cpSync(KIT, join(desk, "music"), { recursive: true });
  const rows = node(desk, "lights.js", "20").trim().split("\n");
  expect(rows).toHaveLength(201);
  expect(rows[0]).toMatch(/^second\tSnare\tBass/);
  // Hits that the generator put there: the snare on the second and fourth beat from the sixteenth second on.
  expect(rows.filter((row) => /^\S+\t\d+\*/.test(row)).length).toBeGreaterThan(3);
  expect(complaints).toEqual([]);
});

test("the WebXR example is seen with both eyes in a headset, and follows the head", async ({ page }) => {
  const complaints = complaintsOf(page);
  const runtime = readFileSync(join(ROOT, "node_modules/iwer/build/iwer.min.js"), "utf8");
  await page.addInitScript(
    `${runtime};window.strange = new IWER.XRDevice(IWER.metaQuest3); window.strange.installRuntime({ forceInstall: true }); window.strange.position.set(0, 1.6, 0);`,
  );
  const host = await openExample(page, "webxr");
  await page.getByRole("button", { name: "Enter the room" }).click();
  interface Room {
    game: {
      renderer: {
        xr: {
          isPresenting: boolean;
          getCamera(): { cameras: unknown[]; matrixWorld: { elements: number[] } };
        };
      };
      lanterns: { scale: { x: number } }[];
    };
    strange: { position: { set(x: number, y: number, z: number): void } };
  }
  await page.waitForFunction(() => (window as unknown as Room).game.renderer.xr.isPresenting);
  await page.evaluate(() => (window as unknown as Room).strange.position.set(0.5, 1.75, -0.25));
  await page.waitForFunction(() => {
    const { elements } = (window as unknown as Room).game.renderer.xr.getCamera().matrixWorld;
    // The middle of the eyes.
    return Math.hypot(elements[12] - 0.5, elements[13] - 1.75, elements[14] + 0.25) < 0.05;
  });
  const eyes = () =>
    page.evaluate(() => (window as unknown as Room).game.renderer.xr.getCamera().cameras.length);
  expect(await eyes()).toBe(2);
  const sizes = () =>
    page.evaluate(() => (window as unknown as Room).game.lanterns.map(({ scale }) => scale.x));
  const before = await sizes();
  await expect.poll(sizes).not.toEqual(before);
  host.close();
  expect(complaints).toEqual([]);
});

test("a scene stands in somebody's own three.js scene as it does here", FULL, async ({ page }) => {
  const complaints = complaintsOf(page);
  const times = [33.37, 2, 18.5, 47.9];
  await openDemo(page, server.address);
  await page.waitForFunction(() => window.bumbrel!.isLoaded());
  const { scene } = JSON.parse(readFileSync(join(PLAYER_KIT, "staged.json"), "utf8"));
  const named: { id: string; name: string }[] = scene.objects.map(
    ({ id, name }: { id: string; name: string }) => ({ id, name }),
  );
  const expected = await page.evaluate(
    ([all, objects]) =>
      all.map((timeS) => {
        window.bumbrel!.seek(timeS);
        const drawn = window.bumbrel!.drawnOf(objects.map(({ id }) => id));
        return Object.fromEntries(objects.map(({ name }, i) => [name, drawn[i].matrices]));
      }),
    [times, named] as const,
  );
  const host = await openExample(page, "player", PLAYER_KIT);
  const found = await page.evaluate((all) => {
    interface Thing {
      name: string;
      visible: boolean;
      children: { isInstancedMesh?: boolean; count: number; instanceMatrix: { array: Float32Array } }[];
    }
    const { game } = window as unknown as {
      game: {
        show(timeS: number): void;
        staged: { root: { children: Thing[] } };
        renderer: { info: { render: { triangles: number } } };
      };
    };
    return all.map((timeS) => {
      game.show(timeS);
      const things = game.staged.root.children.flatMap(({ name, visible, children: [mesh] }) =>
        visible && mesh?.isInstancedMesh
          ? [{ name, matrices: [...mesh.instanceMatrix.array.subarray(0, mesh.count * 16)] }]
          : [],
      );
      return { things, triangles: game.renderer.info.render.triangles };
    });
  }, times);
  host.close();
  for (const [t, { things, triangles }] of found.entries()) {
    expect(things.length).toBeGreaterThan(5);
    expect(triangles).toBeGreaterThan(1000);
    for (const { name, matrices } of things) {
      let worst = 0;
      for (const [i, one] of matrices.entries())
        worst = Math.max(worst, Math.abs(one - expected[t][name][i]));
      // Baked numbers are within a 65536th of their range.
      expect(worst, `${name} at ${times[t]} s`).toBeLessThan(2e-3);
    }
  }
  expect(complaints).toEqual([]);
});

/** The JSON of a GLB file. */
function glbJson(glb: Buffer) {
  return JSON.parse(glb.toString("utf8", 20, 20 + glb.readUInt32LE(12)));
}

test(
  "a model with baked motion is valid, and moves in three.js as the scene does here",
  FULL,
  async ({ page }) => {
    test.setTimeout(240_000);
    const complaints = complaintsOf(page);
    const folder = join(ROOM, "model");
    mkdirSync(join(folder, "node_modules"), { recursive: true });
    symlinkSync(join(ROOT, "node_modules/three"), join(folder, "node_modules/three"));
    bumbrel("deliver", "--example", "regatta-night", "--as", "model", "--out", join(folder, "regatta.glb"));
    const glb = readFileSync(join(folder, "regatta.glb"));
    const { issues } = await validator.validateBytes(glb, { maxIssues: 1000 });
    expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
    const json = glbJson(glb);
    const { bumbrel: told } = json.scenes[0].extras;
    expect(told.sounds.map(({ name }: { name: string }) => name)).toContain("Regatta Night");
    expect(told.left.map(({ name }: { name: string }) => name)).toContain("Sparks");

    // Fifty times, on frames and between them.
    const times = Array.from({ length: 50 }, (_none, i) => (i * 0.9371 + 0.0041 * (i % 3)) % 47.9);
    await openDemo(page, server.address);
    await page.waitForFunction(() => window.bumbrel!.isLoaded());
    const { scene } = JSON.parse(readFileSync(join(PLAYER_KIT, "staged.json"), "utf8"));
    const bodies: { id: string; name: string }[] = scene.objects
      .filter(({ name }: { name: string }) =>
        json.nodes.some(
          (node: { name: string; mesh?: number }) => node.mesh !== undefined && node.name.startsWith(name),
        ),
      )
      .map(({ id, name }: { id: string; name: string }) => ({ id, name }));
    interface Drawn {
      matrices: number[];
      colours: number[];
      glows: number[];
    }
    // As text: a million numbers go over at once.
    const drawn = await page.evaluate(
      ([all, things]) =>
        JSON.stringify(
          all.map((timeS) => {
            window.bumbrel!.seek(timeS);
            return window
              .bumbrel!.drawnOf(things.map(({ id }) => id))
              .map(({ matrices = [], colours = [], glows = [] }) => ({ matrices, colours, glows }));
          }),
        ),
      [times, bodies] as const,
    );
    const expected: Drawn[][] = JSON.parse(drawn);

    writeFileSync(
      join(folder, "index.html"),
      `<!doctype html><script type="importmap">{ "imports": { "three": "./node_modules/three/build/three.module.js", "three/": "./node_modules/three/" } }</script>
<script type="module">
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
const gltf = await new GLTFLoader().loadAsync("regatta.glb");
const mixer = new THREE.AnimationMixer(gltf.scene);
mixer.clipAction(gltf.animations[0]).play();
const { json } = gltf.parser;
const nodes = await Promise.all(json.nodes.map((_one, i) => gltf.parser.getDependency("node", i)));
// three.js leaves channels with pointers to others: they are read here as their extension says.
const numbers = async (i) => (await gltf.parser.getDependency("accessor", i)).array;
const pointers = new Map();
for (const { sampler, target } of json.animations[0].channels) {
  const { pointer } = target.extensions?.KHR_animation_pointer ?? {};
  if (!pointer) continue;
  const { input, output } = json.animations[0].samplers[sampler];
  pointers.set(pointer, { times: await numbers(input), values: await numbers(output) });
}
const at = (pointer, timeS, still) => {
  const track = pointers.get(pointer);
  if (!track) return still;
  const { times, values } = track;
  const width = values.length / times.length;
  let after = times.findIndex((one) => one >= timeS);
  if (after < 0) after = times.length - 1;
  const before = Math.max(0, after - 1);
  const share = after === before ? 0 : (timeS - times[before]) / (times[after] - times[before]);
  return Array.from({ length: width }, (_none, axis) =>
    values[before * width + axis] + share * (values[after * width + axis] - values[before * width + axis]));
};
window.model = {
  read(timeS) {
    mixer.setTime(timeS);
    gltf.scene.updateMatrixWorld(true);
    return json.nodes.flatMap(({ name, mesh }, i) => {
      if (mesh === undefined) return [];
      const m = json.meshes[mesh].primitives[0].material;
      const told = json.materials[m];
      const strength = told.extensions?.KHR_materials_emissive_strength?.emissiveStrength ?? 1;
      return [{
        name,
        matrix: nodes[i].matrixWorld.toArray(),
        colour: at("/materials/" + m + "/pbrMetallicRoughness/baseColorFactor", timeS,
          told.pbrMetallicRoughness.baseColorFactor ?? [1, 1, 1, 1]),
        glow: at("/materials/" + m + "/emissiveFactor", timeS, told.emissiveFactor ?? [0, 0, 0]).map((one) => one * strength),
      }];
    });
  },
};
</script>`,
    );
    const host = await hostOf(folder);
    await page.goto(`${host.address}/index.html`);
    await page.waitForFunction(() => "model" in window);
    interface Read {
      name: string;
      matrix: number[];
      colour: number[];
      glow: number[];
    }
    const seen = await page.evaluate((all) => {
      const { model } = window as unknown as { model: { read(timeS: number): unknown[] } };
      return JSON.stringify(all.map((timeS) => model.read(timeS)));
    }, times);
    const played: Map<string, Read>[] = (JSON.parse(seen) as Read[][]).map(
      (nodes) => new Map(nodes.map((node) => [node.name, node])),
    );
    host.close();
    const worst = { place: 0, colour: 0, glow: 0 };
    let compared = 0;
    const differ = (a: readonly number[], b: readonly number[]) =>
      a.reduce((most, one, i) => Math.max(most, Math.abs(one - b[i])), 0);
    for (const [t, things] of expected.entries())
      for (const [b, thing] of things.entries()) {
        const { name } = bodies[b];
        const count = thing.matrices.length / 16;
        for (let i = 0; i < count; i++) {
          const node = played[t].get(`${name} ${i + 1}`) ?? played[t].get(name);
          if (!node) throw new Error(`The model has no ${name} ${i + 1}.`);
          worst.place = Math.max(worst.place, differ(thing.matrices.slice(i * 16, i * 16 + 16), node.matrix));
          const opacity = thing.glows[i * 4 + 3];
          const colour = [...thing.colours.slice(i * 3, i * 3 + 3), opacity].map((one) => Math.min(1, one));
          worst.colour = Math.max(worst.colour, differ(colour, node.colour));
          const glow = thing.glows.slice(i * 4, i * 4 + 3);
          // Shares of the strongest light there is: the eye sees no steps finer than that.
          worst.glow = Math.max(worst.glow, differ(glow, node.glow) / Math.max(1, ...thing.glows));
          compared++;
        }
      }
    console.log(`model against scene: ${JSON.stringify(worst)} over ${compared} places`);
    expect(compared).toBeGreaterThan(1000);
    expect(worst.place).toBeLessThanOrEqual(1e-3);
    expect(worst.colour).toBeLessThanOrEqual(1 / 256);
    // Lights whose numbers are dealt with a delay of parts of a frame have their corners between frames.
    expect(worst.glow).toBeLessThanOrEqual(0.1);
    expect(complaints).toEqual([]);
  },
);

test("Deliver saves every way out, says how large it will be, and why it cannot", FULL, async ({ page }) => {
  test.setTimeout(240_000);
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  await page.getByRole("link", { name: "Deliver" }).click();
  const way = (name: (typeof MADE_WAYS)[number]) =>
    page.getByRole("region", { name: WAYS_OUT[name].label, exact: true });
  const save = async (name: (typeof MADE_WAYS)[number]) => {
    const saving = page.waitForEvent("download", { timeout: 60_000 });
    await way(name).getByRole("button", { name: WAYS_OUT[name].action }).click();
    const download = await saving;
    expect(download.suggestedFilename()).toBe(`regatta-night.${WAYS_OUT[name].file.extension}`);
    return readFileSync(await download.path());
  };
  const files = {} as Record<(typeof MADE_WAYS)[number], Buffer>;
  for (const name of MADE_WAYS) files[name] = await save(name);
  for (const name of ["folder", "numbers", "player", "archive"] as const)
    expect(files[name].toString("latin1", 0, 2)).toBe("PK");
  expect(files.model.toString("latin1", 0, 4)).toBe("glTF");
  expect(files.page.toString("utf8", 0, 15)).toBe("<!doctype html>");
  expect(files.baked.equals(readFileSync(join(KIT, "numbers.curves")))).toBe(true);
  const { curves } = readCurves(files.baked);
  const json = JSON.parse(files.json.toString());
  expect(json.strands.map(({ name }: { name: string }) => name)).toEqual(curves.map(({ name }) => name));
  for (const [i, { values, cues }] of curves.entries()) {
    expect(json.strands[i].values).toHaveLength(values.length);
    expect(json.strands[i].cues).toHaveLength(cues.length);
  }
  const cueCount = curves.reduce((sum, { cues }) => sum + cues.length, 0);
  expect(files.labels.toString().trim().split("\n")).toHaveLength(cueCount);
  const { tracks } = parseMidi(files.midi);
  expect(tracks.flat().filter(({ type }) => type === "noteOn")).toHaveLength(cueCount);
  // The sizes that were shown before are about those of the files.
  for (const [name, least] of [
    ["baked", 0.98],
    ["csv", 0.5],
    ["json", 0.5],
    ["labels", 0.6],
  ] as const) {
    const told = await way(name)
      .getByText(/^about/)
      .textContent();
    const [, number, unit] = /about ([\d.]+) (\w+)/.exec(told!)!;
    const bytes = Number(number) * { bytes: 1, kB: 1e3, MB: 1e6 }[unit as "kB"]!;
    expect(bytes / files[name].length).toBeGreaterThan(least);
    expect(bytes / files[name].length).toBeLessThan(1 / least);
  }
  // One strand, and its cues.
  await way("csv").getByRole("combobox", { name: "Strands" }).selectOption({ label: "Snare" });
  await way("csv").getByRole("combobox", { name: "Holds" }).selectOption("cues");
  const cueRows = (await save("csv")).toString().trim().split("\n");
  expect(cueRows[0]).toBe("time_s,strand,strength");
  expect(cueRows.slice(1).every((row) => row.includes(",Snare,"))).toBe(true);
  // A setting that cannot be used is told of, and nothing is saved.
  await way("folder").getByRole("textbox", { name: "Address" }).fill("somewhere");
  await way("folder").getByRole("textbox", { name: "Address" }).blur();
  await way("folder").getByRole("button", { name: "Save the folder" }).click();
  await expect(way("folder").getByRole("alert")).toContainText("must be whole");
  expect(complaints.filter((text) => !text.includes("400"))).toEqual([]);
});

test(
  "a folder plays from a static host, with its options, and a kiosk begins by itself",
  FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    const folder = join(ROOM, "site");
    const options = [
      "--numbers",
      "baked",
      "--sounds",
      "opus",
      "--kiosk",
      "on",
      "--description",
      "Lanterns & music",
      "--address",
      "https://quay.example/night/",
    ];
    bumbrel("deliver", "--example", "fog-bell", "--as", "folder", ...options, "--out", folder);
    const html = readFileSync(join(folder, "index.html"), "utf8");
    expect(html).toContain('<meta name="description" content="Lanterns &#38; music">');
    expect(html).toContain('<meta property="og:title" content="Fog Bell">');
    expect(existsSync(join(folder, "numbers.curves"))).toBe(true);
    expect(existsSync(join(folder, "code/analysis.js"))).toBe(false);
    const kept = readdirSync(join(folder, "sounds"));
    expect(kept.length).toBeGreaterThan(2);
    for (const name of kept) expect(encodedFormatOf(readFileSync(join(folder, "sounds", name)))).toBe("webm");
    expect(readFileSync(join(folder, "README.txt"), "utf8")).toContain(
      '<iframe src="https://quay.example/night/index.html"',
    );
    const host = await hostOf(folder);
    await page.setViewportSize({ width: 160, height: 90 });
    await page.goto(`${host.address}/index.html`);
    await page.locator("body.kiosk").waitFor({ timeout: 60_000 });
    await expect(page.locator("#bar")).toBeHidden();
    expect(await page.title()).toBe("Fog Bell");
    host.close();
    expect(complaints).toEqual([]);
  },
);

test("somebody who wants little motion starts the scene by hand", FULL, async ({ page }) => {
  const html = join(ROOM, "calm.html");
  bumbrel("deliver", "--example", "regatta-night", "--as", "page", "--sounds", "aac", "--out", html);
  const host = await hostOf(ROOM);
  await page.emulateMedia({ reducedMotion: "reduce" });
  await page.setViewportSize({ width: 480, height: 270 });
  await page.goto(`${host.address}/calm.html`);
  await expect(page.getByText("It stands still until it is started.")).toBeVisible({ timeout: 60_000 });
  expect(await page.evaluate(() => window.bumbrel!.state())).not.toBe("playing");
  // Its tape is as long as it came, to the sample, though encoders add some.
  expect(await page.evaluate(() => window.bumbrel!.durationS())).toBe(48);
  await page.getByRole("button", { name: "Start it" }).click();
  await page.waitForFunction(() => window.bumbrel!.positionS() > 0);
  host.close();
});

test("the live feed follows the tape, to a receiver that nobody here wrote", FULL, async ({ page }) => {
  await openDemo(page, server.address);
  const socket = createSocket("udp4");
  socket.bind(0, "127.0.0.1");
  await once(socket, "listening");
  const { port } = socket.address() as AddressInfo;
  const snares: number[] = [];
  socket.on("message", (packet) => {
    const read = fromBuffer(packet);
    for (const one of read.oscType === "bundle" ? read.elements : [read])
      if (one.oscType === "message" && one.address === "/bumbrel/strand/snare")
        snares.push(performance.now());
  });
  await page.getByRole("link", { name: "Deliver" }).click();
  const feed = page.getByRole("region", { name: "Live feed" });
  await feed.getByRole("textbox", { name: "Another address for OSC" }).fill(`127.0.0.1:${port}`);
  await feed.getByRole("button", { name: "Add" }).click();
  await feed.getByRole("button", { name: "Switch the feed on" }).click();
  await expect(feed.getByText("Waiting: it feeds while the tape plays.")).toBeVisible();
  expect(snares).toHaveLength(0);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await expect(feed.getByText("Feeding.")).toBeVisible();
  await expect(feed.getByRole("cell", { name: `127.0.0.1:${port}` })).toBeVisible();
  await expect.poll(() => snares.length).toBeGreaterThan(300);
  await page.getByRole("button", { name: "Pause", exact: true }).click();
  await expect(feed.getByText("Waiting: it feeds while the tape plays.")).toBeVisible();
  const rate = ((snares.length - 1) * 1000) / (snares.at(-1)! - snares[0]);
  expect(Math.abs(rate - 100)).toBeLessThan(4);
  // Elsewhere only where that was allowed.
  await feed.getByRole("textbox", { name: "Another address for OSC" }).fill("192.0.2.1:9000");
  await feed.getByRole("button", { name: "Add" }).click();
  await expect(feed.getByRole("alert")).toContainText("--feed-to 192.0.2.1");
  await feed.getByRole("button", { name: "Switch the feed off" }).click();
  await expect(feed.getByRole("button", { name: "Switch the feed on" })).toBeVisible();
  socket.close();
});

test("a machine without a screen feeds a game, by the tape and by what it hears", FULL, async () => {
  const socket = createSocket("udp4");
  socket.bind(0, "127.0.0.1");
  await once(socket, "listening");
  const to = `127.0.0.1:${(socket.address() as AddressInfo).port}`;
  let heard: { address: string; value: number }[] = [];
  socket.on("message", (packet) => {
    const read = fromBuffer(packet);
    for (const one of read.oscType === "bundle" ? read.elements : [read])
      if (one.oscType === "message") heard.push({ address: one.address, value: one.args[0].value as number });
  });
  const listen = (...args: string[]) =>
    spawn(process.execPath, [
      join(ROOT, "cli/bin/bumbrel.mjs"),
      "listen",
      ...args,
      "--osc",
      to,
      "--port",
      "0",
    ]);
  // From the second before the first snare of the loud part on.
  const tape = listen("--example", "regatta-night", "--from", "15");
  let said = "";
  tape.stdout.on("data", (chunk: Buffer) => {
    said += chunk;
  });
  await expect
    .poll(() => heard.filter(({ address }) => address === "/bumbrel/cue/snare").length, { timeout: 60_000 })
    .toBeGreaterThan(1);
  expect(said).toMatch(/Feeding Snare, .*Programs connect at http:\/\/127\.0\.0\.1:\d+\/events/s);
  tape.kill("SIGINT");
  await once(tape, "exit");
  expect(said).toMatch(/\d+ messages, 0 lost/);

  // A loud hiss on standard input moves a strand that rests in silence.
  heard = [];
  const ear = listen("--example", "regatta-night", "--input");
  const loud = () =>
    heard.filter(({ address, value }) => address === "/bumbrel/strand/snare" && value > 0.9).length;
  const hiss = Buffer.from(
    Int16Array.from({ length: 4800 }, (_none, i) => (((i * 7919) % 65_536) - 32_768) / 2).buffer,
  );
  const pouring = setInterval(() => ear.stdin.write(hiss), 100);
  await expect.poll(loud, { timeout: 60_000 }).toBeGreaterThan(20);
  clearInterval(pouring);
  ear.stdin.end();
  await once(ear, "exit");
  socket.close();
});
