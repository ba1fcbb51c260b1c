/**
 * `npm run bench`: what the work costs, on this machine, as figures of one run. Not part of the tests.
 * `npm run bench -- 10` plays the Sounds view for ten minutes and tells whether its memory grows.
 */
import { copyFileSync, mkdirSync } from "node:fs";
import { basename, join } from "node:path";
import { gzipSync } from "node:zlib";
import { measureLookThrough } from "../bench/pages/lookThrough.mjs";
import { measureRenders } from "../bench/pages/renders.mjs";
import { measureVisits } from "../bench/pages/visits.mjs";
import { measureFans } from "../bench/sound/fans.mjs";
import { launchChromium, startServer } from "./browse.mjs";
import { buildAll } from "./build/build.mjs";
import { scriptsForPage } from "./build/scriptsCode.mjs";
import { ensureChromium, ensureInstalled, ROOT, run } from "./setup.mjs";

const line = (what, figure) => console.log(`${what.padEnd(46)} ${figure}`);

ensureInstalled();
ensureChromium();
const { build } = await import("esbuild");
const out = join(ROOT, "test-results/bench");
mkdirSync(out, { recursive: true });

/** Bundles a measurement for Node and runs it. */
async function runInNode(path) {
  const name = basename(path);
  await build({
    entryPoints: [join(ROOT, `bench/${path}.ts`)],
    outfile: join(out, `${name}.mjs`),
    bundle: true,
    platform: "node",
    format: "esm",
    // The embedded database finds its own files beside its code.
    external: ["@electric-sql/pglite", "pg", "proper-lockfile", "playwright-core"],
    banner: {
      js: 'import { createRequire as makeRequire } from "node:module"; const require = makeRequire(import.meta.url);',
    },
  });
  if (run(process.execPath, ["--expose-gc", join(out, `${name}.mjs`)]) !== 0) process.exit(1);
}
for (const name of ["core", "catch", "beats", "pitches", "sections", "parts", "runtime"])
  await runInNode(`sound/${name}`);
await runInNode("safety/saves");
await runInNode("pages/bodies");

const page = await build({
  entryPoints: [join(ROOT, "bench/pages/framePage.ts")],
  bundle: true,
  minify: true,
  platform: "browser",
  format: "iife",
  write: false,
});
const browser = await launchChromium();
const tab = await browser.newPage();
await tab.addScriptTag({ content: await scriptsForPage() });
await tab.addScriptTag({ content: page.outputFiles[0].text });
const { ring, heavy, openMs } = await tab.evaluate(() => window.measureFrames());
const figures = ({ scriptMs, withDrawCallsMs, copies, particles }) =>
  `${scriptMs.toFixed(2)} ms; ${withDrawCallsMs.toFixed(2)} ms with drawing in software (${copies} copies, ${particles} particles)`;
line("script a frame, ring of 512 copies", figures(ring));
line("script a frame, 4096 copies, 200 bindings", figures(heavy));
const programs = await tab.evaluate(() => window.programCosts());
line(
  "numbers of programs, 16 strands, 4 fans of 64",
  `${programs.texturesMs.toFixed(3)} ms of script a frame`,
);
line("a drawing of 512 rectangles", `${programs.rectanglesMs.toFixed(2)} ms of script a picture`);
for (const [step, ms] of Object.entries(await tab.evaluate(() => window.qualityCosts()))) {
  line(`Regatta Night, 320 × 200, quality ${step}`, `${ms.toFixed(0)} ms a frame in software`);
}
const [strandsPage, measurer] = await Promise.all(
  ["bench/pages/strandsPage.ts", "studio/src/analysis/measure.worker.ts"].map(async (entry) => {
    const { outputFiles } = await build({
      entryPoints: [join(ROOT, entry)],
      bundle: true,
      minify: true,
      platform: "browser",
      format: "iife",
      write: false,
    });
    return outputFiles[0].text;
  }),
);
await tab.addScriptTag({ content: strandsPage });
const strands = (threads) =>
  tab.evaluate(([count, code]) => window.strandsMs(count, code), [threads, measurer]);
const [alone, beside] = [await strands(0), await strands(1)];
line(
  "six strands that share nothing, 48 s",
  `${alone.toFixed(0)} ms; with a second thread ${beside.toFixed(0)} ms, ${(alone / beside).toFixed(2)} times as fast`,
);
line("a scene of 1000 bindings, to its first frame", `${openMs.toFixed(0)} ms`);
const devtools = await tab.context().newCDPSession(tab);
const heapMb = async () => {
  await devtools.send("HeapProfiler.collectGarbage");
  return (await devtools.send("Runtime.getHeapUsage")).usedSize / 2 ** 20;
};
await tab.evaluate(() => window.runFrames(600));
const heaps = [await heapMb()];
for (let ten = 0; ten < 6; ten++) {
  await tab.evaluate(() => window.runFrames(600));
  heaps.push(await heapMb());
}
line("heap over 60 s of such frames", `${heaps.map((mb) => mb.toFixed(2)).join(", ")} MB`);
await browser.close();

