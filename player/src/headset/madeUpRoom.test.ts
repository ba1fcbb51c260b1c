import { describe, expect, it } from "@jest/globals";
import { Matrix4, Vector3 } from "three";
import { MadeUpRoom } from "./madeUpRoom";

/** Point at which a ray from a place through another meets the room. */
function hits(from: [number, number, number], through: [number, number, number]): number[][] {
  const ray = new Matrix4()
    .lookAt(new Vector3(...from), new Vector3(...through), new Vector3(0, 1, 0))
    .setPosition(...from);
  const found = MadeUpRoom.prototype.computeHitTestResults.call({}, ray.elements);
  return found.map((matrix) => [matrix[12], matrix[13], matrix[14]].map((one) => Number(one.toFixed(4))));
}

describe("the made-up room", () => {
  it("is felt on its floor, and on its table first", () => {
    expect(hits([0, 1.6, 0], [0, 0.8, -1])).toEqual([[0, 0, -2]]);
    const onTable = hits([1.7, 1.6, 0], [1.7, 0.75, -1.7]);
    expect(onTable[0]).toEqual([1.7, 0.75, -1.7]);
    expect(onTable).toHaveLength(1);
  });

  it("is not felt by rays that look up or leave it", () => {
    expect(hits([0, 1.6, 0], [0, 2, -1])).toEqual([]);
    expect(hits([0, 1.6, 0], [0, 1.5, -1])).toEqual([]);
  });
});
