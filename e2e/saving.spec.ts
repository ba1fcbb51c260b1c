import { writeWav } from "@bumbrel/core/format/samples/wav";
import { expect, type Page, test } from "@playwright/test";
import { FULL } from "./support/full";
import { complaintsOf, openDemo, waitUntilSaved } from "./support/helpers";
import { TestServer } from "./support/server";

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.remove());

const SCENES = /\/api\/projects\/[^/]+\/scene$/;
const name = (page: Page) => page.getByRole("textbox", { name: "Project name" });

/** A new, empty project: nothing of it has to be loaded. */
async function openNew(page: Page): Promise<string> {
  await page.goto(server.address);
  await page.getByRole("button", { name: "New project", exact: true }).click();
  await expect(page.getByText("Drop sound files")).toBeVisible();
  return page.url().split("/")[4];
}

async function rename(page: Page, to: string) {
  await name(page).fill(to);
  await name(page).press("Enter");
}

/** Renames the project while no save reaches the server; `page.unroute(SCENES)` lets them through again. */
async function renameUnsaved(page: Page, to: string) {
  await page.route(SCENES, (route) => route.abort());
  await rename(page, to);
  await expect(page.getByText("Not saved: trying again")).toBeVisible();
  await expect.poll(() => draftsIn(page)).toBeGreaterThan(0);
}

/** Drafts that the browser has written so far; a page that goes sooner is asked about by the browser itself. */
const draftsIn = (page: Page) =>
  page.evaluate(async () => {
    const name = "bumbrel-drafts";
    // Opening a database that is not there yet would make an empty one.
    if (!(await indexedDB.databases()).some((one) => one.name === name)) return 0;
    return new Promise<number>((resolve) => {
      const opening = indexedDB.open(name);
      opening.onsuccess = () => {
        if (!opening.result.objectStoreNames.contains("drafts")) return resolve(0);
        const count = opening.result.transaction("drafts").objectStore("drafts").count();
        count.onsuccess = () => {
          opening.result.close();
          resolve(count.result);
        };
      };
    });
  });

const savedName = async (page: Page, id: string) =>
  (await (await page.request.get(`${server.address}/api/projects/${id}`)).json()).scene.name as string;

test("edits that the server never got are asked about on leaving, and offered when the project is opened again", async ({
  page,
}) => {
  const id = await openNew(page);
  await renameUnsaved(page, "Lost at sea");

  await page.getByRole("link", { name: "To the shelf" }).click();
  const dialog = page.getByRole("alertdialog");
  await expect(dialog).toContainText("Not everything is saved");
  await dialog.getByRole("button", { name: "Stay" }).click();
  await expect(name(page)).toHaveValue("Lost at sea");
  await page.getByRole("link", { name: "To the shelf" }).click();
  // It is tried once more on leaving.
  const lastTry = page.waitForEvent("requestfailed", (request) => SCENES.test(request.url()));
  await dialog.getByRole("button", { name: "Leave" }).click();
  await lastTry;
  await page.unroute(SCENES);
  expect(await savedName(page, id)).toBe("New project");

  await page.goto(`${server.address}/projects/${id}/sounds`);
  await expect(dialog).toContainText("Edits from your last visit were not saved");
  await dialog.getByRole("button", { name: "Bring them back" }).click();
  await expect(name(page)).toHaveValue("Lost at sea");
  await waitUntilSaved(page);
  await expect.poll(() => savedName(page, id)).toBe("Lost at sea");
  // Nothing is offered a second time, and the edits are one step that can be undone.
  await page.getByRole("button", { name: "Undo: bring back what was not saved" }).click();
  await waitUntilSaved(page);
  await page.reload();
  await expect(name(page)).toHaveValue("New project");
  await expect(dialog).toBeHidden();
});

