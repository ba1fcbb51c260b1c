import { readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "@jest/globals";
import { newScene } from "../kinds/create";
import { applyEdits } from "./applyEdits";
import { editsReference } from "./reference";
import { EDITS } from "./table";

describe("the documentation of edits", () => {
  it("is the one that docs/edits.md holds; npm run schema writes it anew", () => {
    const written = readFileSync(join(__dirname, "../../../docs/edits.md"), "utf8");
    expect(written).toBe(editsReference());
  });

  it("names every edit with a sentence, and its example can be carried out", () => {
    const text = editsReference();
    for (const [name, { help }] of Object.entries(EDITS)) {
      expect(text).toContain(`## ${name}\n`);
      expect(help).toMatch(/^[A-Z].*\.$/);
    }
    const [, example] = /```json\n([\s\S]*?)```/.exec(text)!;
    expect(applyEdits(newScene("Quay"), JSON.parse(example)).bindings).toHaveLength(1);
  });
});
