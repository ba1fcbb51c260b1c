import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { guardLoops, MAX_LOOP_STEPS } from "./loops";

/** Runs loops of C-like code, which JavaScript reads alike. */
function run(code: string): number {
  const { declarations, code: guarded, problems } = guardLoops(code);
  expect(problems).toEqual([]);
  const script = `${declarations.replace("int ", "let ").replace("bool ", "function ")}
    let n = 0; ${guarded}; return n;`;
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
    const lines = guardLoops(code).code.split("\n");
    expect(lines).toHaveLength(5);
    expect(lines.slice(0, 3)).toEqual(code.split("\n").slice(0, 3));
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        expect(guardLoops(text).code.split("\n")).toHaveLength(text.split(/\r\n?|\n/).length);
      }),
      { numRuns: 500 },
    );
  });

  it.each([
    ["#define W while\nvoid paint() { W (true) {} }", 1],
    ["#define LOOP for (;;)\nvoid paint() { LOOP {} }", 1],
    ["float a;\n#define D do\nvoid paint() { D {} while (true); }", 2],
    ["  /* x */ # /* y */ define W /* z */ while", 1],
    ["/* a\n*/ #define W while", 2],
    ["#def\\\nine W whi\\\nle\nvoid paint() { W (true) {} }", 1],
    ["#define ID(x) x\nvoid paint() { ID(while) (true) {} }", 2],
    ["#define P (\nvoid paint() {\nwhile P true) {} }", 3],
    ["#define E ;\nvoid paint() { for (int i = 0 E E) {} }", 2],
    ["#define REST true; )\nvoid paint() { for (; REST {} }", 2],
  ])("cannot be hidden from the guard: %j", (code, line) => {
    const { problems } = guardLoops(code);
    expect(problems.length).toBeGreaterThan(0);
    expect(problems[0].line).toBe(line);
  });

  it("count steps in a variable that no program can name, reset or replace", () => {
    for (const code of [
      "void paint() { loopSteps = 0; while (true) {} }",
      "int bumbrelLoop0ns = 0; void paint() { while (true) { bumbrelLoop0ns = 0; } }",
      "#define bumbrelLoop0n() true\n#define bumbrelLoop1n() true\nvoid paint() { while (true) {} }",
    ]) {
      const { declarations, code: guarded } = guardLoops(code);
      const [, name] = /bool (\w+)\(/.exec(declarations)!;
      expect(code).not.toContain(name);
      expect(guarded).toContain(`while (${name}() && (true))`);
    }
  });

  it("are found where a word goes on over the end of a line", () => {
    const { code, problems } = guardLoops("void paint() { whi\\\nle (true) {}\nfloat a; }");
    expect(problems).toEqual([]);
    expect(code).toContain("n() && (true)");
    expect(code.split("\n")).toHaveLength(3);
    expect(code.split("\n")[2]).toBe("float a; }");
  });
});
