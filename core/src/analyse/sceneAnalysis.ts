import { SAMPLE_RATE_HZ } from "../constants";
import type { Scene, Strand } from "../document/scene";
import { runsWithTape } from "../document/strands/running";
import { happensLive, inMakingOrder, isMadeOf, sourcesOf, tuningOf } from "../document/strands/strands";
import type { Sliced } from "../dsp/maths/slices";
import type { Cue } from "../sound/cue";
import { samplesKey } from "../sound/key";
import type { Sound } from "../sound/kinds";
import type { SoundData } from "../sound/signal";
import { signalOf } from "../sound/soundSignal";
import { type Advice, adviseOn, type Health, healthOf } from "../strand/health";
import { framesOf, type Signal } from "../strand/hearing/signal";
import { CachedSpectra, type SpectrumSource } from "../strand/hearing/spectra";
import { measureWidth, sharedWork } from "../strand/measures/table";
import type { Track } from "../strand/track";
import type { Tuning } from "../strand/tuning";
import { hearSliced, type Listening, strandsSignal } from "./hearing";
import { loopOf, resolveListening } from "./listening";
import { isSamplesAlone, type Measurers, type ReadElsewhere } from "./measurers";
import { ProgramReader } from "./scripts/programReader";
import { type MakeNumbers, StrandAnalysis } from "./strandAnalysis";

/** The parts of a scene that the numbers of its strands depend on. */
export type AnalysedScene = Pick<Scene, "strands" | "sounds" | "buses" | "groups" | "objects" | "programs">;

/** A strand's numbers over its whole sound, as far as they have been computed. */
export interface StrandNumbers {
  strandId: string;
  /** Increases with each change of what the strand's numbers depend on. */
  request: number;
  /** Numbers a frame. */
  width: number;
  /** Before shaping, and after. */
  raw: Float32Array;
  shaped: Float32Array;
  /** Frames that have been computed; the rest are 0. */
  framesReady: number;
  /** Seconds after which its sound starts again; 0 if it does not. */
  loopS: number;
  /** Once all frames have been computed. */
  cues?: Cue[];
}

/** Why a strand has no numbers. */
export type NoNumbers =
  /** It listens to nothing, or to something that happens live. */
  | { kind: "none" }
  /** A sound of it is still loading. */
  | { kind: "waiting" }
  | { kind: "failed"; message: string };

/** Store of raw numbers from earlier visits. */
export interface ResultStore {
  get(key: string): Promise<Float32Array | undefined>;
  put(key: string, raw: Float32Array): Promise<void>;
  /** A digest of a text: results with the same are the same. */
  digest(text: string): Promise<string>;
}

export interface AnalysisHost {
  /** Numbers of a strand have been computed: some of them, or with cues all. */
  onNumbers(numbers: StrandNumbers): void;
  /** A strand has no numbers, or none any more. */
  onNone?(strandId: string, request: number, why: NoNumbers): void;
  onHealth?(strandId: string, request: number, health: Health, advice: Advice[]): void;
  /** Called when there is work again after waiting for the result store. */
  onWork?(): void;
  spectra?: SpectrumSource;
  makeNumbers?: MakeNumbers;
  results?: ResultStore;
  /** Threads that take over measures while this one is at work on others. */
  measurers?: Measurers | undefined;
  /** Milliseconds, for slices of even length. */
  now(): number;
}

/** Milliseconds of work in a slice. */
const SLICE_MS = 12;
const FRAMES_A_TURN = 64;
/** Results that are quicker to compute than to fetch are not kept. */
const WORTH_KEEPING_MS = 60;
/** Mixes that are kept, so that their spectra are found again while a range is dragged. */
const KEPT_MIXES = 4;
/** Increases with each change of a measure's definition, so that older results are not used for the new one. */
const MEASURES_VERSION = 4;
const OF_ITSELF = "This strand is made of itself. Remove the strand that leads back to it.";
const SOURCES_GONE = "The strands it was made of are gone. Choose others, or let it listen to a sound.";

type Source =
  | { kind: "sounds"; listening: Listening; tapeS: number }
  | { kind: "strands"; sources: { strandId: string; request: number }[]; tapeS: number };

