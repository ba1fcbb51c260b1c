import { frameCount } from "@bumbrel/core/constants";
import { waveformOverview } from "@bumbrel/core/dsp/overview";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrogram";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import type { Scene, Strand } from "@bumbrel/core/scene/document";
import { isMadeKey, samplesKey } from "@bumbrel/core/scene/soundSource";
import type { Track } from "@bumbrel/core/strand/track";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { type FromWorker, SPECTROGRAM_ROWS, type ToWorker } from "../analysis/messages";
import { ApiProblem, api, type LoadedProject, soundBytesUrl } from "../api/client";
import { Autosave, type SaveState } from "./autosave";
import { applyEdit, endGesture, type History, type Recipe, redo, undo } from "./history";

/** A sound's samples as they stand in memory. */
export interface LoadedSound {
  channels: readonly Float32Array[];
  mono: Float32Array;
  badSampleCount: number;
}

/** A strand over its whole sound. */
export interface Traces {
  raw: Float32Array;
  shaped: Track;
}

/** Levels of a sound on an axis, filling up as they are computed. */
export interface SpectrogramPicture {
  key: string;
  axis: FrequencyAxis;
  fftSize: number;
  /** `SPECTROGRAM_ROWS` bytes a frame. */
  levels: Uint8Array;
  framesReady: number;
}

const WAVEFORM_COLUMNS = 2400;

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
  spectrogram: SpectrogramPicture | undefined;

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
  private readonly waveforms = new WeakMap<Float32Array, Float32Array>();
  private pictureRequest = 0;
  private dataVersion = 0;
  private startS = 0;

  constructor(project: LoadedProject) {
    this.projectId = project.id;
    this.facts = new Map(Object.entries(project.facts));
    this.history = { scene: project.scene, past: [], future: [] };
    this.player = new ScenePlayer(project.scene);
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
  }

  get scene(): Scene {
    return this.history.scene;
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

  /** Min–max pairs of a sound for drawing, or `undefined` until it is loaded. */
  waveform(key: string): Float32Array | undefined {
    const sound = this.sounds.get(key);
    if (!sound) return undefined;
    let overview = this.waveforms.get(sound.mono);
    if (!overview) {
      overview = waveformOverview(sound.mono, WAVEFORM_COLUMNS);
      this.waveforms.set(sound.mono, overview);
    }
    return overview;
  }

  /** Has the spectrogram of a sound computed; it fills up in `spectrogram`. */
  showSpectrogram(key: string, axis: FrequencyAxis, fftSize: number): void {
    const old = this.spectrogram;
    const sound = this.sounds.get(key);
    if (!sound) return;
    if (old?.key === key && old.fftSize === fftSize && JSON.stringify(old.axis) === JSON.stringify(axis)) {
      return;
    }
    const frames = frameCount(sound.mono.length);
    this.spectrogram = {
      key,
      axis,
      fftSize,
      levels: new Uint8Array(frames * SPECTROGRAM_ROWS),
      framesReady: 0,
    };
    this.pictureRequest++;
    this.ask({ kind: "spectrogram", request: this.pictureRequest, key, axis, fftSize });
  }

  dispose(): void {
    void this.autosave.flush().finally(() => this.autosave.stop());
    this.worker.terminate();
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

  /** Takes up a position from an earlier visit as soon as there are sounds to have one. */
  startAt(timeS: number): void {
    this.startS = timeS;
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
    const { scene } = this;
    this.player.setScene(scene);
    for (const sound of scene.sounds) {
      const key = samplesKey(sound);
      if (this.sounds.has(key) || this.loading.has(key) || this.soundFailures.has(key)) continue;
      this.loading.set(key, 0);
      const from = sound.kind === "file" ? soundBytesUrl(sound.storedId) : sound;
      this.ask({ kind: "load", key, name: sound.name, from });
    }
    this.forgetUnusedTones();
    this.playSounds();
    for (const strand of scene.strands) this.requestStrand(strand);
    const alive = new Set(scene.strands.map(({ id }) => id));
    for (const id of [...this.traces.keys()]) {
      if (alive.has(id)) continue;
      this.traces.delete(id);
      this.requested.delete(id);
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
      this.ask({ kind: "forget", key });
    }
  }

  private requestStrand(strand: Strand): void {
    const sound = this.scene.sounds.find(({ id }) => id === strand.soundId);
    const asked = JSON.stringify([sound && samplesKey(sound), strand.measure, strand.shaping]);
    if (this.requested.get(strand.id)?.asked === asked) return;
    const number = ++this.strandRequests;
    this.requested.set(strand.id, { asked, number });
    if (!sound) {
      this.traces.delete(strand.id);
      return;
    }
    const { id: strandId, measure, shaping } = strand;
    this.ask({ kind: "strand", strandId, key: samplesKey(sound), measure, shaping, request: number });
  }

  private playSounds(): void {
    this.player.transport.setSounds(
      this.scene.sounds.flatMap((sound) => {
        const loaded = this.sounds.get(samplesKey(sound));
        const { id, heard, faderDb } = sound;
        return loaded ? [{ id, channels: loaded.channels, heard, faderDb }] : [];
      }),
    );
  }

  private giveTracks(): void {
    this.player.setTracks(new Map([...this.traces].map(([id, { shaped }]) => [id, shaped])));
  }

  private receive(message: FromWorker): void {
    switch (message.kind) {
      case "loading":
        this.loading.set(message.key, message.share);
        break;
      case "loaded": {
        const { key, channels, mono, badSampleCount } = message;
        this.loading.delete(key);
        this.sounds.set(key, { channels, mono, badSampleCount });
        this.playSounds();
        if (this.startS > 0 && this.startS <= this.player.transport.durationS) {
          this.player.transport.seek(this.startS);
          this.startS = 0;
        }
        break;
      }
      case "strand": {
        if (!this.requested.has(message.strandId)) return;
        this.answered.set(message.strandId, message.request);
        const traces = { raw: message.raw, shaped: { width: 1, values: message.shaped } };
        const isNew = !this.traces.has(message.strandId) || this.strandFailures.has(message.strandId);
        this.traces.set(message.strandId, traces);
        this.strandFailures.delete(message.strandId);
        this.giveTracks();
        this.following?.onTraces(message.strandId, traces);
        this.callSettled();
        // Drawings read traces by themselves; React hears of the first only, not of each while dragging.
        if (!isNew) return;
        break;
      }
      case "spectrogram":
        if (message.request !== this.pictureRequest || !this.spectrogram) return;
        this.spectrogram.levels.set(message.levels, message.firstFrame * SPECTROGRAM_ROWS);
        this.spectrogram.framesReady = message.firstFrame + message.levels.length / SPECTROGRAM_ROWS;
        return;
      case "failed":
        if (message.key) {
          this.loading.delete(message.key);
          this.soundFailures.set(message.key, message.message);
        }
        if (message.strandId) this.strandFailures.set(message.strandId, message.message);
        this.callSettled();
        break;
    }
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

/** What React may depend on: changes by edits and arrivals, never by frames. */
export interface WorkbenchSnapshot {
  scene: Scene;
  saved: SaveState;
  undoLabel: string | undefined;
  redoLabel: string | undefined;
  /** Goes up when a sound or a strand's traces arrive. */
  dataVersion: number;
}
