import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import type { Scene } from "@bumbrel/core/document/scene";
import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import { readProjectSound } from "@bumbrel/core/format/samples/sound";
import { evaluateScene } from "@bumbrel/core/simulate/sceneState";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import type { Track } from "@bumbrel/core/strand/track";
import { REGATTA_SOUNDS } from "@bumbrel/demo/scenes/regattaScene";
import { expect, type Page } from "@playwright/test";
import {
  complaintsOf,
  demoHits,
  dragRange,
  largestDifference,
  openDemo,
  valuesAt,
  waitUntilSaved,
  watchStage,
} from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

const LANTERN = "lantern";
/** A stretch of the chorus where every kick stands well apart from the next. */
const FROM_S = 24;
const FOR_S = 4.8;

/** The lantern's scale must be up at every kick of the stretch, and down just before each. */
function expectKicksSeen(seen: { timeS: number; value: number }[], rest: number, top: number) {
  const kicks = demoHits(server.dataDir).filter(
    ({ drum, timeS }) => drum === "kick" && timeS > FROM_S + 0.2 && timeS < FROM_S + FOR_S - 0.3,
  );
  expect(kicks.length).toBeGreaterThanOrEqual(6);
  expect(seen.length).toBeGreaterThan(60);
  const middle = (rest + top) / 2;
  const between = (from: number, to: number) =>
    seen.filter(({ timeS }) => timeS >= from && timeS <= to).map(({ value }) => value);
  let restsSeen = 0;
  /** Kicks that fell between two frames: drawn in software, one can take longer than a kick lasts. */
  let notSeen = 0;
  kicks.forEach(({ timeS }, i) => {
    const after = between(timeS, timeS + 0.16);
    if (after.length === 0) {
      notSeen++;
      return;
    }
    expect(Math.max(...after)).toBeGreaterThan(middle);
    const gap = timeS - (kicks[i - 1]?.timeS ?? FROM_S);
    const before = between(timeS - 0.14, timeS - 0.05);
    if (gap < 0.5 || before.length === 0) return;
    restsSeen++;
    expect(Math.min(...before)).toBeLessThan(rest + (top - rest) * 0.25);
  });
  expect(notSeen).toBeLessThanOrEqual(kicks.length / 4);
  expect(restsSeen).toBeGreaterThanOrEqual(3);
}

async function bindKickToLantern(page: Page) {
  await dragRange(page, 36, 62);
  await expect(page.getByRole("textbox", { name: "Strand name" })).toHaveValue("Strand 9");
  await page.getByRole("textbox", { name: "Strand name" }).fill("Kick");
  await page.getByRole("textbox", { name: "Strand name" }).press("Enter");
  await page.getByRole("textbox", { name: "Release in ms" }).fill("60");
  await page.getByRole("textbox", { name: "Release in ms" }).press("Enter");
  // Only what is near a kick's own level counts: the floor goes up to where the bass ends.
  await page.getByRole("textbox", { name: "Floor in dBFS" }).fill("-24");
  await page.getByRole("textbox", { name: "Floor in dBFS" }).press("Enter");
  await page.getByRole("textbox", { name: "Range in dB" }).fill("12");
  await page.getByRole("textbox", { name: "Range in dB" }).press("Enter");
  await page.getByRole("link", { name: "Stage" }).click();
  await page.getByRole("button", { name: "Leading lantern" }).click();
  await page.getByRole("button", { name: "Bind Scale" }).click();
  await page.getByRole("menuitem", { name: "Kick" }).click();
  const scale = page.getByRole("region", { name: "Scale" });
  await scale.getByRole("textbox", { name: "Output at the high end" }).fill("2");
  await scale.getByRole("textbox", { name: "Output at the high end" }).press("Enter");
  await waitUntilSaved(page);
}

