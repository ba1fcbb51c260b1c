import variant from "@jitl/quickjs-singlefile-browser-release-sync";
import {
  newQuickJSWASMModuleFromVariant,
  newVariant,
  type QuickJSContext,
  type QuickJSHandle,
  type QuickJSRuntime,
  type QuickJSWASMModule,
} from "quickjs-emscripten-core";
import { platform } from "../../platform";
import type { ProgramProblem } from "../exposed";
import { MOST_RECORDED } from "../offers/canvasOffers";
import { MEMORY_COLUMNS, MEMORY_ROWS, VALUE_NUMBERS, WAVE_SAMPLES } from "../offers/memory";
import { ScriptError } from "./scriptError";
import { SCRIPT_LIMITS } from "./scriptLimits";
import { type ScriptLayout, scriptPrelude } from "./scriptPrelude";
import { strip, syntaxInWords } from "./strip";

const MEMORY_BYTES = SCRIPT_LIMITS.megabytes * 2 ** 20;
const STACK_BYTES = 256 * 1024;
/** The engine asks after so many turns of loops and calls whether to go on. */
const STEPS_A_CHECK = 10_000;
let engine: QuickJSWASMModule | undefined;
let loading: Promise<void> | undefined;

/** Bytes in a page of WebAssembly memory, and pages that the engine starts with. */
const PAGE_BYTES = 65_536;
const FIRST_PAGES = 256;

/**
 * Memory of the engine with an end outside of the engine: its own limit does not count everything that typed arrays take.
 */
const engineMemory = () =>
  new platform.WebAssembly.Memory({
    initial: FIRST_PAGES,
    maximum: (SCRIPT_LIMITS.engineMegabytes * 2 ** 20) / PAGE_BYTES,
  });

/** Loads the engine that scripts run in; it takes a moment, and is done once. */
export function loadEngine(): Promise<void> {
  const capped = async () =>
    newQuickJSWASMModuleFromVariant(newVariant(variant, { wasmMemory: engineMemory() as never }));
  loading ??= capped().then(
    (made) => {
      engine = made;
    },
    (error: unknown) => {
      // Another try may find it.
      loading = undefined;
      throw error;
    },
  );
  return loading;
}
export const isEngineLoaded = (): boolean => engine !== undefined;

/** The memory that a sandbox shares with who fills it, by what it is. */
type Float32Name = "numbers" | "bandHz" | "waves" | "out" | `spectrum${number}`;
type Float64Name = "values" | "tape";

/**
 * A script with walls around it: it reaches nothing but what it is given, has a memory of its own with an end, and is
 * stopped when it does not answer. It has neither a clock nor chance.
 *
 * @example
 * await loadEngine();
 * const sandbox = new Sandbox(code, { kind: "number", columns: 1, sounds: 0, bands: 1, values: [], strands: [] });
 * sandbox.run(100, 1);
 * sandbox.floats("out")[0];
 */
export class Sandbox {
  readonly layout: ScriptLayout;
  private readonly runtime: QuickJSRuntime;
  private readonly context: QuickJSContext;
  private readonly host: QuickJSHandle | undefined;
  private readonly runHandle: QuickJSHandle | undefined;
  private readonly arrays = new Map<string, { at: number; length: number }>();
  private checks = 0;
  private untilMs = 0;
  private isGone = false;

  /**
   * @param code  TypeScript or JavaScript
   * @throws ScriptError when it cannot be read, defines no function of its kind, or fails at once
   * @throws Error when the engine has not been loaded
   */
  constructor(code: string, layout: ScriptLayout) {
    if (!engine) throw new Error("The engine for programs has not been loaded.");
    const plain = strip(code);
    this.layout = layout;
    this.runtime = engine.newRuntime();
    this.runtime.setMemoryLimit(MEMORY_BYTES);
    this.runtime.setMaxStackSize(STACK_BYTES);
    // Our own prelude runs without a limit: the very first call into a cold engine can take over a second.
    this.untilMs = Number.POSITIVE_INFINITY;
    this.runtime.setInterruptHandler(() => {
      this.checks++;
      return this.checks * STEPS_A_CHECK > SCRIPT_LIMITS.steps || performance.now() > this.untilMs;
    });
    this.context = this.runtime.newContext({ intrinsics: INTRINSICS });
    try {
      const make = this.take(this.evaluate(scriptPrelude(layout.kind), "bumbrel.js"));
      const given = this.take(this.evaluate(`(${JSON.stringify(layout)})`, "layout.js"));
      const buffers = this.context.newObject();
      for (const [name, length] of sharedArrays(layout)) {
        const buffer = this.share(name, length);
        this.context.setProp(buffers, name, buffer);
        buffer.dispose();
      }
      this.host = this.take(this.context.callFunction(make, this.context.undefined, given, buffers));
      for (const one of [make, given, buffers]) one.dispose();
      this.runHandle = this.context.getProp(this.host!, "run");
      this.allowTime();
      this.take(this.evaluate(`"use strict";${plain}`, FILE)).dispose();
      const entry = layout.kind === "drawing" ? "draw" : "next";
      const defined = this.take(this.evaluate(`typeof ${entry}`, "check.js"));
      const isThere = this.context.getString(defined) === "function";
      defined.dispose();
      if (!isThere) {
        throw new ScriptError({ line: 1, message: `The program needs a function named “${entry}”.` });
      }
    } catch (error) {
      this.dispose();
      throw error;
    }
  }

  /** Numbers that the script reads or has written; look them up again after each call. */
  floats(what: Float32Name): Float32Array;
  floats(what: Float64Name): Float64Array;
  floats(what: Float32Name | Float64Name): Float32Array | Float64Array {
    const { at, length } = this.arrays.get(what)!;
    const { buffer } = this.context["module"].HEAPU8;
    return what === "values" || what === "tape"
      ? new Float64Array(buffer, at, length)
      : new Float32Array(buffer, at, length);
  }