interface Job {
  strandId: string;
  request: number;
  source: Source;
  tuning: Tuning;
  loopS: number;
  /** Identifies the inputs of its raw numbers; they are computed again when it changes. */
  rawKey: string;
  /** Names the work that it shares with others, if any. */
  workKey: string | undefined;
  hearing?: Sliced<Signal | undefined>;
  signal?: Signal;
  analysis?: StrandAnalysis;
  costMs: number;
  isFetching?: boolean;
  elsewhere?: ReadElsewhere;
  isReadHere?: boolean;
  wasReadElsewhere?: boolean;
  wasFetched?: boolean;
  resultKey?: string;
  known?: { raw: Float32Array; width: number };
}

interface Done {
  request: number;
  track: Track;
  raw: Float32Array;
  rawKey: string;
  workKey: string | undefined;
  tuning: Tuning;
  hasHealth: boolean;
}

interface Loaded {
  data: SoundData;
  signal: Signal;
  /** Names the content, whatever it is stored as. */
  content: string | undefined;
}

/**
 * Analyses a scene's sounds: (document, sounds) → numbers over time. The one way, for the workbench, delivered pages
 * and the command line.
 *
 * All work is sliced: call `work` until it returns false. The newest document counts, raw numbers are used again while
 * only shaping changes, and results of earlier visits are fetched instead of computed.
 *
 * @example
 * const analysis = new SceneAnalysis({ onNumbers: (numbers) => …, now: () => performance.now() });
 * analysis.setSound(samplesKey(sound), data);
 * analysis.setScene(scene);
 * while (analysis.work()) await nextTask();
 */
export class SceneAnalysis {
  private readonly host: AnalysisHost;
  private readonly spectra: SpectrumSource;
  private readonly programs = new ProgramReader();
  private scene: AnalysedScene | undefined;
  private wanted: readonly Strand[] = [];
  private readonly loaded = new Map<string, Loaded>();
  private readonly failedSounds = new Map<string, string>();
  private readonly mixes = new Map<string, Signal>();
  private readonly jobs = new Map<string, Job>();
  private readonly done = new Map<string, Done>();
  /** Last request of each strand's numbers, and its serial number. */
  private readonly asked = new Map<string, { key: string; request: number; why?: string }>();
  private requests = 0;

  constructor(host: AnalysisHost) {
    this.host = host;
    this.spectra = host.spectra ?? new CachedSpectra();
  }

  /**
   * Follows a document: only strands whose numbers depend on what has changed are computed again.
   *
   * @param wanted  the strands to compute; without it all of them
   */
  setScene(scene: AnalysedScene, wanted: readonly Strand[] = scene.strands): void {
    this.scene = scene;
    this.wanted = wanted;
    this.follow();
  }

  /** True if a sound is loaded. */
  has(key: string): boolean {
    return this.loaded.has(key);
  }

  dataOf(key: string): SoundData | undefined {
    return this.loaded.get(key)?.data;
  }

  /**
   * Makes a sound's samples known.
   *
   * @param sound  any sound with these samples
   * @param content  names the content, so that results of earlier visits are found again
   */
  setSound(sound: Sound, data: SoundData, content?: string): void {
    const key = samplesKey(sound);
    if (key === undefined) return;
    this.failedSounds.delete(key);
    this.loaded.set(key, { data, signal: signalOf(sound, data), content });
    this.mixes.clear();
    this.follow();
  }

  /** Makes known that a sound cannot be loaded: what listens to it has no numbers, and nothing waits for it. */
  setSoundFailed(key: string, message: string): void {
    this.failedSounds.set(key, message);
    this.follow();
  }

  forgetSound(key: string): void {
    this.loaded.delete(key);
    this.failedSounds.delete(key);
    this.mixes.clear();
  }

  /** Seconds of the tape: of its longest sound. `undefined` while sounds of it are loading. */
  tapeS(): number | undefined {
    let samples = 0;
    for (const sound of this.scene?.sounds ?? []) {
      if (!runsWithTape(this.scene as Scene, sound)) continue;
      const key = samplesKey(sound)!;
      const loaded = this.loaded.get(key);
      if (!loaded && !this.failedSounds.has(key)) return undefined;
      samples = Math.max(samples, loaded?.data.mono.length ?? 0);
    }
    return samples / SAMPLE_RATE_HZ;
  }

  /** True once every wanted strand has its numbers or cannot have any. */
  get isDone(): boolean {
    if (this.jobs.size > 0) return false;
    return [...this.asked.values()].every(({ why }) => why !== "waiting");
  }

