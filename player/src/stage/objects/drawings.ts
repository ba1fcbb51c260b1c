import { StretchReader } from "@bumbrel/core/dsp/maths/samples";
import type { ObjectPlan } from "@bumbrel/core/evaluate/plan";
import { waveOf } from "@bumbrel/core/evaluate/wave";
import type { Blend } from "@bumbrel/core/kinds/shared";
import { settingOf } from "@bumbrel/core/kinds/table";
import { type Frame, HIDDEN, type ObjectSource, type RenderedObject } from "../renderedObject";
import { RootCopies } from "./rootCopies";
import { makePoints, Strips } from "./strips";

/** Past states that a trail is made of, at most. */
const MOST_GHOSTS = 24;
const GHOSTS_A_SECOND = 20;
const WAVE_POINTS = 320;
/** A waveform is drawn from where it next rises through zero, if it does so this soon: then it does not jitter. */
const RISE_WITHIN_SAMPLES = 960;
const SAMPLES_A_MS = 48;
const RIBBON_POINTS = 160;
const FULL_TURN = 2 * Math.PI;

/** One of a plan's values, or that of one of its copies. */
function at(plan: ObjectPlan, values: Float64Array, key: string, axis = 0, copy = -1): number {
  const slot = plan.at[key];
  if (!slot) return 0;
  return copy >= 0 && slot.each ? slot.each[copy * slot.width + axis] : values[slot.offset + axis];
}

/** Draws an object once into strips, with the values of a time and a share of its opacity. */
type Draw = (strips: Strips, plan: ObjectPlan, values: Float64Array, timeS: number, cover: number) => void;

/**
 * A drawing with its trail: what it looked like before, fading with age. It is computed from the past
 * each frame, so that they are the same after a seek.
 */
function drawing(source: ObjectSource, most: number, draw: Draw): RenderedObject {
  const strips = new Strips(most, settingOf(source.object, "blend") as Blend);
  const copies = new RootCopies(strips.mesh);
  const { root } = copies;
  let past = new Float64Array(0);
  return {
    root,
    update(frame: Frame) {
      const { plan, state } = source;
      const { placing } = state;
      const { values, timeS } = frame;
      root.visible = placing.isShown(plan, values);
      if (!root.visible) return;
      copies.place(source);
      strips.clear();
      const trailS = at(plan, values, "trail");
      if (trailS > 0) {
        if (past.length !== values.length) past = new Float64Array(values.length);
        state.plan.restInto(plan, past);
        const ghosts = Math.min(MOST_GHOSTS, Math.max(2, Math.ceil(trailS * GHOSTS_A_SECOND)));
        for (let ghost = ghosts; ghost >= 1; ghost--) {
          const ageS = (trailS * ghost) / ghosts;
          if (ageS > timeS) continue;
          state.simulation.values.evaluatePlan(plan, timeS - ageS, past);
          draw(strips, plan, past, timeS - ageS, 0.6 * Math.exp((-3 * ghost) / ghosts));
        }
        state.simulation.values.evaluatePlan(plan, timeS, past);
      }
      draw(strips, plan, values, timeS, 1);
      strips.send();
    },
    read: (property) => copies.read(property),
    bounds(box) {
      for (const { matrix } of root.children) strips.growBox(box, matrix);
      return box;
    },
    drawnParts: () => (root.visible ? { matrices: copies.matrices(), ...strips.drawnParts() } : HIDDEN),
    count: () => ({ copies: root.visible ? 1 : 0 }),
    dispose: () => strips.dispose(),
  };
}

/** Writes the look of a point: colour and glow of a copy, and its opacity. */
function paint(
  look: Float64Array,
  i: number,
  plan: ObjectPlan,
  values: Float64Array,
  copy: number,
  cover: number,
): void {
  const strength = at(plan, values, "emissionStrength", 0, copy);
  for (let axis = 0; axis < 3; axis++) {
    look[i * 4 + axis] =
      at(plan, values, "colour", axis, copy) + at(plan, values, "emissionColour", axis, copy) * strength;
  }
  look[i * 4 + 3] = at(plan, values, "opacity", 0, copy) * cover;
}

