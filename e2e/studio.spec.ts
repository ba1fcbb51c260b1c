import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { EXAMPLE_LIST } from "@bumbrel/api/exampleList";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { expect, type Page, test } from "@playwright/test";
import { TIMED_FULL } from "./support/full";
import {
  addSound,
  complaintsOf,
  dragRange,
  largestDifference,
  newProject,
  nextFrames,
  openDemo,
  waitUntilSaved,
} from "./support/helpers";
import { TestServer } from "./support/server";

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.remove());

const shapedNow = (page: Page) => page.evaluate(() => window.bumbrel!.values());

test("shelf: search, duplicate, delete and bring back, new from the example", async ({ page }) => {
  const complaints = complaintsOf(page);
  await page.goto(server.address);
  const rows = page.getByRole("main").getByRole("listitem");
  // Every example is there from the start, each with a picture and a line of what it teaches.
  const count = EXAMPLE_LIST.length;
  await expect(rows).toHaveCount(count);
  await expect(rows.locator("img")).toHaveCount(count);
  await expect(rows.nth(1)).toContainText("A rising tone and two noises");
  await expect(rows.first().getByRole("img", { name: /Average spectrum/ })).toBeVisible();
  await expect(rows.first()).toContainText("0:48");
  await page.getByRole("button", { name: "Duplicate Regatta Night" }).click();
  await expect(rows).toHaveCount(count + 1);
  await page.getByRole("textbox", { name: "Search projects" }).fill("copy");
  await expect(rows).toHaveCount(1);
  await page.getByRole("button", { name: "Delete Regatta Night copy" }).click();
  await expect(page.getByText("“Regatta Night copy” was deleted.")).toBeVisible();
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(rows).toHaveCount(1);
  await page.getByRole("button", { name: "Delete Regatta Night copy" }).click();
  await page.getByRole("textbox", { name: "Search projects" }).fill("nothing like it");
  await expect(page.getByText("No project is called")).toBeVisible();
  await page.getByRole("button", { name: "New from an example" }).click();
  await page.getByRole("menuitem", { name: /^Regatta Night/ }).click();
  await expect(page).toHaveURL(/\/projects\/.+\/strands/);
  await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
  await page.getByRole("link", { name: "To the shelf" }).click();
  await expect(rows).toHaveCount(count + 1);
  expect(complaints).toEqual([]);
});

test("a project leaves as an archive, and comes in again where it is not known", async ({ page }) => {
  await page.goto(server.address);
  await page.getByRole("link", { name: "Ferry Card" }).click();
  await page.getByRole("link", { name: "Deliver" }).click();
  const arriving = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save the archive" }).click();
  const download = await arriving;
  expect(download.suggestedFilename()).toBe("ferry-card.zip");
  const path = await download.path();
  await page.getByRole("link", { name: "To the shelf" }).click();
  const choose = page.getByLabel("Archive or scene to import");
  await choose.setInputFiles(path);
  await expect(page.getByText("“Ferry Card” is here already.")).toBeVisible();
  // On a machine of its own it is new, and everything is there.
  const other = new TestServer();
  await other.start();
  try {
    await page.goto(other.address);
    await page.getByRole("button", { name: "Delete Ferry Card" }).click();
    await expect(page.getByText("“Ferry Card” was deleted.")).toBeVisible();
    await choose.setInputFiles(path);
    await expect(page.getByText("“Ferry Card” was brought in.")).toBeVisible();
    await expect(page.getByRole("link", { name: "Ferry Card" })).toBeVisible();
    await choose.setInputFiles({
      name: "notes.zip",
      mimeType: "application/zip",
      buffer: Buffer.from("PK no"),
    });
    await expect(page.getByText(/The archive cannot be read: this is no ZIP file/)).toBeVisible();
  } finally {
    await other.remove();
  }
});