  /** True while it waits for another thread or for a download; `onWork` is called when the result is there. */
  get isWaiting(): boolean {
    return [...this.jobs.values()].some(({ isFetching }) => isFetching);
  }

  /** Share of the numbers that have been computed, 0..1. */
  get share(): number {
    const strands = this.asked.size;
    if (strands === 0) return 1;
    let left = 0;
    for (const { analysis } of this.jobs.values()) {
      left += analysis ? 1 - analysis.framesReady / Math.max(1, analysis.frames) : 1;
    }
    return 1 - left / strands;
  }

  /** Works for one slice; returns whether there was anything to do. */
  work(): boolean {
    for (const job of this.jobs.values()) {
      if (job.isFetching) continue;
      try {
        if (!this.workOn(job)) continue;
      } catch (error) {
        this.fail(job, error as Error);
      }
      return true;
    }
    return this.checkHealthOfOne();
  }

  private fail({ strandId, request }: Job, { message }: Error): void {
    if (this.asked.get(strandId)?.request !== request) return;
    this.drop(strandId);
    this.asked.get(strandId)!.why = "failed";
    this.giveNone(strandId, request, { kind: "failed", message });
    // Strands made of it fail as well instead of waiting for it.
    this.follow();
  }

  private drop(strandId: string): void {
    const job = this.jobs.get(strandId);
    job?.analysis?.dispose();
    job?.elsewhere?.cancel();
    this.jobs.delete(strandId);
  }

  /** Compares what each strand depends on with what it was last computed from. */
  private follow(): void {
    const { scene } = this;
    if (!scene) return;
    const tapeS = this.tapeS();
    const alive = new Set(this.wanted.map(({ id }) => id));
    const ordered = inMakingOrder(scene as Scene, this.wanted);
    for (const { id } of ordered) alive.add(id);
    for (const id of [...this.asked.keys()]) {
      if (alive.has(id)) continue;
      this.asked.delete(id);
      this.drop(id);
      this.done.delete(id);
    }
    for (const strand of this.wanted) {
      if (!isMadeOf(scene as Scene, strand, strand.id)) continue;
      this.ask(strand, { kind: "failed", message: OF_ITSELF });
    }
    for (const strand of ordered) this.ask(strand, this.sourceOf(scene, strand, tapeS));
  }

  private ask(strand: Strand, source: Source | NoNumbers): void {
    const { id: strandId, measure } = strand;
    const tuning = tuningOf(this.scene!, strand);
    const key = JSON.stringify([source, tuning]);
    if (this.asked.get(strandId)?.key === key) return;
    const request = ++this.requests;
    const why = source.kind === "sounds" || source.kind === "strands" ? undefined : source.kind;
    this.asked.set(strandId, { key, request, why });
    this.drop(strandId);
    if (source.kind !== "sounds" && source.kind !== "strands") {
      if (source.kind !== "waiting") this.done.delete(strandId);
      this.giveNone(strandId, request, source);
      return;
    }
    const loopS = this.loopOf(strand);
    const rawKey = JSON.stringify([source, measure, tuning.code, tuning.part]);
    const shared = sharedWork(measure);
    const workKey = shared && JSON.stringify([source, shared, tuning.part]);
    this.jobs.set(strandId, { strandId, request, source, tuning, loopS, rawKey, workKey, costMs: 0 });
  }

  private giveNone(strandId: string, request: number, why: NoNumbers): void {
    this.host.onNone?.(strandId, request, why);
  }

  private loopOf({ listensTo }: Strand): number {
    const lengthS = (sound: Sound) => {
      const key = samplesKey(sound);
      const loaded = key === undefined ? undefined : this.loaded.get(key);
      return (loaded?.data.mono.length ?? 0) / SAMPLE_RATE_HZ;
    };
    return loopOf(this.scene as Scene, listensTo, lengthS);
  }

