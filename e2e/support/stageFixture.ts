import { join } from "node:path";
import { type Browser, expect, type Page } from "@playwright/test";
import { build } from "esbuild";
import { scriptsForPage } from "../../tools/build/scriptsCode.mjs";
import { complaintsOf } from "./helpers";

/**
 * Opens a page that draws scenes by itself: without server, workbench or sound.
 *
 * @returns the page, and a function that closes it and fails if it has complained
 */
export async function openStagePage(browser: Browser): Promise<{ page: Page; close(): Promise<void> }> {
  const { outputFiles } = await build({
    entryPoints: [join(import.meta.dirname, "stagePage.ts")],
    bundle: true,
    write: false,
    format: "iife",
    target: "es2022",
    logLevel: "error",
  });
  const page = await browser.newPage();
  const complaints = complaintsOf(page);
  await page.setContent("<!doctype html><title>Stage</title>");
  await page.addScriptTag({ content: await scriptsForPage() });
  await page.addScriptTag({ content: outputFiles[0].text });
  const close = async () => {
    expect(complaints).toEqual([]);
    await page.close();
  };
  return { page, close };
}
