import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { build } from "esbuild";
import { runScriptsInThreads } from "../scripts/nodeScripts";

/** Has programs run in threads of Node's, built for tests; gives a function that removes what was built. */
export async function useScriptThreads(): Promise<() => void> {
  const folder = mkdtempSync(join(tmpdir(), "bumbrel-scripts-"));
  const outfile = join(folder, "scriptWorker.mjs");
  await build({
    entryPoints: ["server/src/scripts/scriptWorker.ts"],
    outfile,
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    logLevel: "error",
  });
  runScriptsInThreads(outfile);
  return () => rmSync(folder, { recursive: true, force: true });
}
