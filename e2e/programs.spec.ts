import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import type { Program, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { exposedBy, giveProgram, giveStrandProgram } from "@bumbrel/core/kinds/programs";
import { PROGRAM_EXAMPLES, type ProgramExample } from "@bumbrel/core/program/examples";
import { exposedKey } from "@bumbrel/core/program/exposed";
import { expect, type Page } from "@playwright/test";
import { FULL, isFull } from "./support/full";
import { complaintsOf, openEmptyStage } from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";
import { openStagePage } from "./support/stageFixture";

test.beforeAll(prepareServer);

const CODE = `uniform float height; // 0 to 1, default 0: How far it rises.
void move(inout Point p) { p.place += p.normal * height; }
void paint(inout Surface s) { s.emission = vec3(0.2, 0.9, 0.4) * (0.2 + height); }
`;

/** Puts text where the code is, as somebody pastes it. */
async function writeCode(page: Page, code: string): Promise<void> {
  const editor = page.getByRole("textbox", { name: "Code" });
  // A menu that has just closed may take the focus away once more: keys and text go to the editor itself.
  const [firstLine] = code.split("\n");
  // An editor that is just being made for another program does not take it: it is written once it stands there.
  await expect(async () => {
    await editor.press("Control+a");
    await editor.evaluate((element, text) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData("text/plain", text);
      element.dispatchEvent(new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true }));
    }, code);
    await expect(editor).toContainText(firstLine, { timeout: 2000 });
    // Nothing of what stood there before is left: all of it was chosen.
    await expect(editor.locator(".cm-line")).toHaveCount(code.split("\n").length, { timeout: 2000 });
  }).toPass({ timeout: 20_000 });
}
const state = (page: Page) => page.getByRole("region", { name: "Program" }).getByRole("status");
const capture = (page: Page, timeS: number) =>
  page.evaluate(
    async (at) => [...(await window.bumbrel!.captureFrame(Math.round(at * 60), 60, 120, 75))],
    timeS,
  );
const difference = (a: readonly number[], b: readonly number[]) =>
  a.reduce((sum, byte, i) => sum + Math.abs(byte - b[i]), 0) / a.length;

test("a surface is written, bound to the kick, and stays as it worked last while it is broken", async ({
  page,
}) => {
  const complaints = complaintsOf(page);
  await openEmptyStage(page, server.address);
  await page.getByRole("button", { name: "Put on stage" }).click();
  await page.getByRole("menuitem", { name: "Sphere", exact: true }).click();
  const sheet = page.getByRole("complementary", { name: "Sheet" });
  await sheet.getByRole("button", { name: "Write a program" }).click();
  await page.getByRole("menuitem", { name: "Rising hills" }).click();
  await expect(state(page)).toContainText("Works");
  await writeCode(page, CODE);
  const height = sheet.getByRole("region", { name: "Height", exact: true });
  await expect(height).toBeVisible();
  await expect(sheet.getByRole("region", { name: "Tint", exact: true })).toBeHidden();

  await height.getByRole("button", { name: "Bind Height" }).click();
  await page.getByRole("menuitem", { name: "Kick" }).click();
  const valueAt = (timeS: number) =>
    page.evaluate((at) => {
      window.bumbrel!.seek(at);
      return Object.values(window.bumbrel!.values()).find((one) => "program:height" in one)![
        "program:height"
      ] as number;
    }, timeS);
  await expect.poll(() => valueAt(26.48)).toBeGreaterThan(0.2);
  expect(await valueAt(0.5)).toBe(0);
  const [rest, still, hit] = [await capture(page, 0.5), await capture(page, 0.6), await capture(page, 26.48)];
  expect(difference(rest, still)).toBeLessThan(0.05);
  expect(difference(rest, hit)).toBeGreaterThan(1);

  // Broken: the message stands at its line, in words, and the stage shows what worked.
  await writeCode(page, CODE.replace("* (0.2 + height)", "* (0.2 + hight)"));
  await expect(state(page)).toContainText("Line 3: Nothing here is named “hight”.");
  expect(difference(hit, await capture(page, 26.48))).toBeLessThan(0.05);

  // Renamed: the binding goes along.
  await writeCode(page, CODE.replaceAll("height", "rise"));
  await expect(state(page)).toContainText("Works");
  const rise = sheet.getByRole("region", { name: "Rise", exact: true });
  await expect(rise).toContainText("Kick");
  expect(difference(hit, await capture(page, 26.48))).toBeLessThan(0.05);

  // An endless loop is stopped, and the page goes on.
  await writeCode(
    page,
    CODE.replaceAll("height", "rise").replace(
      "paint(inout Surface s) {",
      "paint(inout Surface s) { for (;;) s.colour += 0.001;",
    ),
  );
  await expect(state(page)).toContainText("Works");
  expect((await capture(page, 26.48)).length).toBe(120 * 75 * 4);

  // Closed and opened again, it is as it was left.
  await page.reload();
  await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
  await expect(sheet.getByRole("combobox", { name: "Program" })).toHaveValue(/.+/);
  await sheet.getByRole("button", { name: "Open" }).click();
  await expect(page.getByRole("textbox", { name: "Code" })).toContainText("for (;;)");
  expect(complaints).toEqual([]);
});

