/** `npm run bench`: what the work costs, on this machine, as figures of one run. Not part of the tests. */
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { CHROMIUM, ensureChromium, ensureInstalled, ROOT, run } from "./setup.mjs";

ensureInstalled();
ensureChromium();
const { build } = await import("esbuild");
const { chromium } = await import("@playwright/test");
const out = join(ROOT, "test-results/bench");
mkdirSync(out, { recursive: true });

await build({
  entryPoints: [join(ROOT, "bench/core.ts")],
  outfile: join(out, "core.mjs"),
  bundle: true,
  platform: "node",
  format: "esm",
});
if (run(process.execPath, [join(out, "core.mjs")]) !== 0) process.exit(1);

const page = await build({
  entryPoints: [join(ROOT, "bench/framePage.ts")],
  bundle: true,
  minify: true,
  platform: "browser",
  format: "iife",
  write: false,
});
const browser = await chromium.launch({
  executablePath: CHROMIUM,
  args: [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-background-networking",
  ],
});
const tab = await browser.newPage();
await tab.addScriptTag({ content: page.outputFiles[0].text });
const { evaluateAndApplyMs, withDrawCallsMs } = await tab.evaluate(() => window.measureFrames());
await browser.close();
const line = (what, figure) => console.log(`${what.padEnd(46)} ${figure}`);
line(
  "script a frame, ring of 512 copies",
  `${evaluateAndApplyMs.toFixed(2)} ms; ${withDrawCallsMs.toFixed(2)} ms with the calls that draw it`,
);

const player = await build({
  entryPoints: [join(ROOT, "player/src/page/main.ts")],
  define: { WORKLET_SOURCE: '""' },
  bundle: true,
  minify: true,
  platform: "browser",
  format: "esm",
  external: ["three"],
  write: false,
});
line(
  "player without three.js, minified, gzip",
  `${(gzipSync(player.outputFiles[0].contents).length / 1024).toFixed(1)} kB`,
);
