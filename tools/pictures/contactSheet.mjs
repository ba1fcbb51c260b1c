/**
 * `npm run contact-sheet`: draws each example, and each kind of object on a new project with its defaults, across and
 * upright, into docs/screenshots/contact-sheet.png. `npm run contact-sheet -- FOLDER` keeps the single images as well.
 */
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { launchChromium } from "../browse.mjs";
import { scriptsForPage } from "../build/scriptsCode.mjs";
import { ensureChromium, ensureInstalled, ROOT } from "../setup.mjs";

ensureInstalled();
ensureChromium();
const { build } = await import("esbuild");
const folder = process.argv[2];
if (folder) mkdirSync(folder, { recursive: true });

/** Pixels that an image is drawn with, and that it has on the sheet. */
const SHAPES = {
  across: { drawn: [640, 400], shown: [288, 180], shownExample: [696, 435] },
  upright: { drawn: [360, 640], shown: [101, 180], shownExample: [245, 435] },
};
const FONT =
  "node_modules/@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-600-normal.woff";
const { outputFiles } = await build({
  entryPoints: [join(ROOT, "tools/pictures/contactSheetPage.ts")],
  bundle: true,
  write: false,
  format: "iife",
  target: "es2022",
});
const browser = await launchChromium();
const page = await browser.newPage();
page.on("console", (message) => message.type() === "error" && console.error(message.text()));
page.on("pageerror", (error) => console.error(error));
await page.route("http://sheet.invalid/**", (route) =>
  route.request().url().endsWith(".woff")
    ? route.fulfill({ body: readFileSync(join(ROOT, FONT)) })
    : route.fulfill({ contentType: "text/html", body: "<!doctype html><title>One</title>" }),
);
await page.goto("http://sheet.invalid/");
await page.addScriptTag({ content: await scriptsForPage() });
await page.addScriptTag({ content: outputFiles[0].text });
const shown = await page.evaluate(() => window.shown);
const cells = [];
for (const [index, { label, isExample }] of shown.entries()) {
  const images = [];
  for (const [name, shape] of Object.entries(SHAPES)) {
    const scale = isExample ? 1.25 : 1;
    const [width, height] = shape.drawn.map((one) => one * scale);
    await page.setViewportSize({ width, height });
    await page.evaluate(([at, w, h]) => window.showOne(at, w, h), [index, width, height]);
    const png = await page.screenshot();
    if (folder) writeFileSync(join(folder, `${label}, ${name}.png`.replaceAll("/", " ")), png);
    const [w, h] = isExample ? shape.shownExample : shape.shown;
    images.push(`<img width=${w} height=${h} src="data:image/png;base64,${png.toString("base64")}">`);
  }
  cells.push(`<figure><div>${images.join("")}</div><figcaption>${label}</figcaption></figure>`);
  console.log(label);
}
const sheet = await browser.newPage({ viewport: { width: 1990, height: 800 } });
await sheet.setContent(`<!doctype html><style>
  body { margin: 24px; background: #0a1a1f; color: #f2eddf; font: 600 15px "Atkinson Hyperlegible Next", sans-serif;
    display: flex; flex-wrap: wrap; gap: 18px 20px }
  figure { margin: 0 } div { display: flex; gap: 4px } figcaption { margin-top: 4px }
</style>${cells.join("")}`);
await sheet.screenshot({ path: join(ROOT, "docs/screenshots/contact-sheet.png"), fullPage: true });
await browser.close();
