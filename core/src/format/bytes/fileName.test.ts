import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import { plainFileName } from "./fileName";

describe("file names", () => {
  it("are the name in plain letters", () => {
    expect(plainFileName("Regatta Night", "scene")).toBe("regatta-night");
    expect(plainFileName("  Café: Quay_no. 7/8 ", "scene")).toBe("cafe-quay-no-78");
    expect(plainFileName("提灯", "scene")).toBe("scene");
  });

  it("are ones that every system takes, whatever the name", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary" }), (name) => {
        expect(plainFileName(name, "scene")).toMatch(/^[a-z0-9-]{1,60}$/);
      }),
    );
  });
});
