import type { Asset } from "../document/scene";
import type { ObjectPlan, ScenePlan } from "../evaluate/plan";
import type { Sums } from "../evaluate/sums";
import { MAX_COPIES, type Pin } from "../kinds/shared";
import { bodySizeOf, can, settingOf } from "../kinds/table";
import { hueTurned, rampTable } from "../setting/colour";
import type { ColourStop } from "../setting/descriptor";
import { compose, composeTurned, type Matrices, multiply, multiplySized } from "./matrix";

/** The instances of a body to draw: a matrix, a colour and an emission each. */
export interface Instances {
  count: number;
  /** 16 numbers each. */
  matrices: Matrices;
  /** Linear RGB each. */
  colours: Float32Array;
  /** Linear RGB of its own light, and its opacity. */
  glows: Float32Array;
}

export function newInstances(most: number): Instances {
  return {
    count: 0,
    matrices: new Float32Array(most * 16),
    colours: new Float32Array(most * 3),
    glows: new Float32Array(most * 4),
  };
}

/** Transforms of an object: one, or one for each copy of the group it is in. */
interface Roots {
  count: number;
  matrices: Matrices;
}

/** Seconds in which a gradient over time is gone through once. */
const GRADIENT_PERIOD_S = 10;
const RAMP_STEPS = 256;
const IDENTITY = Float32Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);
const ONE: Roots = { count: 1, matrices: IDENTITY };
const NO_TURN = Float32Array.of(0, 0, 0, 1);
const AXIS = { x: 0, y: 1, z: 2 };

/**
 * Places objects: from evaluated values to matrices on the stage, through groups, formations and sizes.
 * Geometry is one metre wide about its own middle.
 */
export class Placing {
  /** Matrices of what things are pinned to, as far as a visitor is there. */
  pins: Partial<Record<Exclude<Pin, "world">, Matrices>> = {};
  /** Simulations that move instances away from the place of their values. */
  moved: { move(plan: ObjectPlan, instances: Instances): void } | undefined;
  private readonly scenePlan: ScenePlan;
  private readonly sums: Sums;
  private readonly own = new Map<ObjectPlan, Roots>();
  private readonly inside = new Map<ObjectPlan, Roots>();
  private readonly parents = new Map<ObjectPlan, ObjectPlan | undefined>();
  private readonly ramps = new Map<ObjectPlan, { stops: ColourStop[]; table: Float32Array }>();
  private parentIds: readonly (string | null)[] = [];
  private assetList: readonly Asset[] = [];
  private assets: ReadonlyMap<string, Asset> = new Map();
  private readonly local = new Float32Array(16);
  private readonly shape = new Float64Array(6);
  private readonly look = new Float64Array(10);

  constructor(scenePlan: ScenePlan, sums: Sums) {
    this.scenePlan = scenePlan;
    this.sums = sums;
    this.follow();
  }

  /** Follows an edit: finds groups and image sizes again where they have changed. */
  follow(): void {
    const { plans, scene } = this.scenePlan;
    if (scene.assets !== this.assetList) {
      this.assetList = scene.assets;
      this.assets = new Map(scene.assets.map((asset) => [asset.id, asset]));
    }
    const isSame =
      plans.length === this.parentIds.length &&
      plans.every(({ object }, i) => object.parentId === this.parentIds[i]);
    if (isSame) return;
    this.parentIds = plans.map(({ object }) => object.parentId);
    this.parents.clear();
    for (const plan of plans) this.parents.set(plan, this.findParent(plan));
  }

  /** The group an object is in; none for one that would be in itself. */
  private findParent(plan: ObjectPlan): ObjectPlan | undefined {
    const seen = new Set<ObjectPlan>([plan]);
    let up: ObjectPlan | undefined = plan;
    while (up) {
      const parentId: string | null = up.object.parentId;
      up = parentId === null ? undefined : this.scenePlan.of(parentId);
      if (up && seen.has(up)) return undefined;
      if (up) seen.add(up);
    }
    const { parentId } = plan.object;
    const parent = parentId === null ? undefined : this.scenePlan.of(parentId);
    return parent && can(parent.object.kind).holdsObjects ? parent : undefined;
  }

  parentOf(plan: ObjectPlan): ObjectPlan | undefined {
    return this.parents.get(plan);
  }

  /** An object and the groups around it, the outermost first. */
  chainOf(plan: ObjectPlan): ObjectPlan[] {
    const parent = this.parents.get(plan);
    return parent ? [...this.chainOf(parent), plan] : [plan];
  }

