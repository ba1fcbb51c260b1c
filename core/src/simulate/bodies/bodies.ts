import type {
  Collider,
  ColliderDesc,
  EventQueue,
  KinematicCharacterController,
  RigidBody,
  World,
} from "@dimforge/rapier3d-deterministic-compat";
import type { Pose } from "../../document/take/poses";
import type { ObjectPlan, ScenePlan } from "../../evaluate/plan";
import type { SolidShape } from "../../kinds/shared";
import { settingOf, solidityOf } from "../../kinds/table";
import { composeTurned, decompose } from "../matrix";
import type { Instances } from "../placing";
import type { StepPlaces } from "../stepPlaces";
import { STEP_S } from "../stepper";
import { launchSpeed } from "./launchSpeed";

type Physics = typeof import("./bodiesPart")["physics"];

/** A point of the stage, metres. */
export type Point = [number, number, number];

/** Two bodies that met in the last step. */
export interface Meeting {
  a: BodyRef;
  b: BodyRef;
  /** How hard, N·s. */
  impulse: number;
  point: Point;
}

/** One body: an object and which of its copies. */
export interface BodyRef {
  objectId: string;
  copy: number;
}

/** Holder of a body, and the body's position and rotation relative to the holder. */
export interface Hold extends BodyRef {
  offset: Point;
  turn: [number, number, number, number];
}
export type Holder = "left" | "right" | "pointer";

/** Parts of a visitor that bodies collide with. */
export interface Presence {
  /** Feet and eye height; none while nobody is there. */
  standing: { x: number; y: number; z: number; height: number } | undefined;
  hands: Partial<Record<Holder, Pose>>;
}

interface Item {
  plan: ObjectPlan;
  copy: number;
  solidity: "fixed" | "moving" | "carried";
  /** Handle of its rigid body; −1 while it is not there. */
  handle: number;
  /** Sizes that its collider was made for. */
  sizes: Point;
  /** Place and turn as of the last step: x, y, z, and a quaternion. */
  at: Float64Array;
}

/** Saved state of bodies, to continue from later. */
export interface BodiesState {
  world: Uint8Array;
  handles: Float64Array;
  sizes: Float64Array;
  places: Float64Array;
  visitor: number[];
  fresh: [number, number, number][];
  meetings: Meeting[];
}

/** At 120 steps a second two rounds of the solver hold a pile still. */
const SOLVER_ROUNDS = 2;
/** How near bodies are when the solver begins to see them coming: at 120 steps a second a quarter of its usual. */
const FORESEEN_M = 0.005;
/** A collider is made again when a size differs by more than this share. */
const RESIZED = 0.02;
/** Contacts without a force for this many steps have not met yet: rapier sees them coming. */
const FRESH_STEPS = 6;
const FLAT_M = 0.02;
/** A sleeping body this near to its own place, m or half a turn’s sine, is not woken by its spring. */
const AT_HOME = 1e-3;
/** The pull that jumps are meant against where there is none, m/s². */
const EARTHS_PULL = 9.81;
const HAND_RADIUS_M = 0.07;
const VISITOR_RADIUS_M = 0.25;
/** Weaker contact forces are not told of, N. */
const LEAST_FORCE = 1;
/** A visitor’s body ends this far above their feet: touching the floor, it could not be moved along it. */
const HOVER_M = 0.02;
/** Steps that visitors take up, and slopes they walk up. */
const STEP_UP_M = 0.35;
const SLOPE = (50 * Math.PI) / 180;

/** Gap between a visitor and a surface they touch, so that touching does not count as being inside. */
const SLACK_M = 0.02;
/** Steps in which somebody is lifted out of something solid, and how far at most. */
const LIFT_M = 0.1;
const LIFTED_M = 30;
/** How far round somebody there must be something to stand on. */
const FOOTING_M = 0.2;
const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 };

const FLOORS = new Set(["ground"]);

/** The objects of a scene that are solid. */
export const solidPlans = (plan: ScenePlan): ObjectPlan[] =>
  plan.plans.filter(({ object }) => solidityOf(object) !== "none");

/**
 * The rigid bodies of a scene, in steps of 1/120 s. The same values and impulses give the same positions to the bit,
 * also after they were kept and brought back.
 */
