import { afterEach, beforeAll, describe, expect, test } from "@jest/globals";
import { MEMORY_ROWS } from "../offers/memory";

import { loadEngine, Sandbox } from "./sandbox";
import { ScriptError } from "./scriptError";
import { SCRIPT_LIMITS } from "./scriptLimits";
import type { ScriptLayout } from "./scriptPrelude";

const NUMBER: ScriptLayout = { kind: "number", columns: 3, sounds: 0, bands: 1, values: [], strands: [] };
const made: Sandbox[] = [];
function sandbox(code: string, layout: Partial<ScriptLayout> = {}): Sandbox {
  const one = new Sandbox(code, { ...NUMBER, ...layout });
  made.push(one);
  return one;
}
function given(code: string, layout: Partial<ScriptLayout> = {}, step = 0): number {
  const one = sandbox(code, layout);
  one.run(step, step / 100);
  return one.floats("out")[0];
}
function problem(code: string, layout: Partial<ScriptLayout> = {}): { line: number; message: string } {
  try {
    given(code, layout);
  } catch (error) {
    if (error instanceof ScriptError) return error.problem;
    throw error;
  }
  return { line: 0, message: "" };
}
const next = (body: string) => `function next(moment: Moment, set: Exposed): number {\n  ${body}\n}`;

beforeAll(() => loadEngine());
afterEach(() => {
  for (const one of made.splice(0)) one.dispose();
});

