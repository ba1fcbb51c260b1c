import { type ChildProcess, type SpawnSyncReturns, spawn, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { FILM_SETTINGS, FILM_SIZES } from "@bumbrel/core/document/film/film";
import { readWav } from "@bumbrel/core/format/samples/wav";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { expect, test } from "@playwright/test";
import { unzipSync } from "fflate";
import { startPostgres } from "../server/src/testing/postgres";
import { FFPROBE } from "../tools/setup.mjs";
import { FULL } from "./support/full";
import { TestServer } from "./support/server";
import { storeProject, wallScene } from "./support/storing";

// Later tests look at what the first one has rendered.
test.describe.configure({ mode: "serial" });
test.skip(!existsSync(FFPROBE), "ffmpeg, which looks at the films, is not installed");

/** Length of the drum track: not a whole number of frames at any rate. */
const LENGTH_S = 7.21;
/** When the drum is hit, s. */
const HITS = [0.5, 1.25, 1.9, 2.72, 3.333, 4.1, 4.8, 5.6, 6.45];
const FPS = 30;
/** How often the server is killed during a render; the campaign does so ten times. */
const KILLS = Number(process.env.BUMBREL_KILLS ?? 2);
const FRAMES = Math.round(LENGTH_S * FPS);

const folder = mkdtempSync(join(tmpdir(), "bumbrel-film-"));
const server = new TestServer();
let projectId = "";

test.beforeAll(async ({ request }) => {
  await server.start();
  projectId = await storeProject(request, server.address, drumTrack(), drumScene);
  // The command line opens the data itself.
  await server.stop();
});
test.afterAll(async () => {
  await server.remove();
  rmSync(folder, { recursive: true, force: true });
});

/** Short bursts that begin on their sample and die away. */
function drumTrack(lengthS = LENGTH_S): Float32Array {
  const samples = new Float32Array(Math.round(lengthS * 48_000));
  for (const hitS of HITS) {
    const from = Math.round(hitS * 48_000);
    for (let i = 0; i < 4800 && from + i < samples.length; i++)
      samples[from + i] = 0.8 * Math.exp(-i / 900) * Math.cos((2 * Math.PI * 1000 * i) / 48_000);
  }
  return samples;
}

const drumScene = (storedId: string) =>
  wallScene("Drum and wall", storedId, { wall: { size: [5, 4, 0.2] }, releaseMs: 60, light: 3 });

const SETTLED = { encoding: "utf8", timeout: 120_000 } as const;
const bumbrel = (...args: string[]): SpawnSyncReturns<string> =>
  spawnSync(process.execPath, ["cli/bin/bumbrel.mjs", ...args], SETTLED);

/** Renders a film of the project; gives its path. */
function render(name: string, ...args: string[]): string {
  const out = join(folder, name);
  const done = bumbrel("render", "--project", projectId, "--data", server.dataDir, "--out", out, ...args);
  expect(`${done.status} ${done.stderr}`).toBe("0 ");
  return out;
}
const SMALL = ["--size", "64x48", "--fps", String(FPS)];

interface Stream {
  codec_name: string;
  codec_type: string;
  width?: number;
  height?: number;
  nb_read_packets: string;
  duration_ts?: number;
  time_base: string;
  r_frame_rate: string;
}
function streamsOf(path: string): Stream[] {
  const { stdout } = spawnSync(
    FFPROBE,
    ["-v", "error", "-count_packets", "-show_streams", "-of", "json", path],
    SETTLED,
  );
  return JSON.parse(stdout).streams;
}
const ffmpeg = (...args: string[]): Buffer => {
  const done = spawnSync("ffmpeg", ["-v", "error", ...args], { timeout: 60_000, maxBuffer: 2 ** 29 });
  expect(done.stderr.toString()).toBe("");
  return done.stdout;
};
/** A checksum of each decoded frame. */
const framesOf = (path: string): string =>
  ffmpeg("-i", path, "-map", "0:v", "-f", "framemd5", "-")
    .toString()
    .replaceAll(/^#.*\n/gm, "");
const soundOf = (path: string): Float32Array => {
  const bytes = ffmpeg("-i", path, "-map", "0:a", "-f", "f32le", "-ac", "2", "-");
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
};

test("a film has its frames and its sound to the sample, and drum hits are seen and heard when they are", () => {
  const film = render("one.mp4", ...SMALL);
  const [video, audio] = streamsOf(film);
  expect(video).toMatchObject({ codec_name: "h264", width: 64, height: 48, r_frame_rate: `${FPS}/1` });
  expect(Number(video.nb_read_packets)).toBe(FRAMES);
  expect(audio).toMatchObject({ codec_name: "aac", time_base: "1/48000" });
  expect(Math.abs(audio.duration_ts! - (FRAMES / FPS) * 48_000)).toBeLessThanOrEqual(1);

  const light = [...ffmpeg("-i", film, "-vf", "scale=1:1:flags=area,format=gray", "-f", "rawvideo", "-")];
  expect(light).toHaveLength(FRAMES);
  const rises = light.flatMap((value, i) => (i > 0 && value - light[i - 1] > 20 ? [i] : []));
  for (const hitS of HITS) {
    const seen = rises.filter((frame) => Math.abs(frame - hitS * FPS) <= 1.5);
    expect(seen.length).toBeGreaterThan(0);
  }
  expect(rises.filter((frame) => !HITS.some((hitS) => Math.abs(frame - hitS * FPS) <= 2))).toEqual([]);

  const sound = soundOf(film);
  const left = sound.filter((_value, i) => i % 2 === 0);
  for (const hitS of HITS) {
    // The burst is the strongest where its first period is: found by its shape.
    const lag = bestLag(left, drumTrack(), Math.round(hitS * 48_000), 96, 480);
    expect(Math.abs(lag) / 48).toBeLessThan(1);
  }
  // It was panned to the left alone.
  expect(sound.some((value, i) => i % 2 === 1 && Math.abs(value) > 0.01)).toBe(false);
});

/** Samples by which a stretch of one sound has to be moved to look most like another. */
function bestLag(
  heard: Float32Array,
  meant: Float32Array,
  from: number,
  most: number,
  length: number,
): number {
  let best = { lag: 0, likeness: Number.NEGATIVE_INFINITY };
  for (let lag = -most; lag <= most; lag++) {
    let likeness = 0;
    for (let i = 0; i < length; i++) likeness += (heard[from + i + lag] ?? 0) * meant[from + i];
    if (likeness > best.likeness) best = { lag, likeness };
  }
  return best.lag;
}

test(
  "two renders show the same, and so does a film in four parts joined without encoding again",
  FULL,
  () => {
    const whole = framesOf(join(folder, "one.mp4"));
    const parts = [3, 1, 4, 2].map((part) => render(`part-${part}.mp4`, ...SMALL, "--part", `${part}/4`));
    const joined = join(folder, "joined.mp4");
    expect(bumbrel("join", ...parts.slice(1), "--out", joined).stderr).toContain("Part 3 of 4 is missing");
    expect(bumbrel("join", ...parts, "--out", joined).stdout).toContain(`${FRAMES} frames`);
    expect(framesOf(joined)).toBe(whole);
    expect(soundOf(joined)).toEqual(soundOf(join(folder, "one.mp4")));
  },
);

test(
  "a render that was killed goes on from the last finished piece, and comes out the same",
  FULL,
  async () => {
    const out = join(folder, "killed.mp4");
    const args = ["render", "--project", projectId, "--data", server.dataDir, "--out", out, ...SMALL];
    const child = spawn(process.execPath, ["cli/bin/bumbrel.mjs", ...args], { stdio: "ignore" });
    const pieces = () => (existsSync(`${out}.pieces`) ? readdirSync(`${out}.pieces`) : []);
    await expect.poll(() => pieces().includes("frames-0"), { intervals: [50], timeout: 60_000 }).toBe(true);
    child.kill("SIGKILL");
    await new Promise((resolve) => child.once("exit", resolve));
    const again = bumbrel(...args);
    expect(again.stdout).toContain("Going on:");
    expect(framesOf(out)).toBe(framesOf(join(folder, "one.mp4")));
    expect(existsSync(`${out}.pieces`)).toBe(false);
  },
);

test("films have the rates of broadcasts, and any other", FULL, () => {
  for (const [rate, asSaid, extension, frames] of [
    ["23.976", "24000/1001", "mp4", 53],
    ["29.97", "30000/1001", "webm", 66],
    ["59.94", "60000/1001", "mp4", 132],
    ["12.5", "25/2", "mp4", 28],
  ] as const) {
    const size = ["--size", "64x48", "--fps", rate, "--to", "2.2"];
    const film = render(`rate-${rate}.${extension}`, ...size);
    const [video, audio] = streamsOf(film);
    expect(video.r_frame_rate).toBe(asSaid);
    expect(Number(video.nb_read_packets)).toBe(frames);
    const [above, below] = asSaid.split("/").map(Number);
    const samples = (frames * below * 48_000) / above;
    if (extension === "mp4") {
      expect(Math.abs(audio.duration_ts! - samples)).toBeLessThanOrEqual(1);
      continue;
    }
    expect(Math.abs(soundOf(film).length / 2 - samples)).toBeLessThanOrEqual(1);
    const parts = [1, 2].map((part) => render(`rate-${part}.webm`, ...size, "--part", `${part}/2`));
    const joined = join(folder, "rate-joined.webm");
    expect(bumbrel("join", ...parts, "--out", joined).stdout).toContain("66 frames at 29.97 a second");
    expect(framesOf(joined)).toBe(framesOf(film));
  }
});

test("a render says where it cannot write, what it makes of odd sides, and what ended it", FULL, async () => {
  const args = ["render", "--project", projectId, "--data", server.dataDir, "--fps", "10"];
  const nowhere = bumbrel(...args, "--out", join(folder, "gone", "film.mp4"), "--size", "64x48");
  expect([nowhere.status, nowhere.stderr]).toEqual([2, expect.stringContaining("there is no folder")]);
  const odd = bumbrel(...args, "--out", join(folder, "odd.mp4"), "--size", "63x47", "--to", "0.5");
  expect(odd.stderr).toBe("Sides of films are even: it is made 64 × 48, not 63 × 47.\n");
  expect(streamsOf(join(folder, "odd.mp4"))[0]).toMatchObject({ width: 64, height: 48 });

  const out = join(folder, "ended.mp4");
  const child = spawn(process.execPath, ["cli/bin/bumbrel.mjs", ...args, "--out", out, "--size", "640x480"]);
  const said = { out: "", error: "" };
  child.stdout.on("data", (bytes) => (said.out += bytes));
  child.stderr.on("data", (bytes) => (said.error += bytes));
  await expect.poll(() => said.out, { intervals: [20], timeout: 60_000 }).toContain("frames, ");
  child.kill("SIGINT");
  const code = await new Promise((resolve) => child.once("exit", resolve));
  expect([code, said.error]).toEqual([2, expect.stringContaining("ended by SIGINT with ")]);
  expect(said.error).toContain("the same line goes on from there");
});

test("films come as WebM too, with and without background, with sound to the sample", FULL, () => {
  for (const [format, codec] of [
    ["webm", "vp9"],
    ["webmAv1", "av1"],
    ["webmClear", "vp9"],
  ]) {
    const film = render(
      `${format}.webm`,
      "--format",
      format,
      "--size",
      "64x48",
      "--fps",
      "25",
      "--to",
      "1.5",
    );
    const [video, audio] = streamsOf(film);
    expect(video).toMatchObject({ codec_name: codec, width: 64, height: 48 });
    expect(Number(video.nb_read_packets)).toBe(Math.round(1.5 * 25));
    expect(audio.codec_name).toBe("opus");
    const samples = (Math.round(1.5 * 25) / 25) * 48_000;
    expect(Math.abs(soundOf(film).length / 2 - samples)).toBeLessThanOrEqual(1);
    const left = soundOf(film).filter((_value, i) => i % 2 === 0);
    expect(Math.abs(bestLag(left, drumTrack(), Math.round(HITS[0] * 48_000), 96, 480)) / 48).toBeLessThan(1);
    if (format !== "webmClear") continue;
    // The decoder that knows the other half of the picture.
    const rgba = ffmpeg("-c:v", "libvpx-vp9", "-i", film, "-pix_fmt", "rgba", "-f", "rawvideo", "-");
    const alphas = rgba.filter((_value, i) => i % 4 === 3).toSorted();
    expect(alphas[0]).toBeLessThan(20);
    expect(alphas.at(-1)).toBeGreaterThan(235);
  }
});

test("frames come as images beside a WAV file of their length", FULL, () => {
  for (const [format, size, ending, codec] of [
    ["png", "square", "png", "png"],
    ["pngClear", "upright", "png", "png"],
    ["jpeg", "across", "jpg", "mjpeg"],
    ["webp", "large", "webp", "webp"],
  ] as const) {
    const zip = render(`${format}.zip`, "--format", format, "--size", size, "--fps", "24", "--to", "0.09");
    const files = unzipSync(readFileSync(zip));
    const names = Object.keys(files);
    expect(names).toEqual([
      ...Array.from({ length: 2 }, (_none, i) => `frames/${String(i).padStart(6, "0")}.${ending}`),
      "sound.wav",
    ]);
    expect(readWav(files["sound.wav"]).channels[0]).toHaveLength(4000);
    const image = spawnSync(FFPROBE, ["-v", "error", "-show_streams", "-of", "json", "-"], {
      input: files[names[1]],
      encoding: "utf8",
    });
    expect(JSON.parse(image.stdout).streams[0]).toMatchObject({
      codec_name: codec,
      width: FILM_SIZES[size].width,
      height: FILM_SIZES[size].height,
    });
  }
});

test("the sound of a film is that of live playback", FULL, async ({ page }) => {
  const zip = render("sound.zip", "--format", "png", "--size", "16x16", "--fps", "24");
  const { channels } = readWav(unzipSync(readFileSync(zip))["sound.wav"]);
  await server.start();
  // Whatever goes to the loudspeakers is written down as well.
  await page.addInitScript(() => {
    const heard: Float32Array[][] = [];
    Object.assign(window, { heard });
    const connect = AudioNode.prototype.connect as (target: AudioNode) => AudioNode;
    const taps = new WeakMap<BaseAudioContext, AudioNode>();
    (AudioNode.prototype as { connect: unknown }).connect = function (
      this: AudioNode,
      target: AudioNode,
      ...rest: []
    ) {
      const { context } = this;
      // Meters and other silent things aside: the mix is a gain.
      if (target === context.destination && this instanceof GainNode && !taps.has(context)) {
        const tap = context.createScriptProcessor(16_384, 2, 2);
        tap.onaudioprocess = ({ inputBuffer }) =>
          heard.push([0, 1].map((c) => inputBuffer.getChannelData(c).slice()));
        taps.set(context, tap);
        connect.call(tap, context.destination);
        connect.call(this, tap);
      }
      return connect.call(this, target, ...rest);
    };
  });
  await page.goto(`${server.address}/projects/${projectId}/deliver`);
  await expect(page.getByText("frames, 0:07.2")).toBeVisible();
  await page.evaluate(() => window.bumbrel!.play());
  await expect.poll(() => page.evaluate(() => window.bumbrel!.state()), { timeout: 20_000 }).toBe("playing");
  await expect
    .poll(() => page.evaluate(() => window.bumbrel!.positionS()), { timeout: 30_000 })
    .toBeGreaterThan(7);
  await page.waitForFunction(() => window.bumbrel!.state() === "paused");
  const left = await page.evaluate(() => {
    const { heard } = window as unknown as { heard: Float32Array[][] };
    return heard.flatMap(([channel]) => [...channel]);
  });
  await server.stop();
  const live = Float32Array.from(left);
  // Whoever writes down may miss a block on a busy machine: each block is looked for where it is due, and after that.
  const [mixed] = channels;
  const loud = (samples: Float32Array) => samples.findIndex((value) => Math.abs(value) > 0.3);
  let ahead = loud(mixed) - loud(live);
  const apart = (at: number, meant: number) => {
    let worst = 0;
    for (let i = 0; i < BLOCK; i++)
      worst = Math.max(worst, Math.abs((live[at + i] ?? 0) - (mixed[meant + i] ?? 0)));
    return worst;
  };
  let blocks = 0;
  let missed = 0;
  for (let at = 0; at + ahead + BLOCK <= mixed.length; at += BLOCK) {
    if (at + ahead < 0) continue;
    const found = Array.from({ length: 40 }, (_none, i) => ahead + i * BLOCK).find(
      (one) => apart(at, at + one) < 10 ** (-90 / 20),
    );
    blocks++;
    if (found === undefined) missed++;
    else ahead = found;
  }
  expect(blocks).toBeGreaterThan((LENGTH_S * 48_000 * 0.9) / BLOCK);
  expect(missed).toBeLessThan(blocks * 0.02);
});
/** Samples that go to the loudspeakers at once. */
const BLOCK = 128;

test(
  "Deliver makes the same film, which can be paused, and goes on after its page was closed",
  FULL,
  async ({ page, context }) => {
    await server.start();
    const url = `${server.address}/projects/${projectId}/deliver`;
    await page.goto(url);
    const way = page.getByRole("region", { name: "Film, frames, still" });
    await way.getByRole("combobox", { name: "Size" }).selectOption("own");
    for (const [name, pixels] of [
      ["Width", "64"],
      ["Height", "48"],
    ]) {
      await way.getByRole("textbox", { name }).fill(pixels);
      await page.keyboard.press("Enter");
    }
    await way.getByRole("combobox", { name: "Frames a second" }).selectOption(String(FPS));
    await expect(way).toContainText(`${FRAMES} frames`);

    const [still] = await Promise.all([
      page.waitForEvent("download"),
      way.getByRole("button", { name: "Save a still of this instant" }).click(),
    ]);
    const seen = spawnSync(
      FFPROBE,
      ["-v", "error", "-show_streams", "-of", "json", await still.path()],
      SETTLED,
    );
    expect(JSON.parse(seen.stdout).streams[0]).toMatchObject({ codec_name: "png", width: 64, height: 48 });

    await way.getByRole("button", { name: "Make the film" }).click();
    const frames = async () => Number(/(\d+) of \d+ frames/.exec((await way.textContent())!)?.[1] ?? 0);
    await expect.poll(frames, { intervals: [20] }).toBeGreaterThan(1);
    await way.getByRole("button", { name: "Pause the film" }).click();
    await expect(way.getByRole("status")).toHaveText("Paused");
    await way.getByRole("button", { name: "Go on with the film" }).click();
    await expect.poll(frames, { intervals: [20] }).toBeGreaterThan(2 * FPS + 2);
    await page.close();

    const again = await context.newPage();
    await again.goto(url);
    const begun = again.getByRole("region", { name: "Film, frames, still" });
    await expect(begun).toContainText(/[2-4] of 5 pieces are done/);
    await begun.getByRole("button", { name: "Go on with it" }).click();
    await expect(begun.getByRole("status")).toHaveText("The film is whole", { timeout: 60_000 });
    await expect(begun).toContainText("They are equally long.");
    const [download] = await Promise.all([
      again.waitForEvent("download"),
      begun.getByRole("link", { name: "Save Drum-and-wall.mp4" }).click(),
    ]);
    const film = await download.path();
    expect(Number(streamsOf(film)[0].nb_read_packets)).toBe(FRAMES);
    // The browsers of this test and of the command line are started differently: their pictures differ in the last bits.
    const likeness = ["-lavfi", "psnr=stats_file=-", "-f", "null", "-"];
    const compared = ffmpeg("-i", film, "-i", join(folder, "one.mp4"), ...likeness).toString();
    const psnr = [...compared.matchAll(/psnr_avg:(\S+)/g)].map(([, db]) => (db === "inf" ? 99 : Number(db)));
    expect(psnr).toHaveLength(FRAMES);
    expect(Math.min(...psnr)).toBeGreaterThan(38);
    expect(soundOf(film)).toEqual(soundOf(join(folder, "one.mp4")));
    await begun.getByRole("button", { name: "Another film" }).click();

    // Cancelled, nothing of it stays.
    await begun.getByRole("button", { name: "Make the film" }).click();
    await begun.getByRole("button", { name: "Cancel the film" }).click();
    await expect(begun.getByRole("button", { name: "Make the film" })).toBeVisible();
    await expect(begun).not.toContainText("pieces are done");
  },
);

test(
  "workers make films that Deliver orders; killed again and again, the film comes out whole, and nothing twice",
  FULL,
  async ({ page }) => {
    await server.stop();
    await server.start();
    const url = () => `${server.address}/projects/${projectId}/deliver`;
    await page.goto(url());
    const films = page.getByRole("list", { name: "Films that workers make" });
    await expect(page.getByText("frames, 0:07.2")).toBeVisible();
    const settings = {
      ...defaultsOf(FILM_SETTINGS),
      ...{ size: "own", width: 64, height: 48, framesPerSecond: FPS },
    };
    const stretch = { fromS: 0, toS: LENGTH_S };
    const ordered = await page.request.post(`${server.address}/api/projects/${projectId}/films`, {
      data: { settings, stretch },
    });
    expect(ordered.status()).toBe(201);
    const { id } = await ordered.json();
    const pieces = async () => {
      const answer = await page.request.get(`${server.address}/api/projects/${projectId}/films`);
      return (await answer.json()).films.find((film: { id: string }) => film.id === id).pieces as number;
    };
    let done = 0;
    for (let kill = 0; kill < KILLS; kill++) {
      const before = done;
      // Killed while it renders: at least one piece further than the last time, as long as there are some.
      await expect
        .poll(async () => (done = await pieces()), { intervals: [50], timeout: 60_000 })
        .toBeGreaterThan(Math.min(before, 3));
      await server.kill();
      await server.start();
    }
    await expect.poll(pieces, { timeout: 60_000 }).toBe(5);
    await page.goto(url());
    await expect(films).toContainText("64 × 48, 0:07.2 · whole");
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      films.getByRole("link", { name: "Save this film" }).click(),
    ]);
    expect(framesOf(await download.path())).toBe(framesOf(join(folder, "one.mp4")));
    await films.getByRole("button", { name: "Remove this film" }).click();
    await expect(films).toBeHidden();

    // One that is ordered here and cancelled.
    await page.getByRole("button", { name: "Let workers make it" }).click();
    await films.getByRole("button", { name: "Cancel this film" }).click();
    await expect(films).toContainText("cancelled");
  },
);

