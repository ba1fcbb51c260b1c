import { mkdirSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { type Browser, expect, type Page } from "@playwright/test";
import { build } from "esbuild";
import { scriptsForPage } from "../../tools/build/scriptsCode.mjs";
import { complaintsOf } from "./helpers";

const [SCRIPTS, STAGE] = ["scripts.js", "stage.js"].map((name) =>
  join(import.meta.dirname, "../../test-results/stage-page", name),
);

/** Bundles the code of such pages, once for all tests. */
export async function bundleStagePage(): Promise<void> {
  mkdirSync(dirname(STAGE), { recursive: true });
  writeFileSync(SCRIPTS, await scriptsForPage());
  await build({
    entryPoints: [join(import.meta.dirname, "stagePage.ts")],
    outfile: STAGE,
    bundle: true,
    format: "iife",
    target: "es2022",
    logLevel: "error",
  });
}

/**
 * Opens a page that draws scenes by itself: without server, workbench or sound.
 *
 * @returns the page, and a function that closes it and fails if it has complained
 */
export async function openStagePage(browser: Browser): Promise<{ page: Page; close(): Promise<void> }> {
  const page = await browser.newPage();
  const complaints = complaintsOf(page);
  await page.setContent("<!doctype html><title>Stage</title>");
  await page.addScriptTag({ path: SCRIPTS });
  await page.addScriptTag({ path: STAGE });
  const close = async () => {
    expect(complaints).toEqual([]);
    await page.close();
  };
  return { page, close };
}
