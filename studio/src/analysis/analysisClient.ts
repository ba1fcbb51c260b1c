import type { AnalysedScene } from "@bumbrel/core/analyse/sceneAnalysis";
import { frameCount } from "@bumbrel/core/constants";
import type { Scene } from "@bumbrel/core/document/scene";
import { type FrequencyAxis, SPECTROGRAM_ROWS } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { Cue } from "@bumbrel/core/sound/cue";
import type { Advice, Health } from "@bumbrel/core/strand/health";
import type { Section } from "@bumbrel/core/strand/sections";
import type { Track } from "@bumbrel/core/strand/track";
import type { SpectrogramImage } from "../ui/live/spectrogramTiles";
import type { AverageSpectrum, FromWorker, ToWorker } from "./messages";

/** A strand over its whole sound. */
export interface Traces {
  /** As wide as `shaped`. */
  raw: Float32Array;
  shaped: Track;
  /** Frames that have been computed; the rest are 0. */
  framesReady: number;
  /** Once all of them have been computed. */
  cues: Cue[];
  health?: Health;
  advice?: Advice[];
}

/** Loudness over a whole sound, LUFS a frame. */
export interface LoudnessCurves {
  momentary: Float32Array;
  shortTerm: Float32Array;
}

/** The strands, spectrograms and curves that the analysis worker computes. */
export class AnalysisClient {
  readonly traces = new Map<string, Traces>();
  readonly failures = new Map<string, string>();
  /** Spectrograms by who looks at them. */
  readonly spectrograms = new Map<string, SpectrogramImage>();
  readonly loudness = new Map<string, LoudnessCurves>();
  readonly averageSpectra = new Map<string, AverageSpectrum>();
  /** The search for sections that is under way: the sound, and how far it is, 0 to 1. */
  sectionSearch: { key: string; share: number; then(found: Section[]): void } | undefined;
  private readonly send: (message: ToWorker) => void;
  private sent: AnalysedScene | undefined;
  private scenesSent = 0;
  private isSettled = false;
  private readonly requested = new Set<string>();
  private spectrogramRequests = 0;
  private readonly spectrogramRequest = new Map<string, number>();
  private waiting: (() => void)[] = [];
  private following: { gesture: string; onTraces(strandId: string, traces: Traces): void } | undefined;

  constructor(send: (message: ToWorker) => void) {
    this.send = send;
  }

  /** True if every strand of the newest scene has its numbers, as far as they can be computed. */
  get isComplete(): boolean {
    return this.isSettled;
  }

  /** Has the strands of a scene computed; nothing happens when nothing they depend on has changed. */
  follow(scene: Scene): void {
    const { strands, sounds, buses, groups } = scene;
    // Only distances from the camera at rest are read of the objects.
    const objects = scene.objects.filter(({ kind }) => kind === "camera");
    const programs = scene.programs.filter(({ kind }) => kind === "number");
    const before = this.sent;
    const isSame =
      before?.strands === strands &&
      before.sounds === sounds &&
      before.buses === buses &&
      before.groups === groups &&
      areSame(before.objects, objects) &&
      areSame(before.programs, programs);
    if (isSame) return;
    const sent = { strands, sounds, buses, groups, objects, programs };
    this.sent = sent;
    this.scenesSent++;
    this.isSettled = false;
    this.send({ kind: "scene", scene: sent });
    const alive = new Set(strands.map(({ id }) => id));
    for (const id of this.traces.keys()) if (!alive.has(id)) this.traces.delete(id);
    for (const id of this.failures.keys()) if (!alive.has(id)) this.failures.delete(id);
  }

  /** A sound was loaded: what waited for it is computed now. */
  soundLoaded(): void {
    this.isSettled = false;
  }

  /** Calls `then` once the worker has computed everything it was asked for. */
  afterTraces(then: () => void): void {
    if (this.isSettled) then();
    else this.waiting.push(then);
  }

  /**
   * Hands over traces as they are completed, until the gesture ends or anything else is edited: what a person sets by
   * hand is never overwritten by what follows a gesture.
   */
  followTraces(gesture: string, onTraces: (strandId: string, traces: Traces) => void): void {
    this.following = { gesture, onTraces };
  }

  /** An edit of another gesture ends following. */
  edited(gesture: string | undefined): void {
    if (gesture !== this.following?.gesture) this.following = undefined;
  }

