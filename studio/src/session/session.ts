import type { LoadedProject } from "@bumbrel/api/contracts";
import { hear } from "@bumbrel/core/analyse/hearing";
import { resolveListening } from "@bumbrel/core/analyse/listening";
import { runScriptsIn } from "@bumbrel/core/analyse/scripts/scriptThread";
import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { takeKeep } from "@bumbrel/core/document/keeps";
import { runningOf } from "@bumbrel/core/document/running";
import type { Scene, Strand } from "@bumbrel/core/document/scene";
import type { Take } from "@bumbrel/core/document/take";
import { type Samples, StretchReader } from "@bumbrel/core/dsp/samples";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { lastFrames, type Track, trackMeanAt, trackTimeAt, trackValueAt } from "@bumbrel/core/strand/track";
import { Meters } from "@bumbrel/player/audio/meters";
import { playableSounds } from "@bumbrel/player/audio/sceneMix";
import type { PlayableSound } from "@bumbrel/player/audio/transport";
import type { FilmSource } from "@bumbrel/player/film/filmScene";
import { LiveSounds } from "@bumbrel/player/live/liveSounds";
import { playerHandle } from "@bumbrel/player/playerHandle";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { nanoid } from "nanoid";
import workletUrl from "../../../../player/src/audio/processors.ts?worker&url";
import strandsUrl from "../../../../player/src/live/strands.worker.ts?worker&url";
import scriptsUrl from "../../../../player/src/scripts/scripts.worker.ts?worker&url";
import { AnalysisClient, type Traces } from "../../analysis/analysisClient";
import type { FromWorker, ToWorker } from "../../analysis/messages";
import { api, saveFailureOf } from "../../api/client";
import { watchProject } from "../../api/watchProject";
import { DocumentStore } from "../../document/documentStore";
import { browserDrafts, DraftKeeper } from "../../document/drafts";
import type { Recipe } from "../../document/history";
import { SoundLibrary } from "../../library/soundLibrary";
import { fetchAsset, fetchFont } from "../../library/stageFiles";
import { Audition, type Tunings } from "./audition";

/** Samples of a sound, and the index of the one that is now; a live sound ends with it. */
export interface SamplesNow {
  samples: Float32Array;
  centre: number;
}

/** Seconds that are shown of a strand that is heard live. */
export const LIVE_S = 15;

runScriptsIn(() => new Worker(scriptsUrl, { type: "module" }));

/**
 * An open project: wires its document, sounds, analysis, audition and player together.
 *
 * React reads the document through its store; numbers that change every frame are read from here by what draws them.
 */
export class Workbench {
  readonly projectId: string;
  readonly player: ScenePlayer;
  readonly document: DocumentStore;
  readonly library: SoundLibrary;
  readonly analysis: AnalysisClient;
  readonly audition: Audition;
  readonly meters: Meters;
  /** The tunings as they were when the project was opened. */
  readonly opened: Tunings;
  /** Increases when a sound, a strand's first numbers or another result has arrived. */
  results = 0;
  private readonly listeners = new Set<() => void>();
  private readonly worker = new Worker(new URL("../../analysis/analysis.worker.ts", import.meta.url), {
    type: "module",
  });
  private readonly stretches = new StretchReader();
  private readonly stopWatching: () => void;
  private played: Scene | undefined;
  private playedSounds: readonly unknown[] = [];
  private isTracksDue = false;
  private startS = 0;
  private aloneStarts = new Map<string, number>();

