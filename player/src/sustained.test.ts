import { describe, expect, it } from "@jest/globals";
import { AutomaticQuality } from "./stage/image/quality";
import { SustainedCost } from "./sustained";

describe("a sustained cost", () => {
  it("says nothing after the first frames, and is not moved by single long ones", () => {
    const cost = new SustainedCost();
    cost.add(900);
    expect(cost.ms).toBeUndefined();
    for (let i = 0; i < 80; i++) cost.add(i % 10 === 0 ? 50 : 2);
    expect(cost.ms).toBe(2);
  });

  it("follows a lasting load within two seconds", () => {
    const cost = new SustainedCost();
    for (let i = 0; i < 200; i++) cost.add(2);
    for (let i = 0; i < 61; i++) cost.add(8);
    expect(cost.ms).toBe(8);
    cost.reset();
    expect(cost.ms).toBeUndefined();
  });
});

describe("automatic quality", () => {
  const frames = (quality: AutomaticQuality, count: number, ms: number) => {
    let changes = 0;
    for (let i = 0; i < count; i++) if (quality.observe(ms)) changes++;
    return changes;
  };

  it("stays at the step of its budget while frames come in time", () => {
    const quality = new AutomaticQuality(false);
    expect(quality.step).toBe("desktop");
    expect(frames(quality, 1000, 1000 / 60)).toBe(0);
    quality.setBudget("phone");
    expect(quality.step).toBe("phone");
  });

  it("goes down step by step while most frames are late, and not for a few", () => {
    const quality = new AutomaticQuality(false);
    for (let i = 0; i < 600; i++) quality.observe(i % 4 === 0 ? 60 : 16);
    expect(quality.step).toBe("desktop");
    expect(frames(quality, 60, 60)).toBe(1);
    expect(quality.step).toBe("phone");
    frames(quality, 500, 60);
    expect(quality.step).toBe("plain");
    expect(frames(quality, 500, 60)).toBe(0);
  });

  it("begins at the last step without a graphics card", () => {
    const quality = new AutomaticQuality(true);
    expect(quality.step).toBe("plain");
    expect(frames(quality, 500, 200)).toBe(0);
  });
});
