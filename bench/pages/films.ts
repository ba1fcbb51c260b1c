/**
 * How quickly films are rendered beside ffmpeg encoding the same frames alone, and whether the memory of a long film
 * grows. Needs the built player, Chromium, and ffmpeg for the comparison.
 */
import { execFileSync, spawnSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { FILM_SETTINGS } from "@bumbrel/core/document/film/film";
import { assembleFilm, type FilmOrder } from "@bumbrel/core/document/film/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { newSoundBasics, SOUND_KINDS } from "@bumbrel/core/sound/kinds";
import { pageParts } from "@bumbrel/server/deliver/pageParts";
import { renderPieces } from "@bumbrel/server/film/renderPieces";

const line = (what: string, figure: string) => console.log(`${what.padEnd(46)} ${figure}`);

/** A ring of balls that swell with a tone. */
function ringScene(seconds: number): Scene {
  const scene = newProject("Ring");
  scene.quality = "plain";
  scene.sounds.push({
    ...newSoundBasics("tone", "Tone"),
    kind: "tone",
    ...defaultsOf(SOUND_KINDS.tone.settings),
    hz: 110,
    seconds,
    on: true,
  } as unknown as Scene["sounds"][number]);
  const strand = newStrand(scene, "level", "Level", { kind: "sound", id: "tone", tap: "before" });
  scene.strands.push(strand);
  const ball = newObject("ball", "sphere", "Ball");
  ball.rest = { position: [0, 1, 0] };
  scene.objects.push(ball);
  scene.bindings.push(newBinding("swell", "level", ball, "scale"));
  return scene;
}

/** Megabytes that this process and all it has started hold. */
function heldMb(): number {
  const rows = execFileSync("ps", ["-e", "-o", "pid=,ppid=,rss="], { encoding: "utf8" })
    .trim()
    .split("\n")
    .map((row) => row.trim().split(/\s+/).map(Number));
  const own = new Set([process.pid]);
  for (let grown = true; grown; ) {
    grown = false;
    for (const [pid, parent] of rows)
      if (own.has(parent) && !own.has(pid)) {
        own.add(pid);
        grown = true;
      }
  }
  return rows.reduce((sum, [pid, , kb]) => sum + (own.has(pid) ? kb : 0), 0) / 1024;
}

async function render(
  seconds: number,
  width: number,
  height: number,
  framesPerSecond: 24 | 30,
  onPiece: () => void,
) {
  const settings = {
    ...defaultsOf(FILM_SETTINGS),
    size: "own" as const,
    width,
    height,
    framesPerSecond: framesPerSecond as 30,
  };
  const pieces = new Map<string, Uint8Array>();
  let order: FilmOrder | undefined;
  const began = performance.now();
  await renderPieces(
    ringScene(seconds),
    {} as never,
    await pageParts(process.cwd()),
    { request: { settings, title: "Ring" }, made: [] },
    {
      onOrder: (known) => {
        order = known;
      },
      put: async (name, bytes) => {
        pieces.set(name, bytes);
        onPiece();
      },
    },
  );
  return { order: order!, pieces, tookS: (performance.now() - began) / 1000 };
}

const folder = mkdtempSync(join(tmpdir(), "bumbrel-bench-"));
try {
  const { order, pieces, tookS } = await render(12, 640, 360, 30, () => {});
  const film = join(folder, "film.mp4");
  let end = 0;
  const whole = Buffer.alloc([...pieces.values()].reduce((sum, { length }) => sum + length, 1e6));
  await assembleFilm(
    order,
    async (name) => pieces.get(name)!,
    async (position, bytes) => {
      whole.set(bytes, position);
      end = Math.max(end, position + bytes.length);
    },
  );
  writeFileSync(film, whole.subarray(0, end));
  const frames = 12 * 30;
  const raw = join(folder, "frames.yuv");
  const ffmpeg = (...args: string[]) => spawnSync("ffmpeg", ["-v", "error", "-y", ...args]);
  if (ffmpeg("-i", film, "-pix_fmt", "yuv420p", "-f", "rawvideo", raw).status === 0) {
    const began = performance.now();
    const again = join(folder, "again.mp4");
    ffmpeg(
      "-f",
      "rawvideo",
      "-s",
      "640x360",
      "-r",
      "30",
      "-pix_fmt",
      "yuv420p",
      "-i",
      raw,
      "-c:v",
      "libx264",
      again,
    );
    const aloneS = (performance.now() - began) / 1000;
    line(
      "film of 12 s, 640 × 360, 30 frames a second",
      `${(frames / tookS).toFixed(1)} frames a second, with start; ffmpeg encoding them alone ${(frames / aloneS).toFixed(0)}, ${(tookS / aloneS).toFixed(1)} times as quick`,
    );
  } else
    line("film of 12 s, 640 × 360, 30 frames a second", `${(frames / tookS).toFixed(1)} frames a second`);

  const held: number[] = [];
  const long = await render(600, 64, 36, 24, () => held.push(heldMb()));
  long.pieces.clear();
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const tenth = Math.floor(held.length / 10);
  line(
    "memory of a film of ten minutes, all processes",
    `${mean(held.slice(tenth, 2 * tenth)).toFixed(0)} MB after a tenth of it, ${mean(held.slice(-tenth)).toFixed(0)} MB at its end; ${(14_400 / long.tookS).toFixed(0)} frames a second`,
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
}