/** A square that fills the image, unlit, in what a program reads; the strand rises by 0.1 a second. */
function readingScene(paint: string, more = ""): Scene {
  const scene = newScene("Square");
  scene.quality = "plain";
  const of = (kind: string) => scene.objects.find((one) => one.kind === kind)!;
  of("environment").settings.scenery = "none";
  of("lens").settings.toneMapping = "neutral";
  Object.assign(of("camera").rest, { position: [0, 0, 5], target: [0, 0, 0], fieldOfView: 45 });
  scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
  const code = `uniform Strand beat;\nuniform Fan bands;\n${more}void paint(inout Surface s) { s.colour = vec3(0.0); s.emission = vec3(${paint}); }`;
  scene.programs.push({ id: "p", name: "P", kind: "surface", code, draft: null });
  const square = {
    ...newObject("square", "plane", "Square"),
    rest: { size: [9, 9, 1] as [number, number, number], colour: "#000000" },
  };
  giveProgram(square, scene.programs[0]);
  square.settings = { ...square.settings, unlit: true, anchor: "centre" };
  square.links = { "program:beat": "s", "program:bands": "s" };
  scene.objects.push(square);
  return scene;
}

test("programs read strands and fans as they are and were, however a time is reached", async ({
  browser,
}) => {
  const { page, close } = await openStagePage(browser);
  const at = async (paint: string, frames: number[], more = "") => {
    const bytes = await page.evaluate(([scene, frames]) => window.drawTracked(scene, frames, 60, 16), [
      readingScene(paint, more),
      frames,
    ] as const);
    return bytes[(8 * 16 + 8) * 4];
  };
  // Neutral tone mapping takes up to 0.04 off: light is compared through it.
  const shown = (light: number) => {
    const seen = light < 0.08 ? light - (light - 6.25 * light * light) : light - 0.04;
    return 255 * (seen <= 0.0031308 ? 12.92 * seen : 1.055 * seen ** (1 / 2.4) - 0.055);
  };
  // At 5 s the strand is at 0.5; two seconds before at 0.3.
  expect(await at("valueOf(beat)", [300])).toBeCloseTo(shown(0.5), -0.5);
  expect(await at("valueBefore(beat, 2.0)", [300])).toBeCloseTo(shown(0.3), -0.5);
  expect(await at("bandOf(bands, 1.0)", [300])).toBeCloseTo(shown(0.25), -0.5);
  expect(await at("amount", [300], "uniform float amount; // 0 to 1, default 0.6\n")).toBeCloseTo(
    shown(0.6),
    -0.5,
  );
  const [sought, played] = [
    await at("valueBefore(beat, 1.0)", [240]),
    await at("valueBefore(beat, 1.0)", [230, 232, 235, 239, 240]),
  ];
  expect(played).toBe(sought);
  expect(await at("valueBefore(beat, 1.0)", [500, 240])).toBe(sought);
  await close();
});

