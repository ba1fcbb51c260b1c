import { describe, expect, it } from "@jest/globals";
import { secondsBefore } from "./lookThrough";

describe("stretches that are looked at again", () => {
  it("hold two seconds before each frame, and become one where they touch", () => {
    expect(secondsBefore([])).toEqual([]);
    expect(secondsBefore([30])).toEqual([[0, 30]]);
    expect(secondsBefore([300, 301, 302])).toEqual([[180, 302]]);
    expect(secondsBefore([300, 423, 600])).toEqual([
      [180, 300],
      [303, 423],
      [480, 600],
    ]);
    expect(secondsBefore([300, 420])).toEqual([[180, 420]]);
  });
});
