/** `npm run demo`: installs, builds, makes the demo data once, starts, and says where. */
import { spawn } from "node:child_process";
import { join } from "node:path";
import { ensureInstalled, ROOT } from "./setup.mjs";

ensureInstalled();
const { buildAll } = await import("./build/build.mjs");
console.log("Building …");
await buildAll();
console.log("Starting …");
const port = process.env.PORT ?? "4280";
const server = spawn(
  process.execPath,
  [join(ROOT, "cli/bin/bumbrel.mjs"), "serve", "--port", port, "--data", join(ROOT, ".bumbrel")],
  { stdio: ["ignore", "inherit", "inherit"] },
);
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
server.on("exit", (code) => process.exit(code ?? 0));
