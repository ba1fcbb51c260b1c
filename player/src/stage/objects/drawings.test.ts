import type { ObjectKind, RestValue } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import type { Wave } from "@bumbrel/core/evaluate/wave";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { describe, expect, it } from "@jest/globals";
import { PerspectiveCamera } from "three";
import { StageAssets } from "../assets";
import { ObjectSource } from "../renderedObject";
import { renderObject } from "./table";

const LEVELS = [0.1, 0.5, 0.9, 0.3];
const TONE = Float32Array.from({ length: 48_000 }, (_, i) => Math.sin((2 * Math.PI * i) / 480));

/** Corners of what a drawing's triangles are made of, x, y, z each, and how much each covers. */
function drawn(
  kind: ObjectKind,
  rest: Record<string, RestValue>,
  settings: Record<string, SettingValue> = {},
  timeS = 0.5,
  wave: Wave = { samples: TONE, indexAt: (at: number) => at * 48_000 },
) {
  const scene = newScene("Quay");
  scene.strands.push(newStrand(scene, "fan", "Fan", { kind: "nothing" }));
  const object = { ...newObject("it", kind, "It"), rest, settings };
  scene.objects = [object];
  if (kind !== "waveform") {
    const output = { kind: "range", low: 0, high: 1 } as const;
    scene.bindings.push({ ...newBinding("b", "fan", object, "level"), output });
  }
  const state = new SceneState(scene);
  state.setWaves(new Map([["tone", wave]]));
  // The fan rises to its levels over a second and stays there.
  const frames = Float32Array.from(
    { length: 400 },
    (_, i) => LEVELS[i % 4] * Math.min(1, Math.floor(i / 4) / 50),
  );
  state.setTracks(new Map([["fan", { width: 4, values: frames }]]));
  state.advanceTo(timeS);
  const rendered = renderObject(new ObjectSource(state.plan.of("it")!, state, new StageAssets()));
  rendered.update({ values: state.values, timeS, camera: new PerspectiveCamera(), isSoft: false });
  const { positions, colours } = rendered.drawnParts();
  const count = positions.length / 3;
  const corners = Array.from({ length: count }, (_, i) => ({
    x: positions[i * 3],
    y: positions[i * 3 + 1],
    z: positions[i * 3 + 2],
    opacity: colours[i * 4 + 3],
  }));
  rendered.dispose();
  return corners;
}
const round = (x: number) => Math.round(x * 1000) / 1000;
const extent = (corners: { x: number; y: number }[], key: "x" | "y") => [
  round(Math.min(...corners.map((c) => c[key]))),
  round(Math.max(...corners.map((c) => c[key]))),
];

