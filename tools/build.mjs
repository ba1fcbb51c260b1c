/** Builds what runs: the server and command line, the player page, and the workbench. */
import { copyFile, mkdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { ROOT, run } from "./setup.mjs";

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
  await build({
    entryPoints: { cli: join(ROOT, "cli/src/main.ts") },
    outdir: join(ROOT, "cli/dist"),
    outExtension: { ".js": ".mjs" },
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    sourcemap: true,
    external: await externals("cli", "server", "api", "core"),
    logLevel: "warning",
  });
}

/** Puts the decoder of encoded sounds where pages without any have none. */
const withDecoder = {
  name: "with-decoder",
  setup(builder) {
    builder.onResolve({ filter: /^\.\/decode$/ }, () => ({
      path: join(ROOT, "player/src/sound/decodeEncoded.ts"),
    }));
  },
};

/** Leaves the schema library out of pages: what they play has been checked. */
const withoutSchemas = {
  name: "without-schemas",
  setup(builder) {
    builder.onResolve({ filter: /^@sinclair\/typebox$/ }, () => ({
      path: join(ROOT, "player/src/page/noSchemas.ts"),
    }));
  },
};

export async function buildPage() {
  const { build } = await import("esbuild");
  await mkdir(join(ROOT, "player/dist"), { recursive: true });
  const sourceOf = async (path, plugins = []) => {
    const { outputFiles } = await build({
      plugins: [withoutSchemas, ...plugins],
      entryPoints: [join(ROOT, path)],
      bundle: true,
      minify: true,
      target: "es2022",
      write: false,
      logLevel: "warning",
    });
    return JSON.stringify(outputFiles[0].text);
  };
  const worklet = await sourceOf("player/src/audio/processors.ts");
  const live = await sourceOf("player/src/live/strands.worker.ts");
  const analysis = "player/src/page/analysis.worker.ts";
  // A page carries a decoder only if it has encoded sounds, and code for live sounds only if it has those.
  for (const isLive of [false, true]) {
    for (const isEncoded of [false, true]) {
      await build({
        define: {
          WORKLET_SOURCE: isLive ? worklet : '""',
          LIVE_WORKER_SOURCE: isLive ? live : '""',
          ANALYSIS_SOURCE: await sourceOf(analysis, isEncoded ? [withDecoder] : []),
        },
        plugins: [withoutSchemas],
        entryPoints: {
          [`page${isLive ? "-live" : ""}${isEncoded ? "-encoded" : ""}`]: join(
            ROOT,
            "player/src/page/main.ts",
          ),
        },
        outdir: join(ROOT, "player/dist"),
        bundle: true,
        minify: true,
        platform: "browser",
        target: "es2022",
        format: "iife",
        legalComments: "inline",
        logLevel: "warning",
      });
    }
  }
  await copyFile(join(ROOT, "player/src/page/page.css"), join(ROOT, "player/dist/page.css"));
  const face =
    "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2";
  const font = (await readFile(join(ROOT, "node_modules", face))).toString("base64");
  await writeFile(
    join(ROOT, "player/dist/font.css"),
    `@font-face{font-family:"Atkinson Hyperlegible Next";font-weight:200 800;src:url(data:font/woff2;base64,${font}) format("woff2")}`,
  );
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
  await buildPage();
  buildStudio();
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) await buildAll();