/** Position of a point of a straight row when the row is bent round: writes x and y into `bent`. */
const bent = { x: 0, y: 0 };
function bendPoint(x: number, y: number, width: number, bend: number): void {
  if (bend < 1e-4) {
    bent.x = x;
    bent.y = y;
    return;
  }
  const radius = width / (FULL_TURN * bend);
  const angle = x / radius;
  bent.x = (radius + y) * Math.sin(angle);
  bent.y = (radius + y) * Math.cos(angle) - radius * (1 - bend);
}

/** Gives a line its two edges, square to the way it goes: steep stretches are as thick as level ones. */
function thicken(
  { x, y }: { x: Float64Array; y: Float64Array },
  count: number,
  half: number,
  points: ReturnType<typeof makePoints>,
): void {
  for (let i = 0; i < count; i++) {
    const before = Math.max(0, i - 1);
    const after = Math.min(count - 1, i + 1);
    const dx = x[after] - x[before];
    const dy = y[after] - y[before];
    const length = Math.hypot(dx, dy) || 1;
    points.ax[i] = x[i] - (dy / length) * half;
    points.ay[i] = y[i] + (dx / length) * half;
    points.bx[i] = x[i] + (dy / length) * half;
    points.by[i] = y[i] - (dx / length) * half;
  }
}

const NO_SAMPLES: Float32Array = new Float32Array(0);

export function makeWaveform(source: ObjectSource): RenderedObject {
  const points = makePoints(WAVE_POINTS);
  const line = { x: new Float64Array(WAVE_POINTS), y: new Float64Array(WAVE_POINTS) };
  const reader = new StretchReader();
  return drawing(source, WAVE_POINTS * 2 * (MOST_GHOSTS + 1), (strips, plan, values, timeS, cover) => {
    const wave = waveOf(source.state.simulation.waves, plan);
    const read = (key: string) => at(plan, values, key);
    const [width, swing, bend, half] = [read("width"), read("swing"), read("bend"), read("thickness") / 2];
    const spanSamples = read("span") * SAMPLES_A_MS;
    let from = 0;
    let samples = NO_SAMPLES;
    if (wave) {
      // A live waveform ends now; others have now in their middle.
      const past = wave.isLive ? spanSamples + RISE_WITHIN_SAMPLES : spanSamples / 2;
      const start = Math.round(wave.indexAt(timeS) - past);
      const reach = RISE_WITHIN_SAMPLES + Math.ceil(spanSamples) + 2;
      const window = reader.between(wave.samples, start, start + reach);
      samples = window.samples;
      from = start - window.first;
      for (let i = 0; i < RISE_WITHIN_SAMPLES; i++) {
        if ((samples[from + i] ?? 0) >= 0 || (samples[from + i + 1] ?? 0) < 0) continue;
        from += i;
        break;
      }
    }
    for (let i = 0; i < WAVE_POINTS; i++) {
      const share = i / (WAVE_POINTS - 1);
      const sample = samples[from + Math.round(share * spanSamples)] ?? 0;
      bendPoint((share - 0.5) * width, swing * sample, width, bend);
      line.x[i] = bent.x;
      line.y[i] = bent.y;
      paint(points.look, i, plan, values, -1, cover);
    }
    thicken(line, WAVE_POINTS, half, points);
    for (let i = 0; i + 1 < WAVE_POINTS; i++) strips.between(points, i, i + 1);
  });
}