  /** Signal that a strand is read from, or the reason why it cannot be. */
  private sourceOf(scene: AnalysedScene, strand: Strand, tapeS: number | undefined): Source | NoNumbers {
    const whole = scene as Scene;
    if (strand.listensTo.kind === "strands") {
      const sources = sourcesOf(whole, strand);
      if (happensLive(whole, strand)) return { kind: "none" };
      if (sources.length === 0) {
        return strand.listensTo.ids.length > 0 ? { kind: "failed", message: SOURCES_GONE } : { kind: "none" };
      }
      for (const { id } of sources) {
        const why = this.asked.get(id)?.why;
        if (why === "waiting") return { kind: "waiting" };
        if (why !== undefined) {
          const name = sources.find((one) => one.id === id)?.name;
          return { kind: "failed", message: `The strand "${name}", which it is made of, has no numbers.` };
        }
      }
      if (tapeS === undefined) return { kind: "waiting" };
      return {
        kind: "strands",
        tapeS,
        sources: sources.map(({ id }) => ({ strandId: id, request: this.asked.get(id)?.request ?? 0 })),
      };
    }
    const listening = resolveListening(whole, strand.listensTo);
    if (!listening) return { kind: "none" };
    const sounds = listening.sounds.map((heard) => ({
      ...heard,
      soundId: samplesKey(scene.sounds.find(({ id }) => id === heard.soundId)!)!,
    }));
    for (const { soundId: key } of sounds) {
      const message = this.failedSounds.get(key);
      if (message !== undefined) return { kind: "failed", message: `Its sound cannot be loaded. ${message}` };
      if (!this.loaded.has(key)) return { kind: "waiting" };
    }
    if (listening.kind === "bus" && tapeS === undefined) return { kind: "waiting" };
    return {
      kind: "sounds",
      listening: { ...listening, sounds },
      tapeS: listening.kind === "bus" ? tapeS! : 0,
    };
  }

  /** @returns false while it has to wait */
  private workOn(job: Job): boolean {
    const before = this.host.now();
    const isOver = () => this.host.now() - before >= SLICE_MS;
    if (!job.signal) {
      job.hearing ??= this.hearingOf(job);
      for (;;) {
        const { done, value } = job.hearing.next();
        if (done) {
          job.signal = value;
          break;
        }
        if (isOver()) return true;
      }
      job.hearing = undefined;
      if (!job.signal) return false;
    }
    if (!job.analysis && this.fetchKnown(job, job.signal)) return true;
    if (!job.analysis && !job.known && this.readElsewhere(job, job.signal)) return true;
    const { makeNumbers } = this.host;
    job.analysis ??= new StrandAnalysis(job.signal, job.tuning, this.spectra, job.known, makeNumbers);
    const { analysis } = job;
    while (!analysis.isDone && !isOver()) analysis.advance(FRAMES_A_TURN);
    job.costMs += this.host.now() - before;
    this.give(job, analysis);
    return true;
  }

  private give(job: Job, analysis: StrandAnalysis): void {
    const { strandId, request, loopS, tuning, rawKey, workKey } = job;
    const { raw, shaped, width, framesReady, isDone } = analysis;
    const numbers = { strandId, request, width, raw, shaped, framesReady, loopS };
    this.jobs.delete(strandId);
    if (!isDone) {
      if (framesReady > 0) this.host.onNumbers(numbers);
      // The others get their turn.
      this.jobs.set(strandId, job);
      return;
    }
    analysis.dispose();
    const track = { width, values: shaped };
    this.done.set(strandId, { request, track, raw, rawKey, workKey, tuning, hasHealth: false });
    this.host.onNumbers({ ...numbers, cues: analysis.cues() });
    const isNew = !job.known || job.wasReadElsewhere;
    const isWorthKeeping = job.resultKey !== undefined && isNew && job.costMs > WORTH_KEEPING_MS;
    if (isWorthKeeping) void this.host.results?.put(job.resultKey!, raw).catch(() => undefined);
  }

  private *hearingOf({ source }: Job): Sliced<Signal | undefined> {
    if (source.kind === "strands") {
      const tracks = source.sources.map(({ strandId, request }) => {
        const done = this.done.get(strandId);
        return done?.request === request ? done.track : undefined;
      });
      return strandsSignal(tracks, source.tapeS);
    }
    const { listening, tapeS } = source;
    const key = JSON.stringify([listening, tapeS]);
    const known = this.mixes.get(key);
    this.mixes.delete(key);
    const signal = known ?? (yield* hearSliced(listening, (one) => this.loaded.get(one)?.signal, tapeS));
    if (!signal) return undefined;
    this.mixes.set(key, signal);
    for (const old of this.mixes.keys()) {
      if (this.mixes.size <= KEPT_MIXES) break;
      this.mixes.delete(old);
    }
    return signal;
  }