  /** An array of numbers that host and script both see, and never moves. */
  private share(name: Float32Name | Float64Name, length: number): QuickJSHandle {
    const { context } = this;
    const bytes = length * (name === "values" || name === "tape" ? 8 : 4);
    const memory = context["memory"].newHeapBufferPointer(new Uint8Array(bytes));
    const at = memory.value.pointer as unknown as number;
    this.arrays.set(name, { at, length });
    // The engine frees it with the array that it makes of it.
    return context["memory"].heapValueHandle(
      context["ffi"].QTS_NewArrayBuffer(context["ctx"].value, memory.value.pointer, bytes),
    );
  }

  /**
   * Calls the script.
   *
   * @param step  number of the call since the beginning of the tape
   * @throws ScriptError when it fails, or does not answer
   */
  run(step: number, timeS: number, width = 0, height = 0): void {
    const { context } = this;
    this.allowTime();
    const numbers = [step, timeS, width, height].map((one) => context.newNumber(one));
    const result = context.callFunction(this.runHandle!, context.undefined, ...numbers);
    for (const one of numbers) one.dispose();
    this.take(result).dispose();
  }

  /** Empties what it keeps from one call to the next. */
  forget(): void {
    this.allowTime();
    const forget = this.context.getProp(this.host!, "forget");
    this.take(this.context.callFunction(forget, this.context.undefined)).dispose();
    forget.dispose();
  }

  /** Words that a drawing has used, from a number on. */
  wordsFrom(first: number): string[] {
    const { context } = this;
    this.allowTime();
    const find = context.getProp(this.host!, "wordsFrom");
    const number = context.newNumber(first);
    const text = this.take(context.callFunction(find, context.undefined, number));
    const words = JSON.parse(context.getString(text)) as string[];
    for (const one of [find, number, text]) one.dispose();
    return words;
  }

  /** As a plain script: modules of other code cannot be had. */
  private evaluate(code: string, file: string) {
    return this.context.evalCode(code, file, { type: "global" });
  }

  private allowTime(): void {
    this.checks = 0;
    this.untilMs = performance.now() + 1000 * SCRIPT_LIMITS.seconds;
  }

  private take(result: ReturnType<QuickJSContext["evalCode"]>): QuickJSHandle {
    if (!result.error) return result.value;
    const dumped: unknown = this.context.dump(result.error);
    result.error.dispose();
    throw new ScriptError(problemOf(dumped));
  }

  dispose(): void {
    if (this.isGone) return;
    this.isGone = true;
    try {
      this.runHandle?.dispose();
      this.host?.dispose();
      this.context.dispose();
      this.runtime.dispose();
    } catch {
      // The engine has given up, and all scripts in it: the next ones get another.
      engine = undefined;
      loading = undefined;
    }
  }
}

function sharedArrays({ kind, columns, sounds, bands, values }: ScriptLayout) {
  const spectra = Array.from(
    { length: sounds },
    (_, i) => [`spectrum${i}`, MEMORY_ROWS * MEMORY_COLUMNS] as const,
  );
  return [
    ["numbers", MEMORY_ROWS * columns],
    ["bandHz", columns],
    ["waves", Math.max(1, sounds) * WAVE_SAMPLES],
    ["values", Math.max(1, values.length) * VALUE_NUMBERS],
    kind === "drawing" ? (["tape", MOST_RECORDED] as const) : (["out", bands] as const),
    ...spectra,
  ] as const;
}

const FILE = "program.ts";
/** The language without a clock. Promises are there, but nothing that waits for one is ever called. */
const INTRINSICS = {
  Promise: true,
  BaseObjects: true,
  Eval: true,
  StringNormalize: true,
  RegExp: true,
  JSON: true,
  MapSet: true,
  TypedArrays: true,
} as const;

const STOPPED = `It was stopped: it did not answer within ${SCRIPT_LIMITS.seconds} s or ${SCRIPT_LIMITS.steps} steps. Is there a loop without an end?`;
const IN_WORDS: readonly (readonly [RegExp, (match: RegExpExecArray) => string])[] = [
  [/^'?(\S+?)'? is not defined$/, ([, name]) => `Nothing here is named “${name}”.`],
  [/^out of memory$/, () => `It needs more than ${SCRIPT_LIMITS.megabytes} MB of memory, and was stopped.`],
  [/^string too long$/, () => "A text becomes too long."],
  [/stack overflow/, () => "It calls itself without an end."],
  [
    /^cannot read property '(.*)' of (undefined|null)$/,
    ([, name, what]) => `“${name}” is read from something that is ${what}.`,
  ],
  [/^not a function$/, () => "Something that is called here is not a function."],
  [/^'(.*)' is read-only$/, ([, name]) => `“${name}” is a constant.`],
];

function problemOf(dumped: unknown): ProgramProblem {
  const {
    name = "",
    message = String(dumped),
    stack = "",
  } = (typeof dumped === "object" && dumped !== null ? dumped : {}) as {
    name?: string;
    message?: string;
    stack?: string;
  };
  const line = Number(/program\.ts:(\d+)/.exec(stack)?.[1] ?? 1);
  if (message === "interrupted") return { line, message: STOPPED };
  if (name === "SyntaxError") return { line, message: syntaxInWords(message) };
  for (const [pattern, words] of IN_WORDS) {
    const match = pattern.exec(message);
    if (match) return { line, message: words(match) };
  }
  const text = `${message.charAt(0).toUpperCase()}${message.slice(1)}`;
  return { line, message: /[.!?]$/.test(text) ? text : `${text}.` };
}
