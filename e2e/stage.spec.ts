import { closeSync, ftruncateSync, mkdtempSync, openSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, type Locator, type Page } from "@playwright/test";
import { FULL } from "./support/full";
import {
  complaintsOf,
  nextFrames,
  openDemo,
  openEmptyStage as openEmpty,
  waitUntilSaved,
} from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

const folder = mkdtempSync(join(tmpdir(), "bumbrel-files-"));
test.beforeAll(prepareServer);
test.afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

const openEmptyStage = (page: Page) => openEmpty(page, server.address);
const row = (page: Page, name: string) => page.getByRole("region", { name, exact: true });
const objectIds = (page: Page) => page.evaluate(() => Object.keys(window.bumbrel!.values()));
const drawn = (page: Page, id: string) => page.evaluate((one) => window.bumbrel!.drawn(one), id);

async function dropStrand(page: Page, strand: string, onto: Locator): Promise<void> {
  const chip = page.getByRole("list", { name: "Strands" }).getByText(strand, { exact: true });
  await onto.scrollIntoViewIfNeeded();
  const from = (await chip.boundingBox())!;
  await page.mouse.move(from.x + 10, from.y + 6);
  await page.mouse.down();
  await page.mouse.move(from.x + 24, from.y + 20, { steps: 4 });
  // The sheet may scroll while something is carried along its edge: look where the row is until it stays there.
  for (let last = Number.NaN; ; ) {
    const to = (await onto.boundingBox())!;
    await page.mouse.move(to.x + 60, to.y + to.height / 2, { steps: 6 });
    if (to.y === last) break;
    last = to.y;
    await nextFrames(page);
  }
  await page.mouse.up();
}

/** Expected state of a ring of 64 bars: its bars on a circle, their heights those of the fan, dealt mirrored. */
async function expectMirroredRing(page: Page, id: string): Promise<void> {
  const numbers = await drawn(page, id);
  const bars = Array.from({ length: 64 }, (_, i) => {
    const m = numbers.slice(i * 16, i * 16 + 16);
    return {
      height: Math.hypot(m[4], m[5], m[6]),
      away: Math.hypot(m[12], m[14]),
      angle: Math.atan2(m[12], m[14]),
    };
  });
  bars.forEach(({ height, away, angle }, i) => {
    expect(away).toBeCloseTo(3, 4);
    expect(Math.abs(((angle - (2 * Math.PI * i) / 64 + 3 * Math.PI) % (2 * Math.PI)) - Math.PI)).toBeLessThan(
      1e-3,
    );
    expect(height).toBeCloseTo(bars[63 - i].height, 4);
  });
  expect(new Set(bars.map(({ height }) => height.toFixed(2))).size).toBeGreaterThan(8);
}

/** The image of the stage as brightness, and where a point of the stage lies on it. */
async function look(page: Page) {
  const canvas = page.getByRole("img", { name: "The stage" });
  const png = (await canvas.screenshot()).toString("base64");
  return page.evaluate(async (data) => {
    const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
    const bitmap = await createImageBitmap(new Blob([bytes], { type: "image/png" }));
    const sheet = new OffscreenCanvas(bitmap.width, bitmap.height);
    const context = sheet.getContext("2d")!;
    context.drawImage(bitmap, 0, 0);
    const { data: pixels } = context.getImageData(0, 0, bitmap.width, bitmap.height);
    const light = Array.from(
      { length: bitmap.width * bitmap.height },
      (_, i) => pixels[i * 4] + pixels[i * 4 + 1] + pixels[i * 4 + 2],
    );
    return { width: bitmap.width, height: bitmap.height, light };
  }, png);
}

