import { areScriptsLoaded, loadScripts } from "@bumbrel/core/program/scripts";
import { LiveListening, LiveStrand } from "@bumbrel/core/strand/live";
import type { Tuning } from "@bumbrel/core/strand/tuning";

export type ToStrands =
  /** Who listens to an input from now on; those whose tuning has not changed go on. */
  | { kind: "listen"; soundId: string; strands: { id: string; tuning: Tuning }[] }
  | { kind: "stop"; soundId: string }
  /** Mono samples at 48 kHz as they came in, and when they were sent. */
  | { kind: "block"; soundId: string; samples: Float32Array; sentMs: number };

/** A live strand's newest numbers. */
export interface LiveNumbers {
  id: string;
  /** Each frame since the last message before and after shaping, the newest last. */
  raw: Float32Array;
  shaped: Float32Array;
  /** Cues it has had so far, and how strong the newest was. */
  cueCount: number;
  cueStrength: number;
}

export type FromStrands = {
  kind: "numbers";
  soundId: string;
  strands: LiveNumbers[];
  sentMs: number;
};

interface Input {
  listening: LiveListening;
  strands: Map<string, { strand: LiveStrand; settings: string }>;
}

/** Reads the strands of live inputs, wherever it runs: a worker of its own, or a test. */
export class StrandHost {
  private readonly inputs = new Map<string, Input>();
  private readonly reply: (message: FromStrands) => void;

  constructor(reply: (message: FromStrands) => void) {
    this.reply = reply;
  }

  take(message: ToStrands): void {
    switch (message.kind) {
      case "listen":
        if (message.strands.some(({ tuning }) => tuning.code !== undefined) && !areScriptsLoaded()) {
          // What listens until then goes on; those of programs come with their engine.
          void loadScripts().then(() => this.listen(message));
        } else this.listen(message);
        break;
      case "stop":
        this.inputs.delete(message.soundId);
        break;
      case "block":
        this.hear(message);
        break;
    }
  }

  private listen({ soundId, strands }: Extract<ToStrands, { kind: "listen" }>): void {
    const input = this.inputs.get(soundId) ?? { listening: new LiveListening(), strands: new Map() };
    this.inputs.set(soundId, input);
    const wanted = new Map(strands.map(({ id, tuning }) => [id, tuning]));
    const drop = (id: string) => {
      input.strands.get(id)?.strand.dispose();
      input.strands.delete(id);
    };
    for (const id of input.strands.keys()) if (!wanted.has(id)) drop(id);
    for (const [id, tuning] of wanted) {
      const settings = JSON.stringify(tuning);
      if (input.strands.get(id)?.settings === settings) continue;
      drop(id);
      input.strands.set(id, { strand: new LiveStrand(tuning), settings });
    }
  }

  private hear({ soundId, samples, sentMs }: Extract<ToStrands, { kind: "block" }>): void {
    const input = this.inputs.get(soundId);
    if (!input || input.strands.size === 0) return;
    const strands = [...input.strands.values()].map(({ strand }) => strand);
    const frames = strands.map(() => ({ raw: [] as number[], shaped: [] as number[] }));
    const hops = input.listening.take(samples, strands, () => {
      for (let i = 0; i < strands.length; i++) {
        frames[i].raw.push(...strands[i].raw);
        frames[i].shaped.push(...strands[i].track.values);
      }
    });
    if (hops === 0) return;
    this.reply({
      kind: "numbers",
      soundId,
      sentMs,
      strands: [...input.strands].map(([id, { strand }], i) => ({
        id,
        raw: Float32Array.from(frames[i].raw),
        shaped: Float32Array.from(frames[i].shaped),
        cueCount: strand.cueCount,
        cueStrength: strand.lastCue?.strength ?? 0,
      })),
    });
  }
}