test("a page that is reloaded while the server is gone loses nothing, and neither does one whose project went on elsewhere", async ({
  page,
}) => {
  page.on("dialog", (dialog) => dialog.accept());
  const id = await openNew(page);
  await renameUnsaved(page, "Mine");
  const url = `${server.address}/api/projects/${id}`;
  const { revision, scene } = await (await page.request.get(url)).json();
  await page.request.put(`${url}/scene`, { data: { revision, scene: { ...scene, name: "Theirs" } } });
  await page.unroute(SCENES);
  await page.reload();
  const dialog = page.getByRole("alertdialog");
  await expect(dialog).toContainText("saved elsewhere since");
  await dialog.getByRole("button", { name: "Keep as a new project" }).click();
  await expect(name(page)).toHaveValue("Mine (mine)");
  expect(await savedName(page, id)).toBe("Theirs");
});

test("edits of a project that went on elsewhere are brought back into it", FULL, async ({ page }) => {
  page.on("dialog", (dialog) => dialog.accept());
  const id = await openNew(page);
  await renameUnsaved(page, "Mine");
  const url = `${server.address}/api/projects/${id}`;
  await page.context().setOffline(true);
  await page.goto("about:blank");
  const read = async () => (await page.request.get(url)).json();
  const { loop } = (await read()).scene;
  // The browser may still send the save that the page tried while it went; whoever comes second reads once more.
  await expect
    .poll(async () => {
      const { revision, scene } = await read();
      return (
        await page.request.put(`${url}/scene`, { data: { revision, scene: { ...scene, loop: !loop } } })
      ).ok();
    })
    .toBe(true);
  await page.context().setOffline(false);
  await page.unroute(SCENES);
  await page.goto(`${server.address}/projects/${id}/sounds`);
  await page.getByRole("alertdialog").getByRole("button", { name: "Bring them back" }).click();
  await expect(name(page)).toHaveValue("Mine");
  await waitUntilSaved(page);
  expect((await read()).scene).toMatchObject({ name: "Mine", loop: !loop });
});

test("imports go on across views, are asked about on leaving, and are taken up again after a reload", async ({
  page,
}) => {
  page.on("dialog", (dialog) => dialog.accept());
  const id = await openNew(page);
  // A server that takes its time with the bytes.
  let release = () => {};
  const held = new Promise<void>((resolve) => {
    release = resolve;
  });
  await page.route(/\/api\/sounds\/[^/]+\/bytes$/, async (route) => {
    if (route.request().method() === "PUT") await held;
    await route.continue().catch(() => {});
  });
  const tone = Float32Array.from({ length: 48_000 }, (_, i) => Math.sin(i / 20) / 2);
  const buffer = Buffer.from(writeWav([tone], 48_000, "pcm16"));
  await page.getByLabel("Sound files").setInputFiles({ name: "harbour.wav", mimeType: "audio/wav", buffer });
  await expect(page.getByText("Storing harbour.wav")).toBeVisible();
  await page.getByRole("link", { name: "Strands" }).click();
  await expect(page.getByRole("button", { name: "1 file coming in" })).toBeVisible();
  await page.getByRole("link", { name: "To the shelf" }).click();
  const dialog = page.getByRole("alertdialog");
  await expect(dialog).toContainText("still on their way in");
  await dialog.getByRole("button", { name: "Stay" }).click();

  await page.reload();
  await expect(page.getByRole("button", { name: "1 file coming in" })).toBeVisible();
  release();
  await expect(page.getByRole("button", { name: "1 file coming in" })).toBeHidden();
  await waitUntilSaved(page);
  const { scene } = await (await page.request.get(`${server.address}/api/projects/${id}`)).json();
  expect(scene.sounds).toMatchObject([{ kind: "file", name: "harbour" }]);
});

test("a save whose answer is lost on the way is not taken for somebody else's", async ({ page }) => {
  const id = await openNew(page);
  let lost = 0;
  await page.route(SCENES, async (route) => {
    if (lost > 0) return route.continue();
    lost++;
    await route.fetch();
    await route.abort();
  });
  await rename(page, "First");
  await expect.poll(() => lost).toBe(1);
  await rename(page, "Second");
  await waitUntilSaved(page);
  await expect.poll(() => savedName(page, id)).toBe("Second");
  await expect(page.getByRole("alertdialog")).toBeHidden();
});

