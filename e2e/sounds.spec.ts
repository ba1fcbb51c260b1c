import { closeSync, openSync, readFileSync, writeFileSync, writeSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { makeNoise, makeTone } from "@bumbrel/core/dsp/tone/tone";
import { wavHeader, writeWav } from "@bumbrel/core/format/samples/wav";
import { expect, type Page } from "@playwright/test";
import { type MidiEvent, writeMidi } from "midi-file";
import { FULL, TIMED, TIMED_FULL } from "./support/full";
import {
  addSound,
  complaintsOf,
  dragRange,
  newProject,
  nextFrames,
  openDemo,
  sleepUntil,
  waitUntilSaved,
} from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

const view = (page: Page, name: string) => page.getByRole("link", { name, exact: true }).click();
const file = (name: string, buffer: Uint8Array) => ({
  name,
  mimeType: "application/octet-stream",
  buffer: Buffer.from(buffer),
});
const rowOf = (page: Page, name: string) =>
  page
    .getByRole("list", { name: "Sounds" })
    .getByRole("listitem")
    .filter({
      has: page.getByRole("button", { name: `Remove ${name}`, exact: true }),
    });
/** Loudness over the last 3 s as a strip shows it; −∞ as a number. */
async function lufs(within: ReturnType<Page["locator"]>): Promise<number> {
  const text = (await within.getByText(/LUFS$/).last().textContent()) ?? "";
  return text.startsWith("−∞") ? Number.NEGATIVE_INFINITY : Number.parseFloat(text.replace("−", "-"));
}

test("faders, mutes, solos and buses change what is really heard", TIMED_FULL, async ({ page }) => {
  const complaints = complaintsOf(page);
  await openDemo(page, server.address);
  await view(page, "Sounds");
  await page.evaluate(() => window.bumbrel!.seek(24));
  await page.getByRole("button", { name: "Play", exact: true }).click();
  const music = page.getByRole("region", { name: "Bus Music" });
  const mix = rowOf(page, "Regatta Night");
  await expect.poll(() => lufs(music), { timeout: 8000 }).toBeGreaterThan(-16);
  const fader = mix.getByRole("textbox", { name: "Fader of Regatta Night in dB" });
  await fader.fill("-20");
  await fader.press("Enter");
  await expect.poll(() => lufs(mix), { timeout: 8000 }).toBeLessThan(-28);
  await fader.fill("off");
  await fader.press("Enter");
  await expect(fader).toHaveValue("off");
  await expect(mix.getByText("The fader is all the way down")).toBeVisible();
  await expect.poll(() => lufs(music), { timeout: 8000 }).toBe(Number.NEGATIVE_INFINITY);
  await mix.getByRole("slider", { name: "Fader of Regatta Night" }).dblclick();
  await expect(fader).toHaveValue("0.0");
  // A stem that is only listened to can be heard by itself while working; nothing of it is saved.
  await page.getByRole("button", { name: "Solo Drums" }).click();
  await expect.poll(() => lufs(mix), { timeout: 8000 }).toBeGreaterThan(-20);
  await expect.poll(() => lufs(rowOf(page, "Drums"))).toBeGreaterThan(-40);
  await page.getByRole("button", { name: "Solo Drums" }).click();
  await page.getByRole("button", { name: "Mute Music" }).click();
  await expect.poll(() => lufs(music), { timeout: 8000 }).toBe(Number.NEGATIVE_INFINITY);
  await page.getByRole("button", { name: "Add a bus" }).click();
  await page.getByRole("combobox", { name: "Where Fog bell goes" }).selectOption({ label: "Bus" });
  await page.getByRole("button", { name: "Remove Effects" }).click();
  await expect(page.getByRole("region", { name: "Bus Effects" })).toHaveCount(0);
  for (let step = 0; step < 3; step++) await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.getByRole("region", { name: "Bus Effects" })).toBeVisible();
  await expect(page.getByRole("combobox", { name: "Where Fog bell goes" })).toHaveValue("effects");
  await waitUntilSaved(page);
  expect(complaints).toEqual([]);
});