/** A stage with nothing but a worked program at work on it. */
function workedScene(example: ProgramExample): Scene {
  const scene = readingScene("0.0");
  Object.assign(scene.programs[0], { kind: example.kind, code: example.code });
  const square = scene.objects.at(-1)!;
  square.settings.unlit = false;
  square.rest = { size: [2, 2, 1], colour: "#808080" };
  giveProgram(square, undefined);
  delete square.links;
  let user = square;
  if (example.kind === "pass") user = newObject("pass", "picturePass", "Pass");
  if (example.kind === "drawing") {
    user = { ...newObject("drawing", "drawing", "Drawing"), settings: { pixels: 64 } };
    user.rest.fade = 0.8;
  }
  if (user !== square) scene.objects.push(user);
  giveProgram(user, scene.programs[0]);
  user.links = Object.fromEntries(
    exposedBy(scene.programs[0]).flatMap(({ name, type }) =>
      type === "strand" || type === "fan" ? [[exposedKey(name), "s"]] : [],
    ),
  );
  return scene;
}

test(
  "every worked program compiles, is drawn, and is seen to follow what it reads",
  FULL,
  async ({ browser }) => {
    const { page, close } = await openStagePage(browser);
    for (const [name, example] of Object.entries<ProgramExample>(PROGRAM_EXAMPLES)) {
      const { kind, code } = example;
      // Numbers are drawn by what they move: their tests are those of strands.
      if (kind === "number") continue;
      if (kind !== "drawing") {
        expect(
          await page.evaluate(([text, of]) => window.checkProgram(text, of), [code, kind] as const),
          name,
        ).toEqual([]);
      }
      const scene = workedScene(example);
      const [early, late] = await page.evaluate(
        async ([scene]) => [
          await window.drawTracked(scene, [30], 60, 48),
          await window.drawTracked(scene, [540], 60, 48),
        ],
        [scene] as const,
      );
      // Drawings of a sound have none here: they are drawn at rest.
      const isLinked = Object.keys(scene.objects.find(({ links }) => links)?.links ?? {}).length > 0;
      // A picture that is folded stays as grey as it was, and a dial waits for hits.
      if (isLinked && name !== "kaleidoscope" && name !== "clockHands")
        expect(difference(early, late), name).toBeGreaterThan(0.5);
      expect(
        early.some((byte) => byte > 20 && byte < 250),
        name,
      ).toBe(true);
    }
    await close();
  },
);

test("passes follow each other over the finished picture, and see its depth", async ({ browser }) => {
  const { page, close } = await openStagePage(browser);
  const scene = readingScene("0.5");
  const programs = [
    ["red", "void paint(inout Pixel p) { p.colour = vec3(1.0, p.colour.g, 0.0); }"],
    ["turned", "void paint(inout Pixel p) { p.colour = 1.0 - p.colour; }"],
    ["depth", "void paint(inout Pixel p) { p.colour = vec3(p.depth / 10.0); }"],
  ] as const;
  for (const [id, code] of programs) scene.programs.push({ id, name: id, kind: "pass", code, draft: null });
  const middle = async (...ids: string[]) => {
    const passes = ids.map((id, i): StageObject => {
      const pass = newObject(`pass${i}`, "picturePass", id);
      pass.settings.programId = id;
      return pass;
    });
    const whole: Scene = { ...scene, objects: [...scene.objects, ...passes] };
    const bytes = await page.evaluate((one) => window.drawTracked(one, [30], 60, 16), whole);
    return bytes.slice((8 * 16 + 8) * 4, (8 * 16 + 8) * 4 + 3);
  };
  const [, green] = await middle("red");
  expect(await middle("red")).toEqual([255, green, 0]);
  expect(await middle("red", "turned")).toEqual([0, expect.any(Number), 255]);
  expect((await middle("turned", "red"))[0]).toBe(255);
  // The square stands five metres away.
  const half = Math.round(255 * (1.055 * 0.5 ** (1 / 2.4) - 0.055));
  expect(Math.abs((await middle("depth"))[0] - half)).toBeLessThanOrEqual(2);
  await close();
});

test("a drawing has the same memory and fading past however a time is reached", async ({ browser }) => {
  const { page, close } = await openStagePage(browser);
  const scene = workedScene({
    ...PROGRAM_EXAMPLES.clockHands,
    code: `function draw(canvas: Canvas, frame: Frame) {
  const { memory, width, height } = frame;
  // Its position follows from the last half second.
  memory.places = [...(memory.places ?? []), frame.random()].slice(-30);
  canvas.fillStyle = "#ffffff";
  for (const place of memory.places) canvas.fillRect(place * width, ((frame.step * 7) % 60) / 60 * height, 4, 4);
}`,
  });
  const at = (frames: number[]) =>
    page.evaluate(([one, list]) => window.drawTracked(one, list, 60, 64), [scene, frames] as const);
  const played = Array.from({ length: 200 }, (_, i) => 100 + i);
  const [sought, inOrder, backwards] = [await at([299]), await at(played), await at([420, 299])];
  const apart = (a: number[], b: number[]) =>
    a.filter((byte, i) => Math.abs(byte - b[i]) > 1).length / a.length;
  expect(apart(sought, inOrder)).toBeLessThan(0.001);
  expect(apart(sought, backwards)).toBeLessThan(0.001);
  expect(apart(sought, await at([290]))).toBeGreaterThan(0.002);
  await close();
});