test(
  "a ring of 64 bars from nothing, dealt a fan mirrored, bloom with the kick, undone and redone, by mouse",
  FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openEmptyStage(page);
    await page.evaluate(() => window.bumbrel!.seek(26.4));
    const before = await look(page);
    await page.getByRole("button", { name: "Put on stage" }).click();
    await page.getByRole("menuitem", { name: "Box", exact: true }).click();
    await page.getByRole("combobox", { name: "Formation" }).selectOption({ label: "a ring" });
    const copies = row(page, "Copies").getByRole("textbox");
    await copies.fill("64");
    await copies.press("Enter");
    const size = row(page, "Size").getByRole("textbox");
    for (const [axis, width] of ["0.15", "1", "0.15"].entries()) {
      await size.nth(axis).fill(width);
      await size.nth(axis).press("Enter");
    }
    const glow = row(page, "Emission").getByRole("textbox");
    await glow.fill("1");
    await glow.press("Enter");
    await dropStrand(page, "Row of lamps", row(page, "Growth"));
    const growth = row(page, "Growth");
    await expect(growth.getByText("Row of lamps")).toBeVisible();
    await expect(growth.getByText(/64 copies share 27 bands/)).toBeVisible();
    await growth.getByRole("combobox", { name: "How the fan is dealt" }).selectOption({ label: "mirrored" });
    const ring = (await objectIds(page)).at(-1)!;
    await expectMirroredRing(page, ring);

    await page.getByRole("button", { name: "Air and lens", exact: true }).click();
    await dropStrand(page, "Kick", row(page, "Bloom").first());
    await expect(row(page, "Bloom").getByText("Kick", { exact: true })).toBeVisible();
    // Bloom goes from 0 to 1 with the kick: on one it is there, between two it is not.
    const bloomAt = (timeS: number) =>
      page.evaluate((at) => {
        window.bumbrel!.seek(at);
        return {
          shown: window.bumbrel!.read("lens", "bloom") as number,
          value: window.bumbrel!.values().lens.bloom as number,
        };
      }, timeS);
    const [on, off] = [await bloomAt(26.44), await bloomAt(26.35)];
    expect(on.shown).toBeCloseTo(on.value, 5);
    expect(on.value).toBeGreaterThan(off.value + 0.3);

    // On the canvas: light where the nearest bar stands, and the backdrop as it was beside the ring.
    await page.getByRole("button", { name: "Backdrop" }).click();
    await page.evaluate(() => window.bumbrel!.seek(26.35));
    await nextFrames(page, 4);
    const after = await look(page);
    const m = (await drawn(page, ring)).slice(0, 16);
    const place = projected([m[12], m[13], m[14]], after.width / after.height);
    const at = (image: typeof after, x: number, y: number) =>
      image.light[Math.round(y * image.height) * image.width + Math.round(x * image.width)];
    expect(at(after, place.x, place.y)).toBeGreaterThan(at(before, place.x, place.y) + 60);
    expect(Math.abs(at(after, 0.9, 0.2) - at(before, 0.9, 0.2))).toBeLessThan(12);

    // All of it undone, and done again.
    const whole = await drawn(page, ring);
    const undo = page.getByRole("button", { name: /^Undo: / });
    let steps = 0;
    while ((await undo.count()) > 0 && (await undo.isEnabled())) {
      await undo.click();
      steps++;
    }
    expect(steps).toBeGreaterThanOrEqual(8);
    expect(await objectIds(page)).toEqual(["camera", "backdrop", "environment", "lens", "world"]);
    const redo = page.getByRole("button", { name: /^Redo: / });
    for (let step = 0; step < steps; step++) await redo.click();
    expect(await drawn(page, ring)).toEqual(whole);
    await waitUntilSaved(page);
    expect(complaints).toEqual([]);
  },
);