test("a strand hears a sound or a bus before its fader or after", async ({ page }) => {
  await newProject(page, server.address);
  const tone = writeWav([makeTone("sine", 1000, 96_000, 0.5)], 48_000, "float32");
  await page.getByLabel("Sound files").setInputFiles([file("whistle.wav", tone)]);
  await expect(page.getByRole("textbox", { name: "Sound name" })).toHaveValue("whistle");
  await page.getByRole("combobox", { name: "Where whistle goes" }).selectOption("+");
  const set = async (name: string, db: string) => {
    const field = page.getByRole("textbox", { name });
    await field.fill(db);
    await field.press("Enter");
  };
  await set("Fader of whistle in dB", "-6");
  await set("Fader of Bus in dB", "-3");
  await view(page, "Strands");
  await page.waitForFunction(() => window.bumbrel?.durationS() === 2);
  await dragRange(page, 800, 1250);
  await page.evaluate(() => window.bumbrel!.seek(1));
  const reads = (text: string) => expect(page.getByText(text, { exact: true })).toBeVisible();
  await reads("−6.0 dB");
  const tap = page.getByRole("combobox", { name: "Before or after the fader" });
  await tap.selectOption("after");
  await reads("−12.0 dB");
  await page.getByRole("combobox", { name: "Sound", exact: true }).selectOption({ label: "Bus (bus)" });
  await reads("−15.0 dB");
  await tap.selectOption("before");
  await reads("−12.0 dB");
});

test(
  "grouped sounds stay on the same sample through 50 seeks and loops, as the audio thread hears them",
  TIMED,
  async ({ page }) => {
    // Record both channels of the output.
    await page.addInitScript(() => {
      const heard: [Float32Array[], Float32Array[]] = [[], []];
      Object.assign(window, { heard });
      const connect = AudioNode.prototype.connect as (this: AudioNode, ...to: unknown[]) => AudioNode;
      AudioNode.prototype.connect = function (this: AudioNode, ...to: unknown[]) {
        if (to[0] instanceof AudioDestinationNode && !(this instanceof ScriptProcessorNode)) {
          const context = this.context as AudioContext;
          const tap = context.createScriptProcessor(16_384, 2, 2);
          tap.onaudioprocess = ({ inputBuffer }) => {
            heard[0].push(inputBuffer.getChannelData(0).slice());
            heard[1].push(inputBuffer.getChannelData(1).slice());
          };
          connect.call(this, tap);
          connect.call(tap, context.destination);
        }
        return connect.apply(this, to);
      } as typeof connect;
    });
    await newProject(page, server.address);
    const noise = writeWav([makeNoise("white", 48_000 * 3, 5, 0.5)], 48_000, "float32");
    await page
      .getByLabel("Sound files")
      .setInputFiles([file("port.wav", noise), file("starboard.wav", noise)]);
    for (const [name, pan] of [
      ["port", "Home"],
      ["starboard", "End"],
    ]) {
      await page.getByRole("slider", { name: `Pan of ${name}` }).press(pan);
      await page.getByRole("button", { name: `Open ${name}` }).click();
      const group = page.getByRole("combobox", { name: "Group" });
      await group.selectOption(name === "port" ? "+" : { label: "Group" });
    }
    await page.getByRole("button", { name: "Loop", exact: true }).click();
    await page.getByRole("button", { name: "Play", exact: true }).click();
    const apart = await page.evaluate(async () => {
      const player = window.bumbrel!;
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
      const { heard } = window as unknown as { heard: [Float32Array[], Float32Array[]] };
      // Faders and pans that were set a moment ago have settled after two seconds of sound, however long those take.
      while (heard[0].length < 6) await wait(50);
      for (const channel of heard) channel.length = 0;
      let random = 1;
      const next = () => {
        random = (random * 48_271) % 2_147_483_647;
        return random / 2_147_483_647;
      };
      for (let i = 0; i < 50; i++) {
        // Some of the places are so near the end that the loop comes round.
        player.seek(i % 3 === 0 ? 2.95 : next() * 3);
        await wait(60 + 140 * next());
      }
      player.pause();
      await wait(800);
      let largest = 0;
      let energy = 0;
      heard[0].forEach((left, block) => {
        const right = heard[1][block];
        for (let i = 0; i < left.length; i++) {
          largest = Math.max(largest, Math.abs(left[i] - right[i]));
          energy += left[i] * left[i];
        }
      });
      return { largest, seconds: energy / (0.25 / 3) / 48_000 };
    });
    expect(apart.largest).toBeLessThan(1e-6);
    expect(apart.seconds).toBeGreaterThan(4);
  },
);

