import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import { PROGRAM_EXAMPLES } from "../program/examples";
import { readExposed } from "../program/exposed";
import { programsReference } from "./programsReference";

describe("docs/programs.md", () => {
  it("is what the tables say now: run `npm run schema` after a change", () => {
    expect(readFileSync("docs/programs.md", "utf8")).toBe(programsReference());
  });

  it.each(Object.entries(PROGRAM_EXAMPLES))("has an example whose values can be read: %s", (_, { code }) => {
    const { values, problems } = readExposed(code, "glsl");
    expect(problems).toEqual([]);
    expect(values.length).toBeGreaterThan(1);
    for (const { help } of values) expect(help).toMatch(/^[A-Z].*\.$/);
  });
});
