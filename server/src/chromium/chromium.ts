import { fork } from "node:child_process";
import { existsSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { BumbrelError } from "@bumbrel/core/errors";

/** Paths at which systems install the browser. */
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

/** The process that drives the browser. */
const DRIVER = fileURLToPath(new URL("./chromiumDriver.mjs", import.meta.url));
/** A port on which nothing ever listens. */
const NOWHERE = 1;

/** Events of a page in the browser. */
export interface PageEvents {
  /** There is no page. @param why  as the browser says it */
  onFailed(why: string): void;
  /** An error that the page does not catch. */
  onThrown(message: string): void;
  /** The browser or its page ended. @param why  in words for people */
  onLost(why: string): void;
}

/**
 * Opens a page in the installed Chromium without a window: the one that `BUMBREL_CHROMIUM` names, or the system's. It runs
 * in its sandbox where the system allows that, and reaches one port of this machine and nothing else. It ends with this
 * process, however that ends.
 *
 * @param port  that the page comes from
 * @param path  of the page, with a slash before it
 * @returns ends the browser
 * @throws BumbrelError when there is none
 */
export function openInChromium(port: number, path: string, events: PageEvents): () => void {
  const named = process.env.BUMBREL_CHROMIUM;
  const executablePath = named ?? PATHS.find((one) => existsSync(one));
  if (executablePath === undefined || !existsSync(executablePath)) {
    throw new BumbrelError({
      code: "no-chromium",
      what: "there is no Chromium to render with",
      where: named ?? PATHS[0],
      remedy: "Install it (Debian: apt-get install chromium), or set BUMBREL_CHROMIUM to where it is",
    });
  }
  const order = {
    address: `http://127.0.0.1:${port}${path}`,
    // Root may not use the sandbox, nor may anybody in some containers; whatever runs in it is the scene's own page.
    useSandbox: process.getuid?.() !== 0,
    executablePath,
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
  };
  // Detached, so that Ctrl+C in a terminal reaches this process alone, which decides what becomes of the work.
  const driver = fork(DRIVER, [JSON.stringify(order)], { detached: true, execArgv: [], stdio: "ignore" });
  let isClosed = false;
  const lost = (why: string) => {
    if (!isClosed) events.onLost(why);
  };
  const ended = () => lost("The browser ended before the work was done.");
  driver.on("error", ({ message }) => events.onFailed(message));
  driver.on("exit", ended);
  driver.on("message", ({ kind, message = "" }: { kind: string; message?: string }) => {
    if (kind === "failed") events.onFailed(message);
    else if (kind === "thrown") events.onThrown(message);
    else if (kind === "crash") lost("The browser ran out of memory or its graphics gave up.");
    else ended();
  });
  return () => {
    isClosed = true;
    if (driver.connected) driver.disconnect();
  };
}
