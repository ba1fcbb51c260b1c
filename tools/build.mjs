/** Builds what runs: the server and command line, the player page, and the workbench. */
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { copyFile, mkdir, readFile, rm, writeFile } from "node:fs/promises";
import { basename, join, relative } from "node:path";
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

/** Puts the decoder of encoded sounds where pages without any have none. */
const withDecoder = {
  name: "with-decoder",
  setup(builder) {
    builder.onResolve({ filter: /^\.\/decode$/ }, () => ({
      path: join(ROOT, "player/src/sound/decodeEncoded.ts"),
    }));
  },
};

/** Leaves the engine of programs out of workers whose scene has none. */
const withoutScripts = {
  name: "without-scripts",
  setup(builder) {
    builder.onResolve({ filter: /^\.\/engine$/ }, () => ({
      path: join(ROOT, "player/src/page/noScripts.ts"),
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

/** Leaves the help of settings out of pages: nobody reads it there. */
const withoutHelp = {
  name: "without-help",
  setup(builder) {
    builder.onLoad(
      { filter: /\bcore\/src\/(action|kinds|setting|sound|strand)\/.*\.ts$/ },
      async ({ path }) => {
        const source = await readFile(path, "utf8");
        // In these rooms, only help is written as whole sentences.
        return { loader: "ts", contents: source.replace(/"[A-Z][^"\\\n]* [^"\\\n]*\."/g, '""') };
      },
    );
  },
};

/** Sources of the parts of the player that only some scenes use, by the names that core has for them. */
const PART_SOURCES = {
  effects: "player/src/stage/imagePasses.ts",
  occlusion: "player/src/stage/occlusion.ts",
  models: "player/src/stage/gltf.ts",
  words: "player/src/stage/geometry/words.ts",
  panorama: "player/src/stage/panorama.ts",
  programs: "player/src/stage/programs/stagePrograms.ts",
  lut: "player/src/stage/lut.ts",
  scripts: "core/src/program/engine.ts",
  visits: "player/src/page/visiting.ts",
  answers: "core/src/simulate/answering.ts",
  bodies: "core/src/simulate/bodiesPart.ts",
  camera: "player/src/page/cameraPart.ts",
  person: "player/src/page/personPart.ts",
  headset: "player/src/visit/headsetVisit.ts",
  limiter: "player/src/stage/flashLimit.ts",
  film: "player/src/page/filmPart.ts",
};

/**
 * The page's code in pieces, each with the pieces it needs: a page from disk cannot load files, so the server puts the
 * pieces that its scene uses into one script.
 */
async function pageModules(build, transform) {
  const { outputFiles, metafile } = await build({
    plugins: [withoutSchemas, withoutHelp],
    entryPoints: [join(ROOT, "player/src/page/main.ts")],
    outdir: join(ROOT, "player/dist"),
    absWorkingDir: ROOT,
    bundle: true,
    splitting: true,
    minify: true,
    write: false,
    metafile: true,
    platform: "browser",
    target: "es2022",
    format: "esm",
    legalComments: "inline",
    logLevel: "warning",
  });
  const nameOf = (path) => basename(path, ".js");
  const modules = {};
  const nameBySource = {};
  for (const { path, text } of outputFiles) {
    const output = metafile.outputs[relative(ROOT, path)];
    const { code } = await transform(text, {
      format: "cjs",
      minify: true,
      target: "es2022",
      // Pieces are there already: a dynamic import becomes a look into the list of pieces.
      supported: { "dynamic-import": false },
      legalComments: "inline",
    });
    const imported = (kind) =>
      output.imports.filter((one) => one.kind === kind).map((one) => nameOf(one.path));
    modules[nameOf(path)] = {
      code: code.replaceAll(/require\("\.\/([^"]+)\.js"\)/g, 'require("$1")'),
      needs: imported("import-statement"),
      mayNeed: imported("dynamic-import"),
    };
    if (output.entryPoint) nameBySource[output.entryPoint] = nameOf(path);
  }
  const parts = Object.fromEntries(
    Object.entries(PART_SOURCES).map(([part, source]) => {
      if (!nameBySource[source])
        throw new Error(`${source} is not loaded by itself: the page cannot leave it out`);
      return [part, nameBySource[source]];
    }),
  );
  return { entry: "main", modules, parts };
}

export async function buildPage() {
  const { build, transform } = await import("esbuild");
  const out = join(ROOT, "player/dist");
  await rm(out, { recursive: true, force: true });
  await mkdir(out, { recursive: true });
  const workers = {
    worklet: ["player/src/audio/processors.ts"],
    live: ["player/src/live/strands.worker.ts", withoutScripts],
    "live-scripts": ["player/src/live/strands.worker.ts"],
    analysis: ["player/src/page/analysis.worker.ts", withoutScripts],
    "analysis-encoded": ["player/src/page/analysis.worker.ts", withoutScripts, withDecoder],
    "analysis-scripts": ["player/src/page/analysis.worker.ts"],
    "analysis-encoded-scripts": ["player/src/page/analysis.worker.ts", withDecoder],
  };
  for (const [name, [path, ...plugins]] of Object.entries(workers)) {
    await build({
      plugins: [withoutSchemas, withoutHelp, ...plugins],
      entryPoints: { [name]: join(ROOT, path) },
      outdir: out,
      bundle: true,
      minify: true,
      target: "es2022",
      logLevel: "warning",
    });
  }
  await buildPersonFinder(build);
  await writeFile(join(out, "page.json"), JSON.stringify(await pageModules(build, transform)));
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
  buildStudio();
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) await buildAll();
