import { strandsSignal } from "@bumbrel/core/scene/combining";
import { StrandAnalysis, type Tuning } from "@bumbrel/core/strand/analyse";
import { adviseOn, healthOf } from "@bumbrel/core/strand/health";
import { measureWidth } from "@bumbrel/core/strand/measures";
import { framesOf, type Signal } from "@bumbrel/core/strand/signal";
import type { CachedSpectra } from "@bumbrel/core/strand/spectrumSource";
import type { Track } from "@bumbrel/core/strand/track";
import type { FromWorker, StrandSource, ToWorker } from "./messages";

type Request = Extract<ToWorker, { kind: "strand" }>;

/** Milliseconds of work between two looks at the queue. */
const SLICE_MS = 12;
const SLICE_FRAMES = 64;
/** Results that are quicker to compute than to fetch are not kept. */
const WORTH_KEEPING_MS = 60;
/** While somebody drags, nothing is kept; only where they stay. */
const SETTLED_MS = 1500;

/** Where results of earlier visits are kept. */
export interface ResultStore {
  get(key: string): Promise<Float32Array | undefined>;
  put(key: string, raw: Float32Array): Promise<void>;
}

/** What strand work needs of the sounds around it. */
export interface Surroundings {
  /** The signal of what is heard, or `undefined` while it is loading. */
  signalOf(source: Extract<StrandSource, { kind: "sounds" }>): Signal | undefined;
  /** A name for what is heard that is the same for the same content, or `undefined` when there is none. */
  contentOf(source: Extract<StrandSource, { kind: "sounds" }>): string | undefined;
  spectra: CachedSpectra;
  results: ResultStore;
  makeNumbers(length: number): Float32Array;
  send(message: FromWorker): void;
}

interface Job {
  request: Request;
  analysis?: StrandAnalysis;
  /** What the raw numbers depend on. */
  rawKey: string;
  /** Under which they are kept. */
  resultKey?: string;
  costMs: number;
  /** Waiting for an earlier visit's result. */
  asking?: boolean;
  asked?: boolean;
  known?: { raw: Float32Array; width: number };
}

interface Done {
  request: number;
  track: Track;
  rawKey: string;
  raw: Float32Array;
  tuning: Tuning;
  isFresh: boolean;
}

/**
 * Computes strands a slice at a time: the newest request of each counts, numbers go out as they come, raw numbers are
 * used again while only shaping changes, and results of earlier visits are fetched instead of computed.
 */
export class StrandWork {
  private readonly jobs = new Map<string, Job>();
  private readonly done = new Map<string, Done>();
  private readonly around: Surroundings;

  constructor(around: Surroundings) {
    this.around = around;
  }

  take(request: Request): void {
    const rawKey = JSON.stringify([request.source, request.tuning.measure]);
    this.jobs.delete(request.strandId);
    this.jobs.set(request.strandId, { request, rawKey, costMs: 0 });
  }

  forget(strandId: string): void {
    this.jobs.delete(strandId);
    this.done.delete(strandId);
  }

  /** Works for one slice; says whether there was anything to do. */
  work(): boolean {
    for (const [strandId, job] of this.jobs) {
      if (job.asking) continue;
      try {
        const signal = this.signalOf(job);
        if (!signal) continue;
        if (!job.analysis && this.ask(job, signal)) continue;
        this.advance(strandId, job, signal);
      } catch (error) {
        this.jobs.delete(strandId);
        this.around.send({ kind: "failed", strandId, message: (error as Error).message });
      }
      return true;
    }
    return this.lookAfterOne();
  }

  private signalOf({ request: { source } }: Job): Signal | undefined {
    if (source.kind === "sounds") return this.around.signalOf(source);
    const tracks = source.sources.map(({ strandId, request }) => {
      const done = this.done.get(strandId);
      return done?.request === request ? done.track : undefined;
    });
    return strandsSignal(tracks, source.tapeS);
  }