async function switchMicrophoneOn(page: Page): Promise<void> {
  await page.getByRole("button", { name: "Switch Input on" }).click();
  await expect(page.getByText(/Made-up microphone, 48 kHz\. Late by/)).toBeVisible();
}

/** Makes a strand of a voice's range of the input. */
async function listenToMicrophone(page: Page): Promise<void> {
  await view(page, "Strands");
  await page.getByRole("combobox", { name: "Showing" }).selectOption({ label: "Input" });
  await dragRange(page, 90, 3000);
}

test(
  "the made-up microphone is seen, listened to by a strand, delivered, recorded and removed",
  TIMED_FULL,
  async ({ page, browser }, info) => {
    const complaints = complaintsOf(page);
    await newProject(page, server.address);
    await addSound(page, "Input");
    await expect(page.getByRole("combobox", { name: "Device" })).toHaveValue("");
    await switchMicrophoneOn(page);
    await expect.poll(() => lufs(rowOf(page, "Input")), { timeout: 10_000 }).toBeGreaterThan(-40);
    await page.getByRole("button", { name: "Record", exact: true }).click();
    const recorder = page.getByRole("button", { name: "Stop recording" }).locator("..");
    await expect(recorder).toContainText(/0:0[2-9]/);
    await page.getByRole("button", { name: "Stop recording" }).click();
    const names = page.getByRole("textbox", { name: "Sound name" });
    await expect(names.nth(1)).toHaveValue("Input recorded");
    await listenToMicrophone(page);
    // The voice comes and goes; the strand follows it while the tape stands still.
    const live = page.getByRole("region", { name: "Strand health" }).getByText(/^(−?\d+\.\d|−∞) dB$/);
    const seen = new Set<string>();
    await expect
      .poll(async () => seen.add((await live.textContent())!).size, { intervals: [150], timeout: 15_000 })
      .toBeGreaterThan(6);
    expect(
      Math.max(...[...seen].map((text) => Number.parseFloat(text.replace("−", "-")) || -200)),
    ).toBeGreaterThan(-35);
    // The same input answers on a delivered page, which holds its capture code.
    await view(page, "Stage");
    await page.getByRole("button", { name: "Put on stage" }).click();
    await page.getByRole("menuitem", { name: "Sphere", exact: true }).click();
    await page.getByRole("button", { name: "Bind Opacity" }).click();
    await page.getByRole("menuitem", { name: "Strand 1" }).click();
    await waitUntilSaved(page);
    const id = new URL(page.url()).pathname.split("/")[2];
    const path = join(info.outputPath(), "live.html");
    writeFileSync(path, await (await page.request.get(`${server.address}/api/deliver/${id}/page`)).body());
    const delivered = await browser.newPage();
    const there = complaintsOf(delivered);
    await delivered.goto(pathToFileURL(path).href);
    const opacities = new Set<number>();
    await expect
      .poll(
        async () =>
          opacities.add(
            await delivered.evaluate(
              () =>
                (Object.values(window.bumbrel?.values() ?? { none: {} }).at(-1) as { opacity: number })
                  .opacity,
            ),
          ).size,
        { intervals: [150], timeout: 20_000 },
      )
      .toBeGreaterThan(6);
    expect(there).toEqual([]);
    await delivered.close();
    await view(page, "Sounds");
    await page.getByRole("button", { name: "Remove Input", exact: true }).click();
    await expect(names).toHaveCount(1);
    await waitUntilSaved(page);
    expect(complaints).toEqual([]);
  },
);