  /** Has the spectrogram of a sound computed for a viewer; it fills up in `spectrograms`. */
  showSpectrogram(viewer: string, key: string, samples: number, axis: FrequencyAxis, fftSize: number): void {
    const old = this.spectrograms.get(viewer);
    if (old?.key === key && old.fftSize === fftSize && JSON.stringify(old.axis) === JSON.stringify(axis)) {
      return;
    }
    const levels = new Uint8Array(frameCount(samples) * SPECTROGRAM_ROWS);
    this.spectrograms.set(viewer, { key, axis, fftSize, levels, framesReady: 0 });
    const request = ++this.spectrogramRequests;
    this.spectrogramRequest.set(viewer, request);
    this.send({ kind: "spectrogram", viewer, request, key, axis, fftSize });
  }

  /** Stops computing a spectrogram that is no longer looked at. */
  hideSpectrogram(viewer: string): void {
    this.spectrograms.delete(viewer);
    this.spectrogramRequest.delete(viewer);
    this.send({ kind: "stopSpectrogram", viewer });
  }

  /** Has the sections of a sound found; another search gives way to this one. */
  findSections(key: string, then: (found: Section[]) => void): void {
    this.sectionSearch = { key, share: 0, then };
    this.send({ kind: "sections", key });
  }

  stopFindingSections(): void {
    this.sectionSearch = undefined;
    this.send({ kind: "stopSections" });
  }

  /** Has curves of a sound computed once; they appear in `loudness` or `averageSpectra`. */
  request(kind: "loudness" | "averageSpectrum", key: string): void {
    const name = `${kind} ${key}`;
    if (this.requested.has(name)) return;
    this.requested.add(name);
    this.send({ kind, key });
  }

  /**
   * Takes in what the worker has computed.
   *
   * @returns `tracks` when the player needs other tracks, `shown` when React has to look again
   */
  receive(message: FromWorker): { tracks?: boolean; shown?: boolean } {
    switch (message.kind) {
      case "loudness":
        this.loudness.set(message.key, message);
        return { shown: true };
      case "averageSpectrum":
        this.averageSpectra.set(message.key, message.bands);
        return { shown: true };
      case "sections": {
        const search = this.sectionSearch;
        if (search?.key !== message.key) return {};
        search.share = message.share;
        if (message.found) {
          this.sectionSearch = undefined;
          search.then(message.found);
        }
        return { shown: true };
      }
      case "strand":
        return this.receiveStrand(message);
      case "noStrand":
        return this.receiveNone(message);
      case "health": {
        const traces = this.traces.get(message.strandId);
        if (!traces) return {};
        const { health, advice } = message;
        // A new object tells those who show it; the numbers stay the same arrays.
        this.traces.set(message.strandId, { ...traces, health, advice });
        return { shown: true };
      }
      case "settled": {
        if (message.scenes !== this.scenesSent) return {};
        this.isSettled = true;
        const waiting = this.waiting;
        this.waiting = [];
        for (const then of waiting) then();
        return { tracks: true };
      }
      case "spectrogram": {
        const image = this.spectrograms.get(message.viewer);
        if (!image || message.request !== this.spectrogramRequest.get(message.viewer)) return {};
        image.levels.set(message.levels, message.firstFrame * SPECTROGRAM_ROWS);
        image.framesReady = message.firstFrame + message.levels.length / SPECTROGRAM_ROWS;
        return {};
      }
      default:
        return {};
    }
  }

  private receiveStrand({ numbers }: Extract<FromWorker, { kind: "strand" }>) {
    const { strandId, raw, shaped, width, framesReady, loopS, cues } = numbers;
    if (!this.sent?.strands.some(({ id }) => id === strandId)) return {};
    const before = this.traces.get(strandId);
    const isNew = !before || before.shaped.width !== width || this.failures.has(strandId);
    const { health, advice } = before ?? {};
    const track: Track = { width, values: shaped, loopS, cues: cues ?? [] };
    const traces: Traces = { raw, shaped: track, framesReady, cues: cues ?? [], health, advice };
    this.traces.set(strandId, traces);
    this.failures.delete(strandId);
    if (cues) this.following?.onTraces(strandId, traces);
    // Numbers that continue in the same memory are known to the player already, until all of them are there.
    const isForPlayer = before?.shaped.values !== shaped || cues !== undefined;
    // Drawings read traces by themselves; React looks again at the first of a strand only.
    return { tracks: isForPlayer, shown: isNew };
  }

  private receiveNone({ strandId, why }: Extract<FromWorker, { kind: "noStrand" }>) {
    const had = this.traces.has(strandId) || this.failures.has(strandId);
    if (why.kind === "failed") this.failures.set(strandId, why.message);
    else this.failures.delete(strandId);
    if (why.kind !== "waiting") this.traces.delete(strandId);
    return { tracks: had, shown: had || why.kind === "failed" };
  }
}

const areSame = <T>(before: readonly T[], now: readonly T[]): boolean =>
  before.length === now.length && before.every((one, i) => one === now[i]);
