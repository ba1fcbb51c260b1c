import { defineConfig } from "@playwright/test";
import { isFull } from "./e2e/support/full";
import { MICROPHONE_WAV } from "./e2e/support/microphoneFile";
import { AUTOPLAY_FLAG, CHROMIUM_FLAGS, HELD_BACK_FLAG } from "./tools/browse.mjs";
import { CHROMIUM } from "./tools/setup.mjs";

/**
 * Puts the page together without the graphics card that is imitated for the stage: a third faster, but the page stands
 * still while a frame of the stage is fetched.
 */
const QUICK = "--disable-gpu-compositing";
/** Tests that look at the page many times a second while the stage plays. */
const WATCHING = /whole-way\.spec/;
/** Tests of what visitors do: all of them act in time with the scene. */
const VISITS = /visits\.spec/;
const TIMED = /@timed/;
/** Tests that the run leaves out. */
const LEFT_OUT = isFull ? [] : [/@full/];

const BESIDE_OTHERS = {
  launchOptions: { executablePath: CHROMIUM, args: [...CHROMIUM_FLAGS, QUICK, AUTOPLAY_FLAG] },
};

export default defineConfig({
  testDir: "e2e",
  // Beside the reports of this and other runners, which it would remove.
  outputDir: "test-results/browser",
  grepInvert: LEFT_OUT,
  globalSetup: "./e2e/support/firstStart.ts",
  timeout: 180_000,
  expect: { timeout: 20_000 },
  // The stage is drawn in software: only what does not depend on time is carried out two at a time, see tools/test.mjs.
  workers: 1,
  retries: 0,
  reporter: [["list"], ["json", { outputFile: process.env.BUMBREL_REPORT ?? "test-results/e2e.json" }]],
  use: {
    viewport: { width: 1280, height: 800 },
    // A quarter of the pixels: the stage is drawn in software, and layout does not depend on it.
    deviceScaleFactor: 0.5,
    headless: true,
    acceptDownloads: true,
    trace: "off",
    launchOptions: { executablePath: CHROMIUM, args: CHROMIUM_FLAGS },
  },
  projects: [
    {
      name: "workbench",
      testIgnore: [/autoplay\.spec/, /microphone\.spec/, WATCHING, VISITS],
      grepInvert: [...LEFT_OUT, TIMED],
      use: BESIDE_OTHERS,
    },
    {
      name: "timed",
      testIgnore: [/autoplay\.spec/, /microphone\.spec/, WATCHING, VISITS],
      grep: TIMED,
      use: BESIDE_OTHERS,
    },
    { name: "visits", testMatch: VISITS, use: BESIDE_OTHERS },
    {
      name: "watching",
      testMatch: WATCHING,
      use: { launchOptions: { executablePath: CHROMIUM, args: [...CHROMIUM_FLAGS, AUTOPLAY_FLAG] } },
    },
    {
      name: "held-back",
      testMatch: /autoplay\.spec/,
      use: { launchOptions: { executablePath: CHROMIUM, args: [...CHROMIUM_FLAGS, HELD_BACK_FLAG] } },
    },
    {
      name: "with-microphone",
      testMatch: /microphone\.spec/,
      use: {
        launchOptions: {
          executablePath: CHROMIUM,
          args: [
            ...CHROMIUM_FLAGS,
            AUTOPLAY_FLAG,
            "--use-fake-device-for-media-stream",
            `--use-file-for-fake-audio-capture=${MICROPHONE_WAV}`,
          ],
        },
      },
    },
  ],
});
