import { describe, expect, it } from "@jest/globals";
import { harmonicsOf, lightFrom, panoramaOf, SCENERIES, type SceneryName } from "./sceneries";

const NAMES = Object.keys(SCENERIES) as SceneryName[];
const WIDTH = 64;

describe.each(NAMES)("the surroundings %s", (name) => {
  const pixels = panoramaOf(name, WIDTH);

  it("give light from everywhere, and more from their lamps", () => {
    expect(pixels.every((one) => Number.isFinite(one) && one >= 0)).toBe(true);
    const greens = [...pixels].filter((_, i) => i % 4 === 1).sort((a, b) => a - b);
    expect(greens[0]).toBeGreaterThan(0.01);
    expect(greens.at(-1)! / greens[Math.floor(greens.length / 2)]).toBeGreaterThan(4);
  });

  it("are lit on a matte surface as a sum over all directions says", () => {
    const harmonics = harmonicsOf(pixels, WIDTH);
    const light = new Float64Array(3);
    for (const normal of [
      [0, 1, 0],
      [0.6, 0, 0.8],
      [-0.48, 0.6, -0.64],
    ]) {
      // Irradiance by brute force: every direction, weighed by the cosine.
      let sum = 0;
      const steps = 120;
      for (let row = 0; row < steps; row++) {
        const pitch = ((row + 0.5) / steps - 0.5) * Math.PI;
        for (let column = 0; column < 2 * steps; column++) {
          const yaw = ((column + 0.5) / steps) * Math.PI;
          const way = [Math.cos(yaw) * Math.cos(pitch), Math.sin(pitch), Math.sin(yaw) * Math.cos(pitch)];
          const cosine = way[0] * normal[0] + way[1] * normal[1] + way[2] * normal[2];
          if (cosine <= 0) continue;
          lightFrom(name, way[0], way[1], way[2], light);
          sum += light[1] * cosine * Math.cos(pitch) * (Math.PI / steps) ** 2;
        }
      }
      const [x, y, z] = normal;
      const at = (k: number) => harmonics[k * 3 + 1];
      // Ramamoorthi & Hanrahan 2001, as three.js evaluates a light probe.
      const irradiance =
        at(0) * 0.886227 +
        at(1) * 2 * 0.511664 * y +
        at(2) * 2 * 0.511664 * z +
        at(3) * 2 * 0.511664 * x +
        at(4) * 2 * 0.429043 * x * y +
        at(5) * 2 * 0.429043 * y * z +
        at(6) * (0.743125 * z * z - 0.247708) +
        at(7) * 2 * 0.429043 * x * z +
        at(8) * 0.429043 * (x * x - y * y);
      expect(Math.abs(irradiance - sum) / sum).toBeLessThan(0.12);
    }
  });
});
