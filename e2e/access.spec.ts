import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { expect, type Page } from "@playwright/test";
import { FULL } from "./support/full";
import { addSound, nextFrames, openDemo } from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

const axeSource = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** Violations of WCAG 2.2 A and AA that axe finds, a line each. */
async function violations(page: Page): Promise<string[]> {
  await page.evaluate(axeSource);
  return page.evaluate(async () => {
    // biome-ignore lint/suspicious/noExplicitAny: axe-core is put into the page by hand
    const { violations } = await (window as any).axe.run(document, {
      runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"],
    });
    // The marks on the axis and on the trace are small, and each has a field of full size to type in instead
    // (WCAG 2.2, 2.5.8, exception "Equivalent").
    const hasField = (target: string[]) =>
      document.querySelector(target[0])?.matches("[aria-orientation=vertical]");
    return violations.flatMap((one: { id: string; nodes: { target: string[]; failureSummary: string }[] }) =>
      one.nodes
        .filter(({ target }) => one.id !== "target-size" || !hasField(target))
        .map(({ target, failureSummary }) => `${one.id}: ${target.join(" ")} ${failureSummary}`),
    );
  });
}

/** Looks through every kind of sound, opened up, and leaves a row open with everything there is to look at. */
async function openEveryKind(page: Page, row: string): Promise<void> {
  for (const kind of ["Clock", "Input", "Keys", "Tone"]) {
    await addSound(page, kind);
    await nextFrames(page, 3);
    expect({ kind, found: await violations(page) }).toEqual({ kind, found: [] });
  }
  await page.getByRole("button", { name: `Open ${row}` }).click();
  for (const tool of ["spectrogram", "loudness"]) {
    await page.getByRole("button", { name: `Show the ${tool}` }).click();
  }
  await page.getByRole("button", { name: "Give it a place on the stage" }).click();
}

for (const theme of ["dark", "light"] as const) {
  test(`every view can be read and reached (${theme})`, theme === "light" ? FULL : {}, async ({ page }) => {
    await page.goto(server.address);
    if (theme === "light") await page.getByRole("button", { name: "Use the light theme" }).click();
    await nextFrames(page, 4);
    expect(await violations(page)).toEqual([]);
    await openDemo(page, server.address);
    for (const view of ["Strands", "Stage", "Sounds", "Try", "Deliver"]) {
      await page.getByRole("link", { name: view, exact: true }).click();
      if (view === "Sounds") await openEveryKind(page, theme === "dark" ? "Drums" : "Bass");
      if (view === "Stage") await page.getByRole("button", { name: "Lantern 2", exact: true }).click();
      await nextFrames(page, 4);
      expect({ view, found: await violations(page) }).toEqual({ view, found: [] });
      const overhang = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      );
      expect(overhang).toBe(0);
    }
  });
}

test("a strand is made, moved, shaped and bound by keyboard alone", async ({ page }) => {
  await openDemo(page, server.address);
  const press = (key: string) => page.keyboard.press(key);
  await page.getByRole("button", { name: "New strand" }).focus();
  await press("Enter");
  await expect(page.getByRole("menuitem", { name: /^A range/ })).toBeFocused();
  await press("Enter");
  await expect(page.getByRole("textbox", { name: "Strand name" })).toHaveValue("Strand 9");
  const low = page.getByRole("slider", { name: "Low end of Strand 9" });
  await low.focus();
  for (let i = 0; i < 12; i++) await press("ArrowDown");
  await expect.poll(async () => Number(await low.getAttribute("aria-valuenow"))).toBeLessThan(41);
  await page.getByRole("slider", { name: "Release" }).focus();
  await press("ArrowRight");
  await page.getByRole("button", { name: "Fit" }).focus();
  await press("Enter");
  await expect(page.getByRole("textbox", { name: "Floor in dBFS" })).not.toHaveValue("-60.0");
  await page.getByRole("link", { name: "Stage" }).focus();
  await press("Enter");
  await page.getByRole("button", { name: "Leading lantern", exact: true }).focus();
  await press("Enter");
  await page.getByRole("button", { name: "Bind Scale" }).focus();
  await press("Enter");
  await expect(page.getByRole("menuitem", { name: "Snare" })).toBeFocused();
  await press("End");
  await expect(page.getByRole("menuitem", { name: "Strand 9" })).toBeFocused();
  await press("Enter");
  await expect(page.getByRole("region", { name: "Scale" }).getByText("Strand 9")).toBeVisible();
  await page.getByRole("button", { name: "Leading lantern", exact: true }).focus();
  await press("Control+z");
  await expect(page.getByRole("region", { name: "Scale" }).getByText("Strand 9")).toHaveCount(0);
});
