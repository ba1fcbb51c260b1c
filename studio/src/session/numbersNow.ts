import { hear } from "@bumbrel/core/analyse/hearing";
import { resolveListening } from "@bumbrel/core/analyse/listening";
import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Strand } from "@bumbrel/core/document/scene";
import { runningOf } from "@bumbrel/core/document/strands/running";
import { type Samples, StretchReader } from "@bumbrel/core/dsp/maths/samples";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { lastFrames, trackMeanAt, trackTimeAt, trackValueAt } from "@bumbrel/core/strand/track";
import type { ScenePlayer } from "@bumbrel/player/scenePlayer";
import type { AnalysisClient, Traces } from "../analysis/analysisClient";
import type { DocumentStore } from "../document/documentStore";
import type { SoundLibrary } from "../library/soundLibrary";

/** Samples of a sound, and the index of the one that is now; a live sound ends with it. */
export interface SamplesNow {
  samples: Float32Array;
  centre: number;
}

/** Seconds that are shown of a strand that is heard live. */
export const LIVE_S = 15;

/** Reads the numbers and samples of an instant, wherever a sound or strand has them. Drawings read it each frame. */
export class NumbersNow {
  private readonly document: DocumentStore;
  private readonly player: ScenePlayer;
  private readonly library: SoundLibrary;
  private readonly analysis: AnalysisClient;
  private readonly stretches = new StretchReader();

  constructor(document: DocumentStore, player: ScenePlayer, library: SoundLibrary, analysis: AnalysisClient) {
    this.document = document;
    this.player = player;
    this.library = library;
    this.analysis = analysis;
  }

  /** Position of a sound at a time of the tape: by itself, looping, or with the tape. */
  positionOf(sound: Sound, timeS: number): number {
    const { runs, unitId } = runningOf(this.document.scene, sound);
    if (runs === "alone") return this.player.transport.unitPositionS(unitId);
    return this.library.tapePositionOf(this.document.scene, sound, timeS);
  }

  /** Moves the unit or the tape that a sound runs with to a time. */
  seekSound(sound: Sound, timeS: number): void {
    const { runs, unitId } = runningOf(this.document.scene, sound);
    const { transport } = this.player;
    if (runs === "alone") transport.seekUnit(unitId, timeS);
    else transport.seek(timeS);
  }

  /** Samples of a sound that can be shown now, and the index of the current one. */
  samplesAt(sound: Sound, timeS: number, windowSamples: number): SamplesNow | undefined {
    if (sound.kind === "input") {
      const input = this.player.live?.inputs.get(sound.id);
      return input && { samples: input.history, centre: input.history.length - windowSamples / 2 };
    }
    const samples = this.library.soundOf(sound)?.mono;
    if (!samples) return undefined;
    const centre = this.positionOf(sound, timeS) * SAMPLE_RATE_HZ;
    const half = Math.ceil(windowSamples / 2) + 1;
    const from = Math.round(centre);
    const window = this.stretches.between(samples, from - half, from + half);
    return { samples: window.samples, centre: centre - window.first };
  }

  /** A strand's shaped number, wherever its sound is. */
  shapedNow(strandId: string, timeS: number): number {
    const track = this.player.trackOf(strandId);
    return track ? trackMeanAt(track, timeS) : 0;
  }

  /** Position of a strand's own sound at a time of the tape. */
  strandTimeS(strandId: string, timeS: number): number {
    const track = this.player.trackOf(strandId);
    return track ? trackTimeAt(track, timeS) : timeS;
  }

  /** Bands of a strand; 1 unless it is a fan. */
  widthOf(strandId: string): number {
    return this.player.trackOf(strandId)?.width ?? 1;
  }

  /** A strand's number before shaping; of a fan, one of its bands. */
  rawNow(strandId: string, timeS: number, band = 0): number {
    const live = this.player.recordOf(strandId);
    if (live) return band < live.raw.width ? trackValueAt(live.raw, Number.POSITIVE_INFINITY, band) : 0;
    const track = this.player.trackOf(strandId);
    const frame = Math.round(this.strandTimeS(strandId, timeS) * FRAME_RATE_HZ);
    return this.analysis.traces.get(strandId)?.raw[frame * (track?.width ?? 1) + band] ?? 0;
  }

  /**
   * A strand that is heard live over its last seconds, now being at the end; `undefined` before it has been heard.
   *
   * @param into  the result of the last call, whose memory is used again
   * @returns with how many of its frames, the last ones, have been heard; those before are 0
   */
  recent(strandId: string, seconds: number, into?: Traces): (Traces & { framesHeard: number }) | undefined {
    const live = this.player.recordOf(strandId);
    if (!live || live.track.newest.count === 0) return undefined;
    const { width, newest } = live.track;
    const frames = Math.round(seconds * FRAME_RATE_HZ);
    const hasRoom = into?.raw.length === frames * width;
    const raw = hasRoom ? into.raw : new Float32Array(frames * width);
    const values = hasRoom ? into.shaped.values : new Float32Array(frames * width);
    lastFrames(live.raw, raw);
    lastFrames(live.track, values);
    const fromS = newest.timeS - seconds;
    const cues = live.cues
      .map(({ timeS, strength }) => ({ timeS: timeS - fromS, strength }))
      .filter(({ timeS }) => timeS >= 0);
    const framesHeard = Math.min(frames, newest.count);
    return { raw, shaped: { width, values }, framesReady: frames, framesHeard, cues };
  }

  /** Signal that a strand listens to, once its sounds are loaded. */
  heardBy({ listensTo }: Pick<Strand, "listensTo">): Samples | undefined {
    const { scene } = this.document;
    const heard = resolveListening(scene, listensTo);
    const signalOf = (soundId: string) => {
      const sound = scene.sounds.find(({ id }) => id === soundId);
      const loaded = sound && this.library.soundOf(sound);
      return loaded && { samples: loaded.mono };
    };
    return heard && hear(heard, signalOf, this.player.transport.durationS)?.samples;
  }
}