test("strands: trace and numbers follow while a range is dragged; undo and redo; bypass; axis", async ({
  page,
}) => {
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  const strands = page.getByRole("region", { name: "Bench" });
  await dragRange(page, 1500, 6000);
  await expect(page.getByRole("textbox", { name: "Strand name" })).toHaveValue("Strand 9");
  const floor = page.getByRole("textbox", { name: "Floor in dBFS" });
  // A new strand is fitted to its sound: its floor is no longer the default.
  await expect(floor).not.toHaveValue("-60.0");
  // A value that is typed straight after a drag stays: the fit that follows a drag does not come after it.
  await dragRange(page, 90, 160);
  await floor.fill("-33");
  await floor.press("Enter");
  // Numbers of the drag that are still on their way must not set the floor again.
  await page.evaluate(() => window.bumbrel!.whenLoaded());
  await expect(floor).toHaveValue("-33.0");
  await page.getByRole("button", { name: /^Undo: change window of Strand 10/ }).click();
  await page.getByRole("button", { name: /^Undo: add Strand 10/ }).click();
  await page.getByRole("button", { name: /^Undo: add Strand 9/ }).click();
  await expect(strands.getByText("Strand 9")).toHaveCount(0);
  await page.getByRole("button", { name: /^Redo/ }).click();
  await expect(page.getByRole("button", { name: "Strand 9", exact: true })).toBeVisible();

  await page.getByRole("button", { name: "Strand 9", exact: true }).click();
  const high = page.getByRole("slider", { name: "High end of Strand 9" });
  const before = Number(await high.getAttribute("aria-valuenow"));
  await high.focus();
  await page.keyboard.press("ArrowUp");
  await expect
    .poll(async () => Number(await high.getAttribute("aria-valuenow")))
    .toBe(Math.round(before * 2 ** (1 / 12)));

  const trace = page.getByRole("img", { name: /Strand 9 over the whole sound/ });
  const look = async () => (await trace.screenshot()).toString("base64");
  const settled = async () => {
    await page.evaluate(() => window.bumbrel!.whenLoaded());
    await nextFrames(page, 3);
  };
  await settled();
  const first = await look();
  await floor.fill("-30");
  await floor.press("Enter");
  await expect.poll(look).not.toBe(first);
  await settled();
  const second = await look();
  await page.getByRole("switch", { name: "Window on" }).click();
  await expect.poll(look).not.toBe(second);

  await page.getByRole("button", { name: "Hz · log" }).click();
  await expect(page.getByRole("button", { name: "Hz · lin" })).toBeVisible();
  await waitUntilSaved(page);
  await page.reload();
  await expect(page.getByRole("button", { name: "Hz · lin" })).toBeVisible();
  await expect(page.getByRole("textbox", { name: "Strand name" })).toHaveValue("Strand 9");
  await expect(page.getByRole("switch", { name: "Window on" })).not.toBeChecked();
  expect(complaints).toEqual([]);
});

test("transport: seek, pause and resume keep the place, looping goes round", TIMED_FULL, async ({ page }) => {
  await openDemo(page, server.address);
  const position = () => page.evaluate(() => window.bumbrel!.positionS());
  await page.evaluate(() => window.bumbrel!.seek(12));
  await page.keyboard.press("Space");
  await expect.poll(position).toBeGreaterThan(12.3);
  await page.keyboard.press("Space");
  const paused = await position();
  await nextFrames(page, 8);
  expect(await position()).toBe(paused);
  await page.keyboard.press("Space");
  await expect.poll(position).toBeGreaterThan(paused + 0.2);
  // The example loops: from just before its end it continues at the start.
  await page.evaluate(() => window.bumbrel!.seek(47.6));
  await expect.poll(position).toBeLessThan(5);
  await page.getByRole("button", { name: "Stop looping" }).click();
  // Space plays and pauses whatever was touched last; it does not flip the switch again.
  await page.keyboard.press("Space");
  await expect.poll(() => page.evaluate(() => window.bumbrel!.state())).toBe("paused");
  await expect(page.getByRole("button", { name: "Loop", exact: true })).toBeVisible();
  await page.keyboard.press("Space");
  await page.evaluate(() => window.bumbrel!.seek(47.5));
  await expect.poll(() => page.evaluate(() => window.bumbrel!.state())).toBe("paused");
  expect(await position()).toBe(48);
  await page.getByRole("slider", { name: "Position in seconds" }).focus();
  await page.keyboard.press("Home");
  expect(await position()).toBe(0);
});

