/**
 * Opens one page in Chromium without a window for the process that started this one, and ends with it. Loading the driver
 * stops a process for a second and takes as much memory as all the rest of a server, so it has a process of its own.
 *
 * Its argument is JSON: `address` of the page, `useSandbox` and Chromium's own `executablePath` and `args`. It sends
 * `crash`, `closed`, `thrown` with the message of an error in the page, and `failed` with the reason why there is no page.
 */
const { address, useSandbox, ...options } = JSON.parse(process.argv[2]);

/** @param {"crash" | "closed" | "thrown" | "failed"} kind @param {string} [message] */
function send(kind, message) {
  if (process.connected) process.send?.({ kind, message });
}

let isOver = false;
/** @type {Promise<import("playwright-core").Browser> | undefined} */
let opening;
process.on("disconnect", async () => {
  isOver = true;
  const browser = await opening?.catch(() => undefined);
  await browser?.close().catch(() => {});
  process.exit();
});
// Work can be stopped before there is anybody to hear of it.
if (!process.connected) process.exit();

try {
  const { chromium } = await import("playwright-core");
  /** @param {boolean} chromiumSandbox */
  const launch = (chromiumSandbox) =>
    chromium.launch({ ...options, chromiumSandbox, handleSIGINT: false, handleSIGTERM: false });
  opening = useSandbox ? launch(true).catch(() => launch(false)) : launch(false);
  const browser = await opening;
  browser.on("disconnected", () => {
    if (!isOver) send("closed");
  });
  const page = await browser.newPage();
  page.on("crash", () => send("crash"));
  page.on("pageerror", ({ message }) => send("thrown", message));
  await page.goto(address, { waitUntil: "commit" });
} catch (error) {
  if (!isOver) send("failed", error instanceof Error ? error.message : String(error));
}
