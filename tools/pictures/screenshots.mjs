/** `npm run screenshots`: takes the screenshots in docs/screenshots from the demo data, on a server of its own. */
import { join } from "node:path";
import { launchChromium, startServer } from "../browse.mjs";
import { ROOT } from "../setup.mjs";

/** Names of the ones to take, with commas between them; all without it. */
const only = process.argv[2]?.split(",");
const { address, stop } = await startServer();
const browser = await launchChromium();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.setDefaultTimeout(20_000);
page.on("console", (message) => message.type() === "error" && console.error(message.text()));

async function shoot(name, seconds) {
  if (seconds !== undefined) await page.evaluate((timeS) => window.bumbrel.seek(timeS), seconds);
  await page.mouse.move(640, 790);
  await page.waitForTimeout(1200);
  if (only && !only.includes(name)) return;
  await page.screenshot({ path: join(ROOT, `docs/screenshots/${name}.png`) });
  console.log(name);
}

/** In software an image of good quality takes half a minute, and each change one more. */
const FINE_MS = 45_000;
/** Shoots a view as somebody with a graphics card sees it; the stage must be open. */
async function shootFine(name, seconds, view) {
  if (only && !only.includes(name)) return;
  const quality = page.getByRole("combobox", { name: "Quality" });
  page.setDefaultTimeout(400_000);
  await page.evaluate((timeS) => window.bumbrel.seek(timeS), seconds);
  await quality.selectOption("desktop");
  await page.waitForTimeout(FINE_MS);
  if (view) {
    await page.getByRole("link", { name: view }).click();
    await page.waitForTimeout(FINE_MS);
  }
  await shoot(name);
  if (view) await page.getByRole("link", { name: "Stage" }).click();
  await quality.selectOption("auto");
  page.setDefaultTimeout(20_000);
}

/** The three ways to try a scene, each with the worked example that is made for it. */
async function shootTries() {
  const { projects } = await (await page.request.get(`${address}/api/projects`)).json();
  const open = async (name) => {
    const { id } = projects.find((project) => project.name === name);
    await page.goto(`${address}/projects/${id}/stage`);
    await page.waitForFunction(() => window.bumbrel?.isLoaded());
  };
  page.setDefaultTimeout(400_000);
  const start = async (way) => {
    await page.getByRole("combobox", { name: "Quality" }).selectOption("desktop");
    await page.waitForTimeout(FINE_MS);
    await page.getByRole("link", { name: "Try", exact: true }).click();
    await page.getByRole("button", { name: way, exact: true }).click();
    await page.getByRole("button", { name: "Start the try" }).click();
    await page.waitForFunction(() => window.bumbrel.runS() > 0.1);
  };
  await open("Fog Bell");
  await start("Window");
  await page.keyboard.down("w");
  await page.waitForFunction(() => window.bumbrel.fired().length > 0);
  await page.keyboard.up("w");
  await page.waitForTimeout(FINE_MS);
  await shoot("try");
  await open("Ferry Card");
  await start("Phone");
  await page.getByRole("img", { name: "The stage" }).click();
  const tappedS = await page.evaluate(() => window.bumbrel.runS());
  await page.waitForFunction((atS) => window.bumbrel.runS() > atS, tappedS + 6);
  await shoot("try-phone");
  await open("Slipway");
  await page.waitForTimeout(4000);
  await shoot("stage-answers", 3);
  await start("Headset");
  await page.waitForFunction(() => window.bumbrel.runS() > 6);
  await shoot("try-headset");
  page.setDefaultTimeout(20_000);
}

