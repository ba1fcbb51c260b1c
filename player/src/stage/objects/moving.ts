import type { Blend } from "@bumbrel/core/kinds/shared";
import { settingOf } from "@bumbrel/core/kinds/table";
import { DIFFERENCE_LAYER, SOFT_LAYER } from "../image/layers";
import { HIDDEN, numberAt, type ObjectSource, type RenderedObject } from "../renderedObject";
import { Dots } from "./dots";
import { RootCopies } from "./rootCopies";
import { Trails } from "./trails";

const blendOf = ({ object }: ObjectSource) => settingOf(object, "blend") as Blend;

/** Particles as soft dots; core simulates them. */
export function makeParticles(source: ObjectSource): RenderedObject {
  const memory = () => source.state.simulation.get("particles", source.plan.object.id)!;
  let particles = memory();
  const softness = { value: 0 };
  const dots = new Dots(particles.most, blendOf(source), settingOf(source.object, "lit") === true, softness);
  const look = new Float64Array(9);
  let glow = 1;
  let opacity = 1;
  let timeS = 0;
  let burst = 0;
  const write = (at: number, ageS: number) => {
    const { numbers } = particles;
    const share = ageS / numbers[at + 1];
    // From the first colour to the second half-way, and on to the last.
    const from = share < 0.5 ? 0 : 3;
    const to = from + 3;
    const t = share < 0.5 ? share * 2 : share * 2 - 1;
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
      dots.mesh.layers.set(
        blendOf(source) === "difference" ? DIFFERENCE_LAYER : frame.isSoft ? SOFT_LAYER : 0,
      );
      softness.value = numberAt(source, frame, "softness");
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
    drawnParts: () => (dots.mesh.visible ? { ...dots.drawnParts(), softness: [softness.value] } : HIDDEN),
    count: () => ({ particles: dots.mesh.visible ? dots.count : 0 }),
    dispose: () => dots.dispose(),
  };
}

/** Bodies of orbits at most. */
const MOST_BODIES = 64;
/** A body's dot has soft edges: it is drawn wider to look as wide as it is. */
const BODY_WIDTH = 1.35;

/** Circling bodies as dots, and their trails as lines that face the eye. */
export function makeOrbits(source: ObjectSource): RenderedObject {
  const memory = () => source.state.simulation.get("orbits", source.plan.object.id)!;
  let paths = memory();
  const blend = blendOf(source);
  const dots = new Dots(MOST_BODIES, blend);
  const trails = new Trails(MOST_BODIES * (paths.most + 1), blend);
  const copies = new RootCopies(trails.mesh, dots.mesh);
  const { root } = copies;
  const now = new Float32Array(MOST_BODIES * 3);
  const look = { half: 0, taper: 1, r: 0, g: 0, b: 0, opacity: 1, trailS: 1 };
  const point = (x: number, y: number, z: number, ageS: number) => {
    const left = Math.max(0, 1 - ageS / look.trailS);
    const { half, taper, r, g, b, opacity } = look;
    trails.add(x, y, z, half * (1 - taper * (1 - left)), r, g, b, opacity * Math.min(1, left * 1.6));
  };
  const write = (at: number, ageS: number) =>
    point(paths.points[at], paths.points[at + 1], paths.points[at + 2], ageS);
  return {
    root,
    update(frame) {
      const { values, timeS } = frame;
      root.visible = source.state.placing.isShown(source.plan, values);
      if (!root.visible) return;
      copies.place(source);
      paths = memory();
      const at = (key: string, axis = 0) => numberAt(source, frame, key, axis);
      const strength = at("emissionStrength");
      const light = (axis: number) => at("emissionColour", axis) * strength + at("colour", axis) * 0.25;
      const size = at("bodySize");
      look.half = (size * at("trailWidth")) / 2;
      look.taper = at("trailTaper");
      look.r = light(0);
      look.g = light(1);
      look.b = light(2);
      look.opacity = at("opacity");
      look.trailS = at("trail");
      dots.clear();
      trails.clear();
      const bodies = paths.bodiesAt(timeS, values, now, 0);
      for (let body = 0; body < bodies; body++) {
        const [x, y, z] = [now[body * 3], now[body * 3 + 1], now[body * 3 + 2]];
        if (look.trailS > 0) {
          trails.begin();
          point(x, y, z, 0);
          paths.forEachPoint(body, timeS, look.trailS, write);
        }
        dots.add(x, y, z, size * BODY_WIDTH, look.r, look.g, look.b, look.opacity);
      }
      dots.send();
      trails.send();
    },
    read: (property) =>
      property === "radius"
        ? Math.hypot(now[0], now[1], now[2])
        : property === "trailTaper"
          ? look.taper
          : copies.read(property),
    drawnParts: () =>
      root.visible ? { matrices: copies.matrices(), ...dots.drawnParts(), ...trails.drawnParts() } : HIDDEN,
    bounds(box) {
      for (const { matrix } of root.children) dots.growBox(box, matrix);
      return box;
    },
    count: () => ({ particles: root.visible ? dots.count : 0 }),
    dispose() {
      dots.dispose();
      trails.dispose();
    },
  };
}
