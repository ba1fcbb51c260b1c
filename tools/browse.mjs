/** A browser and a server with the demo data, for scripts and tests that look at the product. */
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { CHROMIUM, ROOT } from "./setup.mjs";

/** Flags that Debian's Chromium works with as root and without a graphics card. */
export const CHROMIUM_FLAGS = [
  "--no-sandbox",
  "--use-angle=swiftshader",
  "--enable-unsafe-swiftshader",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
  "--no-first-run",
];
/** Lets sound start without a gesture. */
export const AUTOPLAY_FLAG = "--autoplay-policy=no-user-gesture-required";

/** Keeps sound from starting without a gesture, whatever this build of the browser does by itself. */
export const HELD_BACK_FLAG = "--autoplay-policy=document-user-activation-required";

/** Chromium as the scripts use it. */
export async function launchChromium() {
  const { chromium } = await import("@playwright/test");
  return chromium.launch({ executablePath: CHROMIUM, args: [...CHROMIUM_FLAGS, AUTOPLAY_FLAG] });
}

/** Starts the built server on data of its own; `stop` ends it and removes them. */
export async function startServer() {
  const data = mkdtempSync(join(tmpdir(), "bumbrel-script-"));
  const server = spawn(
    process.execPath,
    [join(ROOT, "cli/bin/bumbrel.mjs"), "serve", "--port", "0", "--data", data],
    { stdio: ["ignore", "pipe", "inherit"] },
  );
  const address = await new Promise((resolve) => {
    server.stdout.on("data", (chunk) => {
      const match = /ready at (\S+)/.exec(String(chunk));
      if (match) resolve(match[1]);
    });
  });
  const stop = async () => {
    server.kill();
    await new Promise((resolve) => server.once("exit", resolve));
    rmSync(data, { recursive: true, force: true });
  };
  return { address, stop };
}