  /** True if it is visible: neither hidden nor switched off, by itself or by a group around it. */
  isShown(plan: ObjectPlan, out: Float64Array): boolean {
    for (let up: ObjectPlan | undefined = plan; up; up = this.parents.get(up)) {
      if (up.object.hidden) return false;
      const slot = up.at.visibility;
      if (slot && out[slot.offset] < 0.5) return false;
    }
    return true;
  }

  /**
   * Computes an object's root transforms; those of its groups must have been computed before.
   *
   * @param out  values at the time
   */
  placeRoots(plan: ObjectPlan, timeS: number, out: Float64Array): Roots {
    const { kind } = plan.object;
    const parent = this.parents.get(plan);
    const around = parent ? (this.inside.get(parent) ?? ONE) : this.pinOf(plan);
    const roots = this.sized(this.own, plan, around.count);
    const position = plan.at.position!.offset;
    if (can(kind).placement === "turned") {
      const spin = this.sums.integralAt(plan.at.spin!, timeS, out) % 360;
      const [rotation, scale] = [plan.at.rotation!.offset, plan.at.scale!.offset];
      compose(this.local, 0, out, position, rotation, scale, spin);
    } else {
      composeTurned(this.local, 0, NO_TURN, 0, out[position], out[position + 1], out[position + 2], 1, 1, 1);
    }
    for (let i = 0; i < around.count; i++) {
      multiply(roots.matrices, i * 16, around.matrices, i * 16, this.local, 0);
    }
    if (can(kind).holdsObjects) this.placeInside(plan, roots, out);
    return roots;
  }

  /** Origin of an object's position: the scene, or the part of the visitor that it is pinned to. */
  private pinOf({ object }: ObjectPlan): Roots {
    const to = object.settings.pinnedTo as Pin | undefined;
    const matrices = to === undefined || to === "world" ? undefined : this.pins[to];
    return matrices ? { count: 1, matrices } : ONE;
  }

  /** Transforms for the objects in a group: its root, or one for each of its copies. */
  private placeInside(plan: ObjectPlan, roots: Roots, out: Float64Array): void {
    const { copies } = plan;
    if (!copies) {
      this.inside.set(plan, roots);
      return;
    }
    const each = Math.min(copies.count, Math.floor(MAX_COPIES / roots.count));
    const inside = this.sized(this.inside, plan, roots.count * each);
    this.shape.fill(1, 0, 3);
    this.shape.fill(0, 3);
    this.writeCopies(plan, roots, each, out, inside.matrices, -1);
  }

  private sized(map: Map<ObjectPlan, Roots>, plan: ObjectPlan, count: number): Roots {
    let roots = map.get(plan);
    // A group without copies shares its root with what is in it; once it has some they need room of their own.
    const isShared = map === this.inside && roots === this.own.get(plan);
    if (!roots || isShared || roots.matrices.length < count * 16) {
      roots = { count, matrices: new Float32Array(count * 16) };
      map.set(plan, roots);
    }
    roots.count = count;
    return roots;
  }

  /** The root transforms of an object as last computed. */
  rootsOf(plan: ObjectPlan): Roots {
    return this.own.get(plan) ?? ONE;
  }

  /** Number of instances of a body, without its wake. */
  countOf(plan: ObjectPlan): number {
    const roots = this.rootsOf(plan).count;
    return Math.min(MAX_COPIES, roots * (plan.copies?.count ?? 1));
  }

  /** The largest number of instances it can have. */
  maxInstances(plan: ObjectPlan): number {
    let most = plan.copies?.most ?? 1;
    for (let up = this.parents.get(plan); up; up = this.parents.get(up)) most *= up.copies?.most ?? 1;
    return Math.min(MAX_COPIES, most);
  }

  /** Writes a body's instances from its roots; returns how many there are. */
  writeInstances(plan: ObjectPlan, timeS: number, out: Float64Array, into: Instances): number {
    const each = this.writeMatrices(plan, out, into);
    this.moved?.move(plan, into);
    this.paint(plan, this.rootsOf(plan).count, each, timeS, out, into);
    return into.count;
  }

  /** Writes the matrices of a body's instances as its values place them; returns how many copies each root has. */
  writeMatrices(plan: ObjectPlan, out: Float64Array, into: Instances): number {
    const roots = this.rootsOf(plan);
    this.shapeOf(plan, out);
    const each = plan.copies ? Math.min(plan.copies.count, Math.floor(MAX_COPIES / roots.count)) : 1;
    this.writeCopies(plan, roots, each, out, into.matrices, plan.at.growth?.offset ?? -1);
    into.count = roots.count * each;
    return each;
  }

  /** Size of a body's geometry at scale and growth 1, in metres. */
  sizeOf(plan: ObjectPlan, out: Float64Array): [number, number, number] {
    this.shapeOf(plan, out);
    return [this.shape[0], this.shape[1], this.shape[2]];
  }

