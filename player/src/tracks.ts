import { mixToMono } from "@bumbrel/core/dsp/mix";
import type { Scene } from "@bumbrel/core/scene/document";
import { drivingStrands } from "@bumbrel/core/scene/driving";
import { analyseStrand } from "@bumbrel/core/strand/analyse";
import { DirectSpectra } from "@bumbrel/core/strand/spectrumSource";
import type { Track } from "@bumbrel/core/strand/track";

/**
 * Computes the tracks of all strands that drive something, giving the page a chance to draw between them.
 *
 * @param channelsBySound  each sound's channels at 48 kHz, by sound id
 * @param onProgress  called with 0..1
 * @returns tracks by strand id; a strand whose sound is missing or whose range is impossible has none
 */
export async function computeTracks(
  scene: Scene,
  channelsBySound: ReadonlyMap<string, readonly Float32Array[]>,
  onProgress: (share: number) => void = () => {},
): Promise<Map<string, Track>> {
  const strands = drivingStrands(scene);
  const spectra = new DirectSpectra();
  const mixes = new Map<string, Float32Array>();
  const tracks = new Map<string, Track>();
  for (const [i, strand] of strands.entries()) {
    onProgress(i / strands.length);
    await new Promise((resolve) => setTimeout(resolve));
    const channels = strand.soundId === null ? undefined : channelsBySound.get(strand.soundId);
    if (!channels || strand.soundId === null) continue;
    let samples = mixes.get(strand.soundId);
    if (!samples) {
      samples = mixToMono(channels).samples;
      mixes.set(strand.soundId, samples);
    }
    if (strand.measure.kind === "band" && strand.measure.lowHz >= strand.measure.highHz) continue;
    tracks.set(strand.id, analyseStrand(samples, strand, spectra).shaped);
  }
  onProgress(1);
  return tracks;
}