export function makeSpectrum(source: ObjectSource): RenderedObject {
  const most = source.plan.copies!.most;
  const points = makePoints(Math.max(2, most));
  const drawnAs = settingOf(source.object, "drawnAs");
  return drawing(source, most * 2 * (MOST_GHOSTS + 1), (strips, plan, values, _timeS, cover) => {
    const read = (key: string) => at(plan, values, key);
    const [width, rise, bend, half] = [read("width"), read("rise"), read("bend"), read("thickness") / 2];
    const count = plan.copies!.count;
    const level = (i: number) => at(plan, values, "level", 0, i) * rise;
    if (drawnAs === "bars") {
      const wide = width / count;
      for (let i = 0; i < count; i++) {
        const left = -width / 2 + wide * (i + 0.12);
        const right = left + wide * 0.76;
        paint(points.look, 0, plan, values, i, cover);
        points.look.copyWithin(4, 0, 4);
        for (const [k, x] of [left, right].entries()) {
          bendPoint(x, Math.max(level(i), half), width, bend);
          points.ax[k] = bent.x;
          points.ay[k] = bent.y;
          bendPoint(x, 0, width, bend);
          points.bx[k] = bent.x;
          points.by[k] = bent.y;
        }
        strips.between(points, 0, 1);
      }
      return;
    }
    // Round a whole circle the last point is joined to the first.
    const isRound = bend >= 0.999;
    const steps = isRound ? count : Math.max(1, count - 1);
    for (let i = 0; i < count; i++) {
      const x = (i / steps - 0.5) * width;
      const y = level(i);
      bendPoint(x, y + half, width, bend);
      points.ax[i] = bent.x;
      points.ay[i] = bent.y;
      bendPoint(x, drawnAs === "filled" ? -half : y - half, width, bend);
      points.bx[i] = bent.x;
      points.by[i] = bent.y;
      paint(points.look, i, plan, values, i, cover);
    }
    for (let i = 0; i + 1 < count; i++) strips.between(points, i, i + 1);
    if (isRound && count > 2) strips.between(points, count - 1, 0);
  });
}

export function makeOutlines(source: ObjectSource): RenderedObject {
  const sides = settingOf(source.object, "sides") as number;
  const most = source.plan.copies!.most;
  const points = makePoints(sides);
  // Corners keep the thickness of the sides.
  const corner = 1 / Math.cos(Math.PI / sides);
  return drawing(source, most * sides * 2 * (MOST_GHOSTS + 1), (strips, plan, values, _timeS, cover) => {
    const read = (key: string) => at(plan, values, key);
    const [inner, spacing, swell, half] = [
      read("inner"),
      read("spacing"),
      read("swell"),
      read("thickness") / 2,
    ];
    for (let n = 0; n < plan.copies!.count; n++) {
      const radius = inner + n * spacing + at(plan, values, "level", 0, n) * swell;
      for (let i = 0; i < sides; i++) {
        const angle = (FULL_TURN * (i + 0.5)) / sides;
        const [sin, cos] = [Math.sin(angle), -Math.cos(angle)];
        points.ax[i] = (radius + half) * corner * sin;
        points.ay[i] = (radius + half) * corner * cos;
        points.bx[i] = Math.max(0, radius - half) * corner * sin;
        points.by[i] = Math.max(0, radius - half) * corner * cos;
        paint(points.look, i, plan, values, n, cover);
      }
      for (let i = 0; i < sides; i++) strips.between(points, i, (i + 1) % sides);
    }
  });
}

/** Which way boxes lie from the point they grow from: 0 about it, 1 to the right or up, −1 to the left or down. */
const GROWS: Record<string, [x: number, y: number]> = {
  centre: [0, 0],
  bottomLeft: [1, 1],
  bottomRight: [-1, 1],
  topLeft: [1, -1],
  topRight: [-1, -1],
};