test("the whole way: a range dragged round the kick moves a lantern, here, after a reload, and on a page of its own", async ({
  page,
  browser,
}) => {
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  await page.evaluate((timeS) => window.bumbrel!.seek(timeS), FROM_S + 2);
  await bindKickToLantern(page);
  const diameter = await page.evaluate((id) => 2 * (window.bumbrel!.values()[id].radius as number), LANTERN);
  expectKicksSeen(await watchStage(page, LANTERN, "drawnSize", FROM_S, FOR_S), diameter, 2 * diameter);

  await page.reload();
  await page.waitForFunction(() => window.bumbrel && window.bumbrel.durationS() === 48);
  const scale = page.getByRole("region", { name: "Scale" });
  await expect(scale.getByText("Kick", { exact: true })).toBeVisible();
  await expect(scale.getByRole("textbox", { name: "Output at the high end" })).toHaveValue("2.00");
  await page.getByRole("link", { name: "Strands" }).click();
  await page.getByRole("button", { name: "Kick", exact: true }).click();
  await expect(page.getByRole("textbox", { name: "Floor in dBFS" })).toHaveValue("-24.0");
  const low = Number(await page.getByRole("textbox", { name: /^Low end in/ }).inputValue());
  const high = Number(await page.getByRole("textbox", { name: /^High end in/ }).inputValue());
  expect(Math.abs(low - 36)).toBeLessThan(3);
  expect(Math.abs(high - 62)).toBeLessThan(4);
  await page.waitForFunction((id) => {
    window.bumbrel!.seek(26.45);
    return window.bumbrel!.values()[id].emissionStrength !== undefined;
  }, LANTERN);

  await page.getByRole("link", { name: "Deliver" }).click();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Save the page" }).click(),
  ]);
  const file = join(mkdtempSync(join(tmpdir(), "bumbrel-page-")), download.suggestedFilename());
  await download.saveAs(file);

  // Twenty times, from the quiet verse over the silent bar to the end.
  const times = Array.from({ length: 20 }, (_, i) => 0.137 + i * 2.4637);
  await page.getByRole("link", { name: "Stage" }).click();
  await page.waitForFunction(() => window.bumbrel && window.bumbrel.durationS() === 48);
  await page.evaluate(async () => {
    window.bumbrel!.seek(10);
    window.bumbrel!.play();
    await new Promise((resolve) => setTimeout(resolve, 700));
  });
  const live = await valuesAt(page, times);
  const fresh = await freshEvaluation(page, times);
  const delivered = await browser.newPage();
  const deliveredComplaints = complaintsOf(delivered);
  const requests: string[] = [];
  delivered.on("request", (request) => requests.push(request.url()));
  await delivered.goto(pathToFileURL(file).href);
  await delivered.waitForFunction(() => window.bumbrel?.state() === "playing", undefined, {
    timeout: 60_000,
  });
  const onPage = await valuesAt(delivered, times);
  for (const [i, timeS] of times.entries()) {
    expect({ timeS, isEqual: largestDifference(live[i], fresh[i]) < 1e-6 }).toEqual({ timeS, isEqual: true });
    expect({ timeS, isEqual: largestDifference(live[i], onPage[i]) < 1e-6 }).toEqual({
      timeS,
      isEqual: true,
    });
  }
  // The comparison would mean nothing if nothing moved.
  expect(largestDifference(live[0], live[10])).toBeGreaterThan(0.1);

  // Two stages at once would share what drawing power there is.
  await page.close();
  expectKicksSeen(await watchStage(delivered, LANTERN, "drawnSize", FROM_S, FOR_S), diameter, 2 * diameter);
  expect(requests.filter((url) => !url.startsWith("file:") && !url.startsWith("data:"))).toEqual([]);
  expect([...complaints, ...deliveredComplaints]).toEqual([]);
});

/** Samples that a strand of a sound listens to, from the file on disk. */
function samplesOf(listensTo: Scene["strands"][number]["listensTo"]) {
  const { id } = REGATTA_SOUNDS.find((sound) => listensTo.kind === "sound" && sound.id === listensTo.id)!;
  const bytes = readFileSync(join(server.dataDir, `examples/regatta-night/${id}.wav`));
  return mixToMono(readProjectSound(bytes).channels).samples;
}

/** The same scene computed here, from the files on disk, without browser, worker or player. */
async function freshEvaluation(page: Page, times: number[]) {
  const id = new URL(page.url()).pathname.split("/")[2];
  const { scene } = (await (await page.request.get(`${server.address}/api/projects/${id}`)).json()) as {
    scene: Scene;
  };
  const tracks = new Map<string, Track>();
  // Strands that are made of others come after them in the list.
  for (const strand of scene.strands) {
    const { listensTo } = strand;
    const parts = listensTo.kind === "strands" ? listensTo.ids.map((one) => tracks.get(one)!) : [];
    const frames = parts.length > 0 ? parts[0].values.length / parts[0].width : 0;
    const signal =
      parts.length > 0
        ? { samples: new Float32Array(0), frames, strands: parts }
        : { samples: samplesOf(listensTo) };
    const { shaped, cues } = analyseStrand(signal, strand, new DirectSpectra());
    tracks.set(strand.id, { ...shaped, cues });
  }
  return times.map((timeS) => evaluateScene(scene, tracks, timeS));
}
