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
 * Starts the installed Chromium without a window: the one that `BUMBREL_CHROMIUM` names, or the system's. It runs in its
 * sandbox where the system allows that, and reaches one port of this machine and nothing else.
 *
 * @param port  that the page comes from
 * @param endsOnSignals  whether a signal that ends this process is acted on here: by ending the browser and the process
 * @throws BumbrelError when there is none
 */
export async function startChromium(port: number, endsOnSignals: boolean): Promise<Browser> {
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
  const launch = (chromiumSandbox: boolean) =>
    chromium.launch({
      executablePath: path,
      chromiumSandbox,
      handleSIGINT: endsOnSignals,
      handleSIGTERM: endsOnSignals,
      args: [
        "--use-angle=swiftshader",
        "--enable-unsafe-swiftshader",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--no-first-run",
        // Everything but its own port goes to a proxy that is not there; connections of other kinds are not made at all.
        `--proxy-server=http://127.0.0.1:${NOWHERE}`,
        `--proxy-bypass-list=<-loopback>;127.0.0.1:${port}`,
        "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
        "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
      ],
    });
  // Root may not use the sandbox, nor may anybody in some containers; whatever runs in it is the scene's own page.
  if (process.getuid?.() === 0) return launch(false);
  return launch(true).catch(() => launch(false));
}

/** A port on which nothing ever listens. */
const NOWHERE = 1;
