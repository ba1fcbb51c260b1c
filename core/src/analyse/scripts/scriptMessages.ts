import type { PackedSamples } from "../../dsp/maths/samples";
import type { ProgramProblem } from "../../program/exposed";
import type { ScriptLayout } from "../../program/scripts/scriptPrelude";
import type { Signal } from "../../strand/hearing/signal";
import type { Tuning } from "../../strand/tuning";

/** The samples and strands of a signal, as another thread is sent them. */
export interface PackedSignal extends Pick<Signal, "frames" | "strands"> {
  samples: PackedSamples;
}

/** Numbers that a script reads, and where they begin in the array of that name. */
export interface SandboxFill {
  name: "numbers" | "bandHz" | `spectrum${number}`;
  at: number;
  data: Float32Array;
}

/** One call of a drawing. */
export interface DrawingStep {
  step: number;
  timeS: number;
  values: Float64Array;
  waves?: Float32Array | undefined;
}

/** The drawing commands that a script gave at a step. */
export interface DrawnStep {
  step: number;
  /** As the recorder writes it, see `canvasOffers`. */
  tape: Float64Array;
  /** Milliseconds that the script took. */
  costMs: number;
}

/** A request to the thread that runs scripts. Each gets one answer, told by its number. */
export type ScriptCall =
  /** Makes a sandbox. */
  | { kind: "open"; sandbox: number; code: string; layout: ScriptLayout }
  /** Calls a drawing once for each step; answered with what was drawn and the texts it has used since. */
  | {
      kind: "draw";
      sandbox: number;
      forgets: boolean;
      width: number;
      height: number;
      fills: SandboxFill[];
      steps: DrawingStep[];
    }
  /** Reads the numbers of a program over a whole signal, before shaping. */
  | { kind: "read"; signal: PackedSignal; tuning: Tuning };

export type ToScripts =
  | (ScriptCall & { call: number })
  | { kind: "close"; sandbox: number }
  /** Stops a call between two slices of its work. */
  | { kind: "cancel"; call: number };

/** Answers by the kind of call. */
export interface ScriptAnswers {
  open: undefined;
  draw: { drawn: DrawnStep[]; words: string[] };
  read: Float32Array;
}

export type FromScripts =
  /** A script is about to run, or another slice of it has ended: the thread is alive. */
  | { kind: "working"; call: number }
  | { kind: "done"; call: number; answer: ScriptAnswers[keyof ScriptAnswers] }
  | { kind: "failed"; call: number; problem: ProgramProblem; isScript: boolean };
