import { describe, expect, it } from "@jest/globals";
import { cuesBetween } from "./cueClicks";

const cues = [
  { timeS: 0.5, strength: 1 },
  { timeS: 1.75, strength: 0.4 },
];
const track = { width: 1, values: new Float32Array(200), cues };
const rounded = (found: { atS: number }[]) => found.map(({ atS }) => Math.round(atS * 1e6) / 1e6);

describe("cues that are heard", () => {
  it("are those of the stretch of the tape", () => {
    expect(rounded(cuesBetween(track, 0, 0, 2))).toEqual([0.5, 1.75]);
    expect(rounded(cuesBetween(track, 0.4, 0.5, 1.75))).toEqual([0.5]);
    expect(cuesBetween(track, 3, 3, 4)).toEqual([]);
  });

  it("come round with a sound that loops", () => {
    const looping = { ...track, loopS: 2 };
    expect(rounded(cuesBetween(looping, 6.2, 6.2, 8.6))).toEqual([6.5, 8.5, 7.75]);
  });

  it("are where a sound is that runs by itself", () => {
    const alone = { ...track, positionS: (timeS: number) => timeS - 10 + 0.25 };
    expect(rounded(cuesBetween(alone, 10, 10, 10.4))).toEqual([10.25]);
  });
});
