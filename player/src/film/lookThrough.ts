import { FlashMeter, type FlashReading } from "@bumbrel/core/check/flash";
import type { StageWeight } from "@bumbrel/core/check/weight";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { FILM_SETTINGS, type FilmStretch } from "@bumbrel/core/document/film/film";
import type { FilmOrder } from "@bumbrel/core/document/film/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { gatedLoudness, WeightedEnergy } from "@bumbrel/core/dsp/level/loudness";
import { truePeak } from "@bumbrel/core/dsp/level/truePeak";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import type { Pace } from "./encode";
import { FilmScene, type FilmSource } from "./filmScene";
import { filmSound } from "./filmSound";

/** Pixels of the pictures in which flashes are measured, and how many of them there are a second. */
const FINE = { width: 256, height: 144 };
const FRAMES_A_SECOND = 60;
/**
 * Every frame is drawn this small first. Where a meter that counts half the change on half the area finds two flashes in a
 * second, of the three that are allowed, those seconds are drawn again in full.
 */
const COARSE = { width: 48, height: 28 };
const SUSPICIOUS = { sensitivity: { change: 0.5, area: 0.5 }, flashes: 2 };
/** Samples whose peak is looked for at once: the page must not stand still for it. */
const PEAK_PIECE = SAMPLE_RATE_HZ / 2;
/** Samples around a piece that its peak may depend on. */
const PEAK_OVERLAP = 12;

/** Measurements of a scene over a whole stretch of it. */
export interface LookedThrough {
  stretch: FilmStretch;
  /** One for each frame. */
  flashes: FlashReading[];
  /** The most that any frame had of each. */
  weight: Omit<StageWeight, "scriptMs">;
  /** The highest level between samples too, linear; full scale = 1. */
  truePeak: number;
  /** ITU-R BS.1770-5; −∞ for silence. */
  lufs: number;
  /** Programs that cannot be drawn, by their ids, with what is wrong. */
  programFailures: ReadonlyMap<string, string>;
}

/**
 * Looks through every frame and every sample of a stretch, as a film has them.
 *
 * @param onShare  called with the share that is done
 * @throws whatever the pace throws when it is stopped
 */
export async function lookThrough(
  source: FilmSource,
  stretch: FilmStretch,
  pace: Pace,
  onShare: (share: number) => void,
): Promise<LookedThrough> {
  const step = isEnvironmentSteady(source.scene) ? "glance" : "measure";
  const coarse = await FilmScene.open(source, orderOf(stretch, COARSE), step);
  const weight = { copies: 0, particles: 0, triangles: 0, drawCalls: 0 };
  const programFailures = new Map<string, string>();
  const flashes: FlashReading[] = [];
  const suspects: number[] = [];
  /** The frame that had the most of each. */
  const heaviest: Partial<Record<keyof typeof weight, number>> = {};
  let sound: Awaited<ReturnType<typeof hear>>;
  try {
    sound = await hear(coarse, pace, (share) => onShare(0.1 * share));
    coarse.onProgramFailure((programId, _code, { message }) => programFailures.set(programId, message));
    const meter = new FlashMeter(COARSE.width, COARSE.height);
    const alert = new FlashMeter(COARSE.width, COARSE.height, SUSPICIOUS.sensitivity);
    const { frames } = coarse.plan;
    const weigh = (frame: number) => {
      const own = coarse.weight();
      for (const key of Object.keys(weight) as (keyof typeof weight)[]) {
        if (own[key] <= weight[key]) continue;
        weight[key] = own[key];
        heaviest[key] = frame;
      }
    };
    await drawAll(
      coarse,
      0,
      frames - 1,
      pace,
      (frame, timeS, rgba) => {
        flashes.push(meter.push(timeS, rgba));
        const { general, red } = alert.push(timeS, rgba);
        if (Math.max(general, red) >= SUSPICIOUS.flashes) suspects.push(frame);
        onShare(0.1 + (0.8 * (frame + 1)) / frames);
      },
      weigh,
    );
    coarse.drawAt("weigh");
    for (const frame of new Set(Object.values(heaviest))) {
      await pace.next();
      await coarse.draw(frame);
      const { triangles, drawCalls } = coarse.weight();
      weight.triangles = Math.max(weight.triangles, triangles);
      weight.drawCalls = Math.max(weight.drawCalls, drawCalls);
    }
  } finally {
    coarse.dispose();
  }
  const stretches = secondsBefore(suspects);
  if (stretches.length > 0) {
    const fine = await FilmScene.open(source, orderOf(stretch, FINE), "measure");
    const total = stretches.reduce((sum, [from, to]) => sum + to - from + 1, 0);
    let done = 0;
    try {
      for (const [from, to] of stretches) {
        const meter = new FlashMeter(FINE.width, FINE.height);
        await drawAll(fine, from, to, pace, (frame, timeS, rgba) => {
          const reading = meter.push(timeS, rgba);
          // Flashes from before the stretch are known from the small pictures alone.
          if (frame >= from + FRAMES_A_SECOND || from === 0) flashes[frame] = reading;
          onShare(0.9 + (0.1 * ++done) / total);
        });
      }
    } finally {
      fine.dispose();
    }
  }
  return { stretch, flashes, weight, programFailures, ...sound };
}

