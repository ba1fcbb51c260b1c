/** The code of the thread that scripts run in, as one text, for what is put together without the server. */
import { join } from "node:path";
import { ROOT } from "./setup.mjs";

export async function scriptsCode() {
  const { build } = await import("esbuild");
  const { outputFiles } = await build({
    entryPoints: [join(ROOT, "player/src/scripts/scripts.worker.ts")],
    bundle: true,
    write: false,
    minify: true,
    format: "iife",
    target: "es2022",
    logLevel: "warning",
    // Nothing in it is loaded from beside it.
    define: { "import.meta.url": '""' },
  });
  return outputFiles[0].text;
}

/** A line of script that lets a page run scripts; `window.scriptsAddress` is where their thread is loaded from. */
export const scriptsForPage = async () =>
  `window.scriptsAddress = URL.createObjectURL(new Blob([${JSON.stringify(await scriptsCode())}], { type: "text/javascript" }));`;
