import type { StoredSound } from "@bumbrel/core/sound/kinds";
import { nanoid } from "nanoid";
import type { OnPart, PreparedFile } from "./prepareFile";

/** A file on its way in. */
export interface Arrival {
  id: string;
  name: string;
  stage: "waiting" | "reading" | "storing" | "failed";
  /** 0..1 of the stage. */
  share: number;
  /** Its waveform as far as it has been read. */
  pairs: Float32Array[];
  message?: string;
  abort: AbortController;
}

/** What arrivals need of the project around them. */
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
  add(name: string, kind: StoredSound["kind"], storedId: string): void;
  replace(soundId: string, kind: StoredSound["kind"], storedId: string): void;
}

/** Files that are read at a time: decoding is work for a core each. */
const AT_ONCE = 2;
const NO_SOUND = /^(image|font)\/|^text\/(?!csv)|^application\/(pdf|json|zip|javascript)$/;
const NO_SOUND_NAME = /^\.|\.(png|jpe?g|gif|webp|svg|txt|md|pdf|json|zip|html?|css|js|ts)$/i;

/** Whether a file says of itself that it is something else than sound. */
const isNoSound = ({ name, type }: File) => NO_SOUND.test(type) || NO_SOUND_NAME.test(name);

/** Brings files in, some at a time, and knows how far each of them is. */
export class Arrivals {
  private list: readonly Arrival[] = [];
  private readonly parts: ArrivalParts;
  private readonly listeners = new Set<() => void>();

  constructor(parts: ArrivalParts) {
    this.parts = parts;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** A new list after each change. */
  readonly all = (): readonly Arrival[] => this.list;

  /** @param replacing  the id of the sound that the first file replaces */
  async bring(files: readonly File[], replacing?: string): Promise<void> {
    const others = files.filter(isNoSound);
    if (others.length > 0) {
      const names = others.slice(0, 3).map(({ name }) => name);
      const more = others.length > 3 ? ` and ${others.length - 3} more` : "";
      const message = `${names.join(", ")}${more}: not a sound. Nothing was brought in of it.`;
      this.set([...this.list, { ...newArrival(names[0]), stage: "failed", message }]);
    }
    const queue = files
      .filter((file) => !isNoSound(file))
      .map((file) => ({ file, arrival: newArrival(file.name) }));
    this.set([...this.list, ...queue.map(({ arrival }) => arrival)]);
    const work = async () => {
      for (let next = queue.shift(); next; next = queue.shift()) {
        await this.bringOne(next.file, next.arrival, replacing);
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
      if (replacing) parts.replace(replacing, is, storedId);
      else parts.add(name, is, storedId);
      this.forget(id);
    } catch (error) {
      if (abort.signal.aborted) this.forget(id);
      else this.update(id, { stage: "failed", message: (error as Error).message });
    }
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

const newArrival = (name: string): Arrival => ({
  id: nanoid(8),
  name,
  stage: "waiting",
  share: 0,
  pairs: [],
  abort: new AbortController(),
});
