import { describe, expect, it } from "@jest/globals";
import { LEAST_GRAVITY, launchSpeed } from "./launchSpeed";

const STEP_S = 1 / 120;

describe("the speed that a jump begins with", () => {
  it("comes close to that of a throw without steps, where steps are short", () => {
    for (const [heightM, gravity] of [
      [0.5, 9.81],
      [4, 1.62],
      [20, 9.81],
    ])
      expect(launchSpeed(heightM, gravity, 0, 1e-4, 1) / Math.sqrt(2 * gravity * heightM)).toBeCloseTo(1, 3);
  });

  it("is greater the more the body is damped", () => {
    const speeds = [0, 0.5, 2, 10].map((damping) => launchSpeed(1.5, 9.81, damping, STEP_S, 2));
    expect(speeds).toEqual([...speeds].sort((a, b) => a - b));
    expect(new Set(speeds).size).toBe(4);
  });

  it("takes hardly any gravity for the least, so that it is found soon", () => {
    for (const gravity of [1e-12, 1e-4, LEAST_GRAVITY])
      expect(launchSpeed(100, gravity, 0, STEP_S, 2)).toBe(launchSpeed(100, LEAST_GRAVITY, 0, STEP_S, 2));
  });
});