  constructor(project: LoadedProject) {
    this.projectId = project.id;
    const send = (message: ToWorker) => this.worker.postMessage(message);
    const keeper = new DraftKeeper(project.id, browserDrafts);
    this.document = new DocumentStore(
      {
        scene: project.scene,
        revision: project.revision,
        load: async () => {
          const newest = await api.project(project.id);
          this.library.know(newest.facts);
          return newest;
        },
        save: (revision, scene, names) => api.saveScene(project.id, revision, scene, names),
        failureOf: saveFailureOf,
        newId: nanoid,
      },
      keeper,
    );
    this.library = new SoundLibrary(project.facts, send);
    this.analysis = new AnalysisClient(send);
    this.programsAllowed = project.programsAllowed;
    this.player = new ScenePlayer(this.withoutForeign(project.scene), {
      live: (transport) => new LiveSounds(transport, { worklet: workletUrl, worker: strandsUrl }),
    });
    this.player.setTracks(new Map(), false);
    this.audition = new Audition(this.player, (what) => {
      if (what === "mix") this.playSounds();
      if (what === "scene") this.follow();
      this.notify();
    });
    this.opened = takeKeep(project.scene, "opened", "As it was opened");
    this.meters = new Meters(this.player.transport, workletUrl);
    this.player.onFrame(() => {
      this.meters.update(performance.now());
      // Strands that are finished within one frame are handed to the player together.
      if (this.isTracksDue) this.giveTracks();
    });
    this.player.live?.onChange(() => this.notify());
    this.worker.addEventListener("message", ({ data }: MessageEvent<FromWorker>) => this.receive(data));
    this.stopWatching = watchProject(
      project.id,
      (revision) => void this.document.changedElsewhere(revision ?? "gone"),
    );
    addEventListener("beforeunload", this.warnUnsaved);
    document.addEventListener("visibilitychange", this.saveWhenHidden);
    this.document.store.subscribe(({ scene }, before) => {
      if (scene !== before.scene) this.follow();
    });
    this.follow();
    this.player.start();
    window.bumbrel = playerHandle(this.player);
  }

  /** False until the user has allowed the programs of an imported document to run. */
  programsAllowed: boolean;

  /** Lets programs that came with the project run from now on. */
  async allowPrograms(): Promise<void> {
    await api.allowPrograms(this.projectId);
    this.programsAllowed = true;
    this.follow();
    this.notify();
  }

  private withoutForeign(scene: Scene): Scene {
    if (this.programsAllowed || scene.programs.length === 0) return scene;
    if (this.held?.of !== scene) this.held = { of: scene, scene: { ...scene, programs: [] } };
    return this.held.scene;
  }
  private held: { of: Scene; scene: Scene } | undefined;

  get scene(): Scene {
    return this.document.scene;
  }

  /** Calls `listener` when a result has arrived; returns a function that stops that. */
  readonly onResult = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Changes the document as one undoable step, see {@link DocumentStore.edit}. */
  edit(label: string, recipe: Recipe, gesture?: string): void {
    this.analysis.edited(gesture);
    this.document.edit(label, recipe, gesture);
  }

  endGesture(): void {
    this.analysis.edited(undefined);
    this.document.endGesture();
  }

  /** Position of a sound at a time of the tape: by itself, looping, or with the tape. */
  positionOf(sound: Sound, timeS: number): number {
    const { runs, unitId } = runningOf(this.scene, sound);
    if (runs === "alone") return this.player.transport.unitPositionS(unitId);
    return this.library.tapePositionOf(this.scene, sound, timeS);
  }

