import { join } from "node:path";
import { newStrand } from "@bumbrel/core/document/newStrand";
import type { ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { changePalette, paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { kindOf, OBJECT_KIND_NAMES, propertiesOf } from "@bumbrel/core/kinds/table";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { PALETTE_IDS } from "@bumbrel/core/setting/palettes";
import { settingsThatUse } from "@bumbrel/core/testing/settings";
import { expect, type Page, test } from "@playwright/test";
import { build } from "esbuild";
import { complaintsOf } from "./helpers";

/** Pixels of the images that are looked at. */
const [WIDTH, HEIGHT] = [96, 72];
/** Channels that differ by less are the same to the eye. */
const SEEN = 10;

let page: Page;
let complaints: string[];
test.beforeAll(async ({ browser }) => {
  const { outputFiles } = await build({
    entryPoints: [join(import.meta.dirname, "stagePage.ts")],
    bundle: true,
    write: false,
    format: "iife",
    target: "es2022",
    logLevel: "error",
  });
  page = await browser.newPage();
  complaints = complaintsOf(page);
  await page.setContent("<!doctype html><title>Stage</title>");
  await page.addScriptTag({ content: outputFiles[0].text });
});
test.afterAll(async () => {
  expect(complaints).toEqual([]);
  await page.close();
});

/** What can be put on a stage and is seen by itself: not lights, nor what shows a file that is missing. */
const SHOWN = OBJECT_KIND_NAMES.filter((kind) => {
  const { shelf } = kindOf(kind);
  return shelf !== undefined && shelf !== "lights" && !["model", "ground", "water"].includes(kind);
});

/** A new project with one thing on it, as somebody gets it who adds it; no floor, so that the backdrop is behind it. */
function newOn(
  kind: ObjectKind,
  more: (scene: Scene) => void = () => {},
): { scene: Scene; object: StageObject } {
  const scene = newProject("Quay");
  scene.quality = "plain";
  scene.objects = scene.objects.filter(({ id }) => id !== "floor");
  more(scene);
  const existing = scene.objects.find((one) => one.kind === kind);
  const object = existing ?? newObject("it", kind, "It");
  if (existing) return { scene, object };
  paintNew(scene, object);
  placeNew(scene.objects, object);
  scene.objects.push(object);
  return { scene, object };
}

const draw = (scene: Scene, frame = 120, value = 0) =>
  page.evaluate(
    ([scene, frame, value, width, height]) => window.drawOnShared(scene, frame, value, width, height),
    [scene, frame, value, WIDTH, HEIGHT] as const,
  );

/** Pixels that differ, by their numbers. */
function changed(a: readonly number[], b: readonly number[], by = SEEN): number[] {
  const pixels: number[] = [];
  for (let i = 0; i < a.length; i += 4) {
    const most = Math.max(
      Math.abs(a[i] - b[i]),
      Math.abs(a[i + 1] - b[i + 1]),
      Math.abs(a[i + 2] - b[i + 2]),
    );
    if (most >= by) pixels.push(i / 4);
  }
  return pixels;
}

/** Mean relative luminance of some pixels (WCAG 2). */
function luminance(image: readonly number[], pixels: readonly number[]): number {
  const linear = (byte: number) => {
    const share = byte / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  };
  let sum = 0;
  for (const pixel of pixels) {
    const [r, g, b] = [0, 1, 2].map((channel) => linear(image[pixel * 4 + channel]));
    sum += 0.2126 * r + 0.7152 * g + 0.0722 * b;
  }
  return sum / pixels.length;
}

test("every new thing stands off the backdrop of every palette", async () => {
  test.setTimeout(240_000);
  const weak: string[] = [];
  for (const palette of PALETTE_IDS) {
    for (const kind of SHOWN) {
      const { scene, object } = newOn(kind, (made) => changePalette(made, palette, 1));
      const seen = await draw(scene);
      object.hidden = true;
      const empty = await draw(scene);
      const pixels = changed(seen, empty, 4);
      if (pixels.length < 12) {
        weak.push(`${palette} ${kind}: ${pixels.length} pixels`);
        continue;
      }
      const [a, b] = [luminance(seen, pixels) + 0.05, luminance(empty, pixels) + 0.05];
      const contrast = Math.max(a, b) / Math.min(a, b);
      if (contrast < 3) weak.push(`${palette} ${kind}: ${contrast.toFixed(2)}:1`);
    }
  }
  expect(weak).toEqual([]);
});

test("a new thing rests in silence", async () => {
  test.setTimeout(120_000);
  const restless: string[] = [];
  // Particles and what circles move by design.
  for (const kind of SHOWN.filter((one) => one !== "particles" && one !== "orbits")) {
    const { scene } = newOn(kind);
    const before = await draw(scene, 120);
    const after = await draw(scene, 121);
    const change = before.reduce((sum, byte, i) => sum + Math.abs(byte - after[i]), 0) / before.length;
    if (change >= 0.5) restless.push(`${kind}: ${change.toFixed(2)}`);
  }
  expect(restless).toEqual([]);
});

/** What some properties need beside them to be seen: a light to tint, more than one copy, something that fades. */
const BESIDE: Record<string, Record<string, RestValue>> = {
  emissionColour: { emissionStrength: 1 },
  emissionFalloff: { emissionStrength: 1.5 },
  trailTaper: { trailWidth: 3, speed: 120 },
  tubeTaper: { tube: 0.25 },
  twinkle: { stars: 1 },
  cloudColour: { clouds: 0.8 },
  cloudSize: { clouds: 0.8 },
  cloudSpeed: { clouds: 0.8 },
  gradientShift: { gradientAmount: 1 },
};
/** Properties that only show in how others are driven, in what was left behind, in images, or in passes over the image. */
const NEEDS_MORE = new Set([
  "copyDelay",
  "copyDelayBeats",
  "valueSpread",
  "cap",
  "wakeCap",
  "wakeFade",
  "wakeLife",
  "wakeGrowth",
  "wakeDrift",
  "wakeRate",
  "tiling",
  "pictureAmount",
  "softness",
  "shake",
]);

test("a new binding of each property changes what is seen", async () => {
  test.setTimeout(400_000);
  const unseen: string[] = [];
  for (const kind of [...SHOWN, "camera", "backdrop"] as const) {
    for (const [key, property] of Object.entries(propertiesOf({ kind }))) {
      if (NEEDS_MORE.has(key)) continue;
      const { scene, object } = newOn(kind);
      object.settings = {
        ...object.settings,
        ...(settingsThatUse(kind, property) as Record<string, SettingValue>),
      };
      Object.assign(object.rest, BESIDE[key]);
      const at = async (value: number, isHidden = false) => {
        object.hidden = isHidden;
        return draw(scene, 120, value);
      };
      scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
      scene.bindings.push(newBinding("b", "s", object, key));
      const [low, high, empty] = [await at(0), await at(1), await at(0, true)];
      const own = new Set([...changed(low, empty, 4), ...changed(high, empty, 4)]);
      const whole = kind === "camera" || kind === "backdrop" ? WIDTH * HEIGHT : own.size;
      const share = changed(low, high).length / Math.max(1, whole);
      if (share < 0.02) unseen.push(`${kind} ${key}: ${(100 * share).toFixed(1)} %`);
    }
  }
  expect(unseen).toEqual([]);
});