export class Bodies {
  /** Pairs that met in the last step. */
  readonly meetings: Meeting[] = [];
  private readonly physics: Physics;
  private readonly places: StepPlaces;
  private readonly plan: ScenePlan;
  private readonly hulls: ReadonlyMap<string, Float32Array>;
  private readonly tellsMeetings: boolean;
  private world: World;
  private queue: EventQueue;
  private items: Item[] = [];
  private byPlan = new Map<ObjectPlan, Item[]>();
  private byHandle = new Map<number, Item>();
  private visitorHandle = -1;
  private hands: Record<Holder, number> = { left: -1, right: -1, pointer: -1 };
  /** Pairs of colliders that have come together and not been told of yet: handles, and the steps since. */
  private fresh: [number, number, number][] = [];
  private gravity: Point = [0, 0, 0];
  private controller: KinematicCharacterController | undefined;
  private readonly place = new Float64Array(3);
  private readonly turn = new Float64Array(4);
  private readonly extent = new Float64Array(3);

  /**
   * @param hulls  points of a model's surface by object, in units of its size
   * @param tellsMeetings  whether anything asks for {@link meetings}
   */
  constructor(
    physics: Physics,
    plan: ScenePlan,
    places: StepPlaces,
    hulls: ReadonlyMap<string, Float32Array>,
    tellsMeetings: boolean,
  ) {
    this.physics = physics;
    this.plan = plan;
    this.places = places;
    this.hulls = hulls;
    this.tellsMeetings = tellsMeetings;
    this.queue = new physics.EventQueue(true);
    this.world = this.newWorld();
  }

  private newWorld(): World {
    const world = new this.physics.World({ x: 0, y: 0, z: 0 });
    world.timestep = STEP_S;
    world.integrationParameters.numSolverIterations = SOLVER_ROUNDS;
    world.integrationParameters.normalizedPredictionDistance = FORESEEN_M;
    return world;
  }

  dispose(): void {
    this.world.free();
    this.queue.free();
  }

  /** How many bodies there can be that are not fixed. */
  get most(): number {
    let most = 0;
    for (const plan of solidPlans(this.plan)) {
      if (solidityOf(plan.object) !== "fixed") most += this.places.placing.maxInstances(plan);
    }
    return most;
  }

  /** How many moving bodies are awake. */
  get awake(): number {
    let count = 0;
    for (const { solidity, handle } of this.items) {
      if (solidity === "moving" && handle >= 0 && !this.world.getRigidBody(handle)?.isSleeping()) count++;
    }
    return count;
  }

  /** Puts every body where its object is at the start. */
  begin(): void {
    this.world.free();
    this.world = this.newWorld();
    this.controller = undefined;
    this.items = [];
    this.byPlan.clear();
    this.byHandle.clear();
    this.fresh = [];
    this.gravity = [0, 0, 0];
    this.heldHandles.clear();
    this.meetings.length = 0;
    this.visitorHandle = -1;
    this.hands = { left: -1, right: -1, pointer: -1 };
    for (const plan of solidPlans(this.plan)) {
      const { count, matrices } = this.places.instancesOf(plan);
      const solidity = solidityOf(plan.object) as Item["solidity"];
      const items: Item[] = [];
      for (let copy = 0; copy < count; copy++) {
        const item: Item = { plan, copy, solidity, handle: -1, sizes: [0, 0, 0], at: new Float64Array(7) };
        decompose(matrices, copy * 16, this.place, this.turn, this.extent);
        if (this.hasExtent()) this.make(item);
        items.push(item);
        this.items.push(item);
      }
      this.byPlan.set(plan, items);
    }
  }

  private hasExtent(): boolean {
    const [x, y, z] = this.extent;
    return x > 1e-6 && y > 1e-6 && z >= 0;
  }

  /** Makes the body of an item at the place, turn and sizes that were read last. */
  private make(item: Item): void {
    const { physics, world, place, turn, extent } = this;
    const { RigidBodyDesc } = physics;
    const { solidity } = item;
    const desc =
      solidity === "moving"
        ? RigidBodyDesc.dynamic()
        : solidity === "carried"
          ? RigidBodyDesc.kinematicPositionBased()
          : RigidBodyDesc.fixed();
    desc.setTranslation(place[0], place[1], place[2]);
    desc.setRotation({ x: turn[0], y: turn[1], z: turn[2], w: turn[3] });
    const body = world.createRigidBody(desc);
    item.handle = body.handle;
    this.byHandle.set(body.handle, item);
    this.giveCollider(item, body, [extent[0], extent[1], extent[2]]);
    this.note(item, body);
  }