describe("a script in its sandbox", () => {
  test("gives numbers, and keeps its memory from one call to the next", () => {
    const one = sandbox(next("moment.memory.n = (moment.memory.n ?? 0) + 1; return moment.memory.n;"));
    one.run(0, 0);
    one.run(1, 0.01);
    expect(one.floats("out")[0]).toBe(2);
    one.forget();
    one.run(2, 0.02);
    expect(one.floats("out")[0]).toBe(1);
  });

  test("has the same chance at the same step, in every sandbox", () => {
    const code = next("return moment.random() + 10 * Math.random();");
    const first = given(code, {}, 41);
    expect(given(code, {}, 41)).toBe(first);
    expect(given(code, {}, 42)).not.toBe(first);
  });

  test("reads strands between frames as numbers on a line, and as they were", () => {
    const one = sandbox(next("return moment.strands[0].before(0.005) * 1000 + moment.strands[1].at(0.5);"), {
      strands: [
        { first: 0, count: 1 },
        { first: 1, count: 2 },
      ],
    });
    const numbers = one.floats("numbers");
    expect(numbers.length).toBe(3 * MEMORY_ROWS);
    for (let row = 0; row < 10; row++) numbers.set([row / 10, 0.25, 0.75], row * 3);
    one.run(8, 0.08);
    expect(one.floats("out")[0]).toBeCloseTo(750 + 0.5, 3);
  });

  test("receives its settings in the form it declares", () => {
    const one = sandbox(
      `${next("return set.wild === 'wild' && set.on && set.tint === 'rgb(255 0 188)' && set.count === 3 ? 1 : 0;")}`,
      {
        values: [
          { name: "wild", type: "choice", words: ["calm", "wild"] },
          { name: "on", type: "switch" },
          { name: "tint", type: "colour" },
          { name: "count", type: "whole" },
        ],
      },
    );
    one.floats("values").set([1, 0, 0, 1, 0, 0, 1, 0, 0.5, 3, 0, 0]);
    one.run(0, 0);
    expect(one.floats("out")[0]).toBe(1);
  });

  test("gives 0 for NaN, and nothing that single precision cannot hold", () => {
    expect(given(next("return 0 / 0;"))).toBe(0);
    expect(given(next("return 'x' as any;"))).toBe(0);
    expect(given(next("return 1e300;"))).toBeLessThan(Number.POSITIVE_INFINITY);
  });

  test.each([
    ["for (;;) {}", "stopped"],
    ["let s = 'x'; for (;;) s += s; return 0;", "too long|MB of memory"],
    [
      "const all: any[] = []; for (let i = 0; ; i++) all.push(new Float64Array(100000)); return 0;",
      "MB of memory",
    ],
    ["return next(moment, set);", "calls itself without an end"],
    ["return hight;", "Nothing here is named “hight”."],
    ["return (moment as any).nothing.there;", "“there” is read from something that is undefined."],
    ["throw new Error('No wind today');", "No wind today."],
    ["/(a+)+$/.test('a'.repeat(40) + '!'); return 0;", "stopped"],
    ["return [...Array(3e5).keys()].map((i) => i * 2).sort().reduce((a, b) => a + b);", "stopped"],
  ])("%s is said at its line", (body, words) => {
    const { line, message } = problem(next(body));
    expect(message).toMatch(new RegExp(words));
    // An empty loop has no line of its own.
    expect(line).toBe(body === "for (;;) {}" ? 1 : 2);
  });

  test("has no more memory than its engine's own has an end for, however typed arrays are made", () => {
    const one = sandbox(next("const all: any[] = []; for (;;) all.push(new Uint8Array(4000000).slice());"));
    expect(() => one.run(0, 0)).toThrow("MB of memory");
    const { buffer } = one.floats("out");
    expect(buffer.byteLength).toBeLessThanOrEqual(SCRIPT_LIMITS.engineMegabytes * 2 ** 20);
  });

  test("keeps its shared memory, also parts that the program never reads", () => {
    const one = sandbox(next("return moment.step;"));
    for (let step = 0; step < 5; step++) {
      for (const name of ["numbers", "bandHz", "waves"] as const) one.floats(name).fill(step);
      one.floats("values").fill(step);
      one.run(step, step / 100);
      expect(one.floats("out")[0]).toBe(step);
    }
  });

  test("uses private members of the engine that are still there", () => {
    const one = sandbox(next("return 1;")) as unknown as { context: Record<string, Record<string, unknown>> };
    const { module, memory, ffi, ctx } = one.context;
    expect(module.HEAPU8).toBeInstanceOf(Uint8Array);
    expect(typeof memory.newHeapBufferPointer).toBe("function");
    expect(typeof memory.heapValueHandle).toBe("function");
    expect(typeof ffi.QTS_NewArrayBuffer).toBe("function");
    expect(typeof ctx.value).toBe("number");
  });

  test("can be started again after it was stopped", () => {
    const one = sandbox(next("if (moment.step === 1) for (;;) {} return moment.step;"));
    one.run(0, 0);
    expect(() => one.run(1, 0.01)).toThrow("stopped");
    one.run(2, 0.02);
    expect(one.floats("out")[0]).toBe(2);
  });

  test.each([
    ["function next( { return 1; }", "was not expected here|missing"],
    ["const a = 1;\nconst b: number = ;", "missing"],
    ["let text = 'abc", "has no end"],
    ["function other() {}", "needs a function named “next”"],
  ])("%s cannot be read, in plain words", (code, words) => {
    expect(problem(code).message).toMatch(new RegExp(words));
  });

  /** Every way out that a page, a worker or Node would offer; none is there. */
  test.each([
    "fetch",
    "XMLHttpRequest",
    "WebSocket",
    "EventSource",
    "navigator",
    "importScripts",
    "window",
    "self",
    "document",
    "parent",
    "top",
    "location",
    "postMessage",
    "localStorage",
    "sessionStorage",
    "indexedDB",
    "caches",
    "Date",
    "performance",
    "setTimeout",
    "setInterval",
    "requestAnimationFrame",
    "queueMicrotask",
    "process",
    "require",
    "module",
    "Worker",
    "SharedArrayBuffer",
    "Atomics",
    "WebAssembly",
    "console",
    "crypto",
    "std",
    "os",
  ])("%s is not there", (name) => {
    expect(given(next(`return typeof ${name} === "undefined" && !("${name}" in globalThis) ? 1 : 0;`))).toBe(
      1,
    );
  });

  test("import of other code fails", () => {
    expect(problem(`import x from "./x";\n${next("return 1;")}`).message).not.toBe("");
    // It waits for ever: nothing that is asked for later is looked up.
    expect(
      given(next("let come = 0; import('./x').then(() => { come = 1; }, () => { come = 2; }); return come;")),
    ).toBe(0);
    expect(
      given(
        next(
          "return (Function('return this')() === globalThis) && typeof Function('return fetch') === 'function' ? 1 : 0;",
        ),
      ),
    ).toBe(1);
    expect(problem(next("return Function('return fetch')()('x');")).message).toContain("“fetch”");
  });

  test("one script does not see another", () => {
    given(`(globalThis as any).left = 5;\n${next("return 1;")}`);
    expect(given(next("return 'left' in globalThis ? 1 : 0;"))).toBe(0);
  });
});
