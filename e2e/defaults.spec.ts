import type { ObjectKind, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newObject, newProject } from "@bumbrel/core/kinds/create";
import { paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { kindOf, OBJECT_KIND_NAMES } from "@bumbrel/core/kinds/table";
import { expect, type Page, test } from "@playwright/test";
import { openStagePage } from "./stageFixture";

/** Pixels of the images that are looked at. */
const [WIDTH, HEIGHT] = [96, 72];

let page: Page;
let close: () => Promise<void>;
test.beforeAll(async ({ browser }) => {
  ({ page, close } = await openStagePage(browser));
});
test.afterAll(() => close());

/** Kinds that are visible by themselves: not lights, and not models, whose file is missing here. */
const SHOWN = OBJECT_KIND_NAMES.filter((kind) => {
  const { shelf } = kindOf(kind);
  return shelf !== undefined && shelf !== "lights" && !["model", "ground", "water"].includes(kind);
});

/** A new project with one thing on it, as somebody gets it who adds it; no floor, so that the backdrop is behind it. */
function newOn(kind: ObjectKind): Scene {
  const scene = newProject("Quay");
  scene.quality = "plain";
  scene.objects = scene.objects.filter(({ id }) => id !== "floor");
  const object: StageObject = newObject("it", kind, "It");
  paintNew(scene, object);
  placeNew(scene.objects, object);
  scene.objects.push(object);
  return scene;
}

const draw = (scene: Scene, frame = 120, value = 0) =>
  page.evaluate(
    ([scene, frame, value, width, height]) => window.drawOnShared(scene, frame, value, width, height),
    [scene, frame, value, WIDTH, HEIGHT] as const,
  );

test("a new thing rests in silence", async () => {
  test.setTimeout(120_000);
  const restless: string[] = [];
  // Particles and what circles move by design.
  for (const kind of SHOWN.filter((one) => one !== "particles" && one !== "orbits")) {
    const scene = newOn(kind);
    const before = await draw(scene, 120);
    const after = await draw(scene, 121);
    const change = before.reduce((sum, byte, i) => sum + Math.abs(byte - after[i]), 0) / before.length;
    if (change >= 0.5) restless.push(`${kind}: ${change.toFixed(2)}`);
  }
  expect(restless).toEqual([]);
});