/** Place of a point in the resting camera's image, 0..1 from left and top. */
function projected([x, y, z]: number[], aspect: number) {
  const [eye, target] = [
    [0, 2.4, 9],
    [0, 1.2, 0],
  ];
  const sub = (a: number[], b: number[]) => a.map((one, i) => one - b[i]);
  const dot = (a: number[], b: number[]) => a.reduce((sum, one, i) => sum + one * b[i], 0);
  const unit = (a: number[]) => a.map((one) => one / Math.hypot(...a));
  const ahead = unit(sub(target, eye));
  const up = unit(
    sub(
      [0, 1, 0],
      ahead.map((one) => one * ahead[1]),
    ),
  );
  const to = sub([x, y, z], eye);
  const depth = dot(to, ahead) * Math.tan((45 * Math.PI) / 360);
  return { x: 0.5 + (0.5 * to[0]) / (depth * aspect), y: 0.5 - (0.5 * dot(to, up)) / depth };
}

test("the same by keyboard alone", FULL, async ({ page }) => {
  await openEmptyStage(page);
  await page.evaluate(() => window.bumbrel!.seek(26.4));
  const press = (key: string) => page.keyboard.press(key);
  const choose = async (label: Locator, down: number, value: string) => {
    await label.focus();
    for (let step = 0; step < down; step++) await press("ArrowDown");
    await expect(label).toHaveValue(value);
  };
  await page.getByRole("button", { name: "Put on stage" }).focus();
  await press("Enter");
  await expect(page.getByRole("menuitem", { name: "Box", exact: true })).toBeFocused();
  await press("Enter");
  await choose(page.getByRole("combobox", { name: "Formation" }), 1, "ring");
  const copies = row(page, "Copies").getByRole("textbox");
  await copies.focus();
  await page.keyboard.type("64");
  await press("Enter");
  await page.getByRole("button", { name: "Bind Growth" }).focus();
  await press("Enter");
  await expect(page.getByRole("menuitem", { name: "Snare" })).toBeFocused();
  for (const next of ["Bass", "Plucked tune", "Row of lamps"]) {
    await press("ArrowDown");
    await expect(page.getByRole("menuitem", { name: next })).toBeFocused();
  }
  await press("Enter");
  await choose(page.getByRole("combobox", { name: "How the fan is dealt" }), 2, "mirrored");
  const ring = (await objectIds(page)).at(-1)!;
  await expectMirroredRing(page, ring);
  await page.getByRole("button", { name: "Air and lens", exact: true }).focus();
  await press("Enter");
  await page.getByRole("button", { name: "Bind Bloom", exact: true }).focus();
  await press("Enter");
  await expect(page.getByRole("menuitem", { name: "Snare" })).toBeFocused();
  await press("End");
  await expect(page.getByRole("menuitem", { name: "Kick", exact: true })).toBeFocused();
  await press("Enter");
  await expect(row(page, "Bloom").getByText("Kick", { exact: true })).toBeVisible();
  const whole = await drawn(page, ring);
  await page.getByRole("button", { name: "Air and lens", exact: true }).focus();
  let steps = 0;
  for (; steps < 30 && (await objectIds(page)).length > 3; steps++) await press("Control+z");
  expect(steps).toBeGreaterThanOrEqual(6);
  expect(await objectIds(page)).toEqual(["camera", "backdrop", "environment", "lens", "world"]);
  for (let step = 0; step < steps; step++) await press("Control+Shift+z");
  await expect.poll(() => drawn(page, ring)).toEqual(whole);
});

