import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { LOOP_LIMIT, MAX_LOOP_STEPS, withLoopLimit } from "./loops";

/** Runs loops of C-like code, which JavaScript reads alike. */
function run(code: string): number {
  const script = `${LOOP_LIMIT.replace("int ", "let ").replace("bool loopGoesOn()", "function loopGoesOn()")}
    let n = 0; ${withLoopLimit(code)}; return n;`;
  return new Function(script)() as number;
}

describe("loops of programs", () => {
  it.each([
    "for (;;) n++;",
    "while (true) { n++; }",
    "do { n++; } while (n > 0)",
    "for (n = 0; ; ) { n += 1; }",
    "while (/* ) */ (n >= 0)) n++;",
    "for (let i = 0; i < 1; i += 0) for (;;) n++;",
    "while\n(true)\nn++;",
  ])("end, however they are written: %s", (code) => {
    expect(run(code)).toBeLessThanOrEqual(MAX_LOOP_STEPS);
  });

  it("take the steps they mean to", () => {
    expect(run("for (let i = 0; i < 10; i++) n += i;")).toBe(45);
    expect(run("while (n < 7) n++;")).toBe(7);
    expect(run("for (let i = 0, k = (3, 4); i < k; i++) { do n++; while (false); }")).toBe(4);
  });

  it("leave lines and everything else where they are", () => {
    const code =
      "float form;\n// for (;;)\n/* while (true) */ int forward = 1;\nfor (int i = 0;\n i < 3; i++) {}";
    expect(withLoopLimit(code).split("\n")).toHaveLength(5);
    expect(withLoopLimit(code).split("\n").slice(0, 3)).toEqual(code.split("\n").slice(0, 3));
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        expect(withLoopLimit(text).split("\n")).toHaveLength(text.split("\n").length);
      }),
      { numRuns: 500 },
    );
  });
});