await buildAll();
measureFans(out, line);
// Films are rendered by a process of its own, which is looked for beside the code.
copyFileSync(join(ROOT, "server/src/chromium/chromiumDriver.mjs"), join(out, "chromiumDriver.mjs"));
await runInNode("pages/films");
await measureFirstPictures();
await measureSoundsView(Number(process.argv[2] ?? 0.4));
await measureDrags();
await measureTries();

const player = await build({
  entryPoints: [join(ROOT, "player/src/page/main.ts")],
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

await runInNode("pages/pages");

/** Cost of a frame in a headset, and how well and how fast somebody is found in a picture. */
async function measureTries() {
  const { address, stop } = await startServer();
  const browser = await launchChromium();
  const { headsetMs, found } = await measureVisits(browser, address);
  const lookedThrough = await measureLookThrough(browser, address);
  await browser.close();
  await stop();
  line("script of a headset's frame, Regatta Night", headsetMs);
  line("a person found in the made-up picture", found);
  line("looking through a plain scene", lookedThrough);
}

/** Cost of a tick of a drag: components that React renders, and script. */
async function measureDrags() {
  const { address, stop } = await startServer();
  const browser = await launchChromium();
  const { rest, shaping } = await measureRenders(browser, address);
  await browser.close();
  await stop();
  const words = ({ renders, scriptMs }) =>
    `${renders.toFixed(0)} components rendered, ${scriptMs.toFixed(1)} ms of script a tick`;
  line("dragging a position on the stage", words(rest));
  line("dragging a release of a strand", words(shaping));
}

/** From a click on the Shelf until the first triangles of the stage are drawn. */
async function measureFirstPictures() {
  const { address, stop } = await startServer();
  const browser = await launchChromium();
  for (const name of ["Regatta Night", "Tuning Shed"]) {
    const times = [];
    for (let turn = 0; turn < 3; turn++) {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.addInitScript(() => {
        const { drawElements } = WebGL2RenderingContext.prototype;
        WebGL2RenderingContext.prototype.drawElements = function (...all) {
          window.firstDrawnMs ??= performance.now();
          return drawElements.apply(this, all);
        };
        addEventListener("click", () => (window.clickedMs ??= performance.now()), { capture: true });
      });
      await page.goto(address);
      await page.getByRole("link", { name }).first().click();
      await page.waitForFunction(() => window.firstDrawnMs !== undefined);
      times.push(await page.evaluate(() => window.firstDrawnMs - window.clickedMs));
      await page.close();
    }
    const words = times.map((ms) => ms.toFixed(0)).join(", ");
    line(`${name}, from the Shelf to its first picture`, `${words} ms`);
  }
  await browser.close();
  await stop();
}

/** Script time a frame of the Sounds view with 16 rows playing, and the page's heap as the minutes go by. */
async function measureSoundsView(minutes) {
  const { address, stop } = await startServer();
  const browser = await launchChromium();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(address);
  await page.getByRole("link", { name: "Regatta Night" }).first().click();
  await page.getByRole("link", { name: "Sounds", exact: true }).click();
  for (let row = 7; row < 16; row++) {
    await page.getByRole("button", { name: "Add something else" }).click();
    await page.getByRole("menuitem", { name: row % 2 ? "Noise" : "Tone" }).click();
  }
  await page.getByRole("button", { name: "Open Regatta Night" }).click();
  await page.waitForFunction(() => window.bumbrel.durationS() === 48);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const devtools = await page.context().newCDPSession(page);
  const heapMb = async () => {
    await devtools.send("HeapProfiler.collectGarbage");
    const { usedSize } = await devtools.send("Runtime.getHeapUsage");
    return usedSize / 2 ** 20;
  };
  const costs = [];
  const heaps = [];
  const end = Date.now() + minutes * 60_000;
  await page.waitForTimeout(8000);
  while (Date.now() < end || costs.length < 8) {
    heaps.push(await heapMb());
    await page.waitForTimeout(Math.min(30_000, Math.max(1000, (minutes * 60_000) / 20)));
    costs.push(await page.evaluate(() => window.bumbrel.frameCostMs()));
  }
  heaps.push(await heapMb());
  await browser.close();
  await stop();
  const median = costs.sort((a, b) => a - b)[Math.floor(costs.length / 2)];
  line(
    "script a frame, Sounds view, 16 rows playing",
    `${median.toFixed(2)} ms (highest ${costs.at(-1).toFixed(2)}), one opened up`,
  );
  line(`heap over ${minutes} minutes of play`, `${heaps.map((mb) => mb.toFixed(1)).join(", ")} MB`);
}