test("stage: everything is selected by Ctrl+A and removed by Delete, which says what it cannot remove", async ({
  page,
}) => {
  await openDemo(page, server.address);
  await page.getByRole("link", { name: "Stage" }).click();
  const strip = page.getByRole("list", { name: "On the stage" }).getByRole("listitem");
  await expect(page.getByRole("button", { name: "Leading lantern" })).toBeVisible();
  const before = await strip.count();
  expect(before).toBeGreaterThan(20);
  await page.keyboard.press("Delete");
  await expect(page.getByRole("status").filter({ hasText: "Nothing is selected" })).toBeVisible();
  await page.keyboard.press("ControlOrMeta+a");
  expect(await page.evaluate(() => String(getSelection()))).toBe("");
  await page.keyboard.press("Delete");
  // Every scene has a camera, a backdrop, light all round, air and a world.
  await expect(strip).toHaveCount(5);
  await page.getByRole("button", { name: /^Undo: remove/ }).click();
  await expect(strip).toHaveCount(before);
  await waitUntilSaved(page);
});

test("stage: add, rest, bind a colour, rename, remove, and back again", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  await page.getByRole("link", { name: "Stage" }).click();
  await page.getByRole("button", { name: "Put on stage" }).click();
  await page.getByRole("menuitem", { name: "Box", exact: true }).click();
  const name = page.getByRole("textbox", { name: "Object name" });
  await expect(name).toHaveValue("Box");
  await page.getByRole("combobox", { name: "Formation" }).selectOption({ label: "a ring" });
  await name.fill("Lamp posts");
  await name.press("Enter");
  const copies = page.getByRole("region", { name: "Copies" }).getByRole("textbox");
  await copies.fill("9999");
  await copies.press("Enter");
  await expect(copies).toHaveValue("4096");
  const objects = await page.evaluate(() => Object.keys(window.bumbrel!.values()));
  const ringId = objects.at(-1)!;
  await expect.poll(() => page.evaluate((id) => window.bumbrel!.read(id, "copies"), ringId)).toBe(4096);

  await page.getByRole("button", { name: "Bind Colour" }).click();
  await page.getByRole("menuitem", { name: "Bass" }).click();
  await page.evaluate(() => window.bumbrel!.seek(30.2));
  const colour = () => page.evaluate((id) => window.bumbrel!.read(id, "colour") as number[], ringId);
  const driven = await colour();
  await page.evaluate(() => window.bumbrel!.seek(35));
  const silent = await colour();
  expect(driven[2]).toBeGreaterThan(silent[2] + 0.1);

  await page.getByRole("button", { name: "Remove Lamp posts", exact: true }).click();
  await expect(page.getByText("Choose something on the stage")).toBeVisible();
  await page.getByRole("button", { name: /^Undo: remove Lamp posts/ }).click();
  await page.getByRole("button", { name: "Lamp posts", exact: true }).click();
  await expect(page.getByRole("region", { name: "Colour", exact: true }).getByText("Bass")).toBeVisible();

  // A click on the stage chooses what is seen there.
  const stage = page.getByRole("img", { name: "The stage" });
  const box = (await stage.boundingBox())!;
  await page.getByRole("button", { name: "Remove Lamp posts", exact: true }).click();
  // The leading lantern hangs a little to the left of the middle.
  await stage.click({ position: { x: box.width / 2 - 0.13 * box.height, y: box.height * 0.57 } });
  await expect(name).toHaveValue("Leading lantern");
  await waitUntilSaved(page);
  expect(complaints).toEqual([]);
});