  /** Moves what a sound runs with to a time: the tape, or the sound itself. */
  seekSound(sound: Sound, timeS: number): void {
    const { runs, unitId } = runningOf(this.scene, sound);
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
   * @param into  what it returned the last time, whose memory is used again
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
  heardBy({ listensTo }: Strand): Samples | undefined {
    const heard = resolveListening(this.scene, listensTo);
    const signalOf = (soundId: string) => {
      const sound = this.scene.sounds.find(({ id }) => id === soundId);
      const loaded = sound && this.library.soundOf(sound);
      return loaded && { samples: loaded.mono };
    };
    return heard && hear(heard, signalOf, this.player.transport.durationS)?.samples;
  }

  /** Keeps an image of the stage for the shelf; a shelf without one is no loss. */
  async keepThumbnail(image: Blob): Promise<void> {
    await api.setThumbnail(this.projectId, image).catch(() => undefined);
  }

  /**
   * Goes to positions from an earlier visit as soon as there are sounds to have one.
   *
   * @param alone  those of sounds that run by themselves
   */
  startAt(timeS: number, alone: Readonly<Record<string, number>>): void {
    this.startS = timeS;
    this.aloneStarts = new Map(Object.entries(alone));
  }

  dispose(): void {
    this.stopWatching();
    this.document.dispose();
    this.worker.terminate();
    this.meters.dispose();
    this.audition.dispose();
    this.player.dispose();
    this.listeners.clear();
    removeEventListener("beforeunload", this.warnUnsaved);
    document.removeEventListener("visibilitychange", this.saveWhenHidden);
  }

  /** Brings player, sounds and analysis into line with the document. */
  private follow(): void {
    const scene = this.withoutForeign(this.audition.played(this.scene));
    const before = this.played;
    if (scene === before) return;
    this.played = scene;
    this.player.setScene(scene);
    if (scene.sounds !== before?.sounds) this.library.follow(scene);
    if (scene.sounds !== before?.sounds || scene.buses !== before.buses || scene.groups !== before.groups) {
      this.playSounds();
    }
    if (scene.strands !== before?.strands) this.audition.follow(scene);
    this.analysis.follow(scene);
    if (!this.analysis.isComplete) this.player.expectTracks();
  }

  /** Source of a film of the scene as it is now: later edits are not in it. */
  filmSource(take: Take | undefined): FilmSource {
    const { player } = this;
    return {
      scene: player.scene,
      tracks: player.givenTracks,
      samples: player.givenSamples,
      sounds: this.playable(),
      take,
      fetchAsset,
      fetchFont,
    };
  }

  private playable(): PlayableSound[] {
    return playableSounds(this.scene, (sound) => this.library.soundOf(sound)?.channels);
  }

  private playSounds(): void {
    const { scene, library } = this;
    this.player.transport.setSounds(this.playable(), scene.buses, new Set(this.audition.solo));
    const loaded = scene.sounds.map((sound) => library.soundOf(sound));
    const isSame =
      loaded.length === this.playedSounds.length && loaded.every((one, i) => one === this.playedSounds[i]);
    if (isSame) return;
    this.playedSounds = loaded;
    this.player.setSamples(
      new Map(scene.sounds.flatMap(({ id }, i) => (loaded[i] ? [[id, loaded[i].mono]] : []))),
    );
  }

  private giveTracks(): void {
    this.isTracksDue = false;
    const tracks = new Map<string, Track>();
    for (const [id, { shaped }] of this.analysis.traces) tracks.set(id, shaped);
    const isComplete = this.analysis.isComplete && this.library.isComplete(this.scene);
    this.player.setTracks(tracks, isComplete);
  }

  private receive(message: FromWorker): void {
    if (message.kind === "loading" || message.kind === "loaded" || message.kind === "soundFailed") {
      if (this.library.receive(message)) this.soundLoaded();
      this.notify();
      return;
    }
    const { tracks, shown } = this.analysis.receive(message);
    if (tracks) this.isTracksDue = true;
    if (shown) this.notify();
  }

  private soundLoaded(): void {
    const { transport } = this.player;
    this.analysis.soundLoaded();
    this.playSounds();
    if (this.startS > 0 && this.startS <= transport.durationS) {
      transport.seek(this.startS);
      this.startS = 0;
    }
    for (const [unit, timeS] of this.aloneStarts) {
      if (timeS > transport.unitDurationS(unit)) continue;
      transport.seekUnit(unit, timeS);
      this.aloneStarts.delete(unit);
    }
  }

  private notify(): void {
    this.results++;
    for (const listener of this.listeners) listener();
  }

  private readonly warnUnsaved = (event: BeforeUnloadEvent) => {
    if (this.document.isBehind) event.preventDefault();
  };

  private readonly saveWhenHidden = () => {
    if (document.visibilityState === "hidden") void this.document.flush();
  };
}