  /** Finds raw numbers that are known already; returns whether they are being fetched. */
  private fetchKnown(job: Job, signal: Signal): boolean {
    const { strandId, source, tuning } = job;
    const before = this.done.get(strandId);
    if (before?.rawKey === job.rawKey) {
      job.known = { raw: before.raw, width: before.track.width };
      return false;
    }
    const { results } = this.host;
    if (!results || job.wasFetched || source.kind !== "sounds") return false;
    job.wasFetched = true;
    const content = this.contentOf(source.listening);
    if (content === undefined) return false;
    const { measure } = tuning;
    const { spectra } = this;
    // With its spectra at hand a measure is quicker than a question.
    const hasSpectra =
      "fftSize" in measure &&
      spectra instanceof CachedSpectra &&
      !tuning.part &&
      spectra.has(signal.samples, measure.fftSize, measure.window);
    if (hasSpectra) return false;
    job.isFetching = true;
    void this.fetch(job, results, content, signal).finally(() => {
      job.isFetching = false;
      this.host.onWork?.();
    });
    return true;
  }

  /**
   * Has another thread read a measure: a program always, others while this thread has more to read.
   *
   * @returns whether it does
   */
  private readElsewhere(job: Job, signal: Signal): boolean {
    if (job.tuning.code !== undefined) {
      this.awaitElsewhere(job, this.programs.read(signal, job.tuning), (error) => this.fail(job, error));
      return true;
    }
    const { measurers } = this.host;
    if (!measurers || job.isReadHere || job.tuning.part || !isSamplesAlone(signal)) return false;
    const others = [...this.jobs.values()].filter((one) => one !== job && !one.isFetching);
    // Shared work is done once, by this thread.
    const isShared = (one: Pick<Job, "workKey">) => job.workKey !== undefined && one.workKey === job.workKey;
    if (others.length === 0 || others.some(isShared) || [...this.done.values()].some(isShared)) return false;
    const elsewhere = measurers.read(signal, job.tuning.measure);
    if (!elsewhere) return false;
    // After an error there the measure is read here, which reports its own errors.
    this.awaitElsewhere(job, elsewhere, () => {
      job.isReadHere = true;
    });
    return true;
  }

  private awaitElsewhere(job: Job, elsewhere: ReadElsewhere, onError: (error: Error) => void): void {
    job.elsewhere = elsewhere;
    job.isFetching = true;
    const before = this.host.now();
    void elsewhere.numbers
      .then((raw) => {
        job.known = { raw, width: measureWidth(job.tuning.measure) };
        job.wasReadElsewhere = true;
        job.costMs += this.host.now() - before;
      }, onError)
      .finally(() => {
        job.isFetching = false;
        job.elsewhere = undefined;
        this.host.onWork?.();
      });
  }

  private async fetch(job: Job, results: ResultStore, content: string, signal: Signal): Promise<void> {
    const { source, tuning } = job;
    const heard = source.kind === "sounds" ? [source.listening.kind, source.tapeS] : [];
    const { measure, code, part } = tuning;
    const text = JSON.stringify([MEASURES_VERSION, content, heard, measure, code, part]);
    job.resultKey = await results.digest(text);
    const raw = await results.get(job.resultKey).catch(() => undefined);
    const width = measureWidth(tuning.measure);
    if (!raw || raw.length !== framesOf(signal) * width) return;
    const numbers = this.host.makeNumbers?.(raw.length) ?? new Float32Array(raw.length);
    numbers.set(raw);
    job.known = { raw: numbers, width };
  }

  private contentOf({ sounds }: Listening): string | undefined {
    const heard = sounds.map((sound) => ({ ...sound, soundId: this.loaded.get(sound.soundId)?.content }));
    return heard.every(({ soundId }) => soundId !== undefined) ? JSON.stringify(heard) : undefined;
  }

  /** Strands' health is computed when nothing more pressing is left. */
  private checkHealthOfOne(): boolean {
    if (!this.host.onHealth) return false;
    for (const [strandId, done] of this.done) {
      if (done.hasHealth || this.jobs.has(strandId)) continue;
      done.hasHealth = true;
      const { raw, track, tuning, request } = done;
      const health = healthOf(raw, track.values, track.width, tuning);
      this.host.onHealth(strandId, request, health, adviseOn(health, raw, tuning));
      return true;
    }
    return false;
  }
}