test(
  "without a sound the tape runs on: a microphone alone moves a ribbon, and sparks fly, here and delivered",
  TIMED_FULL,
  async ({ page, browser }, info) => {
    const complaints = complaintsOf(page);
    await newProject(page, server.address);
    await addSound(page, "Input");
    await switchMicrophoneOn(page);
    await listenToMicrophone(page);
    await view(page, "Stage");
    for (const kind of ["Particles", "Ribbon"]) {
      await page.getByRole("button", { name: "Put on stage" }).click();
      await page.getByRole("menuitem", { name: kind, exact: true }).click();
    }
    await page.getByRole("button", { name: "Bind Level", exact: true }).click();
    await page.getByRole("menuitem", { name: "Strand 1" }).click();
    await waitUntilSaved(page);
    await expect(page.getByText("it runs on until it is paused")).toBeVisible();
    await page.getByRole("button", { name: "Play" }).click();
    /** Heights of the ribbon that differ, and numbers of all sparks, once it has run for some seconds. */
    const moved = (at: Page) =>
      at.evaluate(() => {
        const { drawn, positionS, values } = window.bumbrel!;
        const [sparks, ribbon] = Object.keys(values()).slice(-2);
        return { positionS: positionS(), sparks: drawn(sparks).length, ribbon: new Set(drawn(ribbon)).size };
      });
    const expectMoved = async (at: Page) => {
      await expect.poll(async () => (await moved(at)).positionS, { timeout: 30_000 }).toBeGreaterThan(4);
      const { sparks, ribbon } = await moved(at);
      expect(sparks).toBeGreaterThan(100);
      expect(ribbon).toBeGreaterThan(200);
    };
    await expectMoved(page);
    await page.getByRole("button", { name: "Pause" }).click();
    await page.getByRole("button", { name: "To the start" }).click();
    expect((await moved(page)).positionS).toBe(0);
    const id = new URL(page.url()).pathname.split("/")[2];
    const path = join(info.outputPath(), "live.html");
    writeFileSync(path, await (await page.request.get(`${server.address}/api/deliver/${id}/page`)).body());
    const delivered = await browser.newPage();
    const there = complaintsOf(delivered);
    await delivered.goto(pathToFileURL(path).href);
    await delivered.waitForFunction(() => window.bumbrel !== undefined);
    await expect(delivered.getByRole("slider", { name: "Position in seconds" })).toBeHidden();
    await expectMoved(delivered);
    expect(there).toEqual([]);
    await delivered.close();
    expect(complaints).toEqual([]);
  },
);

test(
  "a clock keeps its phase through a change of tempo while it runs, and draws a curve",
  TIMED,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await newProject(page, server.address);
    await addSound(page, "Clock");
    await view(page, "Strands");
    await page.waitForFunction(() => window.bumbrel?.durationS() === 60);
    await page.getByRole("button", { name: "New strand" }).click();
    await page.getByRole("menuitem", { name: /^A range/ }).click();
    await expect(page.getByRole("combobox", { name: "Measure" })).toHaveValue("beatPhase");
    await page.getByRole("combobox", { name: "Measure" }).selectOption({ label: "Bar phase" });
    await view(page, "Stage");
    await page.getByRole("button", { name: "Put on stage" }).click();
    await page.getByRole("menuitem", { name: "Sphere", exact: true }).click();
    await page.getByRole("button", { name: "Bind Opacity" }).click();
    await page.getByRole("menuitem", { name: "Strand 1" }).click();
    const opacityAt = (timeS: number) =>
      page.evaluate((timeS) => {
        window.bumbrel!.seek(timeS);
        return (Object.values(window.bumbrel!.values()).at(-1) as { opacity: number }).opacity;
      }, timeS);
    const [rest, high] = [await opacityAt(0), await opacityAt(1.9)];
    expect(high).not.toBeCloseTo(rest, 1);
    await view(page, "Sounds");
    const now = 21.37;
    const before = await opacityAt(now);
    const tempo = page.getByRole("textbox", { name: "Tempo in beats a minute" });
    await tempo.fill("163.2");
    await tempo.press("Enter");
    await expect(page.getByText("163.2 beats a minute")).toBeVisible();
    // A bar further on, at the new tempo, it is the same again: true only of the new numbers.
    const barS = (4 * 60) / 163.2;
    await expect.poll(async () => Math.abs((await opacityAt(now + barS)) - before)).toBeLessThan(0.005);
    expect(await opacityAt(now)).toBeCloseTo(before, 2);

    const curve = page.getByLabel("Curve of Clock");
    await curve.click({ position: { x: 200, y: 20 } });
    await expect(page.getByRole("slider", { name: /^Point/ })).toHaveCount(5);
    await page.getByRole("slider", { name: "Point 2" }).focus();
    await page.keyboard.press("Delete");
    await expect(page.getByRole("slider", { name: /^Point/ })).toHaveCount(4);
    const tap = page.getByRole("button", { name: "Tap the beat" });
    await tap.hover();
    // By the clock, however long each press takes to be answered.
    const startMs = Date.now();
    for (let i = 0; i < 6; i++) {
      await sleepUntil(startMs + i * 440);
      await page.mouse.down();
      await page.mouse.up();
    }
    await expect.poll(async () => Number(await tempo.inputValue())).toBeGreaterThan(110);
    expect(Number(await tempo.inputValue())).toBeLessThan(151);
    expect(complaints).toEqual([]);
  },
);

