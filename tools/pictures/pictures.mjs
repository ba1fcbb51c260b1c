/** `npm run pictures`: takes the pictures that the worked examples have on the Shelf, at desktop quality. */
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { launchChromium, startServer } from "../browse.mjs";
import { ROOT } from "../setup.mjs";

const only = process.argv[2];
const SIZE = { width: 640, height: 384 };
/** In software an image of good quality takes half a minute, and nothing is answered meanwhile. */
const FINE_MS = 40_000;
const LONGEST_MS = 400_000;

const { address, stop } = await startServer();
const browser = await launchChromium();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.setDefaultTimeout(LONGEST_MS);
const { projects } = await (await page.request.get(`${address}/api/projects`)).json();

async function open(name, view = "stage") {
  const { id } = projects.find((project) => project.name === name);
  await page.goto(`${address}/projects/${id}/${view}`);
  await page.waitForFunction(() => window.bumbrel?.isLoaded());
}

const keep = (id, base64) => {
  writeFileSync(join(ROOT, `demo/pictures/${id}.jpg`), Buffer.from(base64, "base64"));
  console.log(id);
};

/** The stage at a time, through the scene's own camera. */
async function picture(id, name, timeS) {
  if (only && only !== id) return;
  await open(name);
  await page.getByRole("combobox", { name: "Quality" }).selectOption("desktop");
  await page.waitForTimeout(FINE_MS);
  const base64 = await page.evaluate(
    async ([atS, width, height]) => {
      const pixels = await window.bumbrel.captureFrame(Math.round(atS * 60), 60, width * 2, height * 2);
      const canvas = new OffscreenCanvas(width * 2, height * 2);
      canvas.getContext("2d").putImageData(new ImageData(new Uint8ClampedArray(pixels), width * 2), 0, 0);
      const small = document.createElement("canvas");
      Object.assign(small, { width, height });
      const context = small.getContext("2d");
      context.imageSmoothingQuality = "high";
      context.drawImage(canvas, 0, 0, width, height);
      return small.toDataURL("image/jpeg", 0.9).split(",")[1];
    },
    [timeS, SIZE.width, SIZE.height],
  );
  keep(id, base64);
}

/** The stage on a phone's made-up camera picture, some time after a tap. */
async function phonePicture(id, name, afterS) {
  if (only && only !== id) return;
  await open(name);
  await page.getByRole("combobox", { name: "Quality" }).selectOption("desktop");
  await page.getByRole("link", { name: "Try", exact: true }).click();
  await page.getByRole("button", { name: "Phone", exact: true }).click();
  await page.getByRole("button", { name: "across" }).click();
  await page.getByRole("button", { name: "Start the try" }).click();
  await page.waitForFunction(() => window.bumbrel.runS() > 0.2);
  const stage = page.getByRole("img", { name: "The stage" });
  await stage.click();
  const tappedS = await page.evaluate(() => window.bumbrel.runS());
  await page.waitForFunction((atS) => window.bumbrel.runS() > atS, tappedS + afterS);
  const { x, y, width, height } = await stage.boundingBox();
  const wide = (height * SIZE.width) / SIZE.height;
  const clip = { x: x + (width - wide) / 2, y, width: wide, height };
  keep(id, (await page.screenshot({ type: "jpeg", quality: 90, clip })).toString("base64"));
}

await picture("fog-bell", "Fog Bell", 3);
await phonePicture("ferry-card", "Ferry Card", 8);
await picture("slipway", "Slipway", 3);

await browser.close();
await stop();