/** Deliver after the whole tape was looked through, while a film is in the making. */
async function shootDeliver() {
  const quality = page.getByRole("combobox", { name: "Quality" });
  await quality.selectOption("plain");
  await page.getByRole("link", { name: "Deliver" }).click();
  await page.getByRole("button", { name: "Look through the whole tape" }).click();
  await page.getByText(/^Mix:/).waitFor({ timeout: 1_800_000 });
  await shoot("deliver");
  await page.getByRole("combobox", { name: "Size" }).selectOption("own");
  for (const [label, pixels] of [
    ["Width", "640"],
    ["Height", "360"],
  ]) {
    const field = page.getByLabel(label, { exact: true });
    await field.fill(pixels);
    await field.press("Enter");
  }
  await page.getByRole("button", { name: "Make the film" }).click();
  await page.getByText(/^1?\d\d of \d+ frames/).waitFor({ timeout: 600_000 });
  await page.getByRole("button", { name: "Pause the film" }).scrollIntoViewIfNeeded();
  await shoot("deliver-film");
  await page.getByRole("button", { name: "Cancel the film" }).click();
  await page.getByRole("link", { name: "Stage" }).click();
  await quality.selectOption("auto");
}

const TRIES = ["try", "try-phone", "try-headset", "stage-answers"];
if (!only || only.some((name) => TRIES.includes(name))) await shootTries();
if (only?.every((name) => TRIES.includes(name))) {
  await browser.close();
  await stop();
  process.exit();
}

await page.goto(address);
await page.getByRole("link", { name: "Regatta Night" }).first().click();
await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
await page.evaluate(() => window.bumbrel.seek(26.5));
await page.waitForTimeout(4000);

const area = await page.getByTestId("spine-drag").boundingBox();
const drag = async (fromShare, toShare) => {
  await page.mouse.move(area.x + area.width * 0.4, area.y + area.height * fromShare);
  await page.mouse.down();
  await page.mouse.move(area.x + area.width * 0.4, area.y + area.height * ((fromShare + toShare) / 2));
  await page.mouse.move(area.x + area.width * 0.4, area.y + area.height * toShare);
  await page.mouse.up();
};
await drag(0.877, 0.961);
const name = page.getByRole("textbox", { name: "Strand name" });
await name.fill("Kick");
await name.press("Enter");
const set = async (label, value) => {
  const field = page.getByRole("textbox", { name: label });
  await field.fill(value);
  await field.press("Enter");
};
await set("Floor in dBFS", "-24");
await set("Range in dB", "14");
await shoot("strands", 26.48);
await page.getByRole("button", { name: "Row of lamps", exact: true }).click();
await shoot("strands-fan", 26.48);
await page.getByRole("button", { name: "Kick", exact: true }).click();
await page.getByRole("button", { name: "Catch" }).click();
await page.getByRole("region", { name: "Catch" }).getByText("3 more to go by").waitFor();
for (const timeS of [24, 24.6, 25.2, 26.1, 26.4, 27]) {
  await page.evaluate((at) => window.bumbrel.seek(at), timeS);
  await page.keyboard.press("h");
}
await page.getByRole("region", { name: "Catch" }).getByText("catches").waitFor();
await shoot("strands-catch", 26.48);
await page.getByRole("button", { name: "Stop", exact: true }).click();

await page.getByRole("link", { name: "Stage" }).click();
await page.getByRole("button", { name: "Leading lantern", exact: true }).click();
for (const property of ["Scale", "Emission"]) {
  await page.getByRole("button", { name: `Bind ${property}`, exact: true }).click();
  await page.getByRole("menuitem", { name: "Kick" }).click();
}
await shootFine("stage", 26.48);
for (const property of ["Scale", "Emission"]) {
  const row = page.getByRole("region", { name: property, exact: true });
  await row.getByRole("button", { name: "Remove this binding" }).last().click();
}
await page.getByRole("button", { name: "Mooring posts" }).click();
await shoot("stage-formation", 26.48);
const sheet = page.getByRole("complementary", { name: "Sheet" });
await page.getByRole("button", { name: "Leading lantern", exact: true }).click();
const surface = sheet.getByRole("button", { name: /^Surface/ });
if ((await surface.getAttribute("aria-expanded")) !== "true") await surface.click();
await sheet.getByRole("button", { name: "Write a program" }).click();
await page.getByRole("menuitem", { name: "Rising hills" }).click();
await page.getByText(/^Works/).waitFor();
await shoot("stage-program", 26.48);
await page.getByRole("button", { name: "Remove Rising hills" }).click();
await page.getByRole("button", { name: "Leading lantern", exact: true }).click();
await sheet.getByRole("button", { name: /^Surface/ }).click();
for (const section of ["Surface", "Place"]) {
  const button = sheet.getByRole("button", { name: section, exact: true });
  if ((await button.count()) > 0) await button.click();
}
await page.getByRole("link", { name: "Sounds" }).click();
await page.waitForTimeout(1500);
const add = async (kind) => {
  await page.getByRole("button", { name: "Add something else" }).click();
  await page.getByRole("menuitem", { name: kind }).click();
  await page.getByRole("button", { name: /^Close/ }).click();
};
for (const name of ["Bass", "Plucked tune", "Pad"])
  await page.getByRole("button", { name: `Remove ${name}`, exact: true }).click();