test("a MIDI file is a clock and notes; keys on the screen are played live", async ({ page }) => {
  const complaints = complaintsOf(page);
  await newProject(page, server.address);
  const note = (deltaTime: number, type: "noteOn" | "noteOff", noteNumber: number, velocity: number) =>
    ({ deltaTime, type, channel: 0, noteNumber, velocity }) as MidiEvent;
  const bytes = writeMidi({
    header: { format: 0, numTracks: 1, ticksPerBeat: 480 },
    tracks: [
      [
        { deltaTime: 0, meta: true, type: "setTempo", microsecondsPerBeat: 600_000 },
        note(480, "noteOn", 60, 127),
        note(480, "noteOff", 60, 0),
        note(480, "noteOn", 72, 64),
        note(960, "noteOff", 72, 0),
        { deltaTime: 0, meta: true, type: "endOfTrack" },
      ],
    ],
  });
  await page.getByLabel("Sound files").setInputFiles([file("call.mid", Uint8Array.from(bytes))]);
  await expect(page.getByText("2 notes · 0:03")).toBeVisible();
  await view(page, "Strands");
  await page.waitForFunction(() => (window.bumbrel?.durationS() ?? 0) > 3);
  await page.getByRole("button", { name: "New strand" }).click();
  await page.getByRole("menuitem", { name: /^A range/ }).click();
  await page.getByRole("combobox", { name: "Measure" }).selectOption({ label: "Notes held" });
  const reads = async (timeS: number, text: string) => {
    await page.evaluate((at) => window.bumbrel!.seek(at), timeS);
    await expect(page.getByRole("region", { name: "Strand health" })).toContainText(
      new RegExp(`${text} → ${text}`),
    );
  };
  await reads(0.3, "0\\.00");
  await reads(0.9, "1\\.00");
  await reads(1.5, "0\\.00");
  await reads(2.4, "0\\.50");

  await view(page, "Sounds");
  await addSound(page, "Keys");
  await view(page, "Strands");
  await page.getByRole("combobox", { name: "Sound", exact: true }).selectOption({ label: "Keys" });
  await expect(page.getByRole("combobox", { name: "Measure" })).toHaveValue("velocity");
  await view(page, "Sounds");
  const key = page.getByRole("button", { name: "E3", exact: true });
  await key.focus();
  await page.keyboard.down("Enter");
  await expect(page.getByText(/^E3 102$/)).toBeVisible();
  await page.keyboard.up("Enter");
  await waitUntilSaved(page);
  expect(complaints).toEqual([]);
});