  private giveCollider(item: Item, body: RigidBody, sizes: Point): void {
    const { plan } = item;
    item.sizes = sizes;
    while (body.numColliders() > 0) this.world.removeCollider(body.collider(0), false);
    const number = (key: string) => this.places.number(plan, key);
    const desc = this.shapeOf(plan, sizes)
      .setRestitution(number("bounce"))
      .setFriction(number("friction"))
      .setRestitutionCombineRule(this.physics.CoefficientCombineRule.Max);
    if (item.solidity === "moving") {
      desc.setMass(number("mass"));
      body.setLinearDamping(number("damping"));
      body.setAngularDamping(number("turnDamping"));
    }
    if (this.tellsMeetings) {
      const { ActiveEvents } = this.physics;
      desc.setActiveEvents(ActiveEvents.COLLISION_EVENTS | ActiveEvents.CONTACT_FORCE_EVENTS);
      desc.setContactForceEventThreshold(LEAST_FORCE);
    }
    this.world.createCollider(desc, body);
  }

  private shapeOf(plan: ObjectPlan, [width, height, depth]: Point): ColliderDesc {
    const { ColliderDesc } = this.physics;
    const { object } = plan;
    const [x, y, z] = [width / 2, height / 2, Math.max(depth, FLAT_M) / 2];
    const chosen = settingOf(object, "solidShape") as SolidShape;
    const round = Math.max(1e-3, (x + z) / 2);
    const shape = chosen === "own" ? ownShape(object.kind) : chosen;
    if (FLOORS.has(object.kind)) {
      const half = this.places.number(plan, "extent") / 2;
      return ColliderDesc.cuboid(half, 0.5, half).setTranslation(0, -0.5, 0);
    }
    if (shape === "ball") return ColliderDesc.ball(Math.max(1e-3, (x + y + z) / 3));
    if (shape === "cylinder") return ColliderDesc.cylinder(y, round);
    if (shape === "capsule") return ColliderDesc.capsule(Math.max(0, y - round), Math.min(y, round));
    if (shape === "cone") return ColliderDesc.cone(y, round);
    const points = shape === "hull" ? this.hulls.get(object.id) : undefined;
    if (points) {
      const sized = Float32Array.from(
        points,
        (at, i) => at * (i % 3 === 0 ? width : i % 3 === 1 ? height : depth),
      );
      const hull = ColliderDesc.convexHull(sized);
      if (hull) return hull;
    }
    return ColliderDesc.cuboid(Math.max(x, 1e-3), Math.max(y, 1e-3), Math.max(z, 1e-3));
  }

  private note(item: Item, body: RigidBody): void {
    const [p, q] = [body.translation(), body.rotation()];
    item.at[0] = p.x;
    item.at[1] = p.y;
    item.at[2] = p.z;
    item.at[3] = q.x;
    item.at[4] = q.y;
    item.at[5] = q.z;
    item.at[6] = q.w;
  }

  /**
   * Takes one step.
   *
   * @param presence  where a visitor is in the way
   * @param holds  bodies that are held
   */
  step(presence: Presence, holds: Partial<Record<Holder, Hold>>): void {
    const { world, queue } = this;
    this.followGravity();
    this.followVisitor(presence);
    const held = new Set<Item>();
    for (const holder of Object.keys(holds) as Holder[]) {
      const hold = holds[holder];
      const hand = presence.hands[holder];
      const item = hold && this.itemOf(hold.objectId, hold.copy);
      if (item && hand && item.handle >= 0) {
        held.add(item);
        this.carry(item, hold, hand);
      }
    }
    for (const [plan, items] of this.byPlan) this.drive(plan, items, held);
    world.step(queue);
    this.meetings.length = 0;
    this.collectMeetings();
    world.forEachActiveRigidBody((body) => {
      const item = this.byHandle.get(body.handle);
      if (item) this.note(item, body);
    });
  }

  private followGravity(): void {
    const plan = this.plan.of("world");
    if (!plan) return;
    const g = [0, 1, 2].map((axis) => this.places.number(plan, "gravity", axis)) as Point;
    const { gravity } = this;
    if (g[0] === gravity[0] && g[1] === gravity[1] && g[2] === gravity[2]) return;
    this.gravity = g;
    this.world.gravity = { x: g[0], y: g[1], z: g[2] };
    for (const { handle, solidity } of this.items) {
      if (solidity === "moving" && handle >= 0) this.world.getRigidBody(handle)?.wakeUp();
    }
  }