test("several at once, hidden, locked, grouped, and copied into another project", FULL, async ({ page }) => {
  const complaints = complaintsOf(page);
  await openEmptyStage(page);
  for (const kind of ["Sphere", "Torus"]) {
    await page.getByRole("button", { name: "Put on stage" }).click();
    await page.getByRole("menuitem", { name: kind, exact: true }).click();
  }
  const strip = page.getByRole("list", { name: "On the stage" });
  await strip.getByRole("button", { name: "Sphere" }).click();
  await strip.getByRole("button", { name: "Torus" }).click({ modifiers: ["Shift"] });
  await expect(page.getByText("2 objects", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Bind Emission", exact: true }).click();
  await page.getByRole("menuitem", { name: "Snare" }).click();
  const [sphere, torus] = (await objectIds(page)).slice(-2);
  const glow = (id: string, timeS: number) =>
    page.evaluate(
      ([one, at]) => {
        window.bumbrel!.seek(at as number);
        return window.bumbrel!.read(one as string, "emissionStrength") as number;
      },
      [id, timeS] as const,
    );
  for (const id of [sphere, torus])
    expect(await glow(id, 24.62)).toBeGreaterThan((await glow(id, 24.5)) + 0.2);

  // A handle drags both; what was chosen stays so, and one undo takes it back.
  const bar = page.getByRole("toolbar", { name: "Selection" });
  const area = (await page.getByRole("img", { name: "The stage" }).boundingBox())!;
  const middle = projected([0, 0.5, 0], area.width / area.height);
  const grip = { x: area.x + middle.x * area.width + 54, y: area.y + middle.y * area.height };
  await page.mouse.move(grip.x, grip.y);
  // The handles notice the pointer in the next frame.
  await nextFrames(page, 3);
  await page.mouse.down();
  await page.mouse.move(grip.x + 40, grip.y, { steps: 4 });
  await page.mouse.move(grip.x + 80, grip.y, { steps: 4 });
  await page.mouse.up();
  const place = (id: string) => page.evaluate((one) => window.bumbrel!.read(one, "position") as number[], id);
  // They were put on the floor, and stay on it: the sphere half a metre high, the torus as high as its tube.
  for (const [id, heightMm] of [
    [sphere, 500],
    [torus, 150],
  ] as const) {
    await expect.poll(async () => (await place(id))[0]).toBeGreaterThan(id === torus ? 2.1 : 0.4);
    expect((await place(id)).slice(1).map((one) => Math.abs(Math.round(one * 1000)))).toEqual([heightMm, 0]);
  }
  await expect(page.getByText("2 objects", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Undo: move 2 objects" }).click();
  // It stands in the gap beside the sphere again.
  await expect
    .poll(async () => (await place(torus)).map((one) => Math.round(one * 1000)))
    .toEqual([1700, 150, 0]);

  await bar.getByRole("button", { name: "Hide" }).click();
  await expect.poll(() => drawn(page, sphere)).toEqual([0]);
  await bar.getByRole("button", { name: "Show", exact: true }).click();
  await bar.getByRole("button", { name: "Put into a group" }).click();
  await expect(page.getByRole("textbox", { name: "Object name" })).toHaveValue("Group");
  // A path is drawn with one stroke, and the copies of the group are strung along it.
  await page.getByRole("combobox", { name: "Formation" }).selectOption({ label: "along a path" });
  await page.getByRole("button", { name: "Draw it on the stage" }).click();
  await page.mouse.move(area.x + 200, area.y + area.height - 60);
  await page.mouse.down();
  for (let step = 1; step <= 12; step++) {
    await page.mouse.move(area.x + 200 + step * 35, area.y + area.height - 60 - step * 6);
  }
  await page.mouse.up();
  await expect(page.getByRole("textbox", { name: "Point 14 x" })).toBeVisible();
  const ends = async (point: number) =>
    Number(await page.getByRole("textbox", { name: `Point ${point} x` }).inputValue());
  expect(await ends(14)).toBeGreaterThan((await ends(1)) + 2);
  await page.getByRole("combobox", { name: "Formation" }).selectOption({ label: "one" });
  const turn = row(page, "Position").getByRole("textbox").nth(1);
  await turn.fill("2");
  await turn.press("Enter");
  await expect
    // The group is in the middle of both, at 0.325 m; the sphere half a metre up.
    .poll(() => page.evaluate((id) => (window.bumbrel!.read(id, "position") as number[])[1], sphere))
    .toBeCloseTo(2.175, 4);
  await bar.getByRole("button", { name: "Copy", exact: true }).click();
  await waitUntilSaved(page);

  await page.goto(server.address);
  await page.getByRole("button", { name: "New project", exact: true }).click();
  await page.getByRole("link", { name: "Stage" }).click();
  await expect(page.getByRole("button", { name: "Put on stage" })).toBeVisible();
  await bar.getByRole("button", { name: "Paste" }).click();
  await expect(strip.getByRole("button", { name: "Torus" })).toBeVisible();
  await strip.getByRole("button", { name: "Sphere" }).click();
  await expect(row(page, "Emission").getByText("Snare")).toBeVisible();
  // A locked object is not chosen on the stage.
  const stage = page.getByRole("img", { name: "The stage" });
  await strip.getByRole("button", { name: "Sphere" }).click();
  await bar.getByRole("button", { name: "Lock" }).click();
  await expect(bar.getByRole("button", { name: "Unlock" })).toBeVisible();
  await strip.getByRole("button", { name: "Camera" }).click();
  const box = (await stage.boundingBox())!;
  await stage.click({ position: { x: box.width - 30, y: 120 } });
  await expect(page.getByText("Choose something on the stage")).toBeVisible();
  await waitUntilSaved(page);
  expect(complaints).toEqual([]);
});

test("images and models come in, and what is broken, huge or hostile does not", async ({ page }) => {
  const complaints = complaintsOf(page);
  await openEmptyStage(page);
  const file = (name: string, contents: string | Uint8Array) => {
    const path = join(folder, name);
    writeFileSync(path, contents);
    return path;
  };
  const add = async (kind: string, path: string) => {
    await page.getByRole("button", { name: "Put on stage" }).click();
    const waiting = page.waitForEvent("filechooser");
    await page.getByRole("menuitem", { name: kind, exact: true }).click();
    await (await waiting).setFiles(path);
  };
  const said = page.getByRole("alert");

  // An SVG is drawn once: its script does nothing, and what it points to is not fetched.
  const fetched: string[] = [];
  page.on("request", (request) => {
    if (request.url().includes("example.invalid")) fetched.push(request.url());
  });
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><script>document.title = "taken over"; fetch("https://example.invalid/s")</script>
    <image href="https://example.invalid/a.png" width="9" height="9"/><rect width="40" height="20" fill="#ff8800"/></svg>`;
  await add("Image", file("sail.svg", svg));
  await expect(page.getByRole("textbox", { name: "Object name" })).toHaveValue("sail");
  const sail = (await objectIds(page)).at(-1)!;
  const widthOverHeight = () =>
    page.evaluate((id) => {
      const m = window.bumbrel!.drawn(id);
      return Math.hypot(m[0], m[1], m[2]) / Math.hypot(m[4], m[5], m[6]);
    }, sail);
  await expect.poll(widthOverHeight).toBeCloseTo(2, 4);
  expect(await page.title()).not.toContain("taken over");
  expect(fetched).toEqual([]);

  const png = (width: number, height: number) => {
    const bytes = Buffer.alloc(64);
    bytes.write("\x89PNG\r\n\x1a\n\0\0\0\rIHDR", "latin1");
    bytes.writeUInt32BE(width, 16);
    bytes.writeUInt32BE(height, 20);
    return bytes;
  };
  const refuse = async (kind: string, path: string, words: RegExp) => {
    await add(kind, path);
    await expect(said).toContainText(words);
    await page.getByRole("button", { name: "Put this message away" }).click();
  };
  await refuse(
    "Image",
    file("vast.png", png(20_000, 20_000)),
    /vast\.png: the image is 20000 × 20000 pixels; up to 8192/,
  );
  await refuse("Image", file("torn.png", png(20, 20)), /torn\.png: the image is broken/);
  await refuse(
    "Image",
    file("vast.svg", "<svg xmlns='http://www.w3.org/2000/svg'/>"),
    /vast\.svg: .*how large/,
  );
  const twice = Array.from(
    { length: 30 },
    (_, i) => `<g id="a${i + 1}">${`<use href="#a${i}"/>`.repeat(2)}</g>`,
  );
  const bomb = `<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><defs><path id="a0" d="M0 0h9v9"/>${twice.join("")}</defs><use href="#a30"/></svg>`;
  await refuse("Image", file("bomb.svg", bomb), /bomb\.svg: .*too intricate/);
  await refuse("Image", file("notes.png", "only words"), /notes\.png: this is no PNG, JPEG, WebP or SVG/);
  const heavy = join(folder, "heavy.glb");
  const handle = openSync(heavy, "w");
  ftruncateSync(handle, 300 * 1024 * 1024);
  closeSync(handle);
  await refuse("Model", heavy, /heavy\.glb: the file has 300 MB; up to 64 MB are taken/);
  await refuse("Model", file("torn.glb", "glTF and then nothing of it"), /torn\.glb: /);

  await add("Model", file("boat.glb", boatGlb()));
  await expect(page.getByRole("textbox", { name: "Object name" })).toHaveValue("boat");
  await expect(page.getByText("2 parts.")).toBeVisible();
  await page.getByRole("button", { name: "Split into parts" }).click();
  const strip = page.getByRole("list", { name: "On the stage" });
  await strip.getByRole("button", { name: "Mast" }).click();
  const mast = (await objectIds(page)).at(-1)!;
  await expect.poll(async () => (await drawn(page, mast)).length).toBeGreaterThan(16);
  expect(await objectIds(page)).toContain(sail);
  await waitUntilSaved(page);
  expect(complaints.filter((text) => !text.includes("Content Security Policy"))).toEqual([]);
});

/** A model of two triangles, a hull and a mast. */
function boatGlb(): Uint8Array {
  const corners = Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0);
  const json = JSON.stringify({
    asset: { version: "2.0" },
    scene: 0,
    scenes: [{ nodes: [0, 1] }],
    nodes: [
      { name: "Hull", mesh: 0 },
      { name: "Mast", mesh: 0, translation: [0, 1, 0] },
    ],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 3, type: "VEC3", min: [0, 0, 0], max: [1, 1, 0] },
    ],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    buffers: [{ byteLength: 36 }],
  });
  const text = json.padEnd(Math.ceil(json.length / 4) * 4);
  const bytes = Buffer.alloc(12 + 8 + text.length + 8 + 36);
  bytes.write("glTF", 0);
  bytes.writeUInt32LE(2, 4);
  bytes.writeUInt32LE(bytes.length, 8);
  bytes.writeUInt32LE(text.length, 12);
  bytes.write("JSON", 16);
  bytes.write(text, 20);
  bytes.writeUInt32LE(36, 20 + text.length);
  bytes.write("BIN\0", 24 + text.length);
  Buffer.from(corners.buffer).copy(bytes, 28 + text.length);
  return bytes;
}

test(
  "the stage comes back after the graphics card took its memory, and says so in between",
  FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await page.setViewportSize({ width: 1000, height: 640 });
    await openDemo(page, server.address);
    await page.getByRole("link", { name: "Stage" }).click();
    // Until its view is there, the small stage beside the strands is the one that is found.
    await expect(page.getByRole("button", { name: "Put on stage" })).toBeVisible();
    await page.evaluate(() => window.bumbrel!.seek(26.4));
    await page.evaluate(() => window.bumbrel!.whenLoaded());
    await nextFrames(page, 4);
    const before = await look(page);
    await page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>("canvas[aria-label='The stage']")!;
      const lose = canvas.getContext("webgl2")!.getExtension("WEBGL_lose_context")!;
      lose.loseContext();
      setTimeout(() => lose.restoreContext(), 1500);
    });
    const note = page.getByText("The graphics card took its memory back");
    await expect(note).toBeVisible();
    await expect(note).toBeHidden();
    await nextFrames(page, 6);
    const after = await look(page);
    const difference =
      after.light.reduce((sum, one, i) => sum + Math.abs(one - before.light[i]), 0) / after.light.length;
    expect(difference).toBeLessThan(6);
    expect(complaints.filter((text) => !/context lost/i.test(text))).toEqual([]);
  },
);
