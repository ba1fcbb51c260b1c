import { readFileSync } from "node:fs";
import { join } from "node:path";
import type { Scene } from "@bumbrel/core/document/scene";
import { axisToHz, hzToAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { PlayerHandle } from "@bumbrel/player/playerHandle";
import { SPINE_AXES } from "@bumbrel/studio/ui/live/axis";
import { expect, type Page } from "@playwright/test";

declare global {
  interface Window {
    bumbrel?: PlayerHandle;
  }
}

/** Notes whatever the page complains of; a test ends by expecting nothing. */
export function complaintsOf(page: Page): string[] {
  const complaints: string[] = [];
  page.on("pageerror", (error) => complaints.push(error.message));
  page.on("console", (message) => {
    if (message.type() === "error") complaints.push(message.text());
  });
  return complaints;
}

export async function waitUntilSaved(page: Page): Promise<void> {
  await expect(page.locator("[data-save=saved]")).toBeVisible();
}

/**
 * Has the demo drawn at the lightest quality: in software its effects would take the time that other things are tested
 * by. Every number stays the same.
 */
export async function lightenDemo(page: Page, address: string): Promise<void> {
  const { projects } = await (await page.request.get(`${address}/api/projects`)).json();
  const demo = projects.find(({ name }: { name: string }) => name === "Regatta Night");
  const url = `${address}/api/projects/${demo.id}`;
  const { revision, scene } = await (await page.request.get(url)).json();
  if (scene.quality === "plain") return;
  const data = { revision, scene: { ...scene, quality: "plain" } };
  expect((await page.request.put(`${url}/scene`, { data })).status()).toBe(200);
}

/** Opens the demo project from the shelf and waits for its sounds. */
export async function openDemo(page: Page, address: string): Promise<void> {
  await lightenDemo(page, address);
  await page.goto(address);
  await page.getByRole("link", { name: "Regatta Night", exact: true }).first().click();
  await expect(page.getByRole("button", { name: "Play" })).toBeEnabled();
  await page.waitForFunction(() => window.bumbrel && window.bumbrel.durationS() === 48);
}

/** Adds an input, tone, noise, clock or keys in the Sounds view; its row is opened. */
export async function addSound(page: Page, kind: string): Promise<void> {
  await page.getByRole("button", { name: "Add something else" }).click();
  await page.getByRole("menuitem", { name: kind }).click();
}

/** Opens a project with the demo's sounds and strands, a kick among them, and an empty stage. */
export async function openEmptyStage(page: Page, address: string): Promise<void> {
  const { projects } = await (await page.request.get(`${address}/api/projects`)).json();
  const demo = projects.find(({ name }: { name: string }) => name === "Regatta Night");
  const { scene } = (await (await page.request.get(`${address}/api/projects/${demo.id}`)).json()) as {
    scene: Scene;
  };
  const [snare] = scene.strands;
  const kick = { ...structuredClone(snare), id: "kick", name: "Kick" };
  Object.assign(kick.measure, { lowHz: 36, highHz: 62 });
  Object.assign(kick.shaping.window, { floorDb: -24, rangeDb: 12 });
  const empty = { ...scene, name: "Bare quay", objects: [], bindings: [], strands: [...scene.strands, kick] };
  const created = await page.request.post(`${address}/api/projects`, { data: { scene: empty } });
  const { id } = await created.json();
  await page.goto(`${address}/projects/${id}`);
  await page.getByRole("link", { name: "Stage" }).click();
  await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
  await expect(page.getByRole("button", { name: "Put on stage" })).toBeVisible();
}

/** Opens a new project in the Sounds view. */
export async function newProject(page: Page, address: string): Promise<void> {
  await page.goto(address);
  await page.getByRole("button", { name: "New project", exact: true }).click();
  await expect(page.getByText("Drop sound files")).toBeVisible();
}

/** Drags a range of frequencies out on the spectrogram. */
export async function dragRange(page: Page, lowHz: number, highHz: number): Promise<void> {
  const area = page.getByTestId("spine-drag");
  const box = (await area.boundingBox())!;
  const y = (hz: number) => box.y + box.height * (1 - hzToAxis(SPINE_AXES.log, hz));
  const x = box.x + box.width * 0.4;
  await page.mouse.move(x, y(highHz));
  await page.mouse.down();
  for (let step = 1; step <= 8; step++) {
    await page.mouse.move(x, y(axisToHz({ kind: "log", lowHz: highHz, highHz: lowHz }, step / 8)));
  }
  await page.mouse.up();
}

export interface Hit {
  timeS: number;
  drum: string;
}

/** The known times of the demo's drum hits, from the table that is written beside its sounds. */
export function demoHits(dataDir: string): Hit[] {
  const [, ...rows] = readFileSync(join(dataDir, "examples/regatta-night/hits.csv"), "utf8")
    .trim()
    .split("\n");
  return rows.map((row) => {
    const [time, drum] = row.split(",");
    return { timeS: Number(time), drum };
  });
}

/** Plays a stretch and notes, as often as the page draws, where it is and what the stage shows. */
export async function watchStage(
  page: Page,
  objectId: string,
  property: string,
  fromS: number,
  forS: number,
) {
  // Drawn in software a large stage leaves too few looks a second to see a kick rise.
  const size = page.viewportSize()!;
  await page.setViewportSize({ width: 560, height: 320 });
  const seen = await page.evaluate(
    async ({ objectId, property, fromS, forS }) => {
      const player = window.bumbrel!;
      // A lead-in, so that what the new size costs is over when the stretch begins.
      player.seek(fromS - 2);
      player.play();
      const seen: { timeS: number; value: number }[] = [];
      const end = performance.now() + forS * 1000 + 3500;
      while (player.positionS() < fromS + forS && performance.now() < end) {
        await new Promise((resolve) => setTimeout(resolve, 8));
        if (player.state() !== "playing" || player.positionS() < fromS) continue;
        const value = player.read(objectId, property);
        seen.push({
          timeS: player.positionS(),
          value: Array.isArray(value) ? value[0] : (value ?? Number.NaN),
        });
      }
      player.pause();
      return seen;
    },
    { objectId, property, fromS, forS },
  );
  await page.setViewportSize(size);
  return seen;
}

/** Property values at each time, read after a seek while playing is paused. */
export function valuesAt(page: Page, times: number[]) {
  return page.evaluate(async (times) => {
    const player = window.bumbrel!;
    player.pause();
    return times.map((timeS) => {
      player.seek(timeS);
      return player.values();
    });
  }, times);
}

/** Largest difference between two sets of property values. */
export function largestDifference(a: unknown, b: unknown): number {
  if (typeof a === "number" && typeof b === "number") return Math.abs(a - b);
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null)
    return Number.POSITIVE_INFINITY;
  const keys = Object.keys(a);
  if (keys.join() !== Object.keys(b).join()) return Number.POSITIVE_INFINITY;
  const at = (thing: object, key: string) => (thing as Record<string, unknown>)[key];
  return Math.max(0, ...keys.map((key) => largestDifference(at(a, key), at(b, key))));
}

/** Resolves after the page has drawn some frames: for what follows the document with the next one. */
export function nextFrames(page: Page, count = 2): Promise<void> {
  return page.evaluate(
    (frames) =>
      new Promise<void>((resolve) => {
        const tick = (left: number) => (left === 0 ? resolve() : requestAnimationFrame(() => tick(left - 1)));
        tick(frames);
      }),
    count,
  );
}

/** Sleeps until a time of the clock on the wall: for presses that have to come at a time. */
export const sleepUntil = (wallMs: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, Math.max(0, wallMs - Date.now())));
