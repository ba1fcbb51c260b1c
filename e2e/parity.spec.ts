import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import type { Scene } from "@bumbrel/core/document/scene";
import { giveProgram } from "@bumbrel/core/kinds/programs";
import { expect, type Page } from "@playwright/test";
import { FULL } from "./support/full";
import { complaintsOf } from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

const FRAMES_PER_SECOND = 30;
/** Four frames from the quiet verse over the silent bar to the end. */
const FRAMES = [11, 525, 1039, 1296];
const [WIDTH, HEIGHT] = [160, 90];

/** A program that reads all there is to be read: a strand, a fan as it was, the spectrum and the waveform of a sound. */
const PROGRAM = `uniform Strand beat;
uniform Fan bands;
uniform Sound music;
void move(inout Point p) { p.place += p.normal * 0.2 * spectrumBefore(music, 200.0 + 2000.0 * p.uv.y, 0.3); }
void paint(inout Surface s) {
  s.emission = vec3(valueOf(beat), bandBefore(bands, s.uv.x, 1.5), 0.3 + waveAt(music, 4.0 * s.uv.y));
}`;

/**
 * The demo with everything that remembers: feedback that grows and turns, beside its particles, wakes and orbits, and a
 * moon with a program.
 */
async function demoWithMemory(page: Page) {
  const { projects } = await (await page.request.get(`${server.address}/api/projects`)).json();
  const url = `${server.address}/api/projects/${projects[0].id}`;
  const { revision, scene } = (await (await page.request.get(url)).json()) as {
    revision: number;
    scene: Scene;
  };
  const lens = scene.objects.find(({ kind }) => kind === "lens")!;
  Object.assign(lens.rest, { feedback: 0.5, feedbackGrowth: 1.01, feedbackTurn: 0.5 });
  scene.programs.push({ id: "all", name: "All", kind: "surface", code: PROGRAM, draft: null });
  const moon = scene.objects.find(({ name }) => name === "Moon")!;
  giveProgram(moon, scene.programs[0]);
  moon.settings.unlit = true;
  const fan = scene.strands.find(({ measure }) => measure.kind === "fan")!;
  moon.links = {
    "program:beat": scene.strands[0].id,
    "program:bands": fan.id,
    "program:music": scene.sounds[0].id,
  };
  // Fewer pixels and samples; the effects are those of full quality.
  scene.quality = "phone";
  expect((await page.request.put(`${url}/scene`, { data: { revision, scene } })).status()).toBe(200);
  return { id: projects[0].id as string, ids: scene.objects.map(({ id }) => id) };
}

/** Reads, for each frame, the numbers that go to the graphics card for each object, and the pixels. */
async function lookAt(page: Page, ids: readonly string[]) {
  const seen = [];
  for (const frame of FRAMES) {
    seen.push(
      await page.evaluate(
        async ([ids, frame, rate, width, height]) => {
          const player = window.bumbrel!;
          await player.whenLoaded();
          player.pause();
          player.seek(frame / rate);
          const numbers = player.drawnOf(ids).map((parts) => Object.values(parts).flat());
          return { numbers, pixels: [...(await player.captureFrame(frame, rate, width, height))] };
        },
        [ids, frame, FRAMES_PER_SECOND, WIDTH, HEIGHT] as const,
      ),
    );
  }
  return seen;
}

test(
  "a delivered page draws what the workbench draws: the same copies, and the same pixels",
  FULL,
  async ({ page, browser }) => {
    // Twice four frames with their memory, each in reflections as well: minutes on a slow machine.
    test.setTimeout(360_000);
    const complaints = complaintsOf(page);
    await page.setViewportSize({ width: 640, height: 400 });
    const { id, ids } = await demoWithMemory(page);
    await page.goto(`${server.address}/projects/${id}/stage`);
    await page.waitForFunction(() => window.bumbrel?.durationS() === 48 && window.bumbrel.isLoaded());
    const inWorkbench = await lookAt(page, ids);
    const html = await (await page.request.get(`${server.address}/api/deliver/${id}/page`)).text();
    await page.close();

    const file = join(mkdtempSync(join(tmpdir(), "bumbrel-page-")), "page.html");
    writeFileSync(file, html);
    // Of another shape than the stage of the workbench, which the image that is asked for does not depend on.
    const delivered = await browser.newPage({ viewport: { width: 320, height: 320 } });
    const deliveredComplaints = complaintsOf(delivered);
    await delivered.goto(pathToFileURL(file).href);
    await delivered.waitForFunction(() => window.bumbrel?.isLoaded());
    const onPage = await lookAt(delivered, ids);
    await delivered.close();

    for (const [i, { numbers, pixels }] of inWorkbench.entries()) {
      const frame = FRAMES[i];
      expect({ frame, numbers: onPage[i].numbers }).toEqual({ frame, numbers });
      const near = pixels.filter((value, at) => Math.abs(value - onPage[i].pixels[at]) <= 1).length;
      expect(near / pixels.length).toBeGreaterThanOrEqual(0.999);
    }
    // The comparison would mean nothing if little were drawn, or always the same.
    const count = inWorkbench[0].numbers.flat().length;
    expect(count).toBeGreaterThan(1000);
    const lit = inWorkbench.map(
      ({ pixels }) => pixels.filter((value, at) => at % 4 !== 3 && value > 40).length,
    );
    expect(Math.min(...lit)).toBeGreaterThan(WIDTH * HEIGHT * 0.05);
    expect(new Set(inWorkbench.map(({ pixels }) => pixels.join())).size).toBe(FRAMES.length);
    expect([...complaints, ...deliveredComplaints]).toEqual([]);
  },
);
