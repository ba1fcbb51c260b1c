import { describe, expect, it } from "@jest/globals";
import { limitText } from "./NumberField";

describe("a number that was limited", () => {
  it("is said to be the most or the least, with its unit", () => {
    expect(limitText(100, 50)).toBe("50 is the most it can be.");
    expect(limitText(-3, 0.5, "m")).toBe("0.5 m is the least it can be.");
  });
});
