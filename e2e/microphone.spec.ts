import { spawnSync } from "node:child_process";
import { existsSync, writeFileSync } from "node:fs";
import { makeTone } from "@bumbrel/core/dsp/tone/tone";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { expect, type Page, test } from "@playwright/test";
import { FFPROBE } from "../tools/setup.mjs";
import { FULL } from "./support/full";
import { addSound, complaintsOf, dragRange, newProject } from "./support/helpers";
import { MICROPHONE_DB, MICROPHONE_HZ, MICROPHONE_WAV } from "./support/microphoneFile";
import { TestServer } from "./support/server";

const server = new TestServer();
test.beforeAll(async () => {
  const tone = makeTone("sine", MICROPHONE_HZ, 48_000 * 4, 10 ** (MICROPHONE_DB / 20));
  writeFileSync(MICROPHONE_WAV, writeWav([tone], 48_000, "pcm16"));
  await server.start();
});
test.afterAll(() => server.remove());

/** The level a live strand reads now, in dB. */
async function levelDb(page: Page): Promise<number> {
  const text =
    (await page
      .getByRole("region", { name: "Strand health" })
      .getByText(/^(−?\d+\.\d|−∞) dB$/)
      .textContent()) ?? "";
  return text.startsWith("−∞") ? Number.NEGATIVE_INFINITY : Number.parseFloat(text.replace("−", "-"));
}

/** Opens a project with an input on the first microphone that the browser names. */
async function chooseMicrophone(page: Page): Promise<void> {
  await newProject(page, server.address);
  await addSound(page, "Input");
  const device = page.getByRole("combobox", { name: "Device" });
  await expect(device.locator("option")).not.toHaveCount(1);
  await device.selectOption({ index: 1 });
}

test("a microphone is chosen by name, read at its level, unplugged, plugged in again and recorded", async ({
  page,
  context,
}) => {
  const complaints = complaintsOf(page);
  await context.grantPermissions(["microphone"]);
  // Notes what is opened, so that the device can be pulled out and open streams be counted.
  await page.addInitScript(() => {
    const opened: MediaStreamTrack[] = [];
    const openAtOnce: number[] = [];
    const media = navigator.mediaDevices;
    const get = media.getUserMedia.bind(media);
    media.getUserMedia = async (constraints) => {
      openAtOnce.push(opened.filter(({ readyState }) => readyState === "live").length);
      const stream = await get(constraints);
      opened.push(...stream.getTracks());
      return stream;
    };
    Object.assign(window, {
      openAtOnce,
      pullOut: () => opened.at(-1)!.dispatchEvent(new Event("ended")),
      plugIn: () => media.dispatchEvent(new Event("devicechange")),
    });
  });
  await chooseMicrophone(page);
  await expect(page.getByText(/fake/i).first()).toBeAttached();
  await page.getByRole("button", { name: "Switch Input on" }).click();
  await expect(page.getByText(/Late by/)).toBeVisible();
  await expect(page.getByText(/passing on \d+\.\d ms/)).toBeVisible();
  await expect(page.getByRole("combobox", { name: "Sample rate" }).locator("option")).not.toHaveCount(0);

  await page.getByRole("link", { name: "Strands", exact: true }).click();
  await dragRange(page, MICROPHONE_HZ * 0.8, MICROPHONE_HZ * 1.25);
  await expect.poll(() => levelDb(page)).toBeGreaterThan(MICROPHONE_DB - 1);
  expect(await levelDb(page)).toBeLessThan(MICROPHONE_DB + 1);

  // Three seconds of the room set the marks for a voice; a steady tone as loud as a voice counts as a loud room.
  await page.getByRole("button", { name: "Talking", exact: true }).click();
  await expect(page.getByRole("button", { name: /Be quiet/ })).toBeDisabled();
  await expect(page.getByText(/The room is at −34\.0 dB/)).toBeAttached();
  await expect(page.getByRole("textbox", { name: "Floor in dBFS" })).toHaveValue(/[-−]31/);
  await expect(page.getByRole("button", { name: /^Undo/ })).toHaveAttribute("aria-label", /for talking/);

  // Another buffer is another stream: the old one is closed first.
  await page.getByRole("link", { name: "Sounds", exact: true }).click();
  await page.getByRole("combobox", { name: "Buffer" }).selectOption("1024");
  await expect(page.getByText(/buffer 21\.3 ms/)).toBeVisible();
  const openAtOnce = () => page.evaluate(() => (window as unknown as { openAtOnce: number[] }).openAtOnce);
  expect(Math.max(...(await openAtOnce()))).toBe(0);

  await page.getByRole("button", { name: "Record", exact: true }).click();
  const recorder = page.getByRole("button", { name: "Stop recording" }).locator("..");
  await expect(recorder).toContainText(/0:0[1-9]/);
  await page.evaluate(() => (window as unknown as { pullOut(): void }).pullOut());
  await expect(page.getByRole("alert")).toContainText("was unplugged");
  // The recording until then is kept.
  await expect(page.getByRole("textbox", { name: "Sound name" }).nth(1)).toHaveValue("Input recorded");
  await page.evaluate(() => (window as unknown as { plugIn(): void }).plugIn());
  await expect(page.getByText(/Late by/)).toBeVisible();
  await page.getByRole("button", { name: "Switch Input off" }).click();
  await expect(page.getByText("Switched off.")).toBeVisible();
  expect(complaints).toEqual([]);
});

