import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import { ACTION_KINDS } from "../action/actions";
import { CUE_SOURCE_KINDS } from "../action/cueSources";
import { OBJECT_KIND_NAMES } from "../kinds/table";
import { SOUND_KIND_NAMES } from "../sound/kinds";
import { MEASURE_KINDS } from "../strand/measures/table";
import { STEP_NAMES } from "../strand/shape/shaping";
import { reference } from "./reference";

describe("docs/reference.md", () => {
  it("is up to date with the tables: run `npm run schema` after a change", () => {
    expect(readFileSync("docs/reference.md", "utf8")).toBe(reference());
  });

  it("has an entry for everything that is declared, each with a line of help", () => {
    const text = reference();
    for (const name of [
      ...SOUND_KIND_NAMES,
      ...MEASURE_KINDS,
      ...STEP_NAMES,
      ...OBJECT_KIND_NAMES,
      ...CUE_SOURCE_KINDS,
      ...ACTION_KINDS,
    ]) {
      expect(text).toMatch(new RegExp(`^\`${name}\`[^\\n]* [A-Z][^\\n]*\\.`, "m"));
    }
    expect(text).not.toMatch(/undefined|\[object/);
  });
});
