import { linearToOklch } from "@bumbrel/core/setting/colour";
import { describe, expect, it } from "@jest/globals";
import { levelColours } from "./levelColours";

/** Perceived lightness of a pixel as an image holds it: alpha, blue, green, red from the top byte down. */
function lightness(pixel: number): number {
  const channel = (shift: number) => (((pixel >> shift) & 0xff) / 255) ** 2.2;
  return linearToOklch([channel(0), channel(8), channel(16)])[0];
}

describe("levelColours", () => {
  it.each([
    ["dark", 1],
    ["light", -1],
  ])("grows evenly %s-theme louder: lightness never turns back", (theme, direction) => {
    const table = levelColours(theme);
    expect(table).toHaveLength(256);
    for (let i = 1; i < 256; i++) {
      expect((lightness(table[i]) - lightness(table[i - 1])) * direction).toBeGreaterThan(-0.004);
      expect(table[i] >>> 24).toBe(255);
    }
    expect(Math.abs(lightness(table[255]) - lightness(table[0]))).toBeGreaterThan(0.7);
  });
});
