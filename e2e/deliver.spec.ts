import type { Scene } from "@bumbrel/core/document/scene";
import { expect } from "@playwright/test";
import { FULL } from "./support/full";
import { complaintsOf, dragRange, openDemo, waitUntilSaved } from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

test("checks are mended by a press, undone, and shown where they are", FULL, async ({ page }) => {
  const complaints = complaintsOf(page);
  // The demo as it would be with a slow strand, for phones.
  const { projects } = await (await page.request.get(`${server.address}/api/projects`)).json();
  const { id } = projects.find(({ name }: { name: string }) => name === "Regatta Night");
  const address = `${server.address}/api/projects/${id}`;
  const { scene, revision } = (await (await page.request.get(address)).json()) as {
    scene: Scene;
    revision: number;
  };
  scene.budget = "phone";
  scene.strands.find(({ name }) => name === "Whole evening")!.shaping.follow.attackMs = 400;
  expect((await page.request.put(`${address}/scene`, { data: { scene, revision } })).status()).toBe(200);
  await openDemo(page, server.address);
  await page.getByRole("link", { name: "Deliver" }).click();
  const checks = page.getByRole("region", { name: "Checks" });
  // Every strand of the demo is looked at over its whole sound.
  const late = checks.getByText(/The strand "Whole evening": It comes \d+ ms after what it hears/);
  await expect(late).toBeVisible();
  await checks.getByRole("button", { name: /^Do it: The strand "Whole evening"/ }).click();
  await expect(late).toBeHidden();
  await waitUntilSaved(page);
  await page.getByRole("button", { name: "Undo: take advice on Whole evening" }).click();
  await expect(late).toBeVisible();

  await checks.getByRole("button", { name: /^Show it: The strand "Whole evening"/ }).click();
  await expect(page).toHaveURL(/\/strands$/);
  await expect(page.getByRole("textbox", { name: "Strand name" })).toHaveValue("Whole evening");
  await page.getByRole("link", { name: "Deliver" }).click();
  await checks.getByRole("button", { name: /^Show it: Upright/ }).click();
  await expect(page).toHaveURL(/\/stage$/);
  const sheet = page.getByRole("complementary", { name: "Sheet" });
  await expect(sheet.getByRole("textbox", { name: "Object name" })).toHaveValue("Lighthouse");

  // A strand that nothing follows is told of as soon as there is one.
  await page.getByRole("link", { name: "Strands" }).click();
  await dragRange(page, 300, 900);
  await page.getByRole("link", { name: "Deliver" }).click();
  await expect(checks.getByText(/The strand "Strand \d+" moves nothing/)).toBeVisible();
  expect(complaints).toEqual([]);
});
