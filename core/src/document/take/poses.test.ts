import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type Pose, PoseTrack, restingPose } from "./poses";
import { posesAsText, posesFromText } from "./poseText";

const some = fc.record({
  x: fc.double({ min: -500, max: 500, noNaN: true }),
  y: fc.double({ min: -500, max: 500, noNaN: true }),
  z: fc.double({ min: -500, max: 500, noNaN: true }),
  yaw: fc.double({ min: -400, max: 400, noNaN: true }),
  pitch: fc.double({ min: -90, max: 90, noNaN: true }),
  roll: fc.double({ min: -180, max: 180, noNaN: true }),
});

function read(track: PoseTrack, step: number): Pose | undefined {
  const pose = restingPose();
  return track.at(step, pose) ? pose : undefined;
}

describe("poses over time", () => {
  it("are read while they are recorded as they are read from a file", () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 300 }), some), { maxLength: 40 }),
        (changes) => {
          const track = new PoseTrack();
          const live: [number, Pose | undefined][] = [];
          let step = 0;
          for (const [by, pose] of changes) {
            step += by;
            track.record(step, pose);
            live.push([step, read(track, step)]);
          }
          const back = posesFromText(posesAsText(track));
          expect(back.count).toBe(track.count);
          for (const [at, pose] of live) expect(read(back, at)).toEqual(pose);
        },
      ),
    );
  });

  it("keep places to a millimetre and turns to a twentieth of a degree", () => {
    fc.assert(
      fc.property(some, (pose) => {
        const track = new PoseTrack();
        track.record(3, pose);
        expect(read(track, 2)).toBeUndefined();
        const kept = read(track, 1000)!;
        for (const part of ["x", "y", "z"] as const) {
          expect(Math.abs(kept[part] - pose[part])).toBeLessThanOrEqual(0.001 + 1e-9);
        }
        for (const part of ["yaw", "pitch", "roll"] as const) {
          expect(Math.abs(kept[part] - pose[part])).toBeLessThanOrEqual(0.05 + 1e-9);
        }
      }),
    );
  });

  it("take less than 20 kB for a minute of walking", () => {
    const track = new PoseTrack();
    for (let step = 0; step < 60 * 120; step += 4) {
      const s = step / 120;
      // A walk in bends, with the head turning and nodding as it goes.
      track.record(step, {
        x: 4 * Math.sin(s * 0.35),
        y: 1.6 + 0.02 * Math.sin(s * 11),
        z: 4 * Math.cos(s * 0.31),
        yaw: 40 * Math.sin(s * 0.9) + s * 12,
        pitch: 8 * Math.sin(s * 1.3),
        roll: 0,
      });
    }
    expect(track.count).toBe(1800);
    const { length } = posesAsText(track);
    expect(length).toBeGreaterThan(1000);
    expect(length).toBeLessThan(20_000);
  });

  it("go evenly from one to the next for a view, the short way round, and stand still between far ones", () => {
    const track = new PoseTrack();
    track.record(0, { ...restingPose(), yaw: 350 });
    track.record(4, { ...restingPose(), yaw: 10, x: 0.4 });
    track.record(400, { ...restingPose(), yaw: 10, x: 1.4 });
    const pose = restingPose();
    track.between(2, 8, pose);
    expect(pose.yaw).toBeCloseTo(360, 6);
    expect(pose.x).toBeCloseTo(0.2, 6);
    track.between(300, 8, pose);
    expect(pose.x).toBeCloseTo(0.4, 6);
    track.between(396, 8, pose);
    expect(pose.x).toBeCloseTo(0.9, 6);
    track.between(900, 8, pose);
    expect(pose.x).toBeCloseTo(1.4, 6);
  });

  it("drop later poses when an earlier one is recorded", () => {
    const track = new PoseTrack();
    for (const step of [0, 10, 20]) track.record(step, { ...restingPose(), x: step });
    track.record(12, { ...restingPose(), x: 5 });
    expect([9, 11, 12, 30].map((step) => read(track, step)?.x)).toEqual([0, 10, 5, 5]);
  });

  it("of a file that is cut off are not read as others", () => {
    const track = new PoseTrack();
    for (let step = 0; step < 50; step++) track.record(step, { ...restingPose(), x: step * 3.3, yaw: step });
    const text = posesAsText(track);
    expect(() => posesFromText(text.slice(0, 40))).not.toThrow(TypeError);
    expect(() => posesFromText("A")).toThrow(RangeError);
    expect(() => posesFromText("AAE=".slice(0, 4))).toThrow("cut off");
  });
});