  /** Pushes moving bodies, and moves carried ones to where their values place them. */
  private drive(plan: ObjectPlan, items: readonly Item[], held: ReadonlySet<Item>): void {
    const [first] = items;
    if (!first || first.solidity === "fixed") return;
    const { places, world } = this;
    if (first.solidity === "moving") {
      const slot = plan.at.push;
      places.number(plan, "push");
      const each = slot?.each;
      const spring = places.number(plan, "spring");
      const homes = spring > 0 ? places.instancesOf(plan) : undefined;
      for (const item of items) {
        if (item.handle < 0) continue;
        const body = world.getRigidBody(item.handle);
        if (!body) continue;
        if (!held.has(item) && body.bodyType() !== this.physics.RigidBodyType.Dynamic) {
          body.setBodyType(this.physics.RigidBodyType.Dynamic, true);
        }
        if (homes && item.copy < homes.count) this.pullHome(item, body, spring, homes.matrices);
        if (!slot) continue;
        const push = (axis: number) =>
          each ? each[(item.copy % (plan.copies?.count || 1)) * 3 + axis] : places.values[slot.offset + axis];
        const [x, y, z] = [push(0), push(1), push(2)];
        if (x === 0 && y === 0 && z === 0) continue;
        const by = body.mass() * STEP_S;
        body.applyImpulse({ x: x * by, y: y * by, z: z * by }, true);
      }
      return;
    }
    const { matrices, count } = places.instancesOf(plan);
    for (const item of items) {
      if (item.copy >= count || held.has(item)) continue;
      decompose(matrices, item.copy * 16, this.place, this.turn, this.extent);
      if (!this.hasExtent()) continue;
      if (item.handle < 0) this.make(item);
      const body = world.getRigidBody(item.handle);
      if (!body) continue;
      this.keepLength(plan, item);
      const { place, turn, extent } = this;
      if (item.sizes.some((size, axis) => Math.abs(size - extent[axis]) > RESIZED * Math.max(size, 0.01))) {
        this.giveCollider(item, body, [extent[0], extent[1], extent[2]]);
      }
      body.setNextKinematicTranslation({ x: place[0], y: place[1], z: place[2] });
      body.setNextKinematicRotation({ x: turn[0], y: turn[1], z: turn[2], w: turn[3] });
    }
  }

  /** Accelerates a body towards its own place and turn; one that rests there stays asleep. */
  private pullHome(item: Item, body: RigidBody, spring: number, matrices: Instances["matrices"]): void {
    const { place, turn, extent } = this;
    const [x, y, z, qx, qy, qz, qw] = item.at;
    decompose(matrices, item.copy * 16, place, turn, extent);
    const away: Point = [place[0] - x, place[1] - y, place[2] - z];
    // The vector part of a turn is the sine of half its angle along its axis: enough to turn back by, without an arc sine.
    const [tx, ty, tz, tw] = product([turn[0], turn[1], turn[2], turn[3]], [-qx, -qy, -qz, qw]);
    const by = spring * STEP_S;
    const turnBy = tw < 0 ? -2 * by : 2 * by;
    const isFar = Math.hypot(...away) > AT_HOME || Math.hypot(tx, ty, tz) > AT_HOME;
    if (!isFar && body.isSleeping()) return;
    const mass = body.mass() * by;
    body.applyImpulse({ x: away[0] * mass, y: away[1] * mass, z: away[2] * mass }, true);
    const now = body.angvel();
    body.setAngvel({ x: now.x + tx * turnBy, y: now.y + ty * turnBy, z: now.z + tz * turnBy }, true);
  }

