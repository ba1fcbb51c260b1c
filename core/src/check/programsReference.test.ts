import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import { PROGRAM_EXAMPLES } from "../program/examples";
import { readExposed } from "../program/exposed";
import { PROGRAM_KINDS } from "../program/kinds";
import { programsReference } from "./programsReference";

describe("the docs of programs", () => {
  it.each(Object.entries(programsReference()))(
    "docs/%s is what the tables say now: run `npm run schema` after a change",
    (path, text) => {
      expect(readFileSync(`docs/${path}`, "utf8")).toBe(text);
    },
  );

  it.each(Object.entries(PROGRAM_EXAMPLES))(
    "has an example whose values can be read: %s",
    (_, { kind, code }) => {
      const { language, exposes } = PROGRAM_KINDS[kind];
      const { values, problems } = readExposed(code, language, exposes);
      expect(problems).toEqual([]);
      expect(values.length).toBeGreaterThan(1);
      for (const { help } of values) expect(help).toMatch(/^[A-Z].*\.$/);
    },
  );
});