test("sounds: a file of one's own is read, kept and heard; a broken one says what is wrong", async ({
  page,
}, info) => {
  const complaints = complaintsOf(page);
  await newProject(page, server.address);
  const good = join(info.outputPath(), "horn.wav");
  const rate = 44_100;
  const samples = Float32Array.from(
    { length: rate * 2 },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * 440 * i) / rate),
  );
  writeFileSync(good, writeWav([samples, samples], rate, "pcm24"));
  const broken = join(info.outputPath(), "broken.wav");
  writeFileSync(broken, writeWav([samples], rate).subarray(0, 5000));
  const text = join(info.outputPath(), "words.mp3");
  writeFileSync(text, "these are words");
  await page.getByLabel("Sound files").setInputFiles([good, broken, text]);
  await expect(page.getByText("stereo")).toBeVisible();
  await expect(page.getByText("44.1 kHz")).toBeVisible();
  await expect(
    page.getByText(/broken\.wav: the header claims \d+ bytes but the file has 5000/),
  ).toBeVisible();
  await expect(page.getByText(/words\.mp3: this browser cannot read it as sound/)).toBeVisible();
  await page.getByRole("button", { name: "Only listen to horn" }).click();
  await expect(page.getByRole("button", { name: "Only listen to horn", exact: true })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  await waitUntilSaved(page);

  await page.getByRole("link", { name: "Strands" }).click();
  await page.waitForFunction(() => window.bumbrel?.durationS() === 2);
  await dragRange(page, 400, 480);
  await expect(page.getByRole("textbox", { name: "Strand name" })).toHaveValue("Strand 1");
  await page.evaluate(() => window.bumbrel!.seek(1));
  await expect(page.getByText(/^−6\.0 dB$/)).toBeVisible();
  expect(Object.keys(await shapedNow(page))).toEqual([
    "camera",
    "backdrop",
    "environment",
    "lens",
    "world",
    "above",
    "floor",
  ]);
  expect(complaints).toEqual([]);
});

test("sounds: what the browser can decode becomes a sound at 48 kHz", async ({ page }) => {
  const complaints = complaintsOf(page);
  await newProject(page, server.address);
  // No compressed file ships with the tests: the browser's own encoder makes one from a tone.
  const base64 = await page.evaluate(async () => {
    const context = new AudioContext();
    const tone = new OscillatorNode(context, { frequency: 440 });
    const half = new GainNode(context, { gain: 0.5 });
    const stream = context.createMediaStreamDestination();
    tone.connect(half).connect(stream);
    tone.start();
    const recorder = new MediaRecorder(stream.stream, { mimeType: "audio/webm;codecs=opus" });
    const pieces: Blob[] = [];
    recorder.ondataavailable = ({ data }) => pieces.push(data);
    const stopped = new Promise((resolve) => {
      recorder.onstop = resolve;
    });
    recorder.start();
    await new Promise((resolve) => setTimeout(resolve, 3000));
    recorder.stop();
    await stopped;
    const bytes = new Uint8Array(await new Blob(pieces).arrayBuffer());
    return btoa(String.fromCharCode(...bytes));
  });
  const buffer = Buffer.from(base64, "base64");
  await page
    .getByLabel("Sound files")
    .setInputFiles([{ name: "voice.webm", mimeType: "audio/webm", buffer }]);
  await expect(page.getByRole("textbox", { name: "Sound name" })).toHaveValue("voice");
  await waitUntilSaved(page);
  await page.getByRole("link", { name: "Strands" }).click();
  await page.waitForFunction(() => (window.bumbrel?.durationS() ?? 0) > 1);
  await dragRange(page, 380, 520);
  await page.evaluate(() => window.bumbrel!.seek(0.7));
  await expect(page.getByText(/^−[56]\.\d dB$/)).toBeVisible();
  expect(complaints).toEqual([]);
});