  /** Size of the geometry at growth 1, and where its middle lies in units of that size. */
  private shapeOf(plan: ObjectPlan, out: Float64Array): void {
    const { shape } = this;
    const { object } = plan;
    shape.fill(1, 0, 3);
    shape.fill(0, 3);
    const body = bodySizeOf(object.kind);
    if (!body) return;
    const read = (key: string, axis = 0) => {
      const slot = plan.at[key];
      return slot ? out[slot.offset + axis] : 1;
    };
    const image = body.aspectOf && this.assets.get(settingOf(object, body.aspectOf) as string);
    const aspect = image && image.kind === "picture" ? image.widthPx / image.heightPx : 1;
    shape.set(body.size(read, aspect));
    const anchor = settingOf(object, "anchor");
    if (anchor === "base" || anchor === "corner") shape[4] = 0.5;
    if (anchor === "corner") {
      shape[3] = 0.5;
      shape[5] = body.isFlat ? 0 : 0.5;
    }
  }

  /** Writes a matrix for each root and copy, with the shape as last read. */
  private writeCopies(
    plan: ObjectPlan,
    roots: Roots,
    each: number,
    out: Float64Array,
    into: Matrices,
    growthAt: number,
  ): void {
    const { shape, local } = this;
    const { copies, object } = plan;
    const axis = growthAt >= 0 ? AXIS[settingOf(object, "growsAlong") as "x" | "y" | "z"] : -1;
    const growths = growthAt >= 0 ? plan.at.growth!.each : undefined;
    const shift = copies && plan.at.copyShift;
    const turn = copies && plan.at.copyTurn;
    const scale = copies && plan.at.copyScale;
    const [width, height, depth, ox, oy, oz] = shape;
    for (let i = 0; i < each; i++) {
      let sx = 1;
      let sy = 1;
      let sz = 1;
      let px = 0;
      let py = 0;
      let pz = 0;
      let q: ArrayLike<number> = NO_TURN;
      let qAt = 0;
      if (copies && shift && turn && scale) {
        const p = shift.each ?? out;
        const s = scale.each ?? out;
        const pAt = shift.each ? i * 3 : shift.offset;
        const sAt = scale.each ? i * 3 : scale.offset;
        px = copies.places[i * 3] + p[pAt];
        py = copies.places[i * 3 + 1] + p[pAt + 1];
        pz = copies.places[i * 3 + 2] + p[pAt + 2];
        sx = s[sAt] * copies.sizes[i * 3];
        sy = s[sAt + 1] * copies.sizes[i * 3 + 1];
        sz = s[sAt + 2] * copies.sizes[i * 3 + 2];
        const r = turn.each ?? out;
        const rAt = turn.each ? i * 3 : turn.offset;
        q = copies.turns;
        qAt = i * 4;
        if (r[rAt] !== 0 || r[rAt + 1] !== 0 || r[rAt + 2] !== 0) {
          turned(TURNED, copies.turns, i * 4, r[rAt], r[rAt + 1], r[rAt + 2]);
          q = TURNED;
          qAt = 0;
        }
      }
      sx *= width;
      sy *= height;
      sz *= depth;
      if (axis >= 0) {
        const growth = growths ? growths[i] : out[growthAt];
        if (axis === 0) sx *= growth;
        else if (axis === 1) sy *= growth;
        else sz *= growth;
      }
      // The middle of the geometry lies beside the point it stands on.
      if (q[qAt] === 0 && q[qAt + 1] === 0 && q[qAt + 2] === 0) {
        px += sx * ox;
        py += sy * oy;
        pz += sz * oz;
        for (let root = 0; root < roots.count; root++) {
          multiplySized(into, (root * each + i) * 16, roots.matrices, root * 16, px, py, pz, sx, sy, sz);
        }
        continue;
      }
      composeTurned(local, 0, q, qAt, px, py, pz, sx, sy, sz);
      local[12] += local[0] * ox + local[4] * oy + local[8] * oz;
      local[13] += local[1] * ox + local[5] * oy + local[9] * oz;
      local[14] += local[2] * ox + local[6] * oy + local[10] * oz;
      for (let root = 0; root < roots.count; root++) {
        multiply(into, (root * each + i) * 16, roots.matrices, root * 16, local, 0);
      }
    }
  }

