import { describe, expect, it } from "@jest/globals";
import { BUDGETS } from "../document/scene";
import { BUDGET_LIMITS, type StageWeight, weigh } from "./weight";

const LIGHT: StageWeight = { copies: 10, particles: 10, triangles: 1000, drawCalls: 5, scriptMs: 0.2 };

describe("weighing a stage", () => {
  it.each(BUDGETS)(
    "finds nothing wrong with a light one, nor with one just within a %s's budget",
    (budget) => {
      expect(weigh(LIGHT, budget)).toEqual([]);
      expect(weigh(BUDGET_LIMITS[budget], budget)).toEqual([]);
    },
  );

  it("names each figure that is over, by how much, with a remedy", () => {
    const limits = BUDGET_LIMITS.phone;
    for (const key of Object.keys(limits) as (keyof StageWeight)[]) {
      const over = limits[key] * 2;
      const [finding, ...others] = weigh({ ...LIGHT, [key]: over }, "phone");
      expect(others).toEqual([]);
      expect(finding.code).toBe(`too-many-${key}`);
      expect(finding.what).toContain(key === "scriptMs" ? over.toFixed(1) : String(over));
      expect(finding.what).toContain(String(limits[key]));
      expect(finding.what).toContain("phone");
      expect(finding.remedy.length).toBeGreaterThan(15);
    }
  });

  it("gives a phone and a headset less room than a desktop", () => {
    for (const key of Object.keys(LIGHT) as (keyof StageWeight)[]) {
      for (const budget of ["phone", "headset"] as const) {
        expect(BUDGET_LIMITS[budget][key]).toBeLessThan(BUDGET_LIMITS.desktop[key]);
      }
    }
    expect(
      weigh({ copies: 1e6, particles: 1e6, triangles: 1e9, drawCalls: 1e5, scriptMs: 90 }, "desktop"),
    ).toHaveLength(5);
  });
});
