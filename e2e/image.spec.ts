import type { ExampleId } from "@bumbrel/api/exampleList";
import type { RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { EXAMPLES } from "@bumbrel/demo/examples";
import { expect, type Page, test } from "@playwright/test";
import { FULL } from "./support/full";
import { openStagePage } from "./support/stageFixture";

/** Pixels of a side of the images that are looked at. */
const SIDE = 64;
const DISTANCE_M = 5;
const FIELD_OF_VIEW = 45;
/** Metres that the image shows, from edge to edge, where the objects are. */
const SEEN_M = 2 * DISTANCE_M * Math.tan((FIELD_OF_VIEW / 2) * (Math.PI / 180));

let page: Page;
let close: () => Promise<void>;
test.beforeAll(async ({ browser }) => {
  ({ page, close } = await openStagePage(browser));
});
test.afterAll(() => close());

/** A black room with an unlit square in the middle of it, in a grey of the image; no light but what a test adds. */
function squareScene(lens: Record<string, RestValue> = {}, square: Partial<StageObject> = {}): Scene {
  const scene = newScene("Square");
  scene.quality = "desktop";
  const of = (kind: string) => scene.objects.find((one) => one.kind === kind)!;
  const rest = (kind: string, values: Record<string, RestValue>) => Object.assign(of(kind).rest, values);
  of("environment").settings.scenery = "none";
  Object.assign(of("lens").settings, { toneMapping: "neutral", fogOfBackdrop: false });
  of("backdrop").settings.fixedTo = "image";
  rest("camera", { position: [0, 0, DISTANCE_M], target: [0, 0, 0], fieldOfView: FIELD_OF_VIEW });
  rest("backdrop", { top: "#000000", bottom: "#000000" });
  rest("lens", { bloom: 0, vignette: 0, feedback: 0, fringing: 0, fog: 0, occlusion: 0, ...lens });
  scene.objects.push({
    ...newObject("square", "plane", "Square"),
    settings: { unlit: true, anchor: "centre" },
    ...square,
    rest: { size: [1, 1, 1], colour: "#808080", emissionStrength: 0, ...square.rest },
  });
  return scene;
}

interface Drawn {
  /** Red of a pixel, 0 to 255, counted from the left and from the top. */
  at(x: number, y: number): number;
  mean: number;
  /** Pixels that are lighter than half of the lightest. */
  light: number;
  bytes: number[];
}
async function draw(scene: Scene, frames: number[] = [0], framesPerSecond = 60): Promise<Drawn> {
  const bytes = await page.evaluate(
    ([scene, frames, rate, side]) => window.drawFrames(scene, frames, rate, side),
    [scene, frames, framesPerSecond, SIDE] as const,
  );
  const reds = bytes.filter((_, i) => i % 4 === 0);
  const most = reds.reduce((a, b) => Math.max(a, b));
  return {
    at: (x, y) => reds[y * SIDE + x],
    mean: reds.reduce((a, b) => a + b) / reds.length,
    light: reds.filter((red) => red > most / 2).length,
    bytes,
  };
}
const MIDDLE = SIDE / 2;

/** sRGB's transfer function, IEC 61966-2-1. */
const toLinear = (byte: number) => {
  const share = byte / 255;
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
};
const toByte = (linear: number) =>
  255 * (linear <= 0.0031308 ? 12.92 * linear : 1.055 * linear ** (1 / 2.4) - 0.055);
/** Khronos PBR Neutral for greys below its shoulder: only the part of the light that surfaces reflect like glass goes. */
const neutral = (grey: number) => grey - (grey < 0.08 ? grey - 6.25 * grey * grey : 0.04);
/** The light that a shown grey stands for, before tone mapping: {@link neutral} backwards. */
const sceneLight = (byte: number) => {
  const shown = toLinear(byte);
  return shown < 0.04 ? Math.sqrt(shown / 6.25) : shown + 0.04;
};

test("an object covers the pixels that perspective says, and has the colour that tone mapping gives it", async () => {
  const { at, light } = await draw(squareScene());
  const side = (SIDE * 1) / SEEN_M;
  expect(Math.abs(Math.sqrt(light) - side)).toBeLessThan(1.01);
  expect(Math.abs(at(MIDDLE, MIDDLE) - toByte(neutral(toLinear(0x80))))).toBeLessThanOrEqual(2);
  expect(at(2, 2)).toBe(0);
});

test("what is lit from the left is bright on the left", async () => {
  const scene = squareScene();
  scene.objects.pop();
  scene.objects.push(
    { ...newObject("ball", "sphere", "Ball"), settings: { anchor: "centre" }, rest: { emissionStrength: 0 } },
    {
      ...newObject("sun", "sunLight", "Sun"),
      rest: { intensity: 3, position: [-10, 0, 0], target: [0, 0, 0] },
    },
  );
  const { at } = await draw(scene);
  const quarter = Math.round(SIDE / SEEN_M / 4);
  expect(at(MIDDLE - quarter, MIDDLE)).toBeGreaterThan(at(MIDDLE + quarter, MIDDLE) + 40);
});

test("fog takes its share of the light for each metre", async () => {
  const clear = await draw(squareScene());
  const thin = await draw(squareScene({ fog: 0.1, fogColour: "#000000" }));
  const thick = await draw(squareScene({ fog: 0.4, fogColour: "#000000" }));
  const middle = ({ at }: Drawn) => at(MIDDLE, MIDDLE);
  expect(middle(thin)).toBeLessThan(middle(clear) - 5);
  expect(middle(thick)).toBeLessThan(middle(thin) - 20);
});

test("automatic exposure brings any even image to middle grey, and half of it half the way", async () => {
  const even = (colour: string, autoExposure: number) =>
    draw(squareScene({ autoExposure }, { rest: { colour, size: [40, 40, 1] } }));
  // Neutral tone mapping shows middle grey, 0.18, as 0.14.
  const shown = 255 * (1.055 * 0.14 ** (1 / 2.4) - 0.055);
  const [dark, light] = [await even("#303030", 1), await even("#b0b0b0", 1)];
  expect(dark.mean).toBeCloseTo(shown, -0.5);
  expect(light.mean).toBeCloseTo(shown, -0.5);
  const [half, none] = [await even("#303030", 0.5), await even("#303030", 0)];
  expect(half.mean).toBeGreaterThan(none.mean + 10);
  expect(half.mean).toBeLessThan(dark.mean - 10);
});

test("a floor is darker where something touches it, and nowhere else", FULL, async () => {
  // Looked at from above, in even light: a box on the floor, or high over it.
  const floor = (contactShadow: number, heightM: number) => {
    const scene = squareScene({}, { kind: "box", settings: {}, rest: { position: [0, heightM, 0] } });
    const of = (kind: string) => scene.objects.find((one) => one.kind === kind)!;
    of("environment").settings.scenery = "studio";
    Object.assign(of("camera").rest, { position: [0, DISTANCE_M, 0.01], target: [0, 0, 0] });
    const rest = { colour: "#808080", lineEvery: 0, reflection: 0, contactShadow, contactReach: 0.6 };
    scene.objects.push({ ...newObject("floor", "ground", "Floor"), rest });
    return draw(scene);
  };
  const perM = SIDE / SEEN_M;
  const middle = SIDE / 2;
  const beside = (image: Drawn, awayM: number) => image.at(Math.round(middle + awayM * perM), middle);
  const [without, standing, above] = [await floor(0, 0), await floor(1, 0), await floor(1, 1)];
  expect(beside(standing, 0.57)).toBeLessThan(beside(without, 0.57) - 10);
  expect(beside(standing, 1.6)).toBeCloseTo(beside(without, 1.6), -0.5);
  expect(beside(above, 0.9)).toBeCloseTo(beside(without, 0.9), -0.5);
});

test("metal is as bright as what it mirrors, at plain quality as well", async () => {
  const lit = (metalness: number, quality: Scene["quality"]) => {
    const scene = squareScene({}, { kind: "sphere", settings: {}, rest: { metalness, roughness: 0.6 } });
    scene.objects.find((one) => one.kind === "environment")!.settings.scenery = "studio";
    scene.quality = quality;
    return draw(scene);
  };
  const [plain, full] = [await lit(1, "plain"), await lit(1, "headset")];
  const centre = (image: Drawn) => image.at(SIDE / 2, SIDE / 2);
  expect(centre(full)).toBeGreaterThan(40);
  expect(centre(plain)).toBeGreaterThan(0.4 * centre(full));
  expect(centre(plain)).toBeLessThan(1.6 * centre(full));
});

test("feedback leaves its share of the image of 1/60 s ago, step by step", async () => {
  const share = 0.9;
  const still = squareScene({ feedback: share });
  const first = (await draw(still, [0])).at(MIDDLE, MIDDLE);
  // An object at rest keeps its brightness: feedback shows the brighter of both images, not their sum.
  const later = (await draw(still, [0, 1, 2, 3])).at(MIDDLE, MIDDLE);
  expect(Math.abs(later - first)).toBeLessThanOrEqual(1);

  // Seen from above, a ball goes round by 60° a step: where it was first, only the memory is left.
  const moving = squareScene({ feedback: share });
  Object.assign(moving.objects[0].rest, { position: [0, DISTANCE_M, 0.01] });
  moving.objects.pop();
  moving.objects.push(
    { ...newObject("wheel", "group", "Wheel"), rest: { spin: 3600 } },
    {
      ...newObject("spark", "sphere", "Spark"),
      parentId: "wheel",
      settings: { unlit: true, anchor: "centre" },
      rest: { colour: "#c0c0c0", emissionStrength: 0, radius: 0.3, position: [1.2, 0, 0] },
    },
  );
  const before = await draw(moving, [0]);
  const shown = await draw(moving, [0, 1, 2, 3]);
  const reds = before.bytes.filter((_, i) => i % 4 === 0);
  const inside = reds.flatMap((red, i) => (red === Math.max(...reds) ? [i] : []));
  const middle = inside[Math.floor(inside.length / 2)];
  const [x, y] = [middle % SIDE, Math.floor(middle / SIDE)];
  expect(sceneLight(shown.at(x, y)) / sceneLight(before.at(x, y))).toBeCloseTo(share ** 3, 1.5);
});

test("an image with feedback is the same however it is reached", async () => {
  const scene = squareScene(
    { feedback: 0.85, feedbackGrowth: 1.02, feedbackTurn: 1 },
    {
      settings: { unlit: true, anchor: "centre", formation: "ring" },
      rest: { copies: 3, spin: 90 },
    },
  );
  const sought = await draw(scene, [90]);
  const every = await draw(
    scene,
    Array.from({ length: 91 }, (_, i) => i),
  );
  const slow = await draw(
    scene,
    Array.from({ length: 46 }, (_, i) => i),
    30,
  );
  const differs = (other: Drawn) => other.bytes.filter((byte, i) => Math.abs(byte - sought.bytes[i]) > 1);
  expect(sought.light).toBeGreaterThan(20);
  expect(differs(every).length).toBeLessThanOrEqual(every.bytes.length * 0.001);
  expect(differs(slow).length).toBeLessThanOrEqual(slow.bytes.length * 0.001);
});

test("bloom puts light round what is bright, and none round what is below its threshold", async () => {
  const bright = { rest: { colour: "#ffffff", emissionStrength: 4, emission: "#ffffff" } };
  const beside = MIDDLE - Math.round(SIDE / SEEN_M / 2) - 3;
  const plain = await draw(squareScene({ vignette: 0.001 }, bright));
  const bloomed = await draw(squareScene({ bloom: 2, bloomFrom: 0.8, bloomReach: 0.6 }, bright));
  const dim = await draw(squareScene({ bloom: 2, bloomFrom: 0.8, bloomReach: 0.6 }));
  expect(plain.at(beside, MIDDLE)).toBe(0);
  expect(bloomed.at(beside, MIDDLE)).toBeGreaterThan(20);
  expect(dim.at(beside, MIDDLE)).toBe(0);
});

test("the vignette darkens the corners and leaves the middle", async () => {
  const wide = { rest: { scale: [20, 20, 20] as [number, number, number] } };
  const plain = await draw(squareScene({ vignette: 0.0001 }, wide));
  const dark = await draw(squareScene({ vignette: 0.5 }, wide));
  expect(Math.abs(dark.at(MIDDLE, MIDDLE) - plain.at(MIDDLE, MIDDLE))).toBeLessThanOrEqual(1);
  const share = sceneLight(dark.at(0, 0)) / sceneLight(plain.at(0, 0));
  // In the corner, 0.5 from the middle on both axes, smoothstep is at its upper end.
  expect(Math.abs(share - (1 - 0.5))).toBeLessThan(0.04);
});

test("exposure doubles the light with each step, through the passes and without them", async () => {
  for (const passes of [{}, { vignette: 0.0001 }] as Record<string, RestValue>[]) {
    const dark = await draw(squareScene({ exposure: -2, ...passes }));
    const expected = toByte(neutral(toLinear(0x80) / 4));
    expect(Math.abs(dark.at(MIDDLE, MIDDLE) - expected)).toBeLessThanOrEqual(2);
  }
});

test("grading multiplies, raises and bends light as its definition says", async () => {
  const light = toLinear(0x80);
  const shown = async (lens: Record<string, RestValue>) => (await draw(squareScene(lens))).at(MIDDLE, MIDDLE);
  const near = (byte: number, grey: number) =>
    expect(Math.abs(byte - toByte(neutral(grey)))).toBeLessThanOrEqual(2);
  near(await shown({ gain: [2, 2, 2] }), light * 2);
  near(await shown({ lift: [0.1, 0.1, 0.1] }), light + 0.1 * (1 - light));
  near(await shown({ gamma: [2, 2, 2] }), Math.sqrt(light));
  near(await shown({ contrast: 2 }), 0.18 * (light / 0.18) ** 2);
  // Grey has no colour to lose.
  near(await shown({ saturation: 0 }), light);
});

test("a glow keeps its hue, however strong it is", async () => {
  for (const emissionStrength of [1, 10, 50]) {
    const scene = squareScene(
      {},
      { rest: { colour: "#000000", emissionColour: "#ff2200", emissionStrength } },
    );
    scene.objects.find(({ kind }) => kind === "lens")!.settings.toneMapping = "filmic";
    const { bytes } = await draw(scene);
    const at = (MIDDLE * SIDE + MIDDLE) * 4;
    const [r, g, b] = bytes.slice(at, at + 3);
    expect(r).toBeGreaterThan(g + 25);
    expect(g).toBeGreaterThanOrEqual(b);
  }
});

test("what stands in the light throws a shadow on what is behind it", async () => {
  const shade = async (castsShadows: boolean) => {
    const scene = squareScene();
    scene.objects.pop();
    scene.objects.push(
      {
        ...newObject("wall", "plane", "Wall"),
        settings: { anchor: "centre" },
        rest: { size: [8, 8, 1], colour: "#ffffff" },
      },
      {
        ...newObject("ball", "sphere", "Ball"),
        rest: { position: [1.2, 0, 1.2], radius: 0.4, emissionStrength: 0 },
      },
      {
        ...newObject("sun", "sunLight", "Sun"),
        settings: { castsShadows },
        rest: { position: [10, 0, 10], intensity: 2, shadowSoftness: 0 },
      },
    );
    // Its shadow falls where the ball's way along the light meets the wall: in the middle.
    return (await draw(scene)).at(MIDDLE, MIDDLE);
  };
  const [lit, shaded] = [await shade(false), await shade(true)];
  expect(lit).toBeGreaterThan(80);
  expect(shaded).toBeLessThan(lit / 4);
});

test("water mirrors what stands on it", async () => {
  const mirrored = async (reflection: number) => {
    const scene = squareScene(
      {},
      { settings: { unlit: true, anchor: "base" }, rest: { size: [1, 1, 1], colour: "#ffffff" } },
    );
    Object.assign(scene.objects[0].rest, { position: [0, 1, DISTANCE_M], target: [0, 0, 0] });
    scene.objects.push({
      ...newObject("sea", "water", "Sea"),
      rest: { waves: 0, roughness: 0, reflection, edgeFade: 0, colour: "#000000" },
    });
    const { at } = await draw(scene);
    // The foot of the square is in the middle of the image; below it lies its reflection.
    return at(MIDDLE, MIDDLE + 5);
  };
  expect(await mirrored(0)).toBeLessThan(12);
  expect(await mirrored(1)).toBeGreaterThan(40);
});

test("a surface is revealed from an edge by a number", async () => {
  const seen = async (reveal: number) =>
    (
      await draw(
        squareScene(
          {},
          {
            settings: { unlit: true, anchor: "centre", revealFrom: "left" },
            rest: { reveal, revealSoftness: 0, scale: [3, 3, 3] },
          },
        ),
      )
    ).light;
  const whole = await seen(1);
  expect(Math.abs((await seen(0.5)) / whole - 0.5)).toBeLessThan(0.06);
  expect(await seen(0.25)).toBeLessThan(whole * 0.32);
});

test("the plain quality leaves effects out and changes nothing else", async () => {
  const lens = { bloom: 2, vignette: 1, feedback: 0.9, fringing: 1 };
  const light = await draw({ ...squareScene(lens), quality: "plain" });
  const plain = await draw(squareScene());
  expect(Math.abs(light.at(MIDDLE, MIDDLE) - plain.at(MIDDLE, MIDDLE))).toBeLessThanOrEqual(1);
  expect(light.at(1, 1)).toBe(plain.at(1, 1));
});

test("many copies are drawn with fewer triangles each", async () => {
  const spheres = async (copies: number) => {
    const scene = squareScene();
    scene.objects.pop();
    scene.objects.push({
      ...newObject("balls", "sphere", "Balls"),
      settings: { formation: "grid" },
      rest: { copies },
    });
    const all = await page.evaluate((scene) => window.trianglesOf(scene), scene);
    scene.objects.pop();
    return (all - (await page.evaluate((scene) => window.trianglesOf(scene), scene))) / copies;
  };
  const [one, some, many] = [await spheres(1), await spheres(60), await spheres(1000)];
  expect(one).toBeGreaterThan(2000);
  expect(some).toBeLessThan(one / 3);
  expect(many).toBeLessThan(some / 3);
});

test("what is mirrored has the fog of this very image, whatever was drawn before", async () => {
  const scene = squareScene({ fogColour: "#ffffff" }, { rest: { position: [0, 0.6, -2] } });
  const camera = scene.objects.find(({ kind }) => kind === "camera")!;
  Object.assign(camera.rest, { position: [0, 1.5, DISTANCE_M], target: [0, 0, -2] });
  scene.objects.push({ ...newObject("water", "water", "Water"), rest: { reflection: 1, roughness: 0 } });
  scene.strands.push(newStrand(scene, "s", "Rising", { kind: "nothing" }));
  const binding = newBinding("thicker", "s", scene.objects.find(({ kind }) => kind === "lens")!, "fog");
  binding.output = { kind: "range", low: 0, high: 0.3 };
  scene.bindings.push(binding);
  const film = (from: number, to: number) =>
    page.evaluate(([one, first, last, side]) => window.drawFilm(one, first, last, side), [
      scene,
      from,
      to,
      SIDE,
    ] as const);
  const part = await film(300, 300);
  expect(await film(298, 300)).toEqual(part);
  expect(await film(0, 0)).not.toEqual(part);
});

for (const id of Object.keys(EXAMPLES) as ExampleId[]) {
  test(`a part of a film begins as the whole goes on, at odd places of ${id}`, FULL, async () => {
    test.setTimeout(300_000);
    const sounds = EXAMPLES[id].sounds.map((sound) => [sound.id, sound.id]);
    const scene = EXAMPLES[id].scene(Object.fromEntries(sounds));
    const film = (from: number, to: number) =>
      page.evaluate(([one, first, last, side]) => window.drawFilm(one, first, last, side), [
        { ...scene, quality: "desktop" as const },
        from,
        to,
        32,
      ] as const);
    for (const [before, first] of [
      [97, 131],
      [283, 317],
    ])
      expect(await film(first, first)).toEqual(await film(before, first));
  });
}
