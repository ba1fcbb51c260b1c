/** `npm run dev`: the server with its data, and the workbench rebuilt as files change. */
import { spawn } from "node:child_process";
import { join } from "node:path";
import { buildCli, buildPage } from "./build/build.mjs";
import { ROOT } from "./setup.mjs";

await buildCli();
await buildPage();
const children = [
  spawn(process.execPath, [join(ROOT, "cli/bin/bumbrel.mjs"), "serve"], { stdio: "inherit" }),
  spawn(process.execPath, [join(ROOT, "node_modules/vite/bin/vite.js"), join(ROOT, "studio")], {
    stdio: "inherit",
  }),
];
for (const child of children)
  child.on("exit", () => {
    for (const one of children) one.kill();
  });
