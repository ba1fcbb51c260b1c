import type { PathPoint } from "@bumbrel/core/setting/descriptor";
import { describe, expect, it } from "@jest/globals";
import { fewPoints } from "./pathDrawing";

describe("a drawn path", () => {
  it("keeps both ends and even distances along the way", () => {
    // Drawn fast along one side of a square and slowly along the next.
    const line: PathPoint[] = [
      [0, 0, 0],
      [2, 0, 0],
      [4, 0, 0],
    ];
    for (let i = 1; i <= 40; i++) line.push([4, 0, i / 10]);
    const points = fewPoints(line, 9)!;
    expect(points).toEqual([
      [0, 0, 0],
      [1, 0, 0],
      [2, 0, 0],
      [3, 0, 0],
      [4, 0, 0],
      [4, 0, 1],
      [4, 0, 2],
      [4, 0, 3],
      [4, 0, 4],
    ]);
  });

  it("is none when it is a dot", () => {
    expect(fewPoints([])).toBeUndefined();
    expect(fewPoints([[1, 0, 1]])).toBeUndefined();
    expect(
      fewPoints([
        [1, 0, 1],
        [1, 0, 1.01],
      ]),
    ).toBeUndefined();
  });
});
