import { describe, expect, it } from "@jest/globals";
import type { Beat } from "../../dsp/rhythm/beat";
import { type CountedBy, countBeats } from "./heardBeats";

/** Beats half a second apart from 0.25 s on, the third of which begins a bar of four. */
const HEARD: Beat[] = Array.from({ length: 12 }, (_none, i) => ({
  at: 25 + 50 * i,
  inBar: (i + 2) % 4,
  certainty: i / 11,
}));
const AS_HEARD: CountedBy = { beatsPerBar: 4, tempo: "heard", oneAtS: 0 };
const counted = (by: Partial<CountedBy> = {}) => countBeats(HEARD, { ...AS_HEARD, ...by })!;
/** Times at which bars begin. */
const bars = (by?: Partial<CountedBy>) =>
  counted(by)
    .ticks(0, 6)
    .filter(({ strength }) => strength === 1)
    .map(({ timeS }) => timeS);

describe("heard beats", () => {
  it("are counted with their fractions, before the first and after the last as well", () => {
    const { beatAt, barPhase } = counted();
    expect([0, 0.25, 0.5, 1, 5.75, 7].map(beatAt)).toEqual([-0.5, 0, 0.5, 1.5, 11, 13.5]);
    expect(barPhase(beatAt(1.25))).toBe(0);
    expect(barPhase(beatAt(1.5))).toBe(0.125);
    expect(barPhase(beatAt(0))).toBe(0.375);
  });

  it("begin bars where they are heard to, or where they are told to", () => {
    expect(bars()).toEqual([1.25, 3.25, 5.25]);
    expect(bars({ oneAtS: 0.8 })).toEqual([0.75, 2.75, 4.75]);
    expect(bars({ oneAtS: 2.6, beatsPerBar: 3 })).toEqual([1.25, 2.75, 4.25, 5.75]);
  });

  it("are every other one, beginning with that which begins a bar", () => {
    const times = (by: Partial<CountedBy>) =>
      counted(by)
        .ticks(0, 6)
        .map(({ timeS }) => timeS);
    expect(times({ tempo: "half" })).toEqual([0.25, 1.25, 2.25, 3.25, 4.25, 5.25]);
    expect(bars({ tempo: "half" })).toEqual([1.25, 5.25]);
    expect(times({ tempo: "half", oneAtS: 0.8 })).toEqual([0.75, 1.75, 2.75, 3.75, 4.75, 5.75]);
  });

  it("are twice as many, with one more in each middle", () => {
    expect(
      counted({ tempo: "double" })
        .ticks(0, 1.3)
        .map(({ timeS }) => timeS),
    ).toEqual([0.25, 0.5, 0.75, 1, 1.25]);
    expect(bars({ tempo: "double" })).toEqual([0.25, 1.25, 2.25, 3.25, 4.25, 5.25]);
  });

  it("say how sure each is, whatever they are counted by", () => {
    expect(counted().certaintyAt(11)).toBe(1);
    expect(counted({ tempo: "half" }).certaintyAt(5.5)).toBe(1);
    expect(counted({ tempo: "double" }).certaintyAt(22)).toBe(1);
    expect(counted().certaintyAt(-3)).toBe(0);
  });

  it("are none where there is but one", () => {
    expect(countBeats(HEARD.slice(0, 1), AS_HEARD)).toBeUndefined();
    expect(countBeats([], AS_HEARD)).toBeUndefined();
  });
});