/** Code that tries what it must not reach; each try is noted down by what it draws, and by what the page asks for. */
const WAYS_OUT = [
  "fetch('/api/projects')",
  "new XMLHttpRequest().open('GET', '/api/projects')",
  "new WebSocket('ws://127.0.0.1/')",
  "new Image().src = '/api/projects'",
  "importScripts('/api/projects')",
  "import('/api/projects')",
  "document.title = 'reached'",
  "window.parent.postMessage('reached', '*')",
  "globalThis.top.name = 'reached'",
  "localStorage.setItem('reached', '1')",
  "indexedDB.open('reached')",
  "navigator.sendBeacon('/api/projects')",
  "Date.now()",
  "performance.now()",
  "setTimeout(() => {}, 0)",
  "(function () { return this })().fetch('/api/projects')",
  "Function('return fetch')()('/api/projects')",
  "[].constructor.constructor('return document')().title",
  "canvas.canvas.ownerDocument.title",
  "canvas.constructor.constructor('return window')().name",
];

test("a drawing that does not come back from within the language itself is ended, and the page goes on", async ({
  browser,
}) => {
  const { page, close } = await openStagePage(browser);
  const { message, stoodStillMs } = await page.evaluate(
    (scene) => window.drawFailing(scene),
    workedScene({
      ...PROGRAM_EXAMPLES.clockHands,
      code: "function draw() { Array.prototype.lastIndexOf.call({ length: 9007199254740991 }, 1); }",
    }),
  );
  expect(message).toContain("did not answer within 3 s");
  expect(stoodStillMs).toBeLessThan(1000);
  await close();
});

test("programs from elsewhere ask before they run, and reach nothing when they do", async ({ page }) => {
  const scene = newScene("Flotsam");
  scene.quality = "plain";
  const code = `const tries = [${WAYS_OUT.map((way) => `(canvas) => { ${way.startsWith("import(") ? "return " : ""}${way}; }`).join(",\n")}];
function draw(canvas, frame) {
  let reached = 0;
  for (const one of tries) {
    try { if (!(one(canvas) instanceof Promise)) reached++; } catch {}
  }
  canvas.fillStyle = reached === 0 ? "#00ff00" : "#ff0000";
  canvas.fillRect(0, 0, frame.width, frame.height);
}`;
  scene.programs.push({ id: "tries", name: "Tries", kind: "drawing", code, draft: null });
  const over = newObject("over", "drawingOver", "Over");
  over.settings = { programId: "tries", pixels: 64 };
  scene.objects.push(over);
  const made = await page.request.post(`${server.address}/api/projects`, { data: { scene } });
  const { id } = await made.json();
  await page.goto(`${server.address}/projects/${id}/stage`);
  const question = page.getByRole("alertdialog", { name: /brings a program from elsewhere/ });
  await expect(question).toContainText("indexedDB.open");
  const green = async () => {
    const bytes = await page.evaluate(async () => {
      await window.bumbrel!.whenLoaded();
      return [...(await window.bumbrel!.captureFrame(30, 60, 32, 20))];
    });
    return bytes.slice((10 * 32 + 16) * 4, (10 * 32 + 16) * 4 + 3);
  };
  const [, before] = await green();
  expect(before).toBeLessThan(200);
  await question.getByRole("button", { name: "Leave them off" }).click();
  await page.getByRole("button", { name: "Its programs are off" }).click();
  const asked: string[] = [];
  await question.getByRole("button", { name: "Let them run" }).click();
  await expect(question).toBeHidden();
  await expect.poll(async () => (await green())[1]).toBe(255);
  page.on("request", (request) => asked.push(request.url()));
  expect(await green()).toEqual([0, 255, 0]);
  expect(await page.title()).not.toBe("reached");
  expect(await page.evaluate(() => localStorage.getItem("reached"))).toBe(null);
  // The page itself keeps a picture of the stage for the shelf, and may do so just now.
  const isOwn = (url: string) =>
    url === `${server.address}/api/projects/${id}/thumbnail` ||
    url.startsWith(`${server.address}/assets/encodeImage.worker-`);
  expect(asked.filter((url) => !url.startsWith("blob:") && !isOwn(url))).toEqual([]);
  // Once they may run, they may after a reload as well.
  await page.reload();
  await page.waitForFunction(() => window.bumbrel?.isLoaded());
  expect(await green()).toEqual([0, 255, 0]);
  await expect(question).toBeHidden();
});

