/** Checks the types of each room under its own rules: core without DOM and Node, and so on. */
import { join } from "node:path";
import { ROOT, run } from "./setup.mjs";

const tsc = join(ROOT, "node_modules/typescript/bin/tsc");
const failed = ["core", "runtime", "player", "api", "server", "cli", "studio", "demo", "."].filter(
  (room) => run(process.execPath, [tsc, "-p", join(ROOT, room)]) !== 0,
);
if (failed.length > 0) console.error(`Types do not fit in: ${failed.join(", ")}`);
process.exitCode = failed.length > 0 ? 1 : 0;
