import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { expect } from "@playwright/test";
import { sleepUntil } from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";
import "./support/helpers";

test.beforeAll(prepareServer);

test("a delivered page that may not start its sound asks once, and plays after a press", async ({
  page,
  request,
}) => {
  const { projects } = await (await request.get(`${server.address}/api/projects`)).json();
  const html = await (await request.get(`${server.address}/api/deliver/${projects[0].id}/page`)).body();
  const file = join(mkdtempSync(join(tmpdir(), "bumbrel-page-")), "regatta.html");
  writeFileSync(file, html);
  await page.goto(pathToFileURL(file).href);
  // Asking the page anything counts as a gesture: it is left alone until it has tried to play.
  await sleepUntil(Date.now() + 20_000);
  const prompt = page.getByRole("button", { name: "Start the sound" });
  await expect(prompt).toBeVisible({ timeout: 60_000 });
  expect(await page.evaluate(() => window.bumbrel!.state())).toBe("held");
  await prompt.click();
  await expect(prompt).toBeHidden();
  await expect.poll(() => page.evaluate(() => window.bumbrel!.positionS())).toBeGreaterThan(0.3);
});

test("in the workbench pressing play is gesture enough: no prompt", async ({ page }) => {
  await page.goto(server.address);
  await page.getByRole("link", { name: "Regatta Night" }).first().click();
  await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
  await page.getByRole("button", { name: "Play" }).click();
  await expect.poll(() => page.evaluate(() => window.bumbrel!.positionS())).toBeGreaterThan(0.5);
  await expect(page.getByRole("button", { name: "Start the sound" })).toHaveCount(0);
});
