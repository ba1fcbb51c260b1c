#!/usr/bin/env node
import { existsSync } from "node:fs";
import { fileURLToPath } from "node:url";

const built = new URL("../dist/cli.mjs", import.meta.url);
if (!existsSync(fileURLToPath(built))) {
  const { buildCli } = await import("../../tools/build/build.mjs");
  await buildCli();
}
const { main } = await import(built);

process.stdout.on("error", (error) => process.exit(error.code === "EPIPE" ? 0 : 1));
process.exitCode = await main(process.argv.slice(2), {
  out: (text) => process.stdout.write(text),
  error: (text) => process.stderr.write(text),
});
