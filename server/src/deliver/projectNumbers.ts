import { planNumbers } from "@bumbrel/core/analyse/numbersPlan";
import { analysePlan, type NumbersPlan } from "@bumbrel/core/analyse/planned";
import { ProgramReader } from "@bumbrel/core/analyse/scripts/programReader";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Scene, Strand } from "@bumbrel/core/document/scene";
import { type Curve, writeCurves } from "@bumbrel/core/format/curves";
import type { SoundData } from "@bumbrel/core/sound/signal";
import type { Track } from "@bumbrel/core/strand/track";
import type { SoundStore } from "../store/sounds";
import type { PageParts } from "./pageCode";
import { soundDataOf } from "./soundData";

/** A strand with its numbers over the whole tape. */
export interface StrandOverTime {
  strand: Strand;
  track: Track;
  /** Before shaping. */
  raw: Float32Array;
}

/** The numbers of a project over its whole tape. */
export interface ProjectNumbers {
  plan: NumbersPlan;
  /** In the order of the document. */
  strands: StrandOverTime[];
  /** Strands without numbers, and why. */
  left: NumbersPlan["left"];
  lengthS: number;
  sounds: ReadonlyMap<string, SoundData>;
}

/** Milliseconds of work before others get their turn. */
const TURN_MS = 12;

/**
 * Computes the numbers of a scene's strands over its whole tape.
 *
 * @param strands  those that are wanted, and what they are made of
 * @throws BumbrelError for a sound that cannot be read
 */
export async function projectNumbers(
  scene: Scene,
  strands: readonly Strand[],
  sounds: SoundStore,
  parts: PageParts,
  signal?: AbortSignal,
): Promise<ProjectNumbers> {
  const plan = planNumbers(scene, strands);
  const data = await soundDataOf(scene, new Set(plan.sounds.map(({ id }) => id)), sounds, parts, signal);
  const programs = new ProgramReader();
  const work = analysePlan(
    plan,
    (id) => data.get(id),
    undefined,
    (heard, tuning) => programs.read(heard, tuning),
  );
  let turnEndsMs = performance.now() + TURN_MS;
  let step = work.next();
  try {
    for (; !step.done; step = work.next()) {
      if (step.value) await orAborted(step.value, signal);
      else if (performance.now() < turnEndsMs) continue;
      else await new Promise((resolve) => setImmediate(resolve));
      signal?.throwIfAborted();
      turnEndsMs = performance.now() + TURN_MS;
    }
  } finally {
    // Ends what is being read apart.
    work.return(undefined as never);
  }
  const { tracks, raws, failures } = step.value;
  const found = strands.flatMap((strand) => {
    const [track, raw] = [tracks.get(strand.id), raws.get(strand.id)];
    return track && raw ? [{ strand, track, raw }] : [];
  });
  const named = new Map(scene.strands.map(({ id, name }) => [id, name]));
  const failed = [...failures].map(([id, why]) => ({ id, name: named.get(id) ?? id, why }));
  const live = plan.strands
    .filter(({ isLive }) => isLive)
    .map(({ id, name }) => ({ id, name, why: "It is heard live." }));
  const onTape = plan.sounds.filter((sound) => sound.onTape);
  const samples = onTape.reduce((most, { id }) => Math.max(most, data.get(id)?.mono.length ?? 0), 0);
  return {
    plan,
    strands: found,
    left: [...plan.left, ...failed, ...live],
    lengthS: samples / SAMPLE_RATE_HZ,
    sounds: data,
  };
}

/** Waits for something, or until it is stopped. */
function orAborted(awaited: Promise<unknown>, signal: AbortSignal | undefined): Promise<unknown> {
  if (!signal) return awaited;
  return Promise.race([
    awaited,
    new Promise<void>((resolve) => signal.addEventListener("abort", () => resolve(), { once: true })),
  ]);
}

/** A strand as curves hold it. */
export const curveOf = ({ strand: { id, name }, track }: StrandOverTime): Curve => ({
  id,
  name,
  width: track.width,
  values: track.values,
  loopS: track.loopS ?? 0,
  cues: track.cues ?? [],
});

/** All strands as baked curves. */
export const curvesOf = ({ strands, lengthS }: ProjectNumbers): Uint8Array =>
  writeCurves(strands.map(curveOf), lengthS);