  /** Writes colour and glow of each, with gradients and hues by chance. */
  private paint(
    plan: ObjectPlan,
    rootCount: number,
    each: number,
    timeS: number,
    out: Float64Array,
    into: Instances,
  ): void {
    const { look } = this;
    const owner = this.scenePlan.surfaceOwner(plan);
    const slot = (key: string) => owner.at[key]!;
    const [colour, glow, strength, opacity] = [
      slot("colour"),
      slot("emissionColour"),
      slot("emissionStrength"),
      slot("opacity"),
    ];
    // A shared material has no copies of its own: all of an object's are alike.
    const own = owner === plan;
    const { copies } = plan;
    const along = settingOf(owner.object, "gradientAlong");
    const ramp = along === "copies" || along === "time" ? this.rampOf(owner) : undefined;
    const amount = ramp ? out[slot("gradientAmount").offset] : 0;
    const shift = ramp ? out[slot("gradientShift").offset] : 0;
    const colours = own ? colour.each : undefined;
    const glows = own ? glow.each : undefined;
    const strengths = own ? strength.each : undefined;
    const opacities = own ? opacity.each : undefined;
    const changesColours = ramp !== undefined || copies?.hasHues === true;
    const isAlike = !changesColours && !colours && !glows && !strengths && !opacities;
    for (let i = 0; i < each; i++) {
      if (!isAlike || i === 0) {
        if (i === 0 || changesColours || colours) readInto(look, 0, colours, i, colour.offset, out, 3);
        if (i === 0 || changesColours || glows) readInto(look, 3, glows, i, glow.offset, out, 3);
        look[6] = strengths ? strengths[i] : out[strength.offset];
        look[7] = opacities ? opacities[i] : out[opacity.offset];
        if (ramp) {
          const place = along === "time" ? timeS / GRADIENT_PERIOD_S : each > 1 ? i / (each - 1) : 0;
          const moved = shift === 0 && along === "copies" ? place : place + shift - Math.floor(place + shift);
          const at = Math.min(RAMP_STEPS - 1, Math.round(moved * (RAMP_STEPS - 1))) * 3;
          for (let axis = 0; axis < 3; axis++) {
            look[axis] += (ramp[at + axis] - look[axis]) * amount;
            look[3 + axis] += (ramp[at + axis] - look[3 + axis]) * amount;
          }
        }
        if (copies?.hasHues) {
          hueTurned(look, 0, copies.hues[i]);
          hueTurned(look, 3, copies.hues[i]);
        }
      }
      for (let root = 0; root < rootCount; root++) {
        const n = root * each + i;
        into.colours[n * 3] = look[0];
        into.colours[n * 3 + 1] = look[1];
        into.colours[n * 3 + 2] = look[2];
        into.glows[n * 4] = look[3] * look[6];
        into.glows[n * 4 + 1] = look[4] * look[6];
        into.glows[n * 4 + 2] = look[5] * look[6];
        into.glows[n * 4 + 3] = look[7];
      }
    }
  }

  private rampOf(owner: ObjectPlan): Float32Array {
    const stops = settingOf(owner.object, "gradient") as ColourStop[];
    const known = this.ramps.get(owner);
    if (known && known.stops === stops) return known.table;
    const table = rampTable(stops, RAMP_STEPS);
    this.ramps.set(owner, { stops, table });
    return table;
  }
}

function readInto(
  look: Float64Array,
  at: number,
  each: Float32Array | undefined,
  copy: number,
  offset: number,
  out: Float64Array,
  width: number,
): void {
  for (let k = 0; k < width; k++) look[at + k] = each ? each[copy * width + k] : out[offset + k];
}

const TURNED = new Float32Array(4);
const RADIANS = Math.PI / 180;

/** A quaternion turned further about x, y and z, in degrees. */
function turned(out: Float32Array, q: Float32Array, at: number, x: number, y: number, z: number): void {
  const [sx, cx] = [Math.sin((x * RADIANS) / 2), Math.cos((x * RADIANS) / 2)];
  const [sy, cy] = [Math.sin((y * RADIANS) / 2), Math.cos((y * RADIANS) / 2)];
  const [sz, cz] = [Math.sin((z * RADIANS) / 2), Math.cos((z * RADIANS) / 2)];
  const bx = sx * cy * cz + cx * sy * sz;
  const by = cx * sy * cz - sx * cy * sz;
  const bz = cx * cy * sz + sx * sy * cz;
  const bw = cx * cy * cz - sx * sy * sz;
  const [ax, ay, az, aw] = [q[at], q[at + 1], q[at + 2], q[at + 3]];
  out[0] = ax * bw + aw * bx + ay * bz - az * by;
  out[1] = ay * bw + aw * by + az * bx - ax * bz;
  out[2] = az * bw + aw * bz + ax * by - ay * bx;
  out[3] = aw * bw - ax * bx - ay * by - az * bz;
}
