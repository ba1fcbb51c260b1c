import { newStrand } from "@bumbrel/core/document/newStrand";
import type { Scene } from "@bumbrel/core/document/scene";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { exposedBy, giveProgram } from "@bumbrel/core/kinds/programs";
import { PROGRAM_EXAMPLES } from "@bumbrel/core/program/examples";
import { exposedKey } from "@bumbrel/core/program/exposed";
import { expect, type Page, test } from "@playwright/test";
import { complaintsOf, openEmptyStage } from "./helpers";
import { TestServer } from "./server";
import { openStagePage } from "./stageFixture";

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.remove());

const CODE = `uniform float height; // 0 to 1, default 0: How far it rises.
void move(inout Point p) { p.place += p.normal * height; }
void paint(inout Surface s) { s.emission = vec3(0.2, 0.9, 0.4) * (0.2 + height); }
`;

/** Puts text where the code is, as somebody pastes it. */
async function writeCode(page: Page, code: string): Promise<void> {
  await page.getByRole("textbox", { name: "Code" }).click();
  await page.keyboard.press("Control+a");
  await page.evaluate((text) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData("text/plain", text);
    const paste = new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true });
    document.activeElement!.dispatchEvent(paste);
  }, code);
}
const state = (page: Page) => page.getByRole("region", { name: "Program" }).getByRole("status");
const capture = (page: Page, timeS: number) =>
  page.evaluate((at) => [...window.bumbrel!.captureFrame(Math.round(at * 60), 60, 120, 75)], timeS);
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

test("every worked program compiles, is drawn, and is seen to follow what it reads", async ({ browser }) => {
  const { page, close } = await openStagePage(browser);
  for (const [name, { code }] of Object.entries(PROGRAM_EXAMPLES)) {
    expect(await page.evaluate((text) => window.checkProgram(text), code), name).toEqual([]);
    const scene = readingScene("0.0");
    scene.programs[0].code = code;
    const square = scene.objects.at(-1)!;
    square.settings.unlit = false;
    square.rest = { size: [2, 2, 1], colour: "#808080" };
    giveProgram(square, scene.programs[0]);
    square.links = Object.fromEntries(
      exposedBy(scene.programs[0]).flatMap(({ name, type }) =>
        type === "strand" || type === "fan" ? [[exposedKey(name), "s"]] : [],
      ),
    );
    const [early, late] = await page.evaluate(
      async ([scene]) => [
        await window.drawTracked(scene, [30], 60, 48),
        await window.drawTracked(scene, [540], 60, 48),
      ],
      [scene] as const,
    );
    // Those of a sound have none here: they are drawn at rest.
    if (Object.keys(square.links).length > 0) expect(difference(early, late), name).toBeGreaterThan(0.5);
    expect(
      early.some((byte) => byte > 20 && byte < 250),
      name,
    ).toBe(true);
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