/** True if nothing changes the light from all round: then a mirror of it does not flash. */
function isEnvironmentSteady({ objects, bindings, answers }: Scene): boolean {
  const ids = new Set(objects.filter(({ kind }) => kind === "environment").map(({ id }) => id));
  return answers.length === 0 && !bindings.some(({ objectId }) => ids.has(objectId));
}

const orderOf = (stretch: FilmStretch, size: { width: number; height: number }): FilmOrder => ({
  settings: {
    ...defaultsOf(FILM_SETTINGS),
    size: "own" as const,
    ...size,
    framesPerSecond: FRAMES_A_SECOND as 60,
  },
  stretch,
  title: "",
});

/**
 * Draws a run of frames and reads each.
 *
 * @param onRead  called for each frame in order, some frames after it was drawn: RGBA, 0 to 255
 * @param onDrawn  called while a frame is the one that was drawn last
 */
async function drawAll(
  film: FilmScene,
  from: number,
  to: number,
  pace: Pace,
  onRead: (frame: number, timeS: number, rgba: Uint8ClampedArray) => void,
  onDrawn?: (frame: number) => void,
): Promise<void> {
  const reader = film.reader((frame, rgba) => onRead(frame, film.plan.timesOf(frame)[0], rgba));
  await film.begin(from);
  for (let frame = from; frame <= to; frame++) {
    await pace.next();
    await film.draw(frame);
    onDrawn?.(frame);
    await reader.push(frame);
  }
  await reader.finish();
}

/** Runs of frames that hold the two seconds up to each of some frames: first and last, in order. */
export function secondsBefore(frames: readonly number[]): [from: number, to: number][] {
  const runs: [number, number][] = [];
  for (const frame of frames) {
    const from = Math.max(0, frame - 2 * FRAMES_A_SECOND);
    const last = runs.at(-1);
    if (last && from <= last[1] + 1) last[1] = frame;
    else runs.push([from, frame]);
  }
  return runs;
}

/** The highest peak and the loudness of the mix. */
async function hear(film: FilmScene, pace: Pace, onShare: (share: number) => void) {
  const energy = new WeightedEnergy([1, 1]);
  let done = 0;
  let highest = 0;
  for await (const channels of filmSound(film)) {
    const { length } = channels[0];
    energy.push(channels);
    for (let from = 0; from < length; from += PEAK_PIECE) {
      await pace.next();
      for (const channel of channels) {
        const part = channel.subarray(Math.max(0, from - PEAK_OVERLAP), from + PEAK_PIECE);
        highest = Math.max(highest, truePeak(part));
      }
    }
    done += length;
    onShare(done / film.plan.samples);
  }
  return { truePeak: highest, lufs: gatedLoudness(energy.hops, done) };
}
