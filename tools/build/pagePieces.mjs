/**
 * The code of delivered pages in pieces. A page from disk cannot load files, so the server puts the pieces that its
 * scene uses into one script.
 */
import { basename, join, relative } from "node:path";
import { ROOT } from "../setup.mjs";
import {
  DECLARING_CALLS,
  LATER_FILES,
  numbersOnly,
  plainShaders,
  threeFromSources,
  wholeNumbersOnly,
  withoutHelp,
  withoutSchemas,
  withPartsLater,
} from "./leanSources.mjs";
import { noticeOf, packagesOf } from "./notices.mjs";

/** Code that reads each kind of sound that not every scene has. */
const READERS = {
  made: "core/src/sound/made.ts",
  files: "core/src/sound/fileSound.ts",
  encoded: "player/src/sound/decodeEncoded.ts",
  notes: "core/src/sound/noteSound.ts",
  tables: "core/src/sound/tableSound.ts",
};

/** Code for things that only some scenes have. */
const THINGS = {
  models: "player/src/stage/gltf.ts",
  words: "player/src/stage/geometry/words.ts",
  panorama: "player/src/stage/light/panorama.ts",
  programs: "player/src/stage/programs/stagePrograms.ts",
  lut: "player/src/stage/image/lut.ts",
  answers: "core/src/simulate/answers/answering.ts",
  bodies: "core/src/simulate/bodies/bodiesPart.ts",
};

/** Entries of the page and its workers, and the sources of the parts that only some scenes use, by the names that core has for them. */
const ENTRIES = {
  main: {
    source: "player/src/page/main.ts",
    plugins: [withoutSchemas, withoutHelp, plainShaders, threeFromSources],
    parts: {
      ...THINGS,
      effects: "player/src/stage/image/imagePasses.ts",
      occlusion: "player/src/stage/image/occlusion.ts",
      visits: "player/src/page/visiting.ts",
      camera: "player/src/page/parts/cameraPart.ts",
      person: "player/src/page/parts/personPart.ts",
      headset: "player/src/visit/headsetVisit.ts",
      inputs: "player/src/live/liveSounds.ts",
      limiter: "player/src/stage/image/flashLimit.ts",
      film: "player/src/page/parts/filmPart.ts",
    },
  },
  /** Reads a scene into a model, for the server. */
  model: {
    source: "player/src/page/parts/modelPage.ts",
    plugins: [withoutSchemas, withoutHelp, plainShaders, threeFromSources],
    parts: THINGS,
  },
  /** Reads the sounds of pages whose numbers are baked. */
  reading: {
    source: "player/src/page/reading/reading.worker.ts",
    plugins: [withoutSchemas, numbersOnly, withoutHelp],
    parts: READERS,
  },
  analysis: {
    source: "player/src/page/reading/analysis.worker.ts",
    plugins: [withPartsLater, withoutSchemas, wholeNumbersOnly, withoutHelp],
    parts: {
      ...READERS,
      scripts: "core/src/analyse/scripts/reading.ts",
      ...LATER_FILES,
    },
  },
  /** Decodes sounds for a server, which has no decoder. */
  decode: {
    source: "player/src/page/reading/decodePage.ts",
    plugins: [withoutSchemas, withoutHelp],
    parts: {},
  },
  /** Encodes sounds for a server, which has no encoder. */
  encode: {
    source: "player/src/page/reading/encodePage.ts",
    plugins: [withoutSchemas, withoutHelp],
    parts: {},
  },
  /** Runs scripts, in a thread that can be ended. */
  scripts: {
    source: "player/src/scripts/scripts.worker.ts",
    plugins: [withoutSchemas, wholeNumbersOnly, withoutHelp],
    parts: { engine: "core/src/program/scripts/engine.ts" },
  },
  live: {
    source: "player/src/live/strands.worker.ts",
    plugins: [withoutSchemas, numbersOnly, withoutHelp],
    parts: { scripts: "core/src/program/scripts/engine.ts" },
  },
};

/** Messages of three.js on the console are for those who write with it. */
const SAYING_CALLS = ["warn", "warnOnce", "error"];
const THREE_NOTICE = "/*! three.js, MIT licence, Copyright 2010-2026 Three.js Authors */";

/** The pieces of the page and of each of its workers. */
export async function pagePieces() {
  const all = {};
  for (const [name, entry] of Object.entries(ENTRIES)) all[name] = await piecesOf(entry);
  return all;
}

/** The licences of all packages that some piece comes from, by their names. */
export function pageNotices(pieces) {
  const names = Object.values(pieces).flatMap(({ modules }) =>
    Object.values(modules).flatMap(({ packages }) => packages),
  );
  return Object.fromEntries([...new Set(names)].map((name) => [name, noticeOf(name)]));
}

async function piecesOf({ source, parts, plugins }) {
  const [{ rolldown }, { transform }] = await Promise.all([import("rolldown"), import("esbuild")]);
  const bundle = await rolldown({
    input: { entry: join(ROOT, source) },
    cwd: ROOT,
    platform: "browser",
    plugins,
    treeshake: {
      manualPureFunctions: plugins.some((one) => one === numbersOnly || one === wholeNumbersOnly)
        ? DECLARING_CALLS
        : SAYING_CALLS,
    },
  });
  const { output } = await bundle.generate({ format: "esm", minify: true, comments: { legal: true } });
  await bundle.close();
  const nameOf = (file) => basename(file, ".js");
  const modules = {};
  const nameBySource = {};
  for (const { fileName, code: text, imports, dynamicImports, facadeModuleId, moduleIds } of output) {
    const { code } = await transform(text, {
      format: "cjs",
      minify: true,
      target: "es2022",
      // Pieces are there already: a dynamic import becomes a look into the list of pieces.
      supported: { "dynamic-import": false },
      legalComments: "inline",
    });
    const hasThree = moduleIds.some((id) => id.endsWith("three/src/constants.js"));
    modules[nameOf(fileName)] = {
      code:
        (hasThree ? THREE_NOTICE : "") + code.replaceAll(/require\("\.\/([^"]+)\.js"\)/g, 'require("$1")'),
      needs: imports.map(nameOf),
      packages: packagesOf(moduleIds),
      mayNeed: dynamicImports.map(nameOf),
    };
    if (facadeModuleId) nameBySource[relative(ROOT, facadeModuleId)] = nameOf(fileName);
  }
  const firstPieces = Object.entries(parts).map(([part, path]) => {
    if (!nameBySource[path]) throw new Error(`${path} is not loaded by itself: the page cannot leave it out`);
    return [part, nameBySource[path]];
  });
  return { entry: nameBySource[source], modules, parts: Object.fromEntries(firstPieces) };
}