test(
  "a sound that runs alone keeps its place over a pause and a visit; a stretch of the tape loops",
  TIMED_FULL,
  async ({ page }) => {
    await openDemo(page, server.address);
    await view(page, "Sounds");
    await page.getByRole("button", { name: "Open Caller" }).click();
    await page.getByRole("combobox", { name: "What it starts with" }).selectOption("alone");
    await page.getByRole("button", { name: "Play Caller" }).click();
    const place = () =>
      rowOf(page, "Caller")
        .locator("figure span")
        .evaluate((element) => new DOMMatrix(getComputedStyle(element).transform).e);
    await expect.poll(place).toBeGreaterThan(20);
    await page.getByRole("button", { name: "Pause Caller" }).click();
    await nextFrames(page, 4);
    const paused = await place();
    expect(paused).toBeGreaterThan(20);
    await waitUntilSaved(page);
    await page.reload();
    await page.waitForFunction(() => window.bumbrel?.durationS() === 48);
    // Rows out of sight are not drawn.
    await page.getByRole("button", { name: "Play Caller" }).scrollIntoViewIfNeeded();
    await expect.poll(place).toBeCloseTo(paused, 0);

    await page.getByRole("button", { name: "Open Regatta Night" }).click();
    const wave = page.getByRole("img", { name: /^Waveform, drag to loop a stretch, of Regatta Night/ });
    const box = (await wave.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.5, box.y + 40);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.51, box.y + 40);
    await page.mouse.move(box.x + box.width * 0.525, box.y + 40);
    await page.mouse.up();
    const position = () => page.evaluate(() => window.bumbrel!.positionS());
    await page.getByRole("button", { name: "Play", exact: true }).click();
    for (let look = 0; look < 12; look++) {
      await nextFrames(page, 5);
      expect(await position()).toBeGreaterThan(23.9);
      expect(await position()).toBeLessThan(25.3);
    }
    await page.getByRole("button", { name: "Loop the whole tape" }).click();
    await expect.poll(position).toBeGreaterThan(25.5);
  },
);

test(
  "looking: zoom to samples, loudness, two spectra, and the number under the pointer",
  FULL,
  async ({ page }) => {
    const complaints = complaintsOf(page);
    await openDemo(page, server.address);
    await view(page, "Sounds");
    await page.getByRole("button", { name: "Open Bass" }).click();
    const opened = page.getByRole("region", { name: "Bass opened" });
    await opened.getByRole("button", { name: "Show the spectrogram" }).click();
    await opened.getByRole("button", { name: "Show the loudness" }).click();
    await page.evaluate(() => window.bumbrel!.seek(17.1));
    const loudness = opened.getByRole("img", { name: "Loudness of Bass" });
    let x = 200;
    await expect(async () => {
      // The number is that of the last move of the pointer; before the curve has come it is −∞.
      await loudness.hover({ position: { x: ++x, y: 50 } });
      await expect(opened.getByText(/momentary −\d+\.\d · short-term −\d+\.\d LUFS/)).toBeVisible({
        timeout: 500,
      });
    }).toPass();
    await opened.getByRole("img", { name: "Spectrogram of Bass" }).hover({ position: { x: 300, y: 100 } });
    await expect(opened.getByText(/s · \d+(\.\d+)? Hz · [A-G]♯?\d · (−|under)/)).toBeVisible();
    await opened.getByRole("combobox", { name: "Compare with" }).selectOption({ label: "Drums" });
    const spectrum = opened.getByRole("img", { name: "Spectra of Bass and Drums now" });
    await spectrum.hover();
    await expect(opened.getByText(/Hz · [A-G]♯?\d · −\d+\.\d dB · Drums −/)).toBeVisible();
    for (let i = 0; i < 16; i++) await opened.getByRole("button", { name: "Zoom in" }).click();
    const wave = opened.getByRole("img", { name: /^Waveform/ });
    await wave.hover({ position: { x: 10, y: 10 } });
    const at = async () => Number.parseFloat((await opened.getByText(/s · sample/).textContent())!);
    const first = await at();
    await wave.hover({ position: { x: 500, y: 10 } });
    expect((await at()) - first).toBeLessThan(0.002);
    await opened.getByRole("button", { name: "Put the spectrum away" }).click();
    await expect(spectrum).toHaveCount(0);
    expect(complaints).toEqual([]);
  },
);