  /** Looks whether an earlier visit left the numbers; says whether that has to be waited for. */
  private ask(job: Job, signal: Signal): boolean {
    const { strandId, source, tuning } = job.request;
    const before = this.done.get(strandId);
    if (before?.rawKey === job.rawKey) {
      job.known = { raw: before.raw, width: before.track.width };
      return false;
    }
    if (job.asked || source.kind !== "sounds") return false;
    job.asked = true;
    const content = this.around.contentOf(source);
    const { measure } = tuning;
    if (content === undefined) return false;
    const { spectra } = this.around;
    // With its spectra at hand a measure is quicker than a question.
    if ("fftSize" in measure && spectra.has(signal.samples, measure.fftSize, measure.window)) return false;
    job.asking = true;
    void this.askResults(job, content, signal).finally(() => {
      job.asking = false;
      this.onWake?.();
    });
    return true;
  }

  /** Called when there is work again after a wait. */
  onWake: (() => void) | undefined;

  private async askResults(job: Job, content: string, signal: Signal): Promise<void> {
    const { measure } = job.request.tuning;
    job.resultKey = await resultKey(content, job.request.source, measure);
    const raw = await this.around.results.get(job.resultKey).catch(() => undefined);
    if (!raw) return;
    const width = measureWidth(measure);
    if (raw.length !== framesOf(signal) * width) return;
    const numbers = this.around.makeNumbers(raw.length);
    numbers.set(raw);
    job.known = { raw: numbers, width };
  }

  private advance(strandId: string, job: Job, signal: Signal): void {
    const { spectra, makeNumbers, send } = this.around;
    const { tuning, request } = job.request;
    const before = performance.now();
    job.analysis ??= new StrandAnalysis(signal, tuning, spectra, job.known, makeNumbers);
    const { analysis } = job;
    while (!analysis.isDone && performance.now() - before < SLICE_MS) analysis.advance(SLICE_FRAMES);
    job.costMs += performance.now() - before;
    const { raw, shaped, width, framesReady } = analysis;
    if (!analysis.isDone) {
      send({ kind: "strand", strandId, request, raw, shaped, width, framesReady });
      // The others get their turn.
      this.jobs.delete(strandId);
      this.jobs.set(strandId, job);
      return;
    }
    this.jobs.delete(strandId);
    const track = { width, values: shaped };
    this.done.set(strandId, { request, track, rawKey: job.rawKey, raw, tuning, isFresh: true });
    send({ kind: "strand", strandId, request, raw, shaped, width, framesReady, cues: analysis.cues() });
    if (job.resultKey && !job.known && job.costMs > WORTH_KEEPING_MS)
      this.keepLater(strandId, job.resultKey, raw);
  }

  private keepLater(strandId: string, key: string, raw: Float32Array): void {
    setTimeout(() => {
      if (this.done.get(strandId)?.raw === raw) void this.around.results.put(key, raw).catch(() => undefined);
    }, SETTLED_MS);
  }

  /** How strands do is looked at when nothing more pressing is left. */
  private lookAfterOne(): boolean {
    for (const [strandId, done] of this.done) {
      if (!done.isFresh || this.jobs.has(strandId)) continue;
      done.isFresh = false;
      const { raw, track, tuning, request } = done;
      const health = healthOf(raw, track.values, track.width, tuning);
      this.around.send({ kind: "health", strandId, request, health, advice: adviseOn(health, raw, tuning) });
      return true;
    }
    return false;
  }
}

/** Goes up whenever a measure's definition changes, so that results of an older one are not taken for its own. */
const MEASURES_VERSION = 1;

/** SHA-256 of everything raw numbers depend on. */
async function resultKey(content: string, source: StrandSource, measure: Tuning["measure"]): Promise<string> {
  const heard = source.kind === "sounds" ? [source.listening.kind, source.tapeS] : [];
  const text = JSON.stringify([MEASURES_VERSION, content, heard, measure]);
  const digest = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
  return Array.from(new Uint8Array(digest), (byte) => byte.toString(16).padStart(2, "0")).join("");
}