test("a microphone that is refused says so, and the made-up one still works", async ({ page, context }) => {
  await context.grantPermissions(["microphone"]);
  await chooseMicrophone(page);
  await page.getByRole("button", { name: "Switch Input on" }).click();
  await expect(page.getByText(/Late by/)).toBeVisible();
  await page.getByRole("button", { name: "Switch Input off" }).click();
  await context.clearPermissions();
  await page.addInitScript(() => {
    navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException("", "NotAllowedError"));
  });
  await expect(page.locator("[data-save=saved]")).toBeVisible();
  await page.reload();
  await page.getByRole("button", { name: "Switch Input on" }).click();
  await expect(page.getByRole("alert")).toContainText("not allowed to use a microphone");
  await page.getByRole("combobox", { name: "Device" }).selectOption("");
  await page.getByRole("button", { name: "Switch Input on" }).click();
  await expect(page.getByText(/Made-up microphone, 48 kHz/)).toBeVisible();
});

test(
  "what is heard from a microphone is recorded as a film, by the clock",
  FULL,
  async ({ page, context }) => {
    test.skip(!existsSync(FFPROBE), "ffmpeg, which looks at the film, is not installed");
    await context.grantPermissions(["microphone"]);
    await chooseMicrophone(page);
    await page.getByRole("button", { name: "Switch Input on" }).click();
    await expect(page.getByText(/Late by/)).toBeVisible();
    await page.getByRole("link", { name: "Deliver", exact: true }).click();
    const way = page.getByRole("region", { name: "Film, frames, still" });
    await expect(way).toContainText("follows the clock");
    await way.getByRole("combobox", { name: "Size" }).selectOption("own");
    for (const [name, pixels] of [
      ["Width", "160"],
      ["Height", "90"],
    ]) {
      await way.getByRole("textbox", { name }).fill(pixels);
      await page.keyboard.press("Enter");
    }
    await way.getByRole("button", { name: "Record what happens" }).click();
    await expect(way.getByRole("status")).toHaveText("Recording what happens, by the clock");
    await expect(way).toContainText(/0:0[2-9]\.\d, [1-9]\d* frames/, { timeout: 30_000 });
    await way.getByRole("button", { name: "Stop and keep it" }).click();
    await expect(way.getByRole("status")).toHaveText("The film is whole");
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      way.getByRole("link", { name: /^Save / }).click(),
    ]);
    const { stdout } = spawnSync(
      FFPROBE,
      ["-v", "error", "-show_streams", "-of", "json", await download.path()],
      { encoding: "utf8" },
    );
    const [video, audio] = JSON.parse(stdout).streams;
    expect(video).toMatchObject({ codec_name: "h264", width: 160, height: 90 });
    expect(audio).toMatchObject({ codec_name: "aac" });
    expect(Number(video.nb_frames)).toBeGreaterThan(5);
    for (const { duration } of [video, audio]) expect(Number(duration)).toBeGreaterThan(1.5);
  },
);
