/** Runs the command line with what follows, and prints how long it took and how much memory it had at most. */
import { existsSync } from "node:fs";
import { fileURLToPath } from "node:url";

const built = new URL("../../cli/dist/cli.mjs", import.meta.url);
if (!existsSync(fileURLToPath(built))) throw new Error("Build the command line first");
const { main } = await import(built);
const code = await main(process.argv.slice(2), {
  out: () => {},
  error: (text) => process.stderr.write(text),
});
const { maxRSS, userCPUTime, systemCPUTime } = process.resourceUsage();
const figures = {
  code,
  seconds: performance.now() / 1000,
  processorS: (userCPUTime + systemCPUTime) / 1e6,
  megabytes: maxRSS / 1024,
};
process.stdout.write(JSON.stringify(figures));
