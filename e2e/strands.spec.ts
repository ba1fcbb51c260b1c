import { readFileSync } from "node:fs";
import { readMidi } from "@bumbrel/core/format/samples/midi";
import { expect, type Page } from "@playwright/test";
import { FULL, TIMED, TIMED_FULL } from "./support/full";
import {
  addSound,
  complaintsOf,
  demoHits,
  dragRange,
  newProject,
  openDemo,
  waitUntilSaved,
} from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

const field = (page: Page, name: string | RegExp) => page.getByRole("textbox", { name });
const step = (page: Page, name: string) =>
  page.getByRole("navigation", { name: "Shaping steps" }).getByRole("button", { name });
const type = async (page: Page, name: string, text: string) => {
  await field(page, name).fill(text);
  await field(page, name).press("Enter");
};
const propertyNow = (page: Page, objectId: string, property: string) =>
  page.evaluate(([id, key]) => window.bumbrel!.values()[id][key] as number, [objectId, property]);
/** Content of a download. */
const saved = async (page: Page, item: string) => {
  await page.getByRole("button", { name: "Save numbers" }).click();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("menuitem", { name: item }).click(),
  ]);
  return readFileSync(await download.path());
};

/**
 * Plays and hits the key at each time. A busy page lets a key through late, and the key says when it was hit: so do these,
 * which the page makes itself as soon as it can.
 */
const tapAlong = (page: Page, times: readonly number[]) =>
  page.evaluate(async (times) => {
    const player = window.bumbrel!;
    player.seek(times[0] - 2);
    player.play();
    for (const timeS of times) {
      while (player.positionS() < timeS) await new Promise((resolve) => setTimeout(resolve, 1));
      const key = new KeyboardEvent("keydown", { key: "h", bubbles: true });
      const hitMs = performance.now() - (player.positionS() - timeS) * 1000;
      Object.defineProperty(key, "timeStamp", { value: hitMs });
      document.body.dispatchEvent(key);
    }
    player.pause();
  }, times);

test(
  "catches the snare by keys pressed in time with the demo, and adjusts by hand",
  TIMED,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openDemo(page, server.address);
    await page.getByRole("combobox", { name: "Showing" }).selectOption({ label: "Regatta Night" });
    await dragRange(page, 300, 900);
    await page.getByRole("button", { name: "Catch" }).click();
    const panel = page.getByRole("region", { name: "Catch" });
    await expect(panel).toContainText("0 marked; 3 more to go by.", { timeout: 20_000 });
    const snares = demoHits(server.dataDir)
      .filter(({ drum }) => drum === "snare")
      .map(({ timeS }) => timeS);
    const wanted = snares.filter((timeS) => timeS > 24).slice(0, 5);
    await tapAlong(page, wanted);
    await expect(panel).toContainText(/dBFS catches 5 of 5/, { timeout: 20_000 });
    const inAll = Number(/(\d+) in the whole sound/.exec((await panel.textContent())!)![1]);
    expect(Math.abs(inAll - snares.length)).toBeLessThanOrEqual(2);
    // A click on the trace marks one more, a click on the mark takes it away.
    const trace = page.getByRole("img", { name: /over the whole sound/ });
    const box = (await trace.boundingBox())!;
    const x = 58 + ((box.width - 58) * snares.find((timeS) => timeS > wanted[4] + 0.1)!) / 48;
    await trace.click({ position: { x, y: 40 } });
    await expect(panel).toContainText("6 marked");
    await trace.click({ position: { x, y: 40 } });
    await expect(panel).toContainText("5 marked");
    await expect(panel).toContainText(/catches 5 of 5/, { timeout: 20_000 });
    await panel.getByRole("button", { name: "Use it" }).click();
    await expect(panel).toBeHidden();
    const cues = page.getByRole("region", { name: "Cues" });
    await expect(cues).toContainText(`${inAll} cues`);
    const times = (await saved(page, "This strand’s cues as CSV"))
      .toString()
      .trim()
      .split("\n")
      .slice(1)
      .map((row) => Number(row.split(",")[0]));
    const met = snares.filter((timeS) => times.some((cue) => Math.abs(cue - timeS) <= 0.05)).length;
    expect((2 * met) / (snares.length + times.length)).toBeGreaterThanOrEqual(0.95);
    expect(
      readMidi(await saved(page, "All cues as a Standard MIDI File")).notes.length,
    ).toBeGreaterThanOrEqual(times.length);
    expect((await saved(page, "This strand’s cues as text labels")).toString().split("\n")).toHaveLength(
      times.length + 1,
    );
    // By hand: a mark nothing reaches.
    await type(page, "Mark", "1");
    await expect(cues).not.toContainText(`${inAll} cues`);
    await cues.getByRole("button", { name: "Hear each cue as a click" }).click();
    await page.getByRole("button", { name: /^Undo: change the cues/ }).click();
    await page.getByRole("button", { name: /^Undo: catch for/ }).click();
    await expect(field(page, /^High end in Hz/)).not.toHaveValue("16128.0");
    await page.getByRole("button", { name: "Undo: add Strand 9" }).click();
    await waitUntilSaved(page);
    expect(complaints).toEqual([]);
  },
);

