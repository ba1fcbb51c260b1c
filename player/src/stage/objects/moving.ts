import type { Blend } from "@bumbrel/core/kinds/shared";
import { settingOf } from "@bumbrel/core/kinds/table";
import { HIDDEN, numberAt, type ObjectSource, type RenderedObject } from "../renderedObject";
import { Dots } from "./dots";
import { RootCopies } from "./rootCopies";

const blendOf = ({ object }: ObjectSource) => settingOf(object, "blend") as Blend;

/** Particles as soft dots; core simulates them. */
export function makeParticles(source: ObjectSource): RenderedObject {
  const memory = () => source.state.simulation.get("particles", source.plan.object.id)!;
  let particles = memory();
  const dots = new Dots(particles.most, blendOf(source));
  const look = new Float64Array(9);
  let glow = 1;
  let opacity = 1;
  let timeS = 0;
  let burst = 0;
  const write = (at: number, ageS: number) => {
    const { numbers } = particles;
    const share = ageS / numbers[at + 1];
    // From the first colour to the second half-way, and on to the last.
    const [from, to, t] = share < 0.5 ? [0, 3, share * 2] : [3, 6, share * 2 - 1];
    const fall = 0.5 * numbers[at + 8] * ageS * ageS;
    const fade = Math.min(1, (1 - share) * 3, share * 30);
    dots.add(
      numbers[at + 2] + numbers[at + 5] * ageS,
      numbers[at + 3] + numbers[at + 6] * ageS - fall,
      numbers[at + 4] + numbers[at + 7] * ageS,
      numbers[at + 9] + (numbers[at + 10] - numbers[at + 9]) * share,
      (look[from] + (look[to] - look[from]) * t) * glow,
      (look[from + 1] + (look[to + 1] - look[from + 1]) * t) * glow,
      (look[from + 2] + (look[to + 2] - look[from + 2]) * t) * glow,
      opacity * fade,
    );
  };
  return {
    root: dots.mesh,
    update(frame) {
      const { values, timeS: now } = frame;
      dots.mesh.visible = source.state.placing.isShown(source.plan, values);
      if (!dots.mesh.visible) return;
      for (let axis = 0; axis < 3; axis++) {
        look[axis] = numberAt(source, frame, "colour", axis);
        look[3 + axis] = numberAt(source, frame, "middleColour", axis);
        look[6 + axis] = numberAt(source, frame, "endColour", axis);
      }
      glow = numberAt(source, frame, "glow");
      opacity = numberAt(source, frame, "opacity");
      burst = numberAt(source, frame, "burst");
      timeS = now;
      dots.clear();
      particles = memory();
      particles.forEachAlive(timeS, write);
      dots.send();
    },
    read: (property) => (property === "cap" ? particles.cap : property === "burst" ? burst : undefined),
    drawnParts: () => (dots.mesh.visible ? dots.drawnParts() : HIDDEN),
    count: () => ({ particles: dots.mesh.visible ? dots.count : 0 }),
    dispose: () => dots.dispose(),
  };
}

/** Width of a trail where it begins, as a share of its body. */
const TRAIL_WIDTH = 0.6;
/** A body's dot has soft edges: it is drawn wider to look as wide as it is. */
const BODY_WIDTH = 1.35;

/** Circling bodies and their trails, as dots. */
export function makeOrbits(source: ObjectSource): RenderedObject {
  const memory = () => source.state.simulation.get("orbits", source.plan.object.id)!;
  let trails = memory();
  const most = 64 * (trails.most + 1);
  const dots = new Dots(most, blendOf(source));
  const copies = new RootCopies(dots.mesh);
  const { root } = copies;
  const now = new Float32Array(64 * 3);
  const state = { size: 0, r: 0, g: 0, b: 0, opacity: 1, trailS: 1 };
  const write = (at: number, ageS: number) => {
    const { points } = trails;
    const left = 1 - ageS / state.trailS;
    if (left <= 0) return;
    const { size, r, g, b, opacity } = state;
    dots.add(
      points[at],
      points[at + 1],
      points[at + 2],
      size * TRAIL_WIDTH * (0.3 + 0.7 * left),
      r,
      g,
      b,
      opacity * left * left,
    );
  };
  return {
    root,
    update(frame) {
      const { values, timeS } = frame;
      root.visible = source.state.placing.isShown(source.plan, values);
      if (!root.visible) return;
      copies.place(source);
      trails = memory();
      const strength = numberAt(source, frame, "emissionStrength");
      const light = (axis: number) =>
        numberAt(source, frame, "emissionColour", axis) * strength +
        numberAt(source, frame, "colour", axis) * 0.25;
      state.size = numberAt(source, frame, "bodySize");
      state.r = light(0);
      state.g = light(1);
      state.b = light(2);
      state.opacity = numberAt(source, frame, "opacity");
      state.trailS = numberAt(source, frame, "trail");
      dots.clear();
      const bodies = trails.bodiesAt(timeS, values, now, 0);
      for (let body = 0; body < bodies; body++) {
        if (state.trailS > 0) trails.forEachPoint(body, timeS, state.trailS, write);
        const at = body * 3;
        dots.add(
          now[at],
          now[at + 1],
          now[at + 2],
          state.size * BODY_WIDTH,
          state.r,
          state.g,
          state.b,
          state.opacity,
        );
      }
      dots.send();
    },
    read: (property) => (property === "radius" ? Math.hypot(now[0], now[1], now[2]) : copies.read(property)),
    drawnParts: () => (root.visible ? { matrices: copies.matrices(), ...dots.drawnParts() } : HIDDEN),
    count: () => ({ particles: root.visible ? dots.count : 0 }),
    dispose: () => dots.dispose(),
  };
}
