import { FlashMeter, type FlashReading } from "@bumbrel/core/check/flash";
import type { StageWeight } from "@bumbrel/core/check/weight";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { FILM_SETTINGS, type FilmStretch } from "@bumbrel/core/document/film";
import { gatedLoudness, WeightedEnergy } from "@bumbrel/core/dsp/loudness";
import { truePeak } from "@bumbrel/core/dsp/truePeak";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import type { Pace } from "./encode";
import { FilmScene, type FilmSource } from "./filmScene";
import { filmSound } from "./filmSound";

/** Pixels of the pictures in which flashes are measured, and how many of them there are a second. */
const SIZE = { width: 256, height: 144 };
const FRAMES_A_SECOND = 60;
/** Samples whose peak is looked for at once: the page must not stand still for it. */
const PEAK_PIECE = SAMPLE_RATE_HZ / 2;
/** Samples around a piece that its peak may depend on. */
const PEAK_OVERLAP = 12;

/** What a scene is like over a whole stretch of it. */
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
  const settings = {
    ...defaultsOf(FILM_SETTINGS),
    size: "own" as const,
    ...SIZE,
    framesPerSecond: FRAMES_A_SECOND as 60,
  };
  const film = await FilmScene.open(source, { settings, stretch, title: "" });
  try {
    const sound = await hear(film, pace, (share) => onShare(0.1 * share));
    const programFailures = new Map<string, string>();
    film.onProgramFailure((programId, _code, { message }) => programFailures.set(programId, message));
    const meter = new FlashMeter(SIZE.width, SIZE.height);
    const seen = new OffscreenCanvas(SIZE.width, SIZE.height).getContext("2d", { willReadFrequently: true })!;
    const flashes: FlashReading[] = [];
    const weight = { copies: 0, particles: 0, triangles: 0, drawCalls: 0 };
    await film.begin(0);
    for (let frame = 0; frame < film.plan.frames; frame++) {
      await pace.next();
      await film.draw(frame);
      const own = film.weight();
      for (const key of Object.keys(weight) as (keyof typeof weight)[])
        weight[key] = Math.max(weight[key], own[key]);
      seen.drawImage(film.canvas, 0, 0);
      const { data } = seen.getImageData(0, 0, SIZE.width, SIZE.height);
      flashes.push(meter.push(film.plan.timesOf(frame)[0], data));
      onShare(0.1 + (0.9 * (frame + 1)) / film.plan.frames);
    }
    return { stretch, flashes, weight, programFailures, ...sound };
  } finally {
    film.dispose();
  }
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
