import type { Asset } from "@bumbrel/core/document/scene";
import type { StoredSound } from "@bumbrel/core/sound/kinds";
import { nanoid } from "nanoid";
import type { PendingImport, PendingImports } from "./pendingImports";
import type { OnPart } from "./prepareFile";
import type { PreparedFile } from "./prepareMessages";

/** A file on its way in. */
export interface Arrival {
  id: string;
  name: string;
  becomes: PendingImport["becomes"];
  stage: "waiting" | "reading" | "storing" | "failed";
  /** 0..1 of the stage. */
  share: number;
  /** Its waveform as far as it has been read. */
  pairs: Float32Array[];
  message?: string;
  abort: AbortController;
}

/** Operations of the project that arrivals need. */
export interface ArrivalParts {
  prepare(file: File, signal: AbortSignal, onPart: OnPart): Promise<PreparedFile>;
  /** Stores a sound's bytes; returns the id they are stored under. */
  store(
    name: string,
    facts: PreparedFile["facts"],
    bytes: Blob,
    onShare: (share: number) => void,
    signal: AbortSignal,
  ): Promise<string>;
  /** Reads and stores an image or model. */
  importAsset(file: File, kind: Asset["kind"], signal: AbortSignal): Promise<Asset>;
  /** Puts an object on the stage that shows an asset; gives its id. */
  show(asset: Asset): string;
  add(name: string, kind: StoredSound["kind"], storedId: string): void;
  replace(soundId: string, kind: StoredSound["kind"], storedId: string): void;
}

/** Files that are read at a time: decoding is work for a core each. */
const AT_ONCE = 2;
const NO_SOUND = /^(image|font)\/|^text\/(?!csv)|^application\/(pdf|json|zip|javascript)$/;
const NO_SOUND_NAME = /^\.|\.(png|jpe?g|gif|webp|svg|txt|md|pdf|json|zip|html?|css|js|ts)$/i;

/** True if a file says of itself that it is something else than sound. */
const isNoSound = ({ name, type }: File) => NO_SOUND.test(type) || NO_SOUND_NAME.test(name);

/** Brings files into a project, some at a time, and knows how far each of them is. */
export class Arrivals {
  private list: readonly Arrival[] = [];
  private readonly parts: ArrivalParts;
  private readonly projectId: string;
  private readonly pending: PendingImports;
  private readonly listeners = new Set<() => void>();

  constructor(projectId: string, parts: ArrivalParts, pending: PendingImports) {
    this.projectId = projectId;
    this.parts = parts;
    this.pending = pending;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** A new list after each change. */
  readonly all = (): readonly Arrival[] => this.list;

  /** True if something is on its way. */
  get isBusy(): boolean {
    return this.list.some(({ stage }) => stage !== "failed");
  }

  /** Takes up what a page that was closed in the middle left, or says that it has to be added again. */
  async takeUp(): Promise<void> {
    for (const { name, file, becomes, replacing } of await this.pending.takeLeft(this.projectId)) {
      if (!file) {
        const message = `${name} was on its way in when the page was closed. Add it again.`;
        this.set([...this.list, { ...newArrival(name, becomes), stage: "failed", message }]);
      } else if (becomes === "sound") void this.bring([file], replacing);
      else void this.bringAsset(file, becomes);
    }
  }

  /** Stops everything, as when the project is left. */
  dispose(): void {
    for (const { abort } of this.list) abort.abort();
    this.listeners.clear();
  }

  /**
   * Brings an image or model in.
   *
   * @returns the id of the object that shows it; `undefined` when it was stopped or has failed
   */
  async bringAsset(file: File, kind: Asset["kind"]): Promise<string | undefined> {
    const arrival = newArrival(file.name, kind);
    const { id, abort } = arrival;
    this.set([...this.list, { ...arrival, stage: "reading" }]);
    this.pending.begin(id, { projectId: this.projectId, name: file.name, becomes: kind, file });
    try {
      const asset = await this.parts.importAsset(file, kind, abort.signal);
      abort.signal.throwIfAborted();
      this.forget(id);
      return this.parts.show(asset);
    } catch (error) {
      this.failed(arrival, error);
      return undefined;
    } finally {
      this.pending.end(id);
    }
  }

  /** @param replacing  the id of the sound that the first file replaces */
  async bring(files: readonly File[], replacing?: string): Promise<void> {
    const others = files.filter(isNoSound);
    if (others.length > 0) {
      const names = others.slice(0, 3).map(({ name }) => name);
      const more = others.length > 3 ? ` and ${others.length - 3} more` : "";
      const message = `${names.join(", ")}${more}: not a sound. Nothing was brought in of it.`;
      this.set([...this.list, { ...newArrival(names[0], "sound"), stage: "failed", message }]);
    }
    const queue = files
      .filter((file) => !isNoSound(file))
      .map((file) => ({ file, arrival: newArrival(file.name, "sound") }));
    this.set([...this.list, ...queue.map(({ arrival }) => arrival)]);
    const { projectId } = this;
    for (const { file, arrival } of queue) {
      this.pending.begin(arrival.id, { projectId, name: file.name, becomes: "sound", replacing, file });
    }
    const work = async () => {
      for (let next = queue.shift(); next; next = queue.shift()) {
        await this.bringOne(next.file, next.arrival, replacing);
        this.pending.end(next.arrival.id);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
  }

  /** Stops a file, or removes what is said of one that failed. */
  dismiss({ id, abort }: Arrival): void {
    abort.abort();
    this.forget(id);
  }

  private async bringOne(file: File, arrival: Arrival, replacing: string | undefined): Promise<void> {
    const { id, abort, pairs } = arrival;
    if (abort.signal.aborted) return this.forget(id);
    const { parts } = this;
    try {
      this.update(id, { stage: "reading" });
      const { is, facts, bytes } = await parts.prepare(file, abort.signal, (share, part) => {
        pairs.push(part);
        this.update(id, { share });
      });
      this.update(id, { stage: "storing", share: 0 });
      const name = file.name.replace(/\.[^.]+$/, "").slice(0, 120) || "Sound";
      const onShare = (share: number) => this.update(id, { share });
      const storedId = await parts.store(name, facts, bytes, onShare, abort.signal);
      abort.signal.throwIfAborted();
      if (replacing) parts.replace(replacing, is, storedId);
      else parts.add(name, is, storedId);
      this.forget(id);
    } catch (error) {
      this.failed(arrival, error);
    }
  }

  private failed({ id, abort }: Arrival, error: unknown): void {
    if (abort.signal.aborted) this.forget(id);
    else this.update(id, { stage: "failed", message: (error as Error).message });
  }

  private update(id: string, change: Partial<Arrival>): void {
    this.set(this.list.map((one) => (one.id === id ? { ...one, ...change } : one)));
  }

  private forget(id: string): void {
    this.set(this.list.filter((one) => one.id !== id));
  }

  private set(list: readonly Arrival[]): void {
    this.list = list;
    for (const listener of this.listeners) listener();
  }
}

const newArrival = (name: string, becomes: Arrival["becomes"]): Arrival => ({
  id: nanoid(8),
  name,
  becomes,
  stage: "waiting",
  share: 0,
  pairs: [],
  abort: new AbortController(),
});
