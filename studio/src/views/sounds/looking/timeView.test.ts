import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { following, moved, zoomed } from "./timeView";

describe("a view of a stretch of time", () => {
  it("zooms about the place under the pointer", () => {
    const view = zoomed({ fromS: 0, toS: 48 }, 0.5, 0.75, 48);
    expect(view).toEqual({ fromS: 18, toS: 42 });
    // 36 s was at three quarters, and still is.
    expect((36 - view.fromS) / (view.toS - view.fromS)).toBeCloseTo(0.75, 9);
  });

  it("turns a page when the playhead leaves it, and stays while it does not", () => {
    const view = { fromS: 10, toS: 12 };
    expect(following(view, 11.9, 48)).toBe(view);
    expect(following(view, 12.1, 48)).toEqual({ fromS: 12.1, toS: 14.1 });
    expect(following(view, 47.5, 48)).toEqual({ fromS: 46, toS: 48 });
  });

  it("never leaves the sound nor gets narrower than a few samples, whatever is done to it", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 1800, noNaN: true }),
        fc.array(
          fc.tuple(
            fc.double({ min: 0.01, max: 100, noNaN: true }),
            fc.double({ min: 0, max: 1, noNaN: true }),
          ),
        ),
        (lengthS, steps) => {
          let view = { fromS: 0, toS: lengthS };
          for (const [by, at] of steps) {
            view = moved(zoomed(view, by, at, lengthS), at - 0.5, lengthS);
            expect(view.fromS).toBeGreaterThanOrEqual(0);
            expect(view.toS).toBeLessThanOrEqual(lengthS + 1e-9);
            expect((view.toS - view.fromS) * 48_000).toBeGreaterThan(23.9);
          }
        },
      ),
    );
  });
});
