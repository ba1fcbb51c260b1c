/** The code of the thread that scripts run in, as one text, for what is put together without the server. */
import { join } from "node:path";
import { ROOT } from "../setup.mjs";

let built;
async function build() {
  const esbuild = await import("esbuild");
  return esbuild.build({
    entryPoints: [join(ROOT, "player/src/scripts/scripts.worker.ts")],
    bundle: true,
    write: false,
    minify: true,
    metafile: true,
    format: "iife",
    target: "es2022",
    logLevel: "warning",
    // Nothing in it is loaded from beside it.
    define: { "import.meta.url": '""' },
  });
}

export async function scriptsCode() {
  built ??= build();
  return (await built).outputFiles[0].text;
}

/** Files that it is made of. */
export async function scriptsModules() {
  built ??= build();
  return Object.keys((await built).metafile.inputs);
}

/** A line of script that lets a page run scripts; `window.scriptsAddress` is where their thread is loaded from. */
export const scriptsForPage = async () =>
  `window.scriptsAddress = URL.createObjectURL(new Blob([${JSON.stringify(await scriptsCode())}], { type: "text/javascript" }));`;