describe("drawings", () => {
  it("draw a spectrum's bars as high as its levels, side by side over its width", () => {
    const corners = drawn(
      "spectrum",
      { copies: 4, width: 4, rise: 2, thickness: 0.002 },
      { drawnAs: "bars" },
    );
    expect(corners).toHaveLength(4 * 6);
    LEVELS.forEach((level, i) => {
      const bar = corners.slice(i * 6, i * 6 + 6);
      expect(extent(bar, "y")).toEqual([0, round(level * 2)]);
      expect(extent(bar, "x")).toEqual([round(-2 + i + 0.12), round(-2 + i + 0.88)]);
    });
  });

  it("join a spectrum's levels by a line or a filled shape, and bend either round a circle", () => {
    const line = drawn("spectrum", { copies: 4, width: 3, rise: 1, thickness: 0.1 }, { drawnAs: "line" });
    expect(line).toHaveLength(3 * 6);
    expect(extent(line, "y")).toEqual([round(0.1 - 0.05), round(0.9 + 0.05)]);
    const filled = drawn("spectrum", { copies: 4, width: 3, rise: 1, thickness: 0.1 }, { drawnAs: "filled" });
    expect(extent(filled, "y")).toEqual([-0.05, round(0.9 + 0.05)]);
    // Once round, its width is the circumference.
    const width = 2 * Math.PI * 2;
    const round_ = drawn(
      "spectrum",
      { copies: 4, width, rise: 1, thickness: 0.002, bend: 1 },
      { drawnAs: "filled" },
    );
    expect(round_).toHaveLength(4 * 6);
    const away = round_.map(({ x, y }) => Math.hypot(x, y));
    expect(Math.min(...away)).toBeCloseTo(2, 2);
    expect(Math.max(...away)).toBeCloseTo(2.9, 2);
  });

  it("draw outlines about one middle, each as wide as its band makes it", () => {
    const rest = { copies: 4, inner: 1, spacing: 0.5, swell: 2, thickness: 0.002 };
    const corners = drawn("outlines", rest, { sides: 4 });
    expect(corners).toHaveLength(4 * 4 * 6);
    LEVELS.forEach((level, i) => {
      const ring = corners.slice(i * 24, i * 24 + 24);
      // A square stands on a side: half its side is its radius.
      const half = 1 + i * 0.5 + level * 2;
      const [low, high] = extent(ring, "x");
      expect(low).toBeCloseTo(-half, 2);
      expect(high).toBeCloseTo(half, 2);
    });
  });

  it("nest boxes that grow from a corner or the centre", () => {
    const rest: Record<string, RestValue> = { copies: 4, size: [4, 2, 0.001], least: 0, thickness: 0.002 };
    const at = (growsFrom: string) => drawn("nest", rest, { growsFrom });
    const outermost = (corners: ReturnType<typeof drawn>) => corners.slice(0, 24);
    // The outermost is drawn first and has the last band: 0.3 of its size.
    expect(extent(outermost(at("centre")), "x").map((x) => Math.round(x * 100) / 100)).toEqual([-0.6, 0.6]);
    // The point they share is where the object stands.
    const hundredths = (ends: number[]) => ends.map((end) => Math.round(end * 100) / 100 + 0);
    expect(hundredths(extent(outermost(at("bottomLeft")), "x"))).toEqual([0, 1.2]);
    expect(hundredths(extent(outermost(at("topRight")), "y"))).toEqual([-0.6, 0]);
    expect(drawn("nest", { ...rest, size: [4, 2, 1] }).length).toBeGreaterThan(at("centre").length * 2);
  });

  it("draw a live sound up to now, over the whole width", () => {
    const rest = { width: 4, swing: 1, thickness: 0.002, span: 20 };
    const live = { samples: TONE, indexAt: () => TONE.length - 1, isLive: true };
    const high = (corners: ReturnType<typeof drawn>) =>
      corners.filter(({ x, y }) => x > 1 && Math.abs(y) > 0.5).length;
    expect(high(drawn("waveform", rest, {}, 0.5, live))).toBeGreaterThan(20);
    // With now in the middle there would be nothing to draw of what is to come.
    expect(high(drawn("waveform", rest, {}, 0.5, { ...live, isLive: false }))).toBe(0);
  });

  it("draw a waveform from where it rises, so that a steady tone stands still", () => {
    const rest = { width: 4, swing: 1, span: 20, thickness: 0.002 };
    const [a, b] = [drawn("waveform", rest, {}, 0.4), drawn("waveform", rest, {}, 0.4037)];
    expect(extent(a, "y").map((y) => Math.round(y * 10) / 10)).toEqual([-1, 1]);
    expect(extent(a, "x").map((x) => Math.round(x * 10) / 10)).toEqual([-2, 2]);
    // 100 Hz over 20 ms: two periods, whose first quarter is at the top.
    const near = (corners: typeof a, x: number) =>
      corners.reduce((best, one) => (Math.abs(one.x - x) < Math.abs(best.x - x) ? one : best)).y;
    expect(near(a, -2 + 0.5)).toBeGreaterThan(0.97);
    for (const x of [-1.7, -0.6, 0.2, 1.4]) expect(Math.abs(near(a, x) - near(b, x))).toBeLessThan(0.08);
  });

  it("leave a trail of their past, fainter and lower with age", () => {
    const rest = { copies: 4, width: 4, rise: 2, thickness: 0.002, trail: 0.4 };
    const corners = drawn("spectrum", rest, { drawnAs: "bars" }, 0.45);
    const traces = corners.length / 24;
    expect(traces).toBe(9);
    const of = (trace: number) => corners.slice(trace * 24, trace * 24 + 24);
    for (let trace = 1; trace < traces; trace++) {
      expect(of(trace)[0].opacity).toBeGreaterThan(of(trace - 1)[0].opacity);
      expect(extent(of(trace), "y")[1]).toBeGreaterThan(extent(of(trace - 1), "y")[1]);
    }
    expect(of(8)[0].opacity).toBe(1);
  });

  it("let a ribbon stream away with the past of a strand", () => {
    const rest: Record<string, RestValue> = { rise: 1, width: 0.5, lasting: 0.4, flow: [0, 0, -2] };
    const corners = drawn("ribbon", rest, {}, 0.45);
    const mean = LEVELS.reduce((sum, level) => sum + level, 0) / 4;
    for (const { x, y, z } of corners) {
      const ageS = z / -2;
      expect(Math.abs(Math.abs(x) - 0.25)).toBeLessThan(1e-5);
      // It rises to its mean over half a second.
      expect(y).toBeCloseTo(mean * ((0.45 - ageS) / 0.5), 1);
    }
    expect(
      extent(
        corners.map(({ z, y }) => ({ x: z, y })),
        "x",
      ),
    ).toEqual([-0.8, 0]);
  });
});
