import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { problemsIn } from "./checkGlsl";
import { shadersForCheck, surfaceCode } from "./surfaceCode";

describe("a surface program in shaders", () => {
  const code = `uniform float opacity; // 0 to 1: Seen.
float saturate2(float x) {
  return clamp(x, 0.0, 1.0);
}
void move(inout Point p) {
  p.place.y += opacity;
}
void paint(inout Surface s) {
  s.opacity = saturate2(opacity) + fwidth(s.uv.x);
}`;

  it("has its lines where they are, and each function in the shader that calls it", () => {
    const { vertex, fragment, hasMove, hasPaint, changesOpacity } = surfaceCode(code);
    expect([hasMove, hasPaint, changesOpacity]).toEqual([true, true, true]);
    const own = (text: string) => {
      const lines = text.split("\n");
      return lines.slice(lines.indexOf("#line 1") + 1).slice(0, 10);
    };
    expect(own(vertex)[5]).toBe("  p.place.y += opacity;");
    expect(own(vertex)[8]).toBe("");
    expect(own(fragment)[5]).toBe("");
    expect(own(fragment)[8]).toContain("s.opacity = saturate2(opacity)");
  });

  it("does not meet the names of the rest of the shader", () => {
    const { fragment } = surfaceCode(code);
    for (const name of ["opacity", "saturate2", "paint"]) {
      expect(fragment).toContain(`#define ${name} bumbrel_${name}`);
      expect(fragment).toContain(`#undef ${name}`);
    }
    // Locals stay as they are.
    expect(fragment).not.toContain("#define x ");
  });

  it("is put together whatever it is", () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 80 }),
        fc.constantFrom("", "void move(", "void paint(inout Surface s){", "for("),
        (text, head) => {
          const { vertex, fragment } = shadersForCheck(head + text);
          expect(vertex).toContain("#line 1\n");
          expect(fragment).toContain("#line 1\n");
        },
      ),
      { numRuns: 2000 },
    );
  });
});

describe("a driver's messages", () => {
  it.each([
    ["ERROR: 0:3: 'bumbrel_hight' : undeclared identifier", 3, "Nothing here is named “hight”."],
    [
      "ERROR: 0:2: 'bandOf' : no matching overloaded function found",
      2,
      "“bandOf” cannot be called with these values.",
    ],
    [
      "ERROR: 0:4: '=' : cannot convert from 'const float' to 'highp 3-component vector of float'",
      4,
      "A float cannot be put where a 3-component vector of float is needed.",
    ],
    ["ERROR: 0:7: '}' : syntax error", 7, "“}” was not expected here: is something missing before it?"],
    ["ERROR: 0:9: 'x' : some new complaint", 9, "Some new complaint: “x”."],
  ])("are told in plain words at their line: %s", (log, line, message) => {
    expect(problemsIn(log)).toEqual([{ line, message }]);
  });

  it("are never none for a program that was not accepted", () => {
    expect(problemsIn("")).toHaveLength(1);
    expect(
      problemsIn("WARNING: 0:1: fine\nERROR: 0:2: '' : syntax error\nERROR: 1 compilation errors."),
    ).toEqual([{ line: 2, message: "Something is missing here." }]);
  });
});
