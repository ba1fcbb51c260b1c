import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/mix";
import type { NoteFile } from "@bumbrel/core/format/midi";
import type { Table } from "@bumbrel/core/format/table";
import { sourcesOf, strandsSignal } from "@bumbrel/core/scene/combining";
import type { Scene, Sound } from "@bumbrel/core/scene/document";
import { drivingStrands } from "@bumbrel/core/scene/driving";
import { hear, loopOf, resolveListening } from "@bumbrel/core/scene/listening";
import { signalOf } from "@bumbrel/core/scene/soundSource";
import { StrandAnalysis } from "@bumbrel/core/strand/analyse";
import { isUpsideDown } from "@bumbrel/core/strand/measures";
import type { Signal } from "@bumbrel/core/strand/signal";
import { DirectSpectra } from "@bumbrel/core/strand/spectrumSource";
import type { Track } from "@bumbrel/core/strand/track";

/** A sound as it was brought in. */
export interface ReadySound {
  /** At 48 kHz, of equal length. */
  channels: readonly Float32Array[];
  /** For note files, what stands in them. */
  notes?: NoteFile;
  /** For tables, what stands in them. */
  table?: Table;
}

/** Frames between two chances for the page to draw. */
const SLICE_FRAMES = 2000;

/**
 * Computes the tracks of all strands that drive something, giving the page a chance to draw between them.
 *
 * @param ready  each sound by its id
 * @param tapeS  length of the tape in seconds
 * @param onProgress  called with 0..1
 * @returns tracks by strand id; a strand whose sound is missing or live or whose range is impossible has none
 */
export async function computeTracks(
  scene: Scene,
  ready: ReadonlyMap<string, ReadySound>,
  tapeS: number,
  onProgress: (share: number) => void = () => {},
): Promise<Map<string, Track>> {
  const strands = drivingStrands(scene);
  const spectra = new DirectSpectra();
  const signals = new Map<string, Signal>();
  const signalById = (soundId: string): Signal | undefined => {
    const sound = scene.sounds.find(({ id }) => id === soundId);
    const its = ready.get(soundId);
    if (!sound || !its) return undefined;
    const signal = signals.get(soundId) ?? {
      ...signalOf(mixToMono(its.channels).samples, its.notes ?? its.table ?? sound),
      channels: its.channels,
    };
    signals.set(soundId, signal);
    return signal;
  };
  const lengthS = ({ id }: Sound) => (signalById(id)?.samples.length ?? 0) / SAMPLE_RATE_HZ;
  const tracks = new Map<string, Track>();
  for (const [i, strand] of strands.entries()) {
    const listening = resolveListening(scene, strand.listensTo);
    const signal =
      strand.listensTo.kind === "strands"
        ? strandsSignal(
            sourcesOf(scene, strand).map(({ id }) => tracks.get(id)),
            tapeS,
          )
        : listening && hear(listening, signalById, tapeS);
    if (!signal || isUpsideDown(strand.measure)) continue;
    const analysis = new StrandAnalysis(signal, strand, spectra);
    while (!analysis.isDone) {
      onProgress((i + analysis.framesReady / analysis.frames) / strands.length);
      await new Promise((resolve) => setTimeout(resolve));
      analysis.advance(SLICE_FRAMES);
    }
    const { shaped: values, width } = analysis;
    const loopS = loopOf(scene, strand.listensTo, lengthS);
    tracks.set(strand.id, { width, values, loopS, cues: analysis.cues() });
  }
  onProgress(1);
  return tracks;
}
