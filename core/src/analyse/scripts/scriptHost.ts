import { unpackSamples } from "../../dsp/maths/samples";
import { loadScripts } from "../../program/scripts/loadScripts";
import type { Sandbox } from "../../program/scripts/sandbox";
import { ScriptError } from "../../program/scripts/scriptError";
import { DirectSpectra } from "../../strand/hearing/spectra";
import { StrandAnalysis } from "../strandAnalysis";
import type { DrawnStep, FromScripts, ScriptAnswers, ScriptCall, ToScripts } from "./scriptMessages";

/** Milliseconds of work between two signs of life. */
const SLICE_MS = 100;
const FRAMES_A_TURN = 64;

/**
 * Runs scripts, in a thread that may be ended at any time. Calls are carried out one after the other; each slice of
 * a script is announced, so that whoever watches knows how long it has been silent.
 */
export class ScriptHost {
  private readonly sandboxes = new Map<number, { sandbox: Sandbox; words: number }>();
  private readonly cancelled = new Set<number>();
  private queue = Promise.resolve();
  private readonly reply: (message: FromScripts, transfer: ArrayBufferLike[]) => void;
  private readonly now: () => number;
  private readonly pause: () => Promise<void>;

  /**
   * @param now  milliseconds
   * @param pause  lets messages in that have come meanwhile
   */
  constructor(
    reply: (message: FromScripts, transfer: ArrayBufferLike[]) => void,
    now: () => number,
    pause: () => Promise<void>,
  ) {
    this.reply = reply;
    this.now = now;
    this.pause = pause;
  }

  take(message: ToScripts): void {
    if (message.kind === "cancel") this.cancelled.add(message.call);
    else if (message.kind === "close") {
      this.queue = this.queue.then(() => {
        this.sandboxes.get(message.sandbox)?.sandbox.dispose();
        this.sandboxes.delete(message.sandbox);
      });
    } else this.queue = this.queue.then(() => this.carryOut(message));
  }

  private async carryOut(message: ScriptCall & { call: number }): Promise<void> {
    const { call } = message;
    try {
      await loadScripts();
      this.reply({ kind: "working", call }, []);
      const transfer: ArrayBufferLike[] = [];
      const answer = await this.answerTo(message, transfer);
      this.reply({ kind: "done", call, answer }, transfer);
    } catch (error) {
      const isScript = error instanceof ScriptError;
      const problem = isScript ? error.problem : { line: 1, message: (error as Error).message };
      this.reply({ kind: "failed", call, problem, isScript }, []);
    } finally {
      this.cancelled.delete(call);
    }
  }

  private async answerTo(
    message: ScriptCall & { call: number },
    transfer: ArrayBufferLike[],
  ): Promise<ScriptAnswers[keyof ScriptAnswers]> {
    switch (message.kind) {
      case "open": {
        const { Sandbox } = await loadScripts();
        this.sandboxes.set(message.sandbox, { sandbox: new Sandbox(message.code, message.layout), words: 0 });
        return undefined;
      }
      case "draw":
        return this.draw(message, transfer);
      case "read":
        return this.read(message);
    }
  }

  private draw(
    { call, sandbox: id, forgets, width, height, fills, steps }: Extract<ToScripts, { kind: "draw" }>,
    transfer: ArrayBufferLike[],
  ): ScriptAnswers["draw"] {
    const held = this.sandboxes.get(id)!;
    const { sandbox } = held;
    if (forgets) sandbox.forget();
    for (const { name, at, data } of fills) sandbox.floats(name).set(data, at);
    const drawn: DrawnStep[] = [];
    let toldMs = this.now();
    for (const { step, timeS, values, waves } of steps) {
      const before = this.now();
      if (before - toldMs > SLICE_MS) {
        toldMs = before;
        this.reply({ kind: "working", call }, []);
      }
      sandbox.floats("values").set(values);
      if (waves) sandbox.floats("waves").set(waves);
      sandbox.run(step, timeS, width, height);
      const all = sandbox.floats("tape");
      const tape = all.slice(0, Math.min(all.length, all[0]));
      drawn.push({ step, tape, costMs: this.now() - before });
      transfer.push(tape.buffer);
    }
    const count = sandbox.floats("tape")[1];
    const words = count > held.words ? sandbox.wordsFrom(held.words) : [];
    held.words = Math.max(held.words, count);
    return { drawn, words };
  }

  private async read({ call, signal, tuning }: Extract<ToScripts, { kind: "read" }>): Promise<Float32Array> {
    const unpacked = { ...signal, samples: unpackSamples(signal.samples) };
    const analysis = new StrandAnalysis(unpacked, { ...tuning, cues: undefined }, new DirectSpectra());
    try {
      let toldMs = this.now();
      while (!analysis.isDone) {
        analysis.advance(FRAMES_A_TURN);
        if (this.now() - toldMs < SLICE_MS) continue;
        this.reply({ kind: "working", call }, []);
        await this.pause();
        if (this.cancelled.has(call)) throw new Error("It is not needed any more.");
        toldMs = this.now();
      }
      return analysis.raw;
    } finally {
      analysis.dispose();
    }
  }
}
