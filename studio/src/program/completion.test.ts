import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import type { ProgramKind } from "@bumbrel/core/program/kinds";
import { newSound } from "@bumbrel/core/sound/create";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { CompletionContext } from "@codemirror/autocomplete";
import { EditorState } from "@codemirror/state";
import { describe, expect, it } from "@jest/globals";
import { completionOf } from "./completion";

const scene = newScene("S");
scene.sounds = [newSound("tone", "t", "Fog horn")];
scene.strands = [
  newStrand(scene, "a", "Snare chorus", { kind: "nothing" }),
  { ...newStrand(scene, "b", "Row", { kind: "nothing" }), measure: { ...MEASURES.fan.defaults } },
];

/** Completions at the end of a text, or at its `|`. */
function offered(kind: ProgramKind, text: string): string[] {
  const at = text.includes("|") ? text.indexOf("|") : text.length;
  const state = EditorState.create({ doc: text.replace("|", "") });
  const found = completionOf(kind, () => scene)(new CompletionContext(state, at, true));
  return found?.options.map(({ label, apply }) => (apply as string | undefined) ?? label) ?? [];
}

describe("what can be written", () => {
  it("in a surface: what all offer, and the members of what its function is given", () => {
    expect(offered("surface", "bandB")).toEqual(
      expect.arrayContaining(["bandBefore", "spectrumAt", "sampler2D"]),
    );
    expect(offered("surface", "void paint(inout Surface s) { s.")).toContain("emission");
    expect(offered("pass", "void paint(inout Pixel p) { p.")).toContain("depth");
    expect(offered("pass", "pict")).toContain("pictureAt");
  });

  it("in a drawing and a number: members by the types of parameters, and what is exposed after set", () => {
    expect(offered("drawing", "function draw(canvas: Canvas, frame: Frame) { canvas.")).toContain("fillRect");
    expect(offered("drawing", "function draw(canvas: Canvas, frame: Frame) { frame.")).toContain("memory");
    expect(offered("number", "function next(moment: Moment) { moment.")).toContain("strands");
    expect(
      offered(
        "drawing",
        "interface Exposed {\n  tint: Colour;\n}\nfunction draw(canvas: Canvas, frame: Frame, set: Exposed) { set.",
      ),
    ).toEqual(["tint"]);
  });

  it("offers strands, fans and sounds by their names where one is declared", () => {
    expect(offered("surface", "uniform Strand ")).toEqual(["snareChorus;"]);
    expect(offered("surface", "uniform Fan r")).toEqual(["row;"]);
    expect(offered("surface", "uniform Sound ")).toEqual(["fogHorn;"]);
    expect(offered("drawing", "interface Exposed {\n  sn|\n}")).toEqual(
      expect.arrayContaining(["snareChorus: Strand;", "row: Fan;", "fogHorn: Sound;"]),
    );
  });

  it("offers nothing for unknown names", () => {
    expect(offered("surface", "float a; a.")).toEqual([]);
  });
});
