import { readdirSync, readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { PROGRAM_EXAMPLES, type ProgramExample } from "@bumbrel/core/program/examples";
import { broken } from "@bumbrel/core/testing/broken";
import { isFull } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { libraryOf, TypeChecker } from "./checkTypes";
import { tryScript } from "./tryScript";
import { typeProblemInWords } from "./typeWords";

const folder = dirname(require.resolve("typescript-in-browser/lib/lib.es5.d.ts"));
const library = libraryOf(
  readdirSync(folder)
    .filter((name) => /^lib\.es(?:5|20(?:1[5-9]|20).*)\.d\.ts$/.test(name))
    .map((name) => readFileSync(join(folder, name), "utf8")),
);
const BROKEN = isFull ? 4000 : 200;
const drawings = new TypeChecker("drawing", library);
const numbers = new TypeChecker("number", library);

describe("scripts by their types", () => {
  it.each(
    Object.entries<ProgramExample>(PROGRAM_EXAMPLES).filter(
      ([, { kind }]) => kind === "drawing" || kind === "number",
    ),
  )("the worked program %s fits, and runs", async (_name, { kind, code }) => {
    const checker = kind === "drawing" ? drawings : numbers;
    expect(checker.check(code)).toEqual([]);
    expect(await tryScript(kind as "drawing" | "number", code)).toEqual([]);
  });

  const draw = (line: string) => `function draw(canvas: Canvas, frame: Frame) {\n  ${line}\n}`;
  it.each([
    ["canvas.fillRect(0, 0, frame.widht, 1);", "A Frame has no “widht”. Is “width” meant?"],
    ["canvas.fillRect(0, 0, hight, 1);", "Nothing here is named “hight”."],
    ["canvas.fillRect(0, 0);", "This takes 4 values, and is given 2."],
    ['const a: number = "x";', "A string cannot be put where a number is needed."],
    ["canvas.fillRect(0, 0, 1, 1", "missing"],
    ["frame.width = 5;", "“width” cannot be changed."],
    ["fetch('x');", "Nothing here is named “fetch”."],
    ["const t = new Date();", "Nothing here is named “Date”."],
    ["document.title = 'x';", "Nothing here is named “document”."],
  ])("%s is told at its line in plain words", (line, words) => {
    const [first] = drawings.check(draw(line));
    expect(first.message).toContain(words);
    expect([2, 3]).toContain(first.line);
  });

  it("knows what each kind is given, and forgets the text before", () => {
    expect(numbers.check("function next(moment: Moment) { return moment.strands[0].value; }")).toEqual([]);
    expect(numbers.check("function next(moment: Canvas) { return 1; }")[0].message).toContain("Canvas");
    expect(drawings.check(draw("canvas.fill();"))).toEqual([]);
  });

  it(`answers whatever is typed: ${BROKEN} broken scripts, run without their types`, async () => {
    const worked = Object.values<ProgramExample>(PROGRAM_EXAMPLES).filter(
      ({ kind }) => kind === "drawing" || kind === "number",
    );
    let told = 0;
    for (let i = 0; i < BROKEN; i++) {
      const { kind, code } = worked[i % worked.length];
      const text = broken(code, 1000 + i);
      const problems = await tryScript(kind as "drawing" | "number", text);
      // Types take longer to check: a few of them.
      if (i % 40 === 0) problems.push(...(kind === "drawing" ? drawings : numbers).check(text));
      for (const { line, message } of problems) {
        expect(line).toBeGreaterThan(0);
        expect(message).not.toBe("");
      }
      if (problems.length > 0) told++;
    }
    expect(told).toBeGreaterThan(0.4 * BROKEN);
    expect(told).toBeLessThan(0.9975 * BROKEN);
  }, 180_000);

  it("passes on unknown messages as they are", () => {
    expect(typeProblemInWords(9999, "Something rare.\nAnd more.")).toBe("Something rare.");
  });
});
