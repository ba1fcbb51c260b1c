/** Builds the packages that games install, and packs each into one file. */
import { mkdir, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { basename, join } from "node:path";
import { ROOT, run } from "../setup.mjs";
import {
  DECLARING_CALLS,
  LATER_FILES,
  LATER_LOADER,
  numbersOnly,
  plainShaders,
  wholeNumbersOnly,
  withoutHelp,
  withoutPrograms,
  withoutSchemas,
  withPartsLater,
} from "./leanSources.mjs";
import { MIT, noticesText, packagesOf } from "./notices.mjs";
import { scriptsCode, scriptsModules } from "./scriptsCode.mjs";

/** Folder of packed packages. */
export const PACKED = join(ROOT, "server/dist/packages");

/** Parts that are loaded later lie beside the entries. */
const besideEntry = {
  name: "beside-entry",
  resolveId: (id, importer) =>
    importer === LATER_LOADER && id.startsWith("./later")
      ? { id: id.replace("./", BESIDE), external: true }
      : undefined,
};
const BESIDE = "beside:";

/** Resolvers of games want the endings of files. */
const withEndings = (code) =>
  code.replaceAll(BESIDE, "./").replace(/((?:from |import\()["'`]\.\/\w+)(["'`])/g, "$1.js$2");

/** Builds the runtime: each of its entries by itself, so that a game carries the one it uses. */
export async function buildRuntime() {
  const { rolldown } = await import("rolldown");
  const room = join(ROOT, "runtime");
  await rm(join(room, "dist"), { recursive: true, force: true });
  const types = [join(ROOT, "node_modules/typescript/bin/tsc"), "-p", join(room, "tsconfig.types.json")];
  if (run(process.execPath, types) !== 0) throw new Error("the types of the runtime do not fit");
  for (const inner of ["fullPlan", "trackNumbers"]) await rm(join(room, `dist/${inner}.d.ts`));
  for (const file of await readdir(join(room, "dist"))) {
    const path = join(room, "dist", file);
    await writeFile(path, withEndings(await readFile(path, "utf8")));
  }
  const lean = [withoutPrograms, withoutSchemas, numbersOnly, withoutHelp];
  const entries = {
    "runtime/src/index.ts": lean,
    "runtime/src/compute.ts": [
      withPartsLater,
      withoutPrograms,
      withoutSchemas,
      wholeNumbersOnly,
      withoutHelp,
    ],
    "runtime/src/live.ts": [withPartsLater, ...lean],
    ...Object.fromEntries(Object.values(LATER_FILES).map((source) => [source, lean])),
  };
  const modules = [];
  for (const [source, plugins] of Object.entries(entries)) {
    const bundle = await rolldown({
      input: join(ROOT, source),
      cwd: ROOT,
      plugins: [besideEntry, ...plugins],
      treeshake: { manualPureFunctions: DECLARING_CALLS },
    });
    const file = join(room, `dist/${basename(source, ".ts")}.js`);
    const { output } = await bundle.write({ file, format: "esm", minify: true });
    modules.push(...output.flatMap(({ moduleIds = [] }) => moduleIds));
    await bundle.close();
    await writeFile(file, withEndings(await readFile(file, "utf8")));
  }
  await pack(room, modules);
}

/** three.js comes from the game, so that it is there once. */
const THREE = /^three(\/|$)/;

/** Builds the player: an entry with what every scene needs, and pieces that are loaded by scenes that use them. */
export async function buildPlayer() {
  const { rolldown } = await import("rolldown");
  const room = join(ROOT, "player/package");
  const dist = join(room, "dist");
  await rm(dist, { recursive: true, force: true });
  const types = [
    join(ROOT, "node_modules/typescript/bin/tsc"),
    "-p",
    join(ROOT, "player/tsconfig.types.json"),
  ];
  if (run(process.execPath, types) !== 0) throw new Error("the types of the player do not fit");
  const written = join(dist, "types/staged/stagedScene.d.ts");
  const declared = await readFile(written, "utf8");
  await rm(join(dist, "types"), { recursive: true });
  await writeFile(join(dist, "index.d.ts"), declared);
  const bundle = await rolldown({
    input: { index: join(ROOT, "player/src/staged/stagedScene.ts") },
    cwd: ROOT,
    platform: "browser",
    external: THREE,
    // Pieces that some scenes load share what the entry has.
    preserveEntrySignatures: "allow-extension",
    plugins: [await scriptsInside(), withoutSchemas, numbersOnly, withoutHelp, plainShaders],
    treeshake: { manualPureFunctions: DECLARING_CALLS },
  });
  const { output } = await bundle.write({
    dir: dist,
    format: "esm",
    minify: true,
    comments: { legal: true, annotation: false },
    chunkFileNames: "[name].js",
  });
  await bundle.close();
  await pack(room, [...output.flatMap(({ moduleIds = [] }) => moduleIds), ...(await scriptsModules())]);
}

/** Puts the code of the thread for scripts into the package as a text. */
async function scriptsInside() {
  const text = await scriptsCode();
  return {
    name: "scripts-inside",
    load: (id) =>
      id.endsWith("player/src/staged/scriptsCode.ts")
        ? { code: `export const SCRIPTS_CODE = ${JSON.stringify(text)};`, moduleType: "js" }
        : undefined,
  };
}

/**
 * Packs a package, with its licence and those of what is inside, into one file that `npm install` takes.
 */
async function pack(room, modules) {
  await mkdir(PACKED, { recursive: true });
  await writeFile(join(room, "LICENSE"), MIT);
  await writeFile(join(room, "THIRD-PARTY-NOTICES.txt"), noticesText(packagesOf(modules)));
  const { name, version } = JSON.parse(await readFile(join(room, "package.json"), "utf8"));
  if (run("npm", ["pack", "--silent", "--ignore-scripts", "--pack-destination", PACKED], { cwd: room }) !== 0)
    throw new Error(`${name} could not be packed`);
  const list = join(PACKED, "packages.json");
  const known = JSON.parse(await readFile(list, "utf8").catch(() => "{}"));
  known[name] = `${name.replace("@", "").replace("/", "-")}-${version}.tgz`;
  await writeFile(list, JSON.stringify(known));
}