test(
  "beats that are heard are counted by buttons, and what a catch took beside the marks is crossed out",
  TIMED_FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openDemo(page, server.address);
    await page.getByRole("link", { name: "Strands" }).click();
    await page.getByRole("combobox", { name: "Measure" }).selectOption("beatPhase");
    await page.evaluate(() => window.bumbrel!.seek(20.13));
    const counting = page.getByRole("group", { name: "Count the beats" });
    await expect(counting).toContainText("100.0 BPM", { timeout: 30_000 });
    await counting.getByRole("button", { name: "½ ×" }).click();
    await expect(counting).toContainText("50.0 BPM");
    await counting.getByRole("button", { name: "2 ×" }).click();
    await expect(counting).toContainText("200.0 BPM");
    await counting.getByRole("button", { name: "2 ×" }).click();
    await expect(counting).toContainText("100.0 BPM");
    await page.getByRole("combobox", { name: "Measure" }).selectOption("barPhase");
    await counting.getByRole("button", { name: "This is one" }).click();
    await expect(field(page, "Bar begins at in s")).toHaveValue("20.130");
    // The nearest beat is at 20.4 s: another one later a quarter of the bar is over.
    await page.evaluate(() => window.bumbrel!.seek(21));
    await expect(page.getByRole("region", { name: "Strand health" })).toContainText("0.25");

    await page.getByRole("button", { name: "Catch" }).click();
    const panel = page.getByRole("region", { name: "Catch" });
    await expect(panel).toContainText("0 marked; 3 more to go by.", { timeout: 20_000 });
    for (const timeS of [24, 25.2, 26.4, 27]) {
      await page.evaluate((at) => window.bumbrel!.seek(at), timeS);
      await panel.getByRole("button", { name: "Hit" }).click();
    }
    await expect(panel).toContainText("Not marked:", { timeout: 20_000 });
    const wrong = panel.getByRole("button", { name: /^Not a hit: 2[4-7]/ }).first();
    const name = (await wrong.getAttribute("aria-label"))!;
    await wrong.click();
    await expect(panel).toContainText("1 crossed out.");
    await expect(panel.getByRole("button", { name })).toBeHidden({ timeout: 20_000 });
    await panel.getByRole("button", { name: "Take that back" }).click();
    await expect(panel.getByRole("button", { name })).toBeVisible({ timeout: 20_000 });
    await panel.getByRole("button", { name: "Stop" }).click();
    await waitUntilSaved(page);
    expect(complaints).toEqual([]);
  },
);

test(
  "sections are found and marked, once, and pitch classes are drawn by their names",
  FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openDemo(page, server.address);
    await page.getByRole("button", { name: "Find sections" }).click();
    await expect(page.getByText("marks were set where they begin")).toBeVisible({ timeout: 30_000 });
    await page.keyboard.press("Escape");
    const marks = page.getByRole("button", { name: /^Mark [A-Z] at/ });
    await expect(marks.first()).toHaveAccessibleName("Mark A at 0:00.0");
    // The chorus begins with the seventh bar of 2.4 s.
    const labels = await marks.evaluateAll((all) => all.map((one) => one.getAttribute("aria-label") ?? ""));
    expect(labels.some((label) => /at 0:14\.[2-6]/.test(label))).toBe(true);
    await page.getByRole("button", { name: "Find sections" }).click();
    await expect(page.getByText("all of them are marked already")).toBeVisible({ timeout: 30_000 });
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: /^Undo/ }).click();
    await expect(marks).toHaveCount(0);

    await page.getByRole("combobox", { name: "Measure" }).selectOption("fan");
    await page.getByRole("combobox", { name: "Layout" }).selectOption("pitchClasses");
    await expect(field(page, "Low end")).toHaveValue("130.0");
    await expect(page.getByText("F#", { exact: true })).toBeVisible();

    await page.getByRole("combobox", { name: "Measure" }).selectOption("rms");
    const part = page.getByRole("combobox", { name: "Part of the sound" });
    await part.selectOption({ label: "what lasts" });
    await expect(part).toHaveValue("harmonic");
    await page.getByRole("button", { name: /^Undo/ }).click();
    await expect(part).toHaveValue("");
    expect(complaints).toEqual([]);
  },
);