test("a project that was deleted elsewhere is brought back with the edits", async ({ page }) => {
  const id = await openNew(page);
  await renameUnsaved(page, "Still here");
  expect((await page.request.delete(`${server.address}/api/projects/${id}`)).status()).toBe(204);
  const dialog = page.getByRole("alertdialog");
  await expect(dialog).toContainText("deleted elsewhere");
  await page.unroute(SCENES);
  await dialog.getByRole("button", { name: "Bring it back" }).click();
  await expect(dialog).toBeHidden();
  await waitUntilSaved(page);
  expect(await savedName(page, id)).toBe("Still here");
});

test("a save that can never succeed says why, and undoing what it was puts it right", async ({ page }) => {
  await openDemo(page, server.address);
  let refuses = true;
  await page.route(SCENES, (route) =>
    refuses
      ? route.fulfill({
          status: 422,
          contentType: "application/problem+json",
          body: JSON.stringify({ detail: "/objects: its objects have 286723 copies together." }),
        })
      : route.continue(),
  );
  await rename(page, "Too much");
  await expect(page.getByText("Not saved: refused")).toBeVisible();
  await expect(page.getByText("286723 copies")).toBeVisible();
  refuses = false;
  await page.getByRole("button", { name: "Undo: rename the project", exact: true }).last().click();
  await waitUntilSaved(page);
  await expect(name(page)).toHaveValue("Regatta Night");
});

test("a deleted project is brought back from the list of deleted ones, or removed for good", async ({
  page,
}) => {
  await openNew(page);
  await rename(page, "Thrown away");
  await waitUntilSaved(page);
  await page.getByRole("link", { name: "To the shelf" }).click();
  await page.getByRole("button", { name: "Delete Thrown away" }).click();
  const row = page.getByRole("link", { name: "Thrown away", exact: true });
  await expect(row).toBeHidden();
  const bin = page.getByRole("region", { name: "Deleted projects" });
  await page.getByRole("button", { name: /^Deleted projects/ }).click();
  await expect(bin).toContainText("Thrown away");
  await page.getByRole("button", { name: "Bring back Thrown away" }).click();
  await expect(row).toBeVisible();
  await page.getByRole("button", { name: "Delete Thrown away" }).click();
  await expect(bin).toContainText("Thrown away");
  await page.getByRole("button", { name: "Remove Thrown away for good" }).click();
  await expect(page.getByText("Thrown away", { exact: true })).toBeHidden();
});

test("earlier states are looked at, compared with now, and taken back", FULL, async ({ page }) => {
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  await page.getByRole("link", { name: "Stage" }).click();
  const moon = async () => page.evaluate(() => Object.keys(window.bumbrel!.values()).length);
  const there = await moon();
  await page.getByRole("textbox", { name: "Project name" }).fill("Foggy Night");
  await page.getByRole("textbox", { name: "Project name" }).press("Enter");
  await page.getByRole("button", { name: "Moon", exact: true }).click();
  await page.keyboard.press("Delete");
  await expect.poll(moon).toBe(there - 1);
  await waitUntilSaved(page);

  await page.getByRole("button", { name: "Earlier states" }).click();
  const states = page.getByRole("dialog", { name: "Earlier states" });
  const newest = states.getByRole("listitem").filter({ hasText: "as saved now" });
  await expect(newest).toContainText("Project name");
  await expect(newest).toContainText("Object Moon, removed");
  const oldest = states.getByRole("listitem").filter({ hasText: "the oldest that is kept" });
  // Looking edits nothing.
  await oldest.getByRole("button", { name: "Look at it" }).click();
  await expect.poll(moon).toBe(there);
  await expect(oldest.getByText("Object Moon, removed")).toBeVisible();
  await expect(page.getByRole("textbox", { name: "Project name" })).toHaveValue("Foggy Night");
  await oldest.getByRole("button", { name: "Back to now" }).click();
  await expect.poll(moon).toBe(there - 1);
  // Taking back is an edit like any other.
  await oldest.getByRole("button", { name: "Take it back" }).click();
  await expect.poll(moon).toBe(there);
  await expect(page.getByRole("textbox", { name: "Project name" })).toHaveValue("Regatta Night");
  await waitUntilSaved(page);
  await page.getByRole("button", { name: /^Undo: take back the state of/ }).click();
  await expect(page.getByRole("textbox", { name: "Project name" })).toHaveValue("Foggy Night");
  expect(complaints).toEqual([]);
});
