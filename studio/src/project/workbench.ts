import { FRAME_RATE_HZ, frameCount, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrogram";
import type { NoteFile } from "@bumbrel/core/format/midi";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import type { Table } from "@bumbrel/core/format/table";
import { happensLive, inMakingOrder, isMadeOf, sourcesOf } from "@bumbrel/core/scene/combining";
import type { Keep, Scene, Sound, Strand } from "@bumbrel/core/scene/document";
import { takeKeep, withKeep } from "@bumbrel/core/scene/keeps";
import { hear, loopLengthS, loopOf, resolveListening, runningOf } from "@bumbrel/core/scene/listening";
import {
  isMadeKey,
  isStored,
  type MadeSound,
  type StoredKind,
  samplesKey,
} from "@bumbrel/core/scene/soundSource";
import type { Cue } from "@bumbrel/core/strand/cue";
import type { Advice, Health } from "@bumbrel/core/strand/health";
import { lastFrames, type Track, trackMeanAt, trackTimeAt, trackValueAt } from "@bumbrel/core/strand/track";
import { CueClicks } from "@bumbrel/player/audio/cueClicks";
import { Meters } from "@bumbrel/player/audio/meters";
import { playableSounds } from "@bumbrel/player/audio/sceneMix";
import { playerHandle, ScenePlayer } from "@bumbrel/player/scenePlayer";
import workletUrl from "../../../player/src/audio/processors.ts?worker&url";
import strandsUrl from "../../../player/src/live/strands.worker.ts?worker&url";
import { type FromWorker, SPECTROGRAM_ROWS, type StrandSource, type ToWorker } from "../analysis/messages";
import { ApiProblem, api, type LoadedProject, soundBytesUrl } from "../api/client";
import { Autosave, type SaveState } from "./autosave";
import { applyEdit, endGesture, type History, type Recipe, redo, undo } from "./history";

/** A sound's samples as they stand in memory. */
export interface LoadedSound {
  channels: readonly Float32Array[];
  mono: Float32Array;
  badSampleCount: number;
  /** What stands in a note file. */
  notes?: NoteFile;
  /** What stands in a table. */
  table?: Table;
}

/** Samples of a sound, and the index of the one that is now; a live sound ends with it. */
export interface SamplesNow {
  samples: Float32Array;
  centre: number;
}

/** A sound's waveform as far as it has come. */
export interface Waveform {
  /** As `waveformPairs` gives them; those that have not come yet are 0. */
  pairs: Float32Array;
  hopsReady: number;
}

/** Loudness over a whole sound, LUFS a frame. */
export interface LoudnessCurves {
  momentary: Float32Array;
  shortTerm: Float32Array;
}

/** A strand over its whole sound. */
export interface Traces {
  /** As wide as `shaped`. */
  raw: Float32Array;
  shaped: Track;
  /** Frames that have been computed; the rest are 0 so far. */
  framesReady: number;
  /** Once all of them are there. */
  cues: Cue[];
  health?: Health;
  advice?: Advice[];
}

/** Seconds that are looked at of a strand that is heard live. */
export const LIVE_S = 15;

/** Tunings that can be looked at instead of the present ones. */
export type Tunings = Pick<Keep, "strands" | "bindings">;

/** Levels of a sound on an axis, filling up as they are computed. */
export interface SpectrogramPicture {
  key: string;
  axis: FrequencyAxis;
  fftSize: number;
  /** `SPECTROGRAM_ROWS` bytes a frame. */
  levels: Uint8Array;
  framesReady: number;
}

/**
 * An open project: its document with history and autosave, its sounds, the player and the analysis worker.
 *
 * React reads the document and save state through `subscribe`; numbers that change every frame are read
 * straight from here by what draws them.
 */
export class Workbench {
  readonly projectId: string;
  readonly player: ScenePlayer;
  readonly facts: Map<string, SoundFacts>;
  readonly sounds = new Map<string, LoadedSound>();
  /** Share loaded of the sounds that are on their way, and what went wrong with those that failed. */
  readonly loading = new Map<string, number>();
  readonly soundFailures = new Map<string, string>();
  readonly traces = new Map<string, Traces>();
  readonly strandFailures = new Map<string, string>();
  /** Spectrograms by who looks at them. */
  readonly spectrograms = new Map<string, SpectrogramPicture>();
  readonly waveforms = new Map<string, Waveform>();
  readonly loudness = new Map<string, LoudnessCurves>();
  readonly meters: Meters;
  /** Sounds and buses of which nothing else is heard; for this visit, no part of the document. */
  readonly solo = new Set<string>();
  /** Strands of which no other drives the stage; for this visit. */
  readonly soloStrands = new Set<string>();
  /** Strands whose cues are heard as clicks; for this visit. */
  readonly clicking = new Set<string>();
  /** The tunings as they were when the project was opened. */
  readonly opened: Tunings;

  private history: History;
  private saved: SaveState = { kind: "saved" };
  private snapshot: WorkbenchSnapshot;
  private readonly listeners = new Set<() => void>();
  private readonly autosave: Autosave;
  private readonly worker = new Worker(new URL("../analysis/analysis.worker.ts", import.meta.url), {
    type: "module",
  });
  /** What was last asked of the worker for each strand, and which of it has been answered. */
  private readonly requested = new Map<string, { asked: string; number: number }>();
  private readonly answered = new Map<string, number>();
  private strandRequests = 0;
  /** What is to be called once a strand's newest request has been answered. */
  private waiting: { strandId: string; then: () => void }[] = [];
  private following: { gesture: string; onTraces(strandId: string, traces: Traces): void } | undefined;
  private readonly loudnessAsked = new Set<string>();
  private pictureRequests = 0;
  private readonly pictureRequest = new Map<string, number>();
  private dataVersion = 0;
  /** What is looked at instead of the present tunings, while a key is held. */
  private comparing: Tunings | undefined;
  private readonly clicks: CueClicks;
  private startS = 0;
  private aloneStarts = new Map<string, number>();

  constructor(project: LoadedProject) {
    this.projectId = project.id;
    this.facts = new Map(Object.entries(project.facts));
    this.history = { scene: project.scene, past: [], future: [] };
    this.player = new ScenePlayer(project.scene, { worklet: workletUrl, worker: strandsUrl });
    this.opened = takeKeep(project.scene, "opened", "As it was opened");
    this.clicks = new CueClicks(this.player.transport);
    this.player.onFrame((timeS) => this.clicks.update(timeS, this.clickingCues()));
    this.meters = new Meters(this.player.transport, workletUrl);
    this.player.onFrame(() => this.meters.update(performance.now()));
    this.player.live?.onChange(() => this.arrived());
    this.autosave = new Autosave({
      revision: project.revision,
      save: (revision, scene) => api.saveScene(project.id, revision, scene),
      isConflict: (error) => error instanceof ApiProblem && error.status === 409,
      onState: (state) => {
        this.saved = state;
        this.tell();
      },
    });
    this.snapshot = this.makeSnapshot();
    this.worker.addEventListener("message", ({ data }: MessageEvent<FromWorker>) => this.receive(data));
    addEventListener("beforeunload", this.warnUnsaved);
    document.addEventListener("visibilitychange", this.saveWhenHidden);
    this.follow();
    this.player.start();
    window.bumbrel = playerHandle(this.player);
  }

  get scene(): Scene {
    return this.history.scene;
  }

  /** The scene that is played: the document, or the document with other tunings while they are compared. */
  get playedScene(): Scene {
    return this.comparing ? withKeep(this.scene, this.comparing) : this.scene;
  }

  get isComparing(): boolean {
    return this.comparing !== undefined;
  }

  /** Has other tunings looked at and heard instead of the present ones, or the present ones again. Nothing is edited. */
  compare(tunings: Tunings | undefined): void {
    if (this.comparing === tunings) return;
    this.comparing = tunings;
    this.follow();
    this.arrived();
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  getSnapshot = (): WorkbenchSnapshot => this.snapshot;

  /**
   * Changes the document as one undoable step.
   *
   * @param label  what was done, for "Undo: …"
   * @param gesture  edits in a row with the same key become one step
   */
  edit(label: string, recipe: Recipe, gesture?: string): void {
    if (gesture !== this.following?.gesture) this.following = undefined;
    this.setHistory(applyEdit(this.history, label, recipe, gesture));
  }

  endGesture(): void {
    this.following = undefined;
    this.history = endGesture(this.history);
  }

  undo = (): void => this.setHistory(undo(this.history));
  redo = (): void => this.setHistory(redo(this.history));

  /** Saves what is not saved yet, and resolves when it is. */
  flush(): Promise<void> {
    return this.autosave.flush();
  }

  /** A sound's samples, or `undefined` until they are loaded. */
  soundOf(sound: Sound): LoadedSound | undefined {
    const key = samplesKey(sound);
    return key === undefined ? undefined : this.sounds.get(key);
  }

  /** Seconds of a sound, 0 until it is loaded. */
  readonly lengthOf = (sound: Sound): number => (this.soundOf(sound)?.mono.length ?? 0) / SAMPLE_RATE_HZ;

  /** Where a sound is when the tape is at a time: by itself, going round, or with the tape. */
  positionOf(sound: Sound, timeS: number): number {
    const { runs, unitId } = runningOf(this.scene, sound);
    if (runs === "alone") return this.player.transport.unitPositionS(unitId);
    const lengthS = loopLengthS(this.scene, sound, this.lengthOf);
    return lengthS > 0 ? timeS % lengthS : timeS;
  }

  /** Moves what a sound runs with to a time: the tape, or the sound itself. */
  seekSound(sound: Sound, timeS: number): void {
    const { runs, unitId } = runningOf(this.scene, sound);
    const { transport } = this.player;
    if (runs === "alone") transport.seekUnit(unitId, timeS);
    else transport.seek(timeS);
  }

  /** What there is to look at of a sound now: samples, and which of them is now. */
  samplesAt(sound: Sound, timeS: number, windowSamples: number): SamplesNow | undefined {
    if (sound.kind === "input") {
      const input = this.player.live?.inputs.get(sound.id);
      return input && { samples: input.history, centre: input.history.length - windowSamples / 2 };
    }
    const samples = this.soundOf(sound)?.mono;
    return samples && { samples, centre: this.positionOf(sound, timeS) * SAMPLE_RATE_HZ };
  }

  /** A strand's shaped number, wherever its sound is. */
  shapedNow(strandId: string, timeS: number): number {
    const track = this.player.trackOf(strandId);
    return track ? trackMeanAt(track, timeS) : 0;
  }

  /** A strand's number before shaping; of a fan, one of its bands. */
  rawNow(strandId: string, timeS: number, band = 0): number {
    const live = this.player.live?.recordOf(strandId);
    if (live) return band < live.raw.width ? trackValueAt(live.raw, Number.POSITIVE_INFINITY, band) : 0;
    const track = this.player.trackOf(strandId);
    const ownS = track ? trackTimeAt(track, timeS) : timeS;
    return this.traces.get(strandId)?.raw[Math.round(ownS * FRAME_RATE_HZ) * (track?.width ?? 1) + band] ?? 0;
  }

  /**
   * A strand that is heard live over its last seconds, now being at the end; `undefined` before it has been heard.
   *
   * @param into  what it gave the last time, whose room is used again
   * @returns with how many of its frames, the last ones, have been heard; those before are 0
   */
  recent(strandId: string, seconds: number, into?: Traces): (Traces & { framesHeard: number }) | undefined {
    const live = this.player.live?.recordOf(strandId);
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

  /** Lets only some strands drive the stage, for looking while working. */
  setSoloStrand(id: string, isSolo: boolean): void {
    if (isSolo) this.soloStrands.add(id);
    else this.soloStrands.delete(id);
    this.player.soloStrandsOnly(new Set(this.soloStrands));
    this.arrived();
  }

  /** Has a strand's cues heard as clicks. */
  setClicking(id: string, isClicking: boolean): void {
    if (isClicking) this.clicking.add(id);
    else this.clicking.delete(id);
    this.arrived();
  }

  private clickingCues(): Cue[][] {
    if (this.clicking.size === 0) return NO_CUES;
    return [...this.clicking].map((id) => this.traces.get(id)?.cues ?? []);
  }

  /** What a strand listens to as one signal, once its sounds are loaded. */
  heardBy({ listensTo }: Strand): Float32Array | undefined {
    const heard = resolveListening(this.scene, listensTo);
    const signalOf = (soundId: string) => {
      const sound = this.scene.sounds.find(({ id }) => id === soundId);
      const loaded = sound && this.soundOf(sound);
      return loaded && { samples: loaded.mono };
    };
    return heard && hear(heard, signalOf, this.player.transport.durationS)?.samples;
  }

  /** Lets only some sounds and buses be heard, for listening while working. */
  setSolo(id: string, isSolo: boolean): void {
    if (isSolo) this.solo.add(id);
    else this.solo.delete(id);
    this.playSounds();
    this.arrived();
  }

  /** Has the spectrogram of a sound computed for a viewer; it fills up in `spectrograms`. */
  showSpectrogram(viewer: string, key: string, axis: FrequencyAxis, fftSize: number): void {
    const old = this.spectrograms.get(viewer);
    const sound = this.sounds.get(key);
    if (!sound) return;
    if (old?.key === key && old.fftSize === fftSize && JSON.stringify(old.axis) === JSON.stringify(axis)) {
      return;
    }
    const frames = frameCount(sound.mono.length);
    const levels = new Uint8Array(frames * SPECTROGRAM_ROWS);
    this.spectrograms.set(viewer, { key, axis, fftSize, levels, framesReady: 0 });
    const request = ++this.pictureRequests;
    this.pictureRequest.set(viewer, request);
    this.ask({ kind: "spectrogram", viewer, request, key, axis, fftSize });
  }

  /** Stops computing what nobody looks at any more. */
  hideSpectrogram(viewer: string): void {
    this.spectrograms.delete(viewer);
    this.pictureRequest.delete(viewer);
    this.ask({ kind: "stopSpectrogram", viewer });
  }

  /** Has a sound's loudness computed; it arrives in `loudness`. */
  showLoudness(key: string): void {
    if (this.loudnessAsked.has(key) || !this.sounds.has(key)) return;
    this.loudnessAsked.add(key);
    this.ask({ kind: "loudness", key });
  }

  dispose(): void {
    void this.autosave.flush().finally(() => this.autosave.stop());
    this.worker.terminate();
    this.meters.dispose();
    this.clicks.stop();
    this.player.dispose();
    this.listeners.clear();
    removeEventListener("beforeunload", this.warnUnsaved);
    document.removeEventListener("visibilitychange", this.saveWhenHidden);
  }

  /**
   * Has traces handed over as they arrive, until the gesture ends or anything else is edited: what a person
   * sets by hand is never overwritten by what follows a gesture.
   */
  followTraces(gesture: string, onTraces: (strandId: string, traces: Traces) => void): void {
    this.following = { gesture, onTraces };
  }

  /**
   * Stores a sound's bytes, and gives the id they are stored under.
   *
   * @throws ApiProblem when the server does not take them, or the signal's reason
   */
  async storeSound(
    name: string,
    facts: SoundFacts,
    bytes: Blob,
    onShare: (share: number) => void = () => {},
    signal: AbortSignal = new AbortController().signal,
  ): Promise<string> {
    const { id } = await api.announceSound(name, facts);
    await api.sendSoundBytes(id, bytes, onShare, signal);
    this.facts.set(id, facts);
    return id;
  }

  /** Keeps a picture of the stage for the shelf; a shelf without one is no loss. */
  async keepPicture(dataUrl: string): Promise<void> {
    const base64 = dataUrl.slice(dataUrl.indexOf(",") + 1);
    const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
    await api.setPicture(this.projectId, new Blob([bytes], { type: "image/jpeg" })).catch(() => undefined);
  }

  /** Calls `then` once no newer traces of a strand are on their way. */
  afterTraces(strandId: string, then: () => void): void {
    this.waiting.push({ strandId, then });
    this.callSettled();
  }

  /**
   * Takes up positions from an earlier visit as soon as there are sounds to have one.
   *
   * @param alone  those of sounds that run by themselves
   */
  startAt(timeS: number, alone: Readonly<Record<string, number>>): void {
    this.startS = timeS;
    this.aloneStarts = new Map(Object.entries(alone));
  }

  private isSettled(strandId: string): boolean {
    const asked = this.requested.get(strandId);
    return !asked || asked.number === this.answered.get(strandId) || this.strandFailures.has(strandId);
  }

  private callSettled(): void {
    const settled = this.waiting.filter(({ strandId }) => this.isSettled(strandId));
    this.waiting = this.waiting.filter((one) => !settled.includes(one));
    for (const { then } of settled) then();
  }

  private setHistory(history: History): void {
    if (history === this.history) return;
    const sceneChanged = history.scene !== this.history.scene;
    this.history = history;
    if (sceneChanged) {
      this.follow();
      this.autosave.changed(history.scene);
    }
    this.tell();
  }

  /** Brings player, sounds and strands into line with the document. */
  private follow(): void {
    const scene = this.playedScene;
    this.player.setScene(scene);
    for (const sound of scene.sounds) {
      const key = samplesKey(sound);
      if (key === undefined) continue;
      if (this.sounds.has(key) || this.loading.has(key) || this.soundFailures.has(key)) continue;
      this.loading.set(key, 0);
      const from = isStored(sound)
        ? { kind: (sound as StoredKind).kind, url: soundBytesUrl(sound.storedId) }
        : (sound as MadeSound);
      this.ask({ kind: "load", key, name: sound.name, from });
    }
    this.forgetUnusedTones();
    this.playSounds();
    this.requestStrands(scene);
    const alive = new Set(scene.strands.map(({ id }) => id));
    for (const id of [...this.requested.keys()]) {
      if (alive.has(id)) continue;
      this.traces.delete(id);
      this.requested.delete(id);
      if (this.soloStrands.delete(id)) this.player.soloStrandsOnly(new Set(this.soloStrands));
      this.clicking.delete(id);
      this.ask({ kind: "forgetStrand", strandId: id });
    }
    this.giveTracks();
    this.callSettled();
  }

  /** Made sounds are quick to make again; each change of one would otherwise stay in memory. */
  private forgetUnusedTones(): void {
    const used = new Set(this.scene.sounds.map(samplesKey));
    for (const key of this.sounds.keys()) {
      if (!isMadeKey(key) || used.has(key)) continue;
      this.sounds.delete(key);
      this.waveforms.delete(key);
      this.loudness.delete(key);
      this.loudnessAsked.delete(key);
      this.ask({ kind: "forget", key });
    }
  }

  private requestStrands(scene: Scene): void {
    for (const strand of scene.strands) {
      if (isMadeOf(scene, strand, strand.id)) this.strandFailures.set(strand.id, OF_ITSELF);
      else if (this.strandFailures.get(strand.id) === OF_ITSELF) this.strandFailures.delete(strand.id);
    }
    for (const strand of inMakingOrder(scene)) this.requestStrand(scene, strand);
  }

  private requestStrand(scene: Scene, strand: Strand): void {
    const { id: strandId, measure, shaping, cues } = strand;
    const source = this.sourceOf(scene, strand);
    const asked = JSON.stringify([source, measure, shaping, cues]);
    if (this.requested.get(strandId)?.asked === asked) return;
    const request = ++this.strandRequests;
    this.requested.set(strandId, { asked, number: request });
    this.strandFailures.delete(strandId);
    if (!source) {
      this.traces.delete(strandId);
      this.ask({ kind: "forgetStrand", strandId });
      // There is nothing to wait for.
      this.answered.set(strandId, request);
      this.callSettled();
      return;
    }
    this.ask({ kind: "strand", strandId, source, tuning: { measure, shaping, cues }, request });
  }

  /** What the worker is to read a strand from; nothing for one that hears nothing, or only what is live. */
  private sourceOf(scene: Scene, strand: Strand): StrandSource | undefined {
    const { durationS } = this.player.transport;
    if (strand.listensTo.kind === "strands") {
      const sources = sourcesOf(scene, strand);
      if (sources.length === 0 || durationS === 0 || happensLive(scene, strand)) return undefined;
      return {
        kind: "strands",
        tapeS: durationS,
        sources: sources.map(({ id }) => ({ strandId: id, request: this.requested.get(id)?.number ?? 0 })),
      };
    }
    const heard = resolveListening(scene, strand.listensTo);
    if (!heard) return undefined;
    const keyOf = (soundId: string) => samplesKey(scene.sounds.find(({ id }) => id === soundId)!)!;
    const sounds = heard.sounds.map((sound) => ({ ...sound, soundId: keyOf(sound.soundId) }));
    return { kind: "sounds", listening: { ...heard, sounds }, tapeS: heard.kind === "bus" ? durationS : 0 };
  }

  private playSounds(): void {
    const { scene } = this;
    this.player.transport.setSounds(
      playableSounds(scene, (sound) => this.soundOf(sound)?.channels),
      scene.buses,
      new Set(this.solo),
    );
    this.player.setSamples(
      new Map(
        scene.sounds.flatMap((sound) => {
          const loaded = this.soundOf(sound);
          return loaded ? [[sound.id, loaded.mono]] : [];
        }),
      ),
    );
  }

  private giveTracks(): void {
    const scene = this.playedScene;
    const tracks = new Map<string, Track>();
    for (const { id, listensTo } of scene.strands) {
      const traces = this.traces.get(id);
      if (!traces) continue;
      tracks.set(id, {
        ...traces.shaped,
        loopS: loopOf(scene, listensTo, this.lengthOf),
        cues: traces.cues,
      });
    }
    this.player.setTracks(tracks);
  }

  private receive(message: FromWorker): void {
    switch (message.kind) {
      case "loading": {
        const { key, share, firstHop, hops, pairs } = message;
        const waveform = this.waveforms.get(key) ?? { pairs: new Float32Array(hops * 2), hopsReady: 0 };
        waveform.pairs.set(pairs, firstHop * 2);
        waveform.hopsReady = firstHop + pairs.length / 2;
        this.waveforms.set(key, waveform);
        if (this.loading.has(key)) this.loading.set(key, share);
        break;
      }
      case "loaded": {
        const { key, channels, mono, badSampleCount, notes, table } = message;
        this.loading.delete(key);
        this.sounds.set(key, { channels, mono, badSampleCount, notes, table });
        this.playSounds();
        this.requestStrands(this.playedScene);
        if (this.startS > 0 && this.startS <= this.player.transport.durationS) {
          this.player.transport.seek(this.startS);
          this.startS = 0;
        }
        for (const [unit, timeS] of this.aloneStarts) {
          if (timeS > this.player.transport.unitDurationS(unit)) continue;
          this.player.transport.seekUnit(unit, timeS);
          this.aloneStarts.delete(unit);
        }
        break;
      }
      case "loudness":
        this.loudness.set(message.key, message);
        break;
      case "strand": {
        const { strandId, request, raw, shaped, width, framesReady, cues } = message;
        const asked = this.requested.get(strandId);
        // What is no longer wanted is looked at while nothing newer is there, but never instead of it.
        if (!asked || request < (this.answered.get(strandId) ?? 0)) return;
        const before = this.traces.get(strandId);
        const isNew = !before || before.shaped.width !== width || this.strandFailures.has(strandId);
        const { health, advice } = before ?? {};
        const traces = {
          raw,
          shaped: { width, values: shaped },
          framesReady,
          cues: cues ?? [],
          health,
          advice,
        };
        this.traces.set(strandId, traces);
        this.strandFailures.delete(strandId);
        // Numbers that go on coming into the same memory are known to the player already, until they are all there:
        // then there are cues, and what was summed over them on the way is summed again.
        if (before?.shaped.values !== shaped || cues) this.giveTracks();
        if (cues) {
          this.answered.set(strandId, request);
          this.following?.onTraces(strandId, traces);
          this.callSettled();
        }
        // Drawings read traces by themselves; React hears of the first only, not of each while dragging.
        if (!isNew) return;
        break;
      }
      case "health": {
        const traces = this.traces.get(message.strandId);
        if (!traces || message.request !== this.requested.get(message.strandId)?.number) return;
        traces.health = message.health;
        traces.advice = message.advice;
        break;
      }
      case "spectrogram": {
        const picture = this.spectrograms.get(message.viewer);
        if (!picture || message.request !== this.pictureRequest.get(message.viewer)) return;
        picture.levels.set(message.levels, message.firstFrame * SPECTROGRAM_ROWS);
        picture.framesReady = message.firstFrame + message.levels.length / SPECTROGRAM_ROWS;
        return;
      }
      case "failed":
        if (message.key) {
          this.loading.delete(message.key);
          this.soundFailures.set(message.key, message.message);
        }
        if (message.strandId) this.strandFailures.set(message.strandId, message.message);
        this.callSettled();
        break;
    }
    this.arrived();
  }

  /** Has React look again at what is no part of the document. */
  private arrived(): void {
    this.dataVersion++;
    this.tell();
  }

  private ask(message: ToWorker): void {
    this.worker.postMessage(message);
  }

  private tell(): void {
    this.snapshot = this.makeSnapshot();
    for (const listener of this.listeners) listener();
  }

  private makeSnapshot(): WorkbenchSnapshot {
    return {
      scene: this.history.scene,
      saved: this.saved,
      undoLabel: this.history.past.at(-1)?.label,
      redoLabel: this.history.future[0]?.label,
      dataVersion: this.dataVersion,
    };
  }

  private readonly warnUnsaved = (event: BeforeUnloadEvent) => {
    if (this.autosave.isBehind) event.preventDefault();
  };

  private readonly saveWhenHidden = () => {
    if (document.visibilityState === "hidden") void this.autosave.flush();
  };
}

const NO_CUES: Cue[][] = [];
const OF_ITSELF = "This strand is made of itself. Take out the strand that leads back to it.";

/** What React may depend on: changes by edits and arrivals, never by frames. */
export interface WorkbenchSnapshot {
  scene: Scene;
  saved: SaveState;
  undoLabel: string | undefined;
  redoLabel: string | undefined;
  /** Goes up when a sound or a strand's traces arrive. */
  dataVersion: number;
}