test(
  "an endless loop in a drawing, a pass or a number is stopped, said so, and can be started again",
  FULL,
  async ({ page }) => {
    await openEmptyStage(page, server.address);
    await page.evaluate(() => window.bumbrel!.seek(0.5));
    const put = async (name: string) => {
      await page.getByRole("button", { name: "Put on stage" }).click();
      await page.getByRole("menuitem", { name, exact: true }).click();
    };
    const sheet = page.getByRole("complementary", { name: "Sheet" });
    await put("Picture pass");
    await sheet.getByRole("button", { name: "Open" }).click();
    await expect(state(page)).toContainText("Works");
    await writeCode(page, "void paint(inout Pixel p) { for (;;) p.colour += 0.001; }");
    await expect(state(page)).toContainText("Works. 1 line,");
    expect((await capture(page, 0.5)).length).toBe(120 * 75 * 4);
    await page.getByRole("button", { name: "Close the program" }).click();

    await put("Drawing");
    await sheet.getByRole("button", { name: "Open" }).click();
    await expect(state(page)).toContainText("Works");
    // A program that never ends when it is checked is told as it is typed.
    await writeCode(page, "function draw(canvas: Canvas) { for (;;) {} }");
    await expect(state(page)).toContainText("It was stopped");
    // A program that ends only for a while is stopped when it does not.
    await writeCode(page, "function draw(canvas: Canvas, frame: Frame) { if (frame.time > 5) for (;;) {} }");
    await expect(state(page)).toContainText("Works");
    await page.evaluate(() => window.bumbrel!.seek(6));
    await expect(state(page)).toContainText("It was stopped: it did not answer");
    await page.evaluate(() => window.bumbrel!.seek(1));
    await page.getByRole("button", { name: "Start again" }).click();
    await expect(state(page)).toContainText("Works");

    await page.getByRole("link", { name: "Strands" }).click();
    await page.getByRole("combobox", { name: "Measure" }).selectOption({ label: "Program" });
    await page.getByRole("button", { name: "Write a program" }).click();
    await page.getByRole("menuitem", { name: "Twelve pitch classes" }).click();
    await expect(state(page)).toContainText("Works");
    await writeCode(page, "function next(moment: Moment) { if (moment.step > 200) for (;;) {} return 0.5; }");
    await expect(state(page)).toContainText("It was stopped: it did not answer");
    await writeCode(page, "function next(moment: Moment) { return 0.5; }");
    await expect(state(page)).toContainText("Works");
  },
);

test(
  "a program that costs the graphics is switched off, and everything else comes back",
  FULL,
  async ({ page }) => {
    await openEmptyStage(page, server.address);
    await page.getByRole("button", { name: "Put on stage" }).click();
    await page.getByRole("menuitem", { name: "Sphere", exact: true }).click();
    const sheet = page.getByRole("complementary", { name: "Sheet" });
    await sheet.getByRole("button", { name: "Write a program" }).click();
    await page.getByRole("menuitem", { name: "Rising hills" }).click();
    await expect(state(page)).toContainText("Works");
    await page.evaluate(() => window.bumbrel!.whenLoaded());
    await writeCode(
      page,
      "void paint(inout Surface s) { s.colour = vec3(0.0); s.emission = vec3(0.0, 0.0, 1.0); }",
    );
    await expect(state(page)).toContainText("Works");
    /** Pixels that are blue, and light. */
    const blue = async () => {
      const bytes = await capture(page, 0.5);
      return bytes.filter((byte, i) => i % 4 === 2 && byte > 150 && byte > bytes[i - 2] + 40).length;
    };
    await expect.poll(blue).toBeGreaterThan(20);
    await page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>("canvas[aria-label='The stage']")!;
      const lose = canvas.getContext("webgl2")!.getExtension("WEBGL_lose_context")!;
      lose.loseContext();
      setTimeout(() => lose.restoreContext(), 500);
    });
    await expect(state(page)).toContainText("switched off: the graphics card gave up");
    await expect.poll(blue).toBe(0);
    await page.getByRole("button", { name: "Start again" }).click();
    await expect.poll(blue).toBeGreaterThan(20);
  },
);