  /**
   * A carried body that grows by its strand keeps the length of its collider and moves by its far end: so it throws what
   * lies on it as fast as that end rises.
   */
  private keepLength(plan: ObjectPlan, item: Item): void {
    const grows = plan.boundSlots.some(({ key }) => key === "growth");
    if (!grows) return;
    const axis = { x: 0, y: 1, z: 2 }[settingOf(plan.object, "growsAlong") as "x" | "y" | "z"];
    const { extent, turn, place } = this;
    const longest = Math.max(item.sizes[axis], extent[axis]);
    const [x, y, z, w] = turn;
    const away = [
      [1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y)],
      [2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)],
      [2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)],
    ][axis];
    // Its far end stays where it is drawn; what is too long reaches down.
    const back = (longest - extent[axis]) / 2;
    for (let k = 0; k < 3; k++) place[k] -= away[k] * back;
    extent[axis] = longest;
  }

  private carry(item: Item, hold: Hold, hand: Pose): void {
    const body = this.world.getRigidBody(item.handle);
    if (!body) return;
    const { KinematicPositionBased } = this.physics.RigidBodyType;
    if (body.bodyType() !== KinematicPositionBased) body.setBodyType(KinematicPositionBased, true);
    const q = poseTurn(hand);
    const [x, y, z] = rotated(q, hold.offset);
    body.setNextKinematicTranslation({ x: hand.x + x, y: hand.y + y, z: hand.z + z });
    const [tx, ty, tz, tw] = product(q, hold.turn);
    body.setNextKinematicRotation({ x: tx, y: ty, z: tz, w: tw });
  }

  private followVisitor({ standing, hands }: Presence): void {
    const { world, physics } = this;
    if (standing) {
      const half = Math.max(0.1, standing.height / 2 - VISITOR_RADIUS_M);
      if (this.visitorHandle < 0) {
        const desc = physics.RigidBodyDesc.kinematicPositionBased().setTranslation(
          standing.x,
          standing.y + half + VISITOR_RADIUS_M + HOVER_M,
          standing.z,
        );
        const body = world.createRigidBody(desc);
        world.createCollider(physics.ColliderDesc.capsule(half, VISITOR_RADIUS_M).setFriction(0.4), body);
        this.visitorHandle = body.handle;
      }
      world.getRigidBody(this.visitorHandle)?.setNextKinematicTranslation({
        x: standing.x,
        y: standing.y + half + VISITOR_RADIUS_M + HOVER_M,
        z: standing.z,
      });
    }
    for (const holder of ["left", "right"] as const) {
      const hand = hands[holder];
      if (!hand) continue;
      if (this.hands[holder] < 0) {
        const desc = physics.RigidBodyDesc.kinematicPositionBased().setTranslation(hand.x, hand.y, hand.z);
        const body = world.createRigidBody(desc);
        world.createCollider(physics.ColliderDesc.ball(HAND_RADIUS_M), body);
        this.hands[holder] = body.handle;
      }
      world
        .getRigidBody(this.hands[holder])
        ?.setNextKinematicTranslation({ x: hand.x, y: hand.y, z: hand.z });
    }
  }

  private collectMeetings(): void {
    const { queue, world, fresh } = this;
    if (!this.tellsMeetings) return;
    for (const pair of fresh) pair[2]++;
    queue.drainCollisionEvents((a, b, started) => {
      if (started) fresh.push([a, b, 0]);
    });
    queue.drainContactForceEvents((event) => {
      const [a, b] = [event.collider1(), event.collider2()];
      const at = fresh.findIndex(([c, d]) => (c === a && d === b) || (c === b && d === a));
      if (at < 0) return;
      fresh.splice(at, 1);
      const [first, second] = [this.refOf(world.getCollider(a)), this.refOf(world.getCollider(b))];
      if (!first || !second) return;
      const impulse = event.totalForceMagnitude() * STEP_S;
      this.meetings.push({ a: first, b: second, impulse, point: this.between(a, b) });
    });
    this.fresh = fresh.filter(([, , steps]) => steps < FRESH_STEPS);
  }

  private refOf(collider: Collider | null): BodyRef | undefined {
    const handle = collider?.parent()?.handle;
    const item = handle === undefined ? undefined : this.byHandle.get(handle);
    if (item) return { objectId: item.plan.object.id, copy: item.copy };
    if (handle === this.visitorHandle) return { objectId: "visitor", copy: 0 };
    if (handle === this.hands.left) return { objectId: "left", copy: 0 };
    if (handle === this.hands.right) return { objectId: "right", copy: 0 };
    return undefined;
  }

  /** Point at which two colliders touch. */
  private between(a: number, b: number): Point {
    const [first, second] = [this.world.getCollider(a), this.world.getCollider(b)];
    let point: Point | undefined;
    this.world.contactPair(first, second, (manifold) => {
      if (point || manifold.numSolverContacts() === 0) return;
      const at = manifold.solverContactPoint(0);
      if (at) point = [at.x, at.y, at.z];
    });
    if (point) return point;
    const { x, y, z } = first.translation();
    return [x, y, z];
  }

  private itemOf(objectId: string, copy: number): Item | undefined {
    const plan = this.plan.of(objectId);
    return plan && this.byPlan.get(plan)?.[copy];
  }

  /**
   * Changes the speed of moving bodies.
   *
   * @param copy  one of them; −1 for all copies
   * @param velocity  m/s
   */
  push(objectId: string, copy: number, velocity: Point): void {
    for (const body of this.movingBodies(objectId, copy)) kick(body, velocity);
  }

  /**
   * Makes moving bodies jump against the stage's gravity; where there is none they fly upwards as fast as on the ground.
   *
   * @param copy  one of them; −1 for all copies
   * @param heightM  how high they get, whatever they weigh and however they are damped
   */
  jump(objectId: string, copy: number, heightM: number): void {
    const pull = Math.hypot(...this.gravity);
    for (const body of this.movingBodies(objectId, copy)) {
      const speed =
        pull === 0
          ? Math.sqrt(2 * EARTHS_PULL * heightM)
          : launchSpeed(heightM, pull, body.linearDamping(), STEP_S, SOLVER_ROUNDS);
      kick(body, pull === 0 ? [0, speed, 0] : (this.gravity.map((one) => (-one / pull) * speed) as Point));
    }
  }

  /** The bodies of an object that move by themselves, or that of one of its copies. */
  private *movingBodies(objectId: string, copy: number): Generator<RigidBody> {
    const plan = this.plan.of(objectId);
    const items = (plan && this.byPlan.get(plan)) ?? [];
    for (const item of copy < 0 ? items : items.slice(copy, copy + 1)) {
      if (item.handle < 0 || item.solidity !== "moving") continue;
      const body = this.world.getRigidBody(item.handle);
      if (body) yield body;
    }
  }

  /** Puts a copy's body at its place, or takes it away. */
  setCopy(objectId: string, copy: number, place: Point | undefined, velocity: Point = [0, 0, 0]): void {
    const item = this.itemOf(objectId, copy);
    if (!item) return;
    if (item.handle >= 0) {
      const body = this.world.getRigidBody(item.handle);
      this.byHandle.delete(item.handle);
      if (body) this.world.removeRigidBody(body);
      item.handle = -1;
    }
    if (!place) return;
    const { matrices, count } = this.places.instancesOf(item.plan);
    if (copy >= count) return;
    decompose(matrices, copy * 16, this.place, this.turn, this.extent);
    this.place.set(place);
    if (!this.hasExtent()) return;
    this.make(item);
    const [x, y, z] = velocity;
    if (item.solidity === "moving") this.world.getRigidBody(item.handle)?.setLinvel({ x, y, z }, true);
  }

  /** How a body is held by a hand that takes hold of it now. */
  holdOf(objectId: string, copy: number, hand: Pose): Hold | undefined {
    const item = this.itemOf(objectId, copy);
    if (!item || item.handle < 0 || item.solidity === "fixed") return undefined;
    const q = poseTurn(hand);
    const back: [number, number, number, number] = [-q[0], -q[1], -q[2], q[3]];
    const [x, y, z, qx, qy, qz, qw] = item.at;
    return {
      objectId,
      copy,
      offset: rotated(back, [x - hand.x, y - hand.y, z - hand.z]),
      turn: product(back, [qx, qy, qz, qw]),
    };
  }

  /** Lets a held body go, with the speed of the hand. */
  release({ objectId, copy }: BodyRef, [x, y, z]: Point): void {
    const item = this.itemOf(objectId, copy);
    if (!item || item.handle < 0 || item.solidity !== "moving") return;
    const body = this.world.getRigidBody(item.handle);
    body?.setBodyType(this.physics.RigidBodyType.Dynamic, true);
    body?.setLinvel({ x, y, z }, true);
  }

  /** The bodies that move or are carried, and where they are. */
  *moving(): Iterable<{ ref: BodyRef; place: ArrayLike<number> }> {
    for (const { plan, copy, solidity, handle, at } of this.items) {
      if (solidity !== "fixed" && handle >= 0) yield { ref: { objectId: plan.object.id, copy }, place: at };
    }
  }

  /** Position of a body; `undefined` for objects without one. */
  placeOf(objectId: string, copy: number): ArrayLike<number> | undefined {
    const item = this.itemOf(objectId, copy);
    return item && item.handle >= 0 ? item.at : undefined;
  }

  /** Moves instances to where their bodies are; their sizes stay. */
  move(plan: ObjectPlan, { matrices, count }: Instances): void {
    const items = this.byPlan.get(plan);
    if (!items || items[0]?.solidity === "fixed") return;
    for (const { copy, at, handle, solidity } of items) {
      if (copy >= count || handle < 0) continue;
      if (solidity === "carried" && !this.isHeld(handle)) continue;
      decompose(matrices, copy * 16, this.place, this.turn, this.extent);
      const [sx, sy, sz] = this.extent;
      composeTurned(matrices, copy * 16, at, 3, at[0], at[1], at[2], sx, sy, sz);
    }
  }

  private readonly heldHandles = new Set<number>();
  private isHeld(handle: number): boolean {
    return this.heldHandles.has(handle);
  }
  /** Says which bodies are held, so that carried ones are drawn in the hand. */
  setHeld(holds: readonly (BodyRef | undefined)[]): void {
    this.heldHandles.clear();
    for (const ref of holds) {
      const handle = ref && this.itemOf(ref.objectId, ref.copy)?.handle;
      if (handle !== undefined) this.heldHandles.add(handle);
    }
  }

  /** Ends of lines along the shapes of all bodies: x, y and z of each, metres; two ends a line. */
  outlines(): Float32Array {
    const isItem = (collider: Collider) => this.byHandle.has(collider.parent()?.handle ?? -1);
    return this.world.debugRender(undefined, isItem).vertices;
  }

  /**
   * How far a walking visitor gets: along solid things, up steps, down to what is below. It only asks: nothing in the
   * world changes by it, so that a replay without it is the same.
   *
   * @param to  where their feet want to be
   * @returns where their feet come to, and whether they stand on something; `undefined` before they are in the world
   */
  walk(to: Point, height: number): { feet: Point; stands: boolean } | undefined {
    const body = this.visitorHandle < 0 ? undefined : this.world.getRigidBody(this.visitorHandle);
    if (!body || body.numColliders() === 0) return undefined;
    const up = Math.max(0.1, height / 2 - VISITOR_RADIUS_M) + VISITOR_RADIUS_M + HOVER_M;
    const from = body.translation();
    const by = { x: to[0] - from.x, y: to[1] + up - from.y, z: to[2] - from.z };
    this.controller ??= this.world.createCharacterController(0.01);
    const { controller } = this;
    controller.enableAutostep(STEP_UP_M, VISITOR_RADIUS_M / 2, false);
    controller.enableSnapToGround(STEP_UP_M);
    controller.setMaxSlopeClimbAngle(SLOPE);
    const hands = [this.hands.left, this.hands.right];
    controller.computeColliderMovement(
      body.collider(0),
      by,
      undefined,
      undefined,
      (other) => !hands.includes(other.parent()?.handle ?? -2),
    );
    const moved = controller.computedMovement();
    if (!moved) return undefined;
    return {
      feet: [from.x + moved.x, from.y + moved.y - up, from.z + moved.z],
      stands: controller.computedGrounded(),
    };
  }

  /** Accepts colliders that a visitor can stand on or bump into: no visitor's body, no hands, nothing that moves freely. */
  private readonly isStanding = (collider: Collider): boolean => {
    const body = collider.parent();
    return body !== null && this.byHandle.has(body.handle) && !body.isDynamic();
  };

  /** True if a visitor's body has room where their feet would be. */
  isFree([x, y, z]: Point, height: number): boolean {
    const half = Math.max(0.1, height / 2 - VISITOR_RADIUS_M);
    const shape = new this.physics.Capsule(half, VISITOR_RADIUS_M - SLACK_M);
    const middle = { x, y: y + half + VISITOR_RADIUS_M + HOVER_M, z };
    return (
      this.world.intersectionWithShape(
        middle,
        UPRIGHT,
        shape,
        undefined,
        undefined,
        undefined,
        undefined,
        this.isStanding,
      ) === null
    );
  }

  /**
   * The nearest place at or above a visitor's feet where they are inside of nothing: on top of what they would stick in.
   *
   * @returns the place as it is where there is room, or none within {@link LIFTED_M}
   */
  onTop(feet: Point, height: number): Point {
    if (this.isFree(feet, height)) return feet;
    for (let up = LIFT_M; up <= LIFTED_M; up += LIFT_M) {
      const at: Point = [feet[0], feet[1] + up, feet[2]];
      if (!this.isFree(at, height)) continue;
      const below = this.hit(at, [0, -1, 0], LIFT_M + HOVER_M);
      return below ? [at[0], below.point[1], at[2]] : at;
    }
    return feet;
  }

  /** The first solid thing on a way. @param way  of length 1 */
  hit([x, y, z]: Point, way: Point, withinM: number): { point: Point; normal: Point } | undefined {
    const ray = new this.physics.Ray({ x, y, z }, { x: way[0], y: way[1], z: way[2] });
    const found = this.world.castRayAndGetNormal(
      ray,
      withinM,
      true,
      undefined,
      undefined,
      undefined,
      undefined,
      this.isStanding,
    );
    if (!found) return undefined;
    const { timeOfImpact: away, normal } = found;
    return {
      point: [x + way[0] * away, y + way[1] * away, z + way[2] * away],
      normal: [normal.x, normal.y, normal.z],
    };
  }

  /** True if somebody can stand at a point of a surface: it is level enough, there is room, and no edge under their feet. */
  canStand(point: Point, normal: Point, height: number): boolean {
    if (normal[1] < Math.cos(SLOPE) || !this.isFree(point, height)) return false;
    return [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ].every(([x, z]) => {
      const over: Point = [point[0] + x * FOOTING_M, point[1] + STEP_UP_M, point[2] + z * FOOTING_M];
      return this.hit(over, [0, -1, 0], 2 * STEP_UP_M) !== undefined;
    });
  }

  save(): BodiesState {
    const { items } = this;
    const places = new Float64Array(items.length * 7);
    const sizes = new Float64Array(items.length * 3);
    for (const [i, { at, sizes: own }] of items.entries()) {
      places.set(at, i * 7);
      sizes.set(own, i * 3);
    }
    return {
      world: this.world.takeSnapshot(),
      handles: Float64Array.from(items, ({ handle }) => handle),
      sizes,
      places,
      visitor: [this.visitorHandle, this.hands.left, this.hands.right, ...this.gravity],
      fresh: this.fresh.map((pair) => [...pair]),
      meetings: [...this.meetings],
    };
  }

  restore({ world, handles, sizes, places, visitor, fresh, meetings }: BodiesState): void {
    if (this.items.length !== handles.length) this.begin();
    this.world.free();
    this.world = this.physics.World.restoreSnapshot(world);
    this.controller = undefined;
    this.byHandle.clear();
    for (const [i, item] of this.items.entries()) {
      item.handle = handles[i];
      item.sizes = [sizes[i * 3], sizes[i * 3 + 1], sizes[i * 3 + 2]];
      item.at.set(places.subarray(i * 7, i * 7 + 7));
      if (item.handle >= 0) this.byHandle.set(item.handle, item);
    }
    this.heldHandles.clear();
    [this.visitorHandle, this.hands.left, this.hands.right] = visitor;
    this.gravity = visitor.slice(3) as Point;
    this.fresh = fresh.map((pair) => [...pair]);
    this.meetings.length = 0;
    this.meetings.push(...meetings);
  }
}

