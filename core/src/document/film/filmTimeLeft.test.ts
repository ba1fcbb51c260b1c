import { describe, expect, it } from "@jest/globals";
import { FilmTimeLeft } from "./filmTimeLeft";

describe("the time that a film still takes", () => {
  it("counts the frames of this sitting alone, once ten of them have been timed", () => {
    const clock = new FilmTimeLeft();
    expect(clock.leftS(500, 1000, 70_000)).toBeUndefined();
    expect(clock.leftS(509, 1000, 79_000)).toBeUndefined();
    // A second a frame.
    expect(clock.leftS(510, 1000, 80_000)).toBe(490);
    expect(clock.leftS(1000, 1000, 570_000)).toBe(0);
  });
});