test(
  "two workers on one PostgreSQL server share a film; one is killed, and the other makes the rest",
  FULL,
  async ({ request }) => {
    const postgres = await startPostgres();
    const env = { DATABASE_URL: postgres.url };
    const shared = new TestServer(mkdtempSync(join(tmpdir(), "bumbrel-e2e-")), ["--no-worker"], env);
    const workers: ChildProcess[] = [];
    try {
      await shared.start();
      const id = await storeProject(request, shared.address, drumTrack(24), drumScene);
      const url = `${shared.address}/api/projects/${id}/films`;
      const settings = {
        ...defaultsOf(FILM_SETTINGS),
        ...{ size: "own", width: 64, height: 48, framesPerSecond: 24 },
      };
      const ordered = await request.post(url, { data: { settings, stretch: { fromS: 0, toS: 24 } } });
      const { id: filmId } = await ordered.json();
      for (let i = 0; i < 2; i++) {
        workers.push(
          spawn(process.execPath, ["cli/bin/bumbrel.mjs", "worker"], {
            stdio: "ignore",
            env: { ...process.env, ...env },
          }),
        );
      }
      const film = async () => (await (await request.get(url)).json()).films[0];
      await expect
        .poll(async () => (await film()).workers.length, { intervals: [50], timeout: 60_000 })
        .toBe(2);
      workers[0].kill("SIGKILL");
      await expect.poll(async () => (await film()).state, { timeout: 90_000 }).toBe("whole");
      const path = join(folder, "shared.mp4");
      writeFileSync(path, await (await request.get(`${shared.address}/api/films/${filmId}/file`)).body());
      expect(Number(streamsOf(path)[0].nb_read_packets)).toBe(24 * 24);
    } finally {
      for (const worker of workers) worker.kill("SIGKILL");
      await shared.remove();
      await postgres.remove();
    }
  },
);
