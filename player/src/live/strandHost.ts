import { loadScripts } from "@bumbrel/core/program/scripts/loadScripts";
import { areScriptsLoaded } from "@bumbrel/core/program/scripts/scripts";
import { CombinedLive, LiveListening, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import type { Track } from "@bumbrel/core/strand/track";
import type { Tuning } from "@bumbrel/core/strand/tuning";

export type ToStrands =
  /** Strands that listen to an input from now on; those whose tuning has not changed go on. */
  | { kind: "listen"; soundId: string; strands: { id: string; tuning: Tuning }[] }
  | { kind: "stop"; soundId: string }
  /** Mono samples at 48 kHz as they came in, and when they were sent. */
  | { kind: "block"; soundId: string; samples: Float32Array; sentMs: number }
  /** A program makes a strand of others from now on, which have so many numbers each. */
  | { kind: "make"; id: string; tuning: Tuning; widths: number[] }
  | { kind: "unmake"; id: string }
  /** Numbers of those others: frames one after the other, the times on the tape of each. */
  | { kind: "frames"; id: string; timesS: number[]; numbers: Float32Array; sentMs: number };

/** A live strand's newest numbers. */
export interface LiveNumbers {
  id: string;
  /** Each frame since the last message before and after shaping, the newest last. */
  raw: Float32Array;
  shaped: Float32Array;
  /** Numbers in a frame. */
  width: number;
  /** Cues it has had so far, and how strong the newest was. */
  cueCount: number;
  cueStrength: number;
}

export type FromStrands =
  | { kind: "numbers"; strands: LiveNumbers[]; sentMs: number }
  /** The program of a strand is about to run. */
  | { kind: "running"; id: string }
  | { kind: "failed"; id: string; message: string };

interface Held {
  strand: LiveStrand;
  settings: string;
  isProgram: boolean;
}
interface Input {
  listening: LiveListening;
  strands: Map<string, Held>;
}
interface Made {
  strand: CombinedLive;
  /** The strands it is made of, with one frame each. */
  sources: Track[];
}

/** Reads the strands of live inputs, and those that programs make of others, wherever it runs: a worker, or a test. */
export class StrandHost {
  private readonly inputs = new Map<string, Input>();
  private readonly made = new Map<string, Made>();
  private readonly reply: (message: FromStrands) => void;
  private loading: Promise<unknown> | undefined;

  constructor(reply: (message: FromStrands) => void) {
    this.reply = reply;
  }

  take(message: ToStrands): void {
    switch (message.kind) {
      case "listen":
        // Strands that listen already go on until those of programs have their engine.
        if (message.strands.some(({ tuning }) => tuning.code !== undefined))
          this.withScripts(() => this.listen(message));
        else this.listen(message);
        break;
      case "stop":
        this.inputs.delete(message.soundId);
        break;
      case "block":
        this.hear(message);
        break;
      case "make":
        this.withScripts(() => this.make(message));
        break;
      case "unmake":
        this.made.get(message.id)?.strand.dispose();
        this.made.delete(message.id);
        break;
      case "frames":
        this.combine(message);
        break;
    }
  }

  /** Carries something out once scripts can run; at once where they can. */
  private withScripts(carryOut: () => void): void {
    if (areScriptsLoaded()) carryOut();
    else {
      this.loading ??= loadScripts();
      void this.loading.then(carryOut);
    }
  }

  private listen({ soundId, strands }: Extract<ToStrands, { kind: "listen" }>): void {
    const input = this.inputs.get(soundId) ?? { listening: new LiveListening(), strands: new Map() };
    this.inputs.set(soundId, input);
    const wanted = new Map(strands.map(({ id, tuning }) => [id, tuning]));
    for (const id of input.strands.keys()) if (!wanted.has(id)) drop(input, id);
    for (const [id, tuning] of wanted) {
      const settings = JSON.stringify(tuning);
      if (input.strands.get(id)?.settings === settings) continue;
      drop(input, id);
      const isProgram = tuning.code !== undefined;
      this.guarded(id, isProgram, () => {
        input.strands.set(id, { strand: new LiveStrand(tuning), settings, isProgram });
      });
    }
  }

  /** Announces a program before it runs, and says what is wrong with it. @returns whether it went well */
  private guarded(id: string, isProgram: boolean, carryOut: () => void): boolean {
    if (isProgram) this.reply({ kind: "running", id });
    try {
      carryOut();
      return true;
    } catch (error) {
      this.reply({ kind: "failed", id, message: (error as Error).message });
      return false;
    }
  }

  private hear({ soundId, samples, sentMs }: Extract<ToStrands, { kind: "block" }>): void {
    const input = this.inputs.get(soundId);
    if (!input || input.strands.size === 0) return;
    const held = [...input.strands];
    const frames = new Map(held.map(([id]) => [id, { raw: [] as number[], shaped: [] as number[] }]));
    // A strand that fails is left out from then on; the others have heard the hop by then or hear it next.
    const readers = held.map(([id, { strand, isProgram }]) => ({
      readSamples: (cursor: Parameters<LiveStrand["readSamples"]>[0]) => {
        if (!input.strands.has(id)) return;
        if (!this.guarded(id, isProgram, () => strand.readSamples(cursor))) drop(input, id);
      },
    }));
    const hops = input.listening.take(samples, readers, () => {
      for (const [id, { strand }] of held) {
        frames.get(id)!.raw.push(...strand.raw);
        frames.get(id)!.shaped.push(...strand.track.values);
      }
    });
    if (hops === 0) return;
    this.give(
      [...input.strands].map(([id, { strand }]) => ({ id, strand, ...frames.get(id)! })),
      sentMs,
    );
  }

  private make({ id, tuning, widths }: Extract<ToStrands, { kind: "make" }>): void {
    this.made.get(id)?.strand.dispose();
    const sources = widths.map((width): Track => ({ width, values: new Float32Array(width) }));
    const strand = new CombinedLive(tuning);
    this.made.set(id, { strand, sources });
  }

  private combine({ id, timesS, numbers, sentMs }: Extract<ToStrands, { kind: "frames" }>): void {
    const made = this.made.get(id);
    if (!made) return;
    const { strand, sources } = made;
    const raw: number[] = [];
    const shaped: number[] = [];
    let at = 0;
    for (const timeS of timesS) {
      for (const { width, values } of sources) {
        values.set(numbers.subarray(at, at + width));
        at += width;
      }
      if (!this.guarded(id, true, () => strand.readStrands(sources, timeS))) {
        this.made.delete(id);
        return;
      }
      raw.push(...strand.raw);
      shaped.push(...strand.track.values);
    }
    this.give([{ id, strand, raw, shaped }], sentMs);
  }

  private give(
    strands: { id: string; strand: LiveStrand | CombinedLive; raw: number[]; shaped: number[] }[],
    sentMs: number,
  ): void {
    this.reply({
      kind: "numbers",
      sentMs,
      strands: strands.map(({ id, strand, raw, shaped }) => ({
        id,
        raw: Float32Array.from(raw),
        shaped: Float32Array.from(shaped),
        width: strand.track.width,
        cueCount: strand.cueCount,
        cueStrength: strand.lastCue?.strength ?? 0,
      })),
    });
  }
}

function drop({ strands }: Input, id: string): void {
  strands.get(id)?.strand.dispose();
  strands.delete(id);
}