await add("Clock");
await add("Input");
await page.getByRole("button", { name: "Switch Input on" }).click();
await page.evaluate(() => window.bumbrel.seek(26));
await page.getByRole("button", { name: "Play", exact: true }).click();
await page.waitForTimeout(4500);
await shoot("sounds");
await page.getByRole("button", { name: "Switch Input off" }).click();
for (let step = 0; step < 5; step++) await page.getByRole("button", { name: /^Undo/ }).click();
await page.getByRole("button", { name: "Open Regatta Night" }).click();
for (const tool of ["spectrogram", "loudness"])
  await page.getByRole("button", { name: `Show the ${tool}` }).click();
await page.getByRole("combobox", { name: "Compare with" }).selectOption({ label: "Bass" });
await page.getByRole("combobox", { name: "Spectrum drawn as" }).selectOption("filled");
await page.locator("[aria-label='Regatta Night opened']").scrollIntoViewIfNeeded();
await page.waitForTimeout(1500);
await shoot("sound-open");
await page.getByRole("button", { name: "Pause", exact: true }).click();
await page.getByRole("link", { name: "Stage" }).click();
await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
if (!only || only.includes("deliver")) await shootDeliver();

await page.getByRole("link", { name: "To the shelf" }).click();
await page.getByRole("button", { name: "Duplicate Regatta Night" }).click();
await page.getByRole("link", { name: "Regatta Night copy" }).click();
await page.getByRole("textbox", { name: "Project name" }).fill("Harbour mouth, rehearsal");
await page.getByRole("textbox", { name: "Project name" }).press("Enter");
await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
await page.evaluate(() => window.bumbrel.seek(38));
await page.waitForTimeout(4000);
await page.getByRole("link", { name: "To the shelf" }).click();
await shoot("shelf");
await page.getByRole("button", { name: "New from an example" }).click();
await page.getByRole("menuitem", { name: /^Tuning Shed/ }).click();
await page.waitForFunction(() => window.bumbrel?.durationS() === 24);
await page.getByRole("link", { name: "Stage" }).click();
await page.waitForTimeout(3000);
await shootFine("tuning-shed", 15.2, "Try");
await page.getByRole("link", { name: "To the shelf" }).click();
await page.getByRole("button", { name: "New project", exact: true }).click();
await page.getByRole("textbox", { name: "Project name" }).fill("Quay microphone");
await page.getByRole("textbox", { name: "Project name" }).press("Enter");
await page.getByRole("button", { name: "Add something else" }).click();
await page.getByRole("menuitem", { name: "Input" }).click();
await page.getByRole("button", { name: "Switch Input on" }).click();
await page.getByRole("link", { name: "Stage" }).click();
await page.getByRole("button", { name: "Put on stage" }).click();
await page.getByRole("menuitem", { name: "Waveform", exact: true }).click();
await page.getByRole("link", { name: "Strands" }).click();
await page.getByRole("combobox", { name: "Showing" }).selectOption({ label: "Input" });
await drag(0.3, 0.75);
await page.waitForTimeout(10_000);
await page.getByRole("button", { name: "Fit", exact: true }).click();
await page.waitForTimeout(6000);
await shoot("strands-live");
await page.getByRole("link", { name: "To the shelf" }).click();
await page.getByRole("link", { name: "Harbour mouth" }).click();
await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
await page.getByRole("button", { name: "Use the light theme" }).click();
await page.waitForTimeout(2500);
await shoot("strands-light", 30.3);

await browser.close();
await stop();