/** Instants of the parity test, in no order. */
const INSTANTS = Array.from({ length: 20 }, (_, i) => ((i * 7) % 20) * 47 + 100);

test(
  "programs of all kinds give the same after seeks, after a reload and on a delivered page",
  FULL,
  async ({ page, browser }) => {
    test.setTimeout(240_000);
    await openEmptyStage(page, server.address);
    const projectId = page.url().split("/projects/")[1].split("/")[0];
    const { revision, scene } = (await (
      await page.request.get(`${server.address}/api/projects/${projectId}`)
    ).json()) as { revision: number; scene: Scene };
    scene.quality = "plain";
    const write = (id: string, kind: Program["kind"], code: string) => {
      const program: Program = { id, name: id, kind, code, draft: null };
      scene.programs.push(program);
      return program;
    };
    const add = (object: Scene["objects"][number]) => {
      scene.objects.push(object);
      return object;
    };
    const fan = scene.strands.find(({ measure }) => measure.kind === "fan")!.id;
    const kick = "kick";
    const counter = newStrand(scene, "counter", "Counter", { kind: "strands", ids: [kick] });
    giveStrandProgram(counter, write("count", "number", PROGRAM_EXAMPLES.barCounter.code));
    counter.shaping.window.on = false;
    const classes = newStrand(scene, "classes", "Classes", {
      kind: "sound",
      id: scene.sounds[0].id,
      tap: "before",
    });
    giveStrandProgram(classes, write("classes", "number", PROGRAM_EXAMPLES.pitchClasses.code));
    classes.shaping.window.on = false;
    scene.strands.push(counter, classes);
    const bars = add({
      ...newObject("bars", "box", "Bars"),
      rest: { copies: 12, position: [0, 0, -1], spacing: 0.4, size: [0.3, 1.5, 0.3], colour: "#ffd27a" },
      settings: { formation: "row" },
    });
    scene.bindings.push(
      newBinding("grow", "classes", bars, "growth"),
      newBinding("lift", "counter", bars, "position"),
    );
    const drawing = add({
      ...newObject("drawing", "drawing", "Drawing"),
      rest: { position: [-1.6, 0.5, 0], fade: 0.85 },
      settings: { pixels: 128 },
    });
    giveProgram(drawing, write("dial", "drawing", PROGRAM_EXAMPLES.clockHands.code));
    drawing.links = { "program:beat": kick };
    const hill = add({
      ...newObject("hill", "drawing", "Hill"),
      rest: { position: [1.6, 0.5, 0] },
      settings: { pixels: 128 },
    });
    giveProgram(hill, write("hill", "drawing", PROGRAM_EXAMPLES.filledSpectrum.code));
    hill.links = { "program:music": scene.sounds[0].id };
    const pass = add(newObject("pass", "picturePass", "Pass"));
    giveProgram(pass, write("fringes", "pass", PROGRAM_EXAMPLES.fringes.code));
    pass.links = { "program:beat": kick };
    const over = add({
      ...newObject("over", "drawingOver", "Over"),
      settings: { pixels: 128, blend: "screen" },
    });
    giveProgram(over, write("boxes", "drawing", PROGRAM_EXAMPLES.cornerBoxes.code));
    over.links = { "program:bands": fan };
    const saved = await page.request.put(`${server.address}/api/projects/${projectId}/scene`, {
      data: { revision, scene },
    });
    expect(saved.status()).toBe(200);

    const look = async (on: Page) => {
      await on.waitForFunction(() => window.bumbrel?.durationS() === 48 && window.bumbrel.isLoaded());
      const seen = [];
      for (const frame of INSTANTS) {
        seen.push(
          await on.evaluate(async (at) => {
            const player = window.bumbrel!;
            await player.whenLoaded();
            player.pause();
            player.seek(at / 60);
            const { growth, position } = player.values().bars as Record<string, number | number[]>;
            return {
              numbers: [growth, position].flat(),
              pixels: [...(await player.captureFrame(at, 60, 120, 75))],
            };
          }, frame),
        );
      }
      return seen;
    };
    await page.goto(`${server.address}/projects/${projectId}/stage`);
    const first = await look(page);
    await page.reload();
    const again = await look(page);
    const html = await (await page.request.get(`${server.address}/api/deliver/${projectId}/page`)).text();
    const file = join(mkdtempSync(join(tmpdir(), "bumbrel-page-")), "page.html");
    writeFileSync(file, html);
    const delivered = await browser.newPage({ viewport: { width: 320, height: 240 } });
    const complaints = complaintsOf(delivered);
    await delivered.goto(pathToFileURL(file).href);
    const onPage = await look(delivered);
    await delivered.close();
    expect(complaints).toEqual([]);
    for (const [i, { numbers, pixels }] of first.entries()) {
      for (const other of [again[i], onPage[i]]) {
        for (const [at, value] of numbers.entries()) {
          expect(Math.abs(value - other.numbers[at])).toBeLessThanOrEqual(1e-6);
        }
        const near = pixels.filter((value, at) => Math.abs(value - other.pixels[at]) <= 1).length;
        expect(near / pixels.length, `instant ${INSTANTS[i]}`).toBeGreaterThanOrEqual(0.999);
      }
    }
    // They are not the same for want of anything to see.
    expect(new Set(first.map(({ numbers }) => numbers.join())).size).toBeGreaterThan(10);
    expect(difference(first[0].pixels, first[1].pixels)).toBeGreaterThan(0.3);
  },
);