export function makeNest(source: ObjectSource): RenderedObject {
  const most = source.plan.copies!.most;
  const [wayX, wayY] = GROWS[settingOf(source.object, "growsFrom") as string];
  const points = makePoints(4);
  return drawing(source, most * 32 * (MOST_GHOSTS + 1), (strips, plan, values, _timeS, cover) => {
    const count = plan.copies!.count;
    const half = at(plan, values, "thickness") / 2;
    const least = at(plan, values, "least");
    const size = [0, 1, 2].map((axis) => at(plan, values, "size", axis));
    // The outermost first, so that inner ones lie over it.
    for (let n = count - 1; n >= 0; n--) {
      const share = ((n + 1) / count) * (least + (1 - least) * at(plan, values, "level", 0, n));
      const [w, h, d] = size.map((one) => one * share);
      const [left, foot] = [(wayX * size[0] - size[0]) / 2, (wayY * size[1] - size[1]) / 2];
      const middleX = wayX === 0 ? 0 : wayX > 0 ? left + w / 2 : left + size[0] - w / 2;
      const middleY = wayY === 0 ? 0 : wayY > 0 ? foot + h / 2 : foot + size[1] - h / 2;
      paint(points.look, 0, plan, values, n, cover);
      for (let i = 1; i < 4; i++) points.look.copyWithin(i * 4, 0, 4);
      const corners = (z: number, grow: number, x: Float64Array, y: Float64Array, zs: Float64Array) => {
        for (let i = 0; i < 4; i++) {
          x[i] = middleX + (i === 0 || i === 3 ? -1 : 1) * Math.max(0, w / 2 + grow);
          y[i] = middleY + (i < 2 ? -1 : 1) * Math.max(0, h / 2 + grow);
          zs[i] = z;
        }
      };
      for (const z of d > 0.02 ? [-d / 2, d / 2] : [0]) {
        corners(z, half, points.ax, points.ay, points.az);
        corners(z, -half, points.bx, points.by, points.bz);
        for (let i = 0; i < 4; i++) strips.between(points, i, (i + 1) % 4);
      }
      if (d <= 0.02) continue;
      // Edges from front to back, as bands across the corners.
      corners(-d / 2, 0, points.ax, points.ay, points.az);
      for (let i = 0; i < 4; i++) {
        const [x, y] = [points.ax[i], points.ay[i]];
        const edge = (dx: number, dy: number, z: number) => {
          const { look } = points;
          strips.vertex(x + dx, y + dy, z, look[0], look[1], look[2], look[3]);
        };
        for (const [dx, dy] of [
          [half, 0],
          [0, half],
        ]) {
          edge(-dx, -dy, -d / 2);
          edge(dx, dy, -d / 2);
          edge(-dx, -dy, d / 2);
          edge(-dx, -dy, d / 2);
          edge(dx, dy, -d / 2);
          edge(dx, dy, d / 2);
        }
      }
    }
  });
}

export function makeRibbon(source: ObjectSource): RenderedObject {
  const points = makePoints(RIBBON_POINTS);
  let past = new Float64Array(0);
  return drawing(source, RIBBON_POINTS * 2, (strips, plan, values, timeS) => {
    const { state } = source;
    if (past.length !== values.length) past = new Float64Array(values.length);
    state.plan.restInto(plan, past);
    const lasting = at(plan, values, "lasting");
    const [half, rise] = [at(plan, values, "width") / 2, at(plan, values, "rise")];
    const flow = [0, 1, 2].map((axis) => at(plan, values, "flow", axis));
    // Its width lies across the way it streams, and level.
    const across = Math.hypot(flow[0], flow[2]);
    const [sideX, sideZ] = across > 1e-6 ? [-flow[2] / across, flow[0] / across] : [1, 0];
    let count = 0;
    for (let i = 0; i < RIBBON_POINTS; i++) {
      const ageS = (lasting * i) / (RIBBON_POINTS - 1);
      if (ageS > timeS) break;
      state.simulation.values.evaluatePlan(plan, timeS - ageS, past);
      const x = flow[0] * ageS;
      const y = at(plan, past, "level") * rise + flow[1] * ageS;
      const z = flow[2] * ageS;
      points.ax[i] = x - sideX * half;
      points.bx[i] = x + sideX * half;
      points.ay[i] = y;
      points.by[i] = y;
      points.az[i] = z - sideZ * half;
      points.bz[i] = z + sideZ * half;
      paint(points.look, i, plan, past, -1, 1 - i / RIBBON_POINTS);
      count++;
    }
    state.simulation.values.evaluatePlan(plan, timeS, past);
    for (let i = 0; i + 1 < count; i++) strips.between(points, i, i + 1);
  });
}
