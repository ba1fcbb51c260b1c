import { pathToFileURL } from "node:url";
import type { Scene } from "@bumbrel/core/document/scene";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { newScene } from "@bumbrel/core/kinds/create";
import { expect, type Page, test } from "@playwright/test";
import { FULL } from "./support/full";
import { TestServer } from "./support/server";
import { openStagePage } from "./support/stageFixture";
import { storeProject, wallScene } from "./support/storing";

let page: Page;
let close: () => Promise<void>;
test.beforeAll(async ({ browser }) => {
  ({ page, close } = await openStagePage(browser));
});
test.afterAll(() => close());

/** A backdrop alone, whose colour is that of the image. */
function backdropScene(): Scene {
  const scene = newScene("Backdrop");
  scene.quality = "plain";
  const of = (kind: string) => scene.objects.find((one) => one.kind === kind)!;
  of("environment").settings.scenery = "none";
  Object.assign(of("lens").settings, { toneMapping: "neutral", fogOfBackdrop: false });
  of("backdrop").settings.fixedTo = "image";
  return scene;
}

const limit = (colours: readonly string[], framesPerSecond: number) =>
  page.evaluate(([scene, colours, rate]) => window.limitFlashes(scene, colours, rate), [
    backdropScene(),
    colours,
    framesPerSecond,
  ] as const);
const strobe = (hz: number, on: string, off: string, fps: number, seconds = 3) =>
  Array.from({ length: seconds * fps }, (_none, i) => (((i / fps) * hz) % 1 < 0.5 - 1e-9 ? on : off));

test("the limiter on the graphics card lets every strobe pass that did not before", async () => {
  for (const [hz, on, off] of [
    [5, "#ffffff", "#000000"],
    [10, "#ffffff", "#000000"],
    [15, "#c8c8c8", "#3c3c3c"],
    [6, "#780000", "#282828"],
  ] as const) {
    const { plain, limited, strength } = await limit(strobe(hz, on, off, 60), 60);
    expect(plain).toBeGreaterThan(3);
    expect(limited).toBeLessThanOrEqual(3);
    if (on !== "#780000") expect(strength).toBeGreaterThan(0.9);
  }
});

test("it changes nothing of what flashes no more than is allowed", async () => {
  const slow = await limit(strobe(2, "#ffffff", "#101010", 30), 30);
  expect(Math.max(...slow.changed)).toBeLessThanOrEqual(1);
  const swell = Array.from(
    { length: 90 },
    (_none, i) => `#${(i * 2 + 16).toString(16).padStart(2, "0").repeat(3)}`,
  );
  expect(Math.max(...(await limit(swell, 30)).changed)).toBeLessThanOrEqual(1);
});

test("it does as its definition does", async () => {
  const random = seededRandom(11);
  const hex = () =>
    Math.floor(random() * 256)
      .toString(16)
      .padStart(2, "0");
  let colour = "#000000";
  const colours = Array.from({ length: 240 }, () => {
    if (random() < 0.25) colour = `#${hex()}${hex()}${hex()}`;
    return colour;
  });
  const { limited, apart, changed } = await limit(colours, 60);
  expect(limited).toBeLessThanOrEqual(3);
  expect(changed.filter((steps) => steps > 8).length).toBeGreaterThan(40);
  expect(apart.filter((steps) => steps > 3).length).toBeLessThan(5);
});

/** Hits at full scale, six a second, for three seconds. */
function strobeTrack(): Float32Array {
  return Float32Array.from({ length: 3 * 48_000 }, (_none, i) =>
    ((i / 48_000) * 6) % 1 < 0.4 ? Math.sin((2 * Math.PI * 997 * i) / 48_000) : 0,
  );
}
const strobeScene = (storedId: string) =>
  wallScene("Strobe", storedId, {
    wall: { size: [30, 20, 0.2], colour: "#ffffff" },
    releaseMs: 10,
    light: 2,
  });

test(
  "Deliver looks through the tape, says where it flashes and how loud it is, and limits it; delivered, it warns",
  FULL,
  async ({ page }) => {
    const server = new TestServer();
    await server.start();
    try {
      const id = await storeProject(page.request, server.address, strobeTrack(), strobeScene);
      await page.goto(`${server.address}/projects/${id}/deliver`);
      const flashing = page.getByRole("region", { name: "Flashing light" });
      const look = async () => {
        await flashing.getByRole("button", { name: "Look through the whole tape" }).click();
        await expect(flashing.getByRole("status")).toBeVisible();
        await expect(flashing.getByRole("status")).toBeHidden({ timeout: 90_000 });
      };
      await look();
      await expect(flashing).toContainText(/up to [5-7] flashes a second, where 3 are allowed/);
      await expect(
        flashing.getByRole("img", { name: /Flashes a second over the tape, [5-7] at most/ }),
      ).toBeVisible();
      await flashing.getByRole("button", { name: /^Go to 0:0/ }).click();

      // The hits are at full scale: their peaks would clip.
      const checks = page.getByRole("region", { name: "Checks" });
      await expect(checks).toContainText(/The mix peaks at 0\.\d dBTP, above −1/);
      const peakDb = Number(/peaks at (\d\.\d) dBTP/.exec((await checks.textContent())!)![1]);
      await checks.getByRole("combobox", { name: "Loudness" }).selectOption("broadcast");
      await expect(checks).toContainText(/LUFS, \d+(\.\d)? LU above −23/);
      await checks.getByRole("button", { name: /^Do it: The mix peaks/ }).click();
      const scene = async () =>
        (await (await page.request.get(`${server.address}/api/projects/${id}`)).json()).scene;
      await expect.poll(async () => (await scene()).sounds[0].faderDb).toBeCloseTo(-1.1 - peakDb, 0);

      // The delivered page says so before anything starts.
      const page_ = await page.context().newPage();
      await page_.goto(await downloadPage());
      await expect(page_.getByRole("status")).toContainText("This scene flashes", { timeout: 60_000 });
      const start = page_.getByRole("button", { name: "Start all the same" });
      await expect(start).toBeVisible();
      expect(await page_.evaluate(() => window.bumbrel!.state())).toBe("paused");
      await start.click();
      await expect.poll(() => page_.evaluate(() => window.bumbrel!.state())).toBe("playing");
      await page_.close();
      async function downloadPage(): Promise<string> {
        const [download] = await Promise.all([
          page.waitForEvent("download"),
          page.getByRole("button", { name: "Save the page" }).click(),
        ]);
        const path = test.info().outputPath("strobe.html");
        await download.saveAs(path);
        return pathToFileURL(path).href;
      }

      await flashing.getByRole("checkbox", { name: /^Limit flashes/ }).check();
      await look();
      await expect(flashing).toContainText(/At most [0-3] flash(es)? a second: within WCAG 2.3.1/);
    } finally {
      await server.remove();
    }
  },
);
