/** Builds what runs: the server and command line, the player page, and the workbench. */
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { copyFile, mkdir, readFile, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { ROOT, run } from "../setup.mjs";
import { MIT } from "./notices.mjs";
import { buildPlayer, buildRuntime } from "./packages.mjs";
import { pageNotices, pagePieces } from "./pagePieces.mjs";

/** Everything from a registry stays outside the bundle; our own rooms go in. */
async function externals(...rooms) {
  const names = new Set();
  for (const room of rooms) {
    const { dependencies = {} } = JSON.parse(await readFile(join(ROOT, room, "package.json"), "utf8"));
    for (const name of Object.keys(dependencies)) if (!name.startsWith("@bumbrel/")) names.add(name);
  }
  return [...names].flatMap((name) => [name, `${name}/*`]);
}

export async function buildCli() {
  const { build } = await import("esbuild");
  await rm(join(ROOT, "cli/dist"), { recursive: true, force: true });
  await build({
    entryPoints: {
      cli: join(ROOT, "cli/src/main.ts"),
      scriptWorker: join(ROOT, "server/src/scripts/scriptWorker.ts"),
      chromiumDriver: join(ROOT, "server/src/chromium/chromiumDriver.mjs"),
    },
    outdir: join(ROOT, "cli/dist"),
    outExtension: { ".js": ".mjs" },
    bundle: true,
    // A command loads what it needs alone.
    splitting: true,
    platform: "node",
    target: "node20",
    format: "esm",
    sourcemap: true,
    external: await externals("cli", "server", "api", "core"),
    logLevel: "warning",
  });
}

/** Makes the data folder that new ones start as, unless it is there from the same code. */
export async function prepareData() {
  const { build } = await import("esbuild");
  const out = join(ROOT, "server/dist");
  const migrations = join(ROOT, "server/migrations");
  await build({
    entryPoints: [join(ROOT, "server/src/prepare.ts")],
    outdir: out,
    outExtension: { ".js": ".mjs" },
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    external: await externals("server", "api", "core"),
    logLevel: "warning",
  });
  const code = join(out, "prepare.mjs");
  const key = createHash("sha256")
    .update(await readFile(code))
    .update(await readFile(join(migrations, "meta/_journal.json")))
    .digest("hex");
  const [folder, keyFile] = [join(out, "prepared"), join(out, "prepared.key")];
  if ((await readFile(keyFile, "utf8").catch(() => "")) === key && existsSync(folder)) return;
  await rm(folder, { recursive: true, force: true });
  const { prepareData: prepare } = await import(pathToFileURL(code).href);
  await prepare(folder, migrations);
  await writeFile(keyFile, key);
}

export async function buildPage() {
  const { build } = await import("esbuild");
  const out = join(ROOT, "player/dist");
  await rm(out, { recursive: true, force: true });
  await mkdir(out, { recursive: true });
  await build({
    entryPoints: { worklet: join(ROOT, "player/src/audio/processors.ts") },
    outdir: out,
    bundle: true,
    minify: true,
    target: "es2022",
    logLevel: "warning",
  });
  await buildPersonFinder(build);
  const pieces = await pagePieces();
  await writeFile(join(out, "page.json"), JSON.stringify(pieces));
  await writeFile(join(out, "notices.json"), JSON.stringify({ own: MIT, packages: pageNotices(pieces) }));
  await copyFile(join(ROOT, "player/src/page/page.css"), join(ROOT, "player/dist/page.css"));
  const face =
    "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2";
  const font = (await readFile(join(ROOT, "node_modules", face))).toString("base64");
  await writeFile(
    join(ROOT, "player/dist/font.css"),
    `@font-face{font-family:"Atkinson Hyperlegible Next";font-weight:200 800;src:url(data:font/woff2;base64,${font}) format("woff2")}`,
  );
  const letters =
    "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-600-normal.woff";
  await copyFile(join(ROOT, "node_modules", letters), join(out, "letters.woff"));
}

/** Puts what finds the person in a camera's picture together: a page of its own, and the library's files beside it. */
async function buildPersonFinder(build) {
  const from = join(ROOT, "node_modules/@mediapipe/selfie_segmentation");
  const to = join(ROOT, "player/dist/person");
  await mkdir(to, { recursive: true });
  const { outputFiles } = await build({
    entryPoints: [join(ROOT, "player/src/camera/finder.ts")],
    bundle: true,
    minify: true,
    write: false,
    format: "iife",
    target: "es2022",
    logLevel: "warning",
  });
  const library = await readFile(join(from, "selfie_segmentation.js"), "utf8");
  const scripts = [library, outputFiles[0].text].map(
    (text) => `<script>${text.replaceAll("</script", "<\\/script")}</script>`,
  );
  await writeFile(
    join(to, "finder.html"),
    `<!doctype html><meta charset="utf-8"><title>Person finder</title>${scripts.join("")}`,
  );
  const { outputFiles: names } = await build({
    stdin: {
      contents: 'export { FINDER_FILES } from "./core/src/analyse/needed.ts"',
      resolveDir: ROOT,
    },
    bundle: true,
    write: false,
    format: "esm",
  });
  const { FINDER_FILES } = await import(
    `data:text/javascript;base64,${Buffer.from(names[0].contents).toString("base64")}`
  );
  for (const name of FINDER_FILES) await copyFile(join(from, name), join(to, name));
}

export function buildStudio() {
  const code = run(process.execPath, [
    join(ROOT, "node_modules/vite/bin/vite.js"),
    "build",
    join(ROOT, "studio"),
    "--logLevel",
    "warn",
  ]);
  if (code !== 0) throw new Error("the workbench could not be built");
}

export async function buildAll() {
  await buildCli();
  await prepareData();
  await buildPage();
  await buildRuntime();
  await buildPlayer();
  buildStudio();
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) await buildAll();