test("a dropped folder brings its sounds in and names what is none; a sound is replaced in place", async ({
  page,
}) => {
  await newProject(page, server.address);
  const good = (hz: number) => [...writeWav([makeTone("sine", hz, 24_000, 0.5)], 48_000)];
  await page.evaluate(
    ([a, b]) => {
      const entry = (name: string, type: string, bytes: number[]) => ({
        isFile: true,
        isDirectory: false,
        file: (done: (file: File) => void) => done(new File([Uint8Array.from(bytes)], name, { type })),
      });
      const folder = (...inside: unknown[]) => ({
        isFile: false,
        isDirectory: true,
        createReader: () => {
          const batches = [inside, []];
          return { readEntries: (done: (some: unknown[]) => void) => done(batches.shift()!) };
        },
      });
      const tree = folder(
        entry("one.wav", "audio/wav", a),
        entry("poster.png", "image/png", [137, 80, 78, 71]),
        folder(entry("two.wav", "audio/wav", b), entry("broken.wav", "audio/wav", a.slice(0, 3000))),
      );
      const drop = new Event("drop", { bubbles: true, cancelable: true });
      Object.assign(drop, { dataTransfer: { items: [{ webkitGetAsEntry: () => tree }], files: [] } });
      document.querySelector("main section")!.dispatchEvent(drop);
    },
    [good(500), good(900)],
  );
  const names = page.getByRole("textbox", { name: "Sound name" });
  await expect(names).toHaveCount(2);
  expect(
    new Set(await names.evaluateAll((all) => all.map((one) => (one as HTMLInputElement).value))),
  ).toEqual(new Set(["one", "two"]));
  await expect(page.getByText("poster.png: not a sound")).toBeVisible();
  await expect(page.getByText(/broken\.wav: the header claims/)).toBeVisible();

  await view(page, "Strands");
  await page.getByRole("combobox", { name: "Showing" }).selectOption({ label: "one" });
  await dragRange(page, 800, 1000);
  await page.evaluate(() => window.bumbrel!.seek(0.25));
  await expect(page.getByText(/^−\d\d+\.\d dB$/)).toBeVisible();
  await view(page, "Sounds");
  await page.getByRole("button", { name: "Open one" }).click();
  const chooser = page.waitForEvent("filechooser");
  await page.getByRole("button", { name: "Replace the file" }).click();
  await (await chooser).setFiles([file("other.wav", Uint8Array.from(good(900)))]);
  await expect(page.getByRole("button", { name: "Undo: replace one" })).toBeVisible();
  await view(page, "Strands");
  await page.evaluate(() => window.bumbrel!.seek(0.25));
  await expect(page.getByText("−6.0 dB", { exact: true })).toBeVisible();
});

/** Resident memory of the server in MB. */
const memoryMb = (pid: number) =>
  Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))![1]) / 1024;

test(
  "half an hour of sound comes in while the page stays responsive, and is played and read at its end",
  FULL,
  async ({ page }, info) => {
    const path = join(info.outputPath(), "evening.wav");
    const seconds = 1800;
    const rate = 48_000;
    writeFileSync(path, wavHeader(1, seconds * rate, rate, "pcm16"));
    const out = openSync(path, "a");
    const minute = writeWav([makeNoise("pink", rate * 60, 3)], rate).subarray(44);
    for (let i = 0; i < seconds / 60; i++) writeSync(out, minute);
    closeSync(out);
    await newProject(page, server.address);
    const before = memoryMb(server.pid);
    await page.getByLabel("Sound files").setInputFiles(path);
    await expect(page.getByText(/Reading evening\.wav … [1-9]\d? %/)).toBeVisible();
    await expect(page.getByRole("img", { name: "Waveform of evening.wav so far" })).toBeVisible();
    // The page answers while the file is read.
    await page.getByRole("button", { name: "Use the light theme" }).click();
    await expect(page.locator("html")).toHaveAttribute("data-theme", "light");
    await expect(page.getByRole("textbox", { name: "Sound name" })).toHaveValue("evening", {
      timeout: 120_000,
    });
    // 173 MB went through it, of which it keeps a small part; what it has let go of is collected when there is time.
    await expect.poll(() => memoryMb(server.pid) - before, { timeout: 60_000 }).toBeLessThan(120);
    await page.waitForFunction(() => window.bumbrel?.durationS() === 1800, undefined, { timeout: 60_000 });
    await expect(page.getByText("30:00 · 48 kHz · mono")).toBeVisible();
    await page.evaluate(() => window.bumbrel!.seek(1790));
    await page.getByRole("button", { name: "Play", exact: true }).click();
    await expect.poll(() => lufs(rowOf(page, "evening")), { timeout: 15_000 }).toBeGreaterThan(-40);
    await view(page, "Strands");
    await page.getByRole("button", { name: "Pause", exact: true }).click();
    await dragRange(page, 200, 4000);
    await page.evaluate(() => window.bumbrel!.seek(1795));
    await expect(page.getByText(/^−[12]\d\.\d dB$/)).toBeVisible({ timeout: 60_000 });
  },
);