test("sounds: tones and noise are made, changed as notes, listened to, and delivered", async ({
  page,
  browser,
}, info) => {
  const complaints = complaintsOf(page);
  await newProject(page, server.address);
  await addSound(page, "Noise");
  await page.getByRole("combobox", { name: "Noise colour" }).selectOption("brown");
  await addSound(page, "Tone");
  const frequency = page.getByRole("textbox", { name: /^Frequency in/ });
  await frequency.fill("A5");
  await frequency.press("Enter");
  await expect(frequency).toHaveValue("880.0");
  await page.getByRole("combobox", { name: "Waveform" }).selectOption("sawtooth");
  await page.getByRole("link", { name: "Strands" }).click();
  await page.getByRole("combobox", { name: "Showing" }).selectOption({ label: "Tone" });
  await page.waitForFunction(() => window.bumbrel?.durationS() === 10);
  await dragRange(page, 830, 930);
  await page.evaluate(() => window.bumbrel!.seek(5));
  // Its 23 harmonics would peak at 1.137, so its fundamental is 2/π over that: −5.0 dBFS.
  await expect(page.getByText(/^−5\.0 dB$/)).toBeVisible();
  await page.getByRole("link", { name: "Stage" }).click();
  await page.getByRole("button", { name: "Put on stage" }).click();
  await page.getByRole("menuitem", { name: "Sphere", exact: true }).click();
  await page.getByRole("button", { name: "Bind Scale" }).click();
  await page.getByRole("menuitem", { name: "Strand 1" }).click();
  await waitUntilSaved(page);
  const here = await page.evaluate(() => {
    window.bumbrel!.seek(5);
    return window.bumbrel!.values();
  });
  const id = new URL(page.url()).pathname.split("/")[2];
  const html = await (await page.request.get(`${server.address}/api/deliver/${id}/page`)).body();
  // It has bloom and occlusion, as a new project does; one without them is a third smaller.
  expect(html.length).toBeLessThan(1_500_000);
  const file = join(info.outputPath(), "tone.html");
  writeFileSync(file, html);
  const delivered = await browser.newPage();
  await delivered.goto(pathToFileURL(file).href);
  await delivered.waitForFunction(() => window.bumbrel?.state() === "playing");
  const there = await delivered.evaluate(() => {
    window.bumbrel!.pause();
    window.bumbrel!.seek(5);
    return window.bumbrel!.values();
  });
  expect(largestDifference(here, there)).toBeLessThan(1e-6);
  await page.goto(server.address);
  await expect(
    page.getByRole("main").getByRole("listitem").filter({ hasText: "New project" }).first(),
  ).toContainText("0:10");
  expect(complaints).toEqual([]);
});

test("two windows on one project: each learns of the other's changes at once, and of the rest one chooses", async ({
  page,
  context,
}) => {
  await openDemo(page, server.address);
  const other = await context.newPage();
  await other.goto(page.url());
  await other.waitForFunction(() => window.bumbrel?.durationS() === 48);
  const name = (where: Page) => where.getByRole("textbox", { name: "Project name" });
  const rename = async (where: Page, to: string) => {
    await name(where).fill(to);
    await name(where).press("Enter");
  };
  await rename(other, "From the other window");
  await expect(name(page)).toHaveValue("From the other window");
  await expect(page.getByText("Changes from another window taken in")).toBeVisible();
  await expect(page.getByText("All saved")).toBeVisible();

  // The same is changed in both while neither hears of the other.
  const scenes = /\/api\/projects\/[^/]+\/(scene|events)$/;
  await page.route(scenes, (route) => route.abort());
  await rename(page, "From this window");
  await expect(page.getByText("Not saved: trying again")).toBeVisible();
  await rename(other, "Another one");
  await waitUntilSaved(other);
  await page.unroute(scenes);
  const dialog = page.getByRole("alertdialog");
  await expect(dialog).toContainText("The same was changed elsewhere");
  const choice = dialog.getByRole("radiogroup", { name: "Project name" });
  await expect(choice.getByRole("radio", { name: "Here: From this window" })).toBeChecked();
  await choice.getByRole("radio", { name: "Elsewhere: Another one" }).click();
  await dialog.getByRole("button", { name: "Go on with these" }).click();
  await expect(name(page)).toHaveValue("Another one");
  await waitUntilSaved(page);

  // Undo takes back what was done here, and nothing else.
  await rename(page, "Once more");
  await expect(name(other)).toHaveValue("Once more");
  await other.getByRole("button", { name: "Undo: rename the project" }).waitFor();
  await page.getByRole("button", { name: "Undo: rename the project" }).click();
  await expect(name(other)).toHaveValue("Another one");

  // A deletion elsewhere is told at once.
  const id = page.url().split("/")[4];
  await page.request.delete(`${server.address}/api/projects/${id}`);
  await expect(dialog).toContainText("deleted elsewhere");
  await page.request.post(`${server.address}/api/projects/${id}/restore`);
  await expect(dialog).toBeHidden();
});