function ownShape(kind: ObjectPlan["object"]["kind"]): SolidShape | "capsule" | "cone" {
  if (kind === "sphere" || kind === "icosphere") return "ball";
  if (kind === "cylinder" || kind === "torus" || kind === "lathe") return "cylinder";
  if (kind === "capsule" || kind === "cone") return kind;
  if (kind === "model") return "hull";
  return "box";
}

const RADIANS = Math.PI / 180;

/** Changes the speed of a body at once, m/s. */
function kick(body: RigidBody, [x, y, z]: Point): void {
  const mass = body.mass();
  body.applyImpulse({ x: x * mass, y: y * mass, z: z * mass }, true);
}

/** The turn of a pose as a quaternion: about the upright axis, then up, then to the side. */
export function poseTurn({ yaw, pitch, roll }: Pose): [number, number, number, number] {
  const about = (degrees: number) => [Math.sin((degrees * RADIANS) / 2), Math.cos((degrees * RADIANS) / 2)];
  const [sy, cy] = about(yaw);
  const [sx, cx] = about(pitch);
  const [sz, cz] = about(roll);
  return product(product([0, sy, 0, cy], [sx, 0, 0, cx]), [0, 0, sz, cz]);
}

type Turn = [number, number, number, number];

function product([ax, ay, az, aw]: Turn, [bx, by, bz, bw]: Turn): Turn {
  return [
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
    aw * bw - ax * bx - ay * by - az * bz,
  ];
}

function rotated([qx, qy, qz, qw]: Turn, [x, y, z]: Point): Point {
  const [tx, ty, tz] = [2 * (qy * z - qz * y), 2 * (qz * x - qx * z), 2 * (qx * y - qy * x)];
  return [x + qw * tx + qy * tz - qz * ty, y + qw * ty + qz * tx - qx * tz, z + qw * tz + qx * ty - qy * tx];
}
