import { existsSync } from "node:fs";
import { BumbrelError } from "@bumbrel/core/errors";
import type { Browser } from "playwright-core";

/** Where systems keep the browser. */
const PATHS = [
  "/usr/bin/chromium",
  "/usr/bin/chromium-browser",
  "/usr/bin/google-chrome",
  "/usr/bin/google-chrome-stable",
  "/snap/bin/chromium",
  "/Applications/Chromium.app/Contents/MacOS/Chromium",
  "/Applications/Google Chrome.app/Contents/MacOS/Google Chrome",
  "C:\\Program Files\\Google\\Chrome\\Application\\chrome.exe",
];

/**
 * Starts the installed Chromium without a window: the one that `BUMBREL_CHROMIUM` names, or the system's.
 *
 * @throws BumbrelError when there is none
 */
export async function startChromium(): Promise<Browser> {
  const named = process.env.BUMBREL_CHROMIUM;
  const path = named ?? PATHS.find((one) => existsSync(one));
  if (path === undefined || !existsSync(path)) {
    throw new BumbrelError({
      code: "no-chromium",
      what: "there is no Chromium to render with",
      where: named ?? PATHS[0],
      remedy: "Install it (Debian: apt-get install chromium), or set BUMBREL_CHROMIUM to where it is",
    });
  }
  // Loaded by those who render alone: it takes as much memory as all the rest.
  const { chromium } = await import("playwright-core");
  return chromium.launch({
    executablePath: path,
    args: [
      // Root may not use the sandbox; whatever runs in it is the scene's own page.
      ...(process.getuid?.() === 0 ? ["--no-sandbox"] : []),
      "--use-angle=swiftshader",
      "--enable-unsafe-swiftshader",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
      "--no-first-run",
    ],
  });
}