test(
  "advice is taken with one press, keeps are gone back to, and holding a key shows how it was",
  FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openDemo(page, server.address);
    await page.evaluate(() => window.bumbrel!.seek(25.2));
    await page.getByRole("button", { name: "Whole evening", exact: true }).click();
    await type(page, "Range in dB", "6");
    const health = page.getByRole("region", { name: "Strand health" });
    await expect(health).toContainText(/At its ceiling \d+ % .*: raise the range by [\d.]+ dB/, {
      timeout: 15_000,
    });
    await health.getByRole("button", { name: "Do it" }).first().click();
    await expect(health).not.toContainText("At its ceiling");
    const range = field(page, "Range in dB");
    const advised = Number(await range.inputValue());
    expect(advised).toBeGreaterThan(8);

    await page.getByRole("button", { name: "Keeps" }).click();
    await page.getByRole("textbox", { name: "Name of the keep" }).fill("Full tide");
    await page.getByRole("button", { name: "Keep this state" }).click();
    await page.getByRole("radio", { name: "compare", exact: true }).click();
    await page.keyboard.press("Escape");
    await type(page, "Range in dB", "90");
    await page.evaluate(() => window.bumbrel!.whenLoaded());
    const lamp = () => propertyNow(page, "lamp", "intensity");
    const after = await lamp();
    const savedBefore = await page.getByRole("button", { name: /^Undo/ }).getAttribute("title");
    await page.evaluate(() => (document.activeElement as HTMLElement).blur());
    await page.keyboard.down("b");
    await expect(page.getByRole("button", { name: "Hold for Full tide" })).toHaveAttribute(
      "aria-pressed",
      "true",
    );
    await expect.poll(lamp).toBeGreaterThan(after + 1);
    // Comparing edits nothing.
    expect(await page.getByRole("button", { name: /^Undo/ }).getAttribute("title")).toBe(savedBefore);
    await page.keyboard.up("b");
    await expect.poll(lamp).toBeCloseTo(after, 3);
    await page.getByRole("button", { name: "Keeps" }).click();
    await page.getByRole("button", { name: "Go back" }).click();
    await page.keyboard.press("Escape");
    await expect(range).toHaveValue(advised.toFixed(1));
    await page.getByRole("button", { name: "Undo: go back to Full tide" }).click();
    await expect(range).toHaveValue("90.0");

    // Alone, it drives what it drives; all else rests. Muted, it drives nothing.
    const glow = () => propertyNow(page, "lantern1", "emissionStrength");
    const lit = await glow();
    await page.getByRole("button", { name: "More about Whole evening" }).click();
    await page.getByRole("menuitem", { name: "Let it alone drive the stage" }).click();
    await expect.poll(glow).toBeCloseTo(1.1, 3);
    expect(Math.abs(lit - 1.1)).toBeGreaterThan(0.05);
    await page.getByRole("button", { name: "More about Whole evening" }).click();
    await page.getByRole("menuitem", { name: "Let all drive the stage again" }).click();
    await expect.poll(glow).toBeCloseTo(lit, 3);
    await page.getByRole("button", { name: "More about Whole evening" }).click();
    await page.getByRole("menuitem", { name: /^Mute/ }).click();
    await expect.poll(lamp).toBe(10);
    await waitUntilSaved(page);
    expect(complaints).toEqual([]);
  },
);

test("a fan, a strand made of it, and a table read back", FULL, async ({ page }) => {
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  await page.evaluate(() => window.bumbrel!.seek(25.2));
  await page.getByRole("button", { name: "New strand" }).click();
  await page.getByRole("menuitem", { name: /^A fan/ }).click();
  await expect(page.getByRole("img", { name: /Bands of Strand 9 now/ })).toBeVisible();
  await page.getByRole("combobox", { name: "Layout" }).selectOption("mel");
  await type(page, "Bands in bands", "6");
  await page.getByRole("combobox", { name: "Start from" }).selectOption("fence");
  await expect(step(page, "Neighbours")).toContainText("±1");
  const csv = (await saved(page, "This strand, raw and shaped, as CSV")).toString();
  expect(csv.split("\n")[0].split(",")).toHaveLength(13);

  await page.getByRole("button", { name: "New strand" }).click();
  await page.getByRole("menuitem", { name: /^Made of others/ }).click();
  await expect(page.getByRole("combobox", { name: "Measure" })).toHaveValue("bands");
  await type(page, "First band", "2");
  await type(page, "Last band", "2");
  await page.evaluate(() => window.bumbrel!.whenLoaded());
  const one = (await saved(page, "This strand, raw and shaped, as CSV"))
    .toString()
    .split("\n")[2521]
    .split(",");
  const row = csv.split("\n")[2521].split(",");
  expect(Number(one[1])).toBeCloseTo(Number(row[8]), 5);
  await page.getByRole("combobox", { name: "Measure" }).selectOption("maximum");
  await page.getByRole("combobox", { name: "Add a strand" }).selectOption({ label: "Bass" });
  await expect(page.getByRole("img", { name: /Strand 10 over the whole sound/ })).toBeVisible();

  // The numbers that went out come in again as a sound to listen to.
  await page.getByRole("link", { name: "Sounds", exact: true }).click();
  await page
    .getByLabel("Sound files")
    .setInputFiles({ name: "row.csv", mimeType: "text/csv", buffer: Buffer.from(csv) });
  await expect(page.getByText("12 columns")).toBeVisible();
  await page.getByRole("link", { name: "Strands", exact: true }).click();
  await page.getByRole("combobox", { name: "Sound", exact: true }).selectOption({ label: "row" });
  await expect(page.getByRole("combobox", { name: "Measure" })).toHaveValue("column");
  const columns = csv.split("\n")[0].split(",");
  await page.getByRole("combobox", { name: "Column" }).selectOption(columns[8]);
  await page.getByRole("button", { name: "Plain numbers" }).click();
  const now = page.getByRole("table", { name: "Numbers now" }).getByRole("row", { name: /Strand 10/ });
  // Numbers are written where they are seen.
  await now.scrollIntoViewIfNeeded();
  await expect(now).toContainText(Number(row[8]).toFixed(2));
  expect(complaints).toEqual([]);
});

