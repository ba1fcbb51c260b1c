import { describe, expect, it } from "@jest/globals";
import { speakerLayout, speakerWeights } from "./speakers";

describe("speakerWeights", () => {
  // By the angles of the speakers, worked out by hand from BS.1770-5, table 4.
  it.each([
    ["5.1, at the back", 6, 0x3f, [1, 1, 1, 0, 1.41, 1.41]],
    ["5.1, at the sides", 6, 0x60f, [1, 1, 1, 0, 1.41, 1.41]],
    ["quad", 4, 0x33, [1, 1, 1.41, 1.41]],
    ["6.0", 6, 0x707, [1, 1, 1, 1, 1.41, 1.41]],
    ["6.1", 7, 0x70f, [1, 1, 1, 0, 1, 1.41, 1.41]],
    ["7.1", 8, 0x63f, [1, 1, 1, 0, 1, 1, 1.41, 1.41]],
    ["2.1", 3, 0xb, [1, 1, 0]],
  ])("%s", (_name, count, speakers, weights) => {
    expect(speakerWeights(count, speakers)).toEqual(weights);
  });

  it("assumes the usual layout where none is named, and counts channels without a place as they are", () => {
    expect(speakerWeights(1)).toEqual([1]);
    expect(speakerWeights(2)).toEqual([1, 1]);
    expect(speakerWeights(5)).toEqual([1, 1, 1, 1.41, 1.41]);
    expect(speakerWeights(6)).toEqual([1, 1, 1, 0, 1.41, 1.41]);
    expect(speakerWeights(8)).toEqual([1, 1, 1, 0, 1, 1, 1.41, 1.41]);
    expect(speakerWeights(12)).toEqual(new Array(12).fill(1));
    expect(speakerWeights(4, 0x3)).toEqual([1, 1, 1, 1]);
    // Every bit set there is.
    expect(speakerWeights(3, 0xffffffff)).toEqual([1, 1, 1]);
  });

  it("names the layout, and says whether it is assumed", () => {
    expect(speakerLayout(2)).toBe(undefined);
    expect(speakerLayout(8, 0x63f)).toBe("7.1");
    expect(speakerLayout(6)).toBe("5.1, assumed: the file names no layout");
    expect(speakerLayout(5, 0x1f)).toBe("5 channels");
  });
});
