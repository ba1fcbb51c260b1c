import type { ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { changePalette, paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { kindOf, OBJECT_KIND_NAMES, propertiesOf } from "@bumbrel/core/kinds/table";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { PALETTE_IDS } from "@bumbrel/core/setting/palettes";
import { settingsThatUse } from "@bumbrel/core/testing/settings";
import { expect, type Page, test } from "@playwright/test";
import { FULL, isFull } from "./support/full";
import { openStagePage } from "./support/stageFixture";

/** Pixels of the images that are looked at. */
const SMALL = [96, 72] as const;
const LARGER = [192, 144] as const;
const LARGEST = [384, 288] as const;
/** Channels that differ by less are the same to the eye. */
const SEEN = 10;

let page: Page;
let close: () => Promise<void>;
test.beforeAll(async ({ browser }) => {
  ({ page, close } = await openStagePage(browser));
});
test.afterAll(() => close());

/** Kinds that are visible by themselves: not lights, and not models, whose file is missing here. */
const SHOWN = OBJECT_KIND_NAMES.filter((kind) => {
  const { shelf } = kindOf(kind);
  // Programs show what their code does; zones are unseen.
  const isOther = shelf === undefined || ["lights", "programs", "visitors"].includes(shelf);
  return !isOther && !["model", "ground", "water"].includes(kind);
});

/** A new project with one thing on it, as somebody gets it who adds it; no floor, so that the backdrop is behind it. */
function newOn(
  kind: ObjectKind,
  prepare: (scene: Scene) => void = () => {},
): { scene: Scene; object: StageObject } {
  const scene = newProject("Quay");
  scene.quality = "plain";
  scene.objects = scene.objects.filter(({ id }) => id !== "floor");
  prepare(scene);
  const existing = scene.objects.find((one) => one.kind === kind);
  if (existing) return { scene, object: existing };
  const object: StageObject = newObject("it", kind, "It");
  paintNew(scene, object);
  placeNew(scene.objects, object);
  scene.objects.push(object);
  return { scene, object };
}

async function draw(
  scene: Scene,
  { frame = 113, value = 0, size = SMALL as readonly [number, number] } = {},
): Promise<Buffer> {
  const [width, height] = size;
  const image = await page.evaluate(
    ([scene, frame, value, width, height]) => window.drawOnShared(scene, frame, value, width, height),
    [scene, frame, value, width, height] as const,
  );
  return Buffer.from(image, "base64");
}

/** Numbers of the pixels that differ. */
function changed(a: Buffer, b: Buffer, by = SEEN): number[] {
  const pixels: number[] = [];
  for (let i = 0; i < a.length; i += 4) {
    const most = Math.max(...[0, 1, 2].map((channel) => Math.abs(a[i + channel] - b[i + channel])));
    if (most >= by) pixels.push(i / 4);
  }
  return pixels;
}

/** Relative luminance of a pixel (WCAG 2). */
function luminance(image: Buffer, pixel: number): number {
  const [r, g, b] = [0, 1, 2].map((channel) => {
    const share = image[pixel * 4 + channel] / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** Of lines, letters and dots most pixels are covered in part; the tenth that is covered most shows their colour. */
const THIN: readonly ObjectKind[] = ["text", "waveform", "outlines", "nest", "ribbon", "particles", "orbits"];
/** An image arrives as it is: its colours are not the palette's. */
const PAINTED = SHOWN.filter((kind) => kind !== "picture");

/** One of them is looked at in every run. */
const LOOKED_AT = isFull ? PALETTE_IDS : PALETTE_IDS.slice(0, 1);

test(`every new thing stands off the backdrop of ${LOOKED_AT.length} palettes`, async () => {
  test.setTimeout(180_000);
  const weak: string[] = [];
  for (const palette of LOOKED_AT) {
    const empty = new Map<unknown, Buffer>();
    for (const kind of PAINTED) {
      const size = THIN.includes(kind) ? LARGEST : LARGER;
      const { scene, object } = newOn(kind, (made) => changePalette(made, palette, 1));
      const seen = await draw(scene, { size });
      object.hidden = true;
      const behind = empty.get(size) ?? (await draw(scene, { size }));
      empty.set(size, behind);
      const contrasts = changed(seen, behind, 4)
        .map((pixel) => [luminance(seen, pixel) + 0.05, luminance(behind, pixel) + 0.05])
        .map(([a, b]) => Math.max(a, b) / Math.min(a, b))
        .sort((a, b) => a - b);
      const share = THIN.includes(kind) ? 0.9 : 0.5;
      const contrast = contrasts[Math.floor(share * contrasts.length)] ?? 1;
      if (contrast < 3)
        weak.push(`${palette} ${kind}: ${contrast.toFixed(2)}:1 of ${contrasts.length} pixels`);
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
    const before = await draw(scene, { frame: 120 });
    const after = await draw(scene, { frame: 121 });
    const change = before.reduce((sum, byte, i) => sum + Math.abs(byte - after[i]), 0) / before.length;
    if (change >= 0.5) restless.push(`${kind}: ${change.toFixed(2)}`);
  }
  expect(restless).toEqual([]);
});

/** Settings that some properties need beside them to be seen: a light to tint, a value that is not yet at its end. */
const BESIDE: Record<string, Record<string, RestValue>> = {
  emissionColour: { emissionStrength: 1 },
  emissionFalloff: { emissionStrength: 1.5 },
  revealSoftness: { reveal: 0.5 },
  trailTaper: { trailWidth: 3, speed: 120 },
  tubeTaper: { tube: 0.25 },
  twinkle: { stars: 1 },
  cloudColour: { clouds: 0.8 },
  cloudSize: { clouds: 0.8 },
  cloudSpeed: { clouds: 0.8 },
  gradientShift: { gradientAmount: 1 },
  copies: { level: 0.8 },
  endColour: { endSize: 0.2, gravity: 0 },
};
const SETTINGS_BESIDE: Record<string, Record<string, SettingValue>> = {
  "spectrum copies": { drawnAs: "bars" },
};
/** Properties that only show in how others are driven, in sound, in what was left behind, in images, or in passes over the image. */
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
  "trail",
  "swing",
  "span",
  "waveRadius",
  "waveHeight",
  "tiling",
  "pictureAmount",
  "softness",
  "thickness",
  // Letters have it once the font has arrived, which this page has not.
  "depth",
  "shake",
]);
/** Points of light are few of a sky's pixels. */
const POINTS = new Set(["stars", "twinkle"]);
const LEAST_POINTS = 5;

test("a new binding of each property changes what is seen", FULL, async () => {
  test.setTimeout(180_000);
  const unseen: string[] = [];
  // Properties that several kinds share are declared once, and looked at once.
  const looked = new Set<unknown>();
  for (const kind of [...SHOWN, "camera", "backdrop"] as const) {
    // Something for cameras to move round.
    const addBeside = (scene: Scene) => {
      if (kind === "camera") scene.objects.push(newObject("beside", "box", "Beside"));
    };
    const { scene: emptyScene, object: hidden } = newOn(kind);
    hidden.hidden = true;
    const empty = await draw(emptyScene);
    for (const [key, property] of Object.entries(propertiesOf({ kind }))) {
      if (NEEDS_MORE.has(key) || property.unseen || looked.has(property)) continue;
      looked.add(property);
      const { scene, object } = newOn(kind, addBeside);
      // Coats and films are seen by what they mirror.
      if (property.when?.setting === "finish") scene.quality = "headset";
      object.settings = {
        ...object.settings,
        ...(settingsThatUse(kind, property) as Record<string, SettingValue>),
        ...SETTINGS_BESIDE[`${kind} ${key}`],
      };
      Object.assign(object.rest, BESIDE[key]);
      scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
      scene.bindings.push(newBinding("b", "s", object, key));
      const [low, high] = [await draw(scene, { value: 0 }), await draw(scene, { value: 1 })];
      const own = new Set([...changed(low, empty, 4), ...changed(high, empty, 4)]);
      const whole = kind === "backdrop" ? SMALL[0] * SMALL[1] : own.size;
      const seen = changed(low, high).length;
      if (seen < (POINTS.has(key) ? LEAST_POINTS : Math.max(1, 0.02 * whole))) {
        unseen.push(`${kind} ${key}: ${seen} of ${whole} pixels`);
      }
    }
  }
  expect(looked.size).toBeGreaterThan(100);
  expect(unseen).toEqual([]);
});