/** Programs that are broken and checked. */
const BROKEN = isFull ? 6000 : 300;

test(`whatever is typed, ${BROKEN} programs in GLSL are checked without a crash`, async ({ browser }) => {
  test.setTimeout(180_000);
  const { page, close } = await openStagePage(browser);
  const worked = Object.values<ProgramExample>(PROGRAM_EXAMPLES).filter(
    ({ kind }) => kind === "surface" || kind === "pass",
  );
  const good = await page.evaluate(
    ([list, count]) => window.checkBroken(list as { kind: "surface" | "pass"; code: string }[], count, 7),
    [worked.map(({ kind, code }) => ({ kind, code })), BROKEN] as const,
  );
  // Some breaks are none; most are told, at a line of the text.
  expect(good.told).toBeGreaterThan(BROKEN / 3);
  expect(good.works).toBeGreaterThan(BROKEN / 60);
  expect(good.told + good.works).toBe(BROKEN);
  for (const { kind, code } of worked) {
    expect(
      await page.evaluate(([text, of]) => window.checkProgram(text, of as "surface"), [code, kind] as const),
    ).toEqual([]);
  }
  await close();
});

test("mistakes are told at their line in plain words", async ({ browser }) => {
  const { page, close } = await openStagePage(browser);
  const problems = (code: string) => page.evaluate((text) => window.checkProgram(text), code);
  const paint = (line: string) => `void paint(inout Surface s) {\n  ${line}\n}`;
  for (const [line, words] of [
    ["s.colour = hight;", "Nothing here is named “hight”."],
    ["s.color = vec3(1.0);", "There is no member “color” here."],
    ["s.roughness = vec3(1.0);", "different sizes"],
    ["s.opacity = valueOf(1.0);", "“valueOf” cannot be called with these values."],
    ["s.opacity = 1.0", "was not expected here"],
  ]) {
    const found = await problems(paint(line));
    expect(found.map(({ message }) => message).join(" "), line).toContain(words);
    expect([2, 3]).toContain(found[0].line);
  }
  expect((await problems("float help() { return 1.0; }"))[0].message).toContain("needs a function");
  // Whatever is typed, the checker answers, and still knows a good program afterwards.
  for (const odd of [
    "",
    "}",
    "void paint(inout Surface s) { for (",
    "#define for while",
    "/*",
    "\u0000",
    "void paint(inout Surface s) { paint(s); }",
    "#line 5\n!",
    "uniform float \u00e9;",
  ]) {
    expect((await problems(odd)).length, odd).toBeGreaterThan(0);
  }
  expect(await problems(paint("s.opacity = 1.0;"))).toEqual([]);
  await close();
});
