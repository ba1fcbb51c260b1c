import type { Scene } from "@bumbrel/core/document/scene";
import { seededRandom } from "@bumbrel/core/dsp/random";
import { newScene } from "@bumbrel/core/kinds/create";
import { expect, type Page, test } from "@playwright/test";
import { openStagePage } from "./stageFixture";

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