test("steps are opened, drawn and bypassed by keyboard, and strands put in another order", async ({
  page,
}) => {
  await openDemo(page, server.address);
  const press = (key: string) => page.keyboard.press(key);
  await page.getByRole("button", { name: "Bass", exact: true }).focus();
  await press("Enter");
  await step(page, "Curve").focus();
  await press("Enter");
  await page.getByRole("switch", { name: "Curve on" }).focus();
  await press("Enter");
  await page.getByRole("combobox", { name: "Curve kind" }).selectOption("drawn");
  const point = page.getByRole("slider", { name: "Point 2" });
  await point.focus();
  await press("Shift+ArrowUp");
  await expect(point).toHaveAttribute("aria-valuetext", /^0.35 at/);
  await expect(step(page, "Curve")).toContainText("drawn");
  await step(page, "Gate").focus();
  await press("Enter");
  await page.getByRole("switch", { name: "Gate on" }).focus();
  await press("Enter");
  await expect(step(page, "Gate")).toContainText("at 0.20");
  // A note can be typed for a frequency, and ends of ranges move by notes.
  await type(page, "Low end in Hz B1", "A2");
  await expect(field(page, "Low end in Hz A2")).toHaveValue("110.0");
  await page.getByRole("button", { name: "More about Bass" }).focus();
  await press("Enter");
  await expect(page.getByRole("menuitem", { name: "Duplicate" })).toBeFocused();
  await press("ArrowDown");
  await expect(page.getByRole("menuitem", { name: "Let it alone drive the stage" })).toBeFocused();
  await page.getByRole("menuitem", { name: "Move right" }).focus();
  await press("Enter");
  await expect(page.getByRole("button", { name: "Undo: move Bass" })).toBeEnabled();
  const chips = page.getByRole("region", { name: "Bench" }).locator("[aria-roledescription=strand]");
  await expect(chips.nth(2)).toContainText("Bass");
});

test(
  "numbers come back from an earlier visit, and a live input says how late it is",
  TIMED_FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openDemo(page, server.address);
    const asked: string[] = [];
    page.on("response", (response) => {
      const { pathname } = new URL(response.url());
      if (pathname.startsWith("/api/analyses/"))
        asked.push(`${response.request().method()} ${response.status()}`);
    });
    await page.getByRole("combobox", { name: "Measure" }).selectOption("pitch");
    await expect.poll(() => asked.join(), { timeout: 60_000 }).toMatch(/GET 204.*PUT 204/);
    await waitUntilSaved(page);
    await page.reload();
    await expect.poll(() => asked.join(), { timeout: 30_000 }).toMatch(/GET 200/);

    await newProject(page, server.address);
    await addSound(page, "Input");
    await page.getByRole("button", { name: "Switch Input on" }).click();
    await page.getByRole("link", { name: "Strands", exact: true }).click();
    await page.getByRole("button", { name: "New strand" }).click();
    await page.getByRole("menuitem", { name: /^A range/ }).click();
    const health = page.getByRole("region", { name: "Strand health" });
    await expect(health).toContainText(/late by \d\d+ ms: window 21 ms/);
    await page.getByRole("combobox", { name: "Measure" }).selectOption("rms");
    await expect(health).toContainText(/window 5 ms/);
    await expect(health).toContainText(/−\d\d\.\d dB/);
    expect(complaints).toEqual([]);
  },
);
