import type { Binding, Scene, StageObject } from "../document/scene";
import { withSingletons } from "../kinds/create";
import { propertyOf, settingOf } from "../kinds/table";
import type { NumberProperty } from "../setting/property";
import { type ActiveBinding, activateBinding } from "./activeBinding";
import { changedByAnswers } from "./changed";
import { type Copies, copiesOf } from "./copies";
import { type Slot, slotsOf, writeRest } from "./slots";

/** A property's value: a number, three numbers of a vector, or linear RGB of a colour. */
export type PropertyValue = number | [number, number, number];
export type PropertyValues = Record<string, Record<string, PropertyValue>>;

/** One object prepared for evaluation. It keeps its identity while edits leave its slots where they are. */
export interface ObjectPlan {
  object: StageObject;
  readonly slots: readonly Slot[];
  /** Its slots by property key; only properties in use have one. */
  readonly at: Readonly<Record<string, Slot | undefined>>;
  bindings: readonly ActiveBinding[];
  /** Slots that a binding moves or an action may change. */
  boundSlots: readonly Slot[];
  copies: Copies | undefined;
}

/** Beats a minute where the project has no clock to count by. */
const DEFAULT_BPM = 120;
const NO_BINDINGS: readonly Binding[] = [];

/** The tempo that delays in beats are counted by: that of the project's first clock. */
export function bpmOf(scene: Scene): number {
  const clock = scene.sounds.find(({ kind }) => kind === "clock");
  return clock?.kind === "clock" ? clock.bpm : DEFAULT_BPM;
}

/**
 * A scene laid out for evaluation: a slot for every number of every property in use, with its resting value, and the
 * bindings that move it. `update` follows an edit and rebuilds only the objects it touches.
 */
export class ScenePlan {
  scene: Scene;
  plans: readonly ObjectPlan[] = [];
  slots: readonly Slot[] = [];
  /** Count of numbers in an output array. */
  size = 0;
  /** Resting values, laid out as `slots` say. */
  rest = new Float64Array(0);
  private byId = new Map<string, ObjectPlan>();
  private bound = new Map<string, readonly Binding[]>();
  /** Properties that actions may change, by object. */
  private changed: ReadonlyMap<string, ReadonlySet<string>> = new Map();

  constructor(scene: Scene) {
    this.scene = scene;
    this.build();
  }

  /** The plan of an object; `undefined` when there is no such object. */
  of(objectId: string): ObjectPlan | undefined {
    return this.byId.get(objectId);
  }

  /** The slot of a property; `undefined` when there is no such object or the property is not in use. */
  slot(objectId: string, property: string): Slot | undefined {
    return this.byId.get(objectId)?.at[property];
  }

  /**
   * Follows an edited scene.
   *
   * @returns the plans that changed; `undefined` when the layout is another one and all plans are new
   */
  update(scene: Scene): ReadonlySet<ObjectPlan> | undefined {
    const before = this.scene;
    this.scene = scene;
    if (bpmOf(scene) !== bpmOf(before)) return this.build();
    if (scene.answers !== before.answers && !areAlike(changedByAnswers(scene), this.changed))
      return this.build();
    const objects = withSingletons(scene.objects);
    if (objects.length !== this.plans.length) return this.build();
    const bound = scene.bindings === before.bindings ? this.bound : byObject(scene.bindings);
    const changed = new Set<ObjectPlan>();
    for (const [i, object] of objects.entries()) {
      const plan = this.plans[i];
      const bindings = bound.get(object.id) ?? NO_BINDINGS;
      const isSame = plan.object === object && areSame(bindings, this.bound.get(object.id) ?? NO_BINDINGS);
      if (isSame) continue;
      if (plan.object.id !== object.id || !hasSameSlots(plan, object)) return this.build();
      changed.add(plan);
      this.fill(plan, object, bindings);
    }
    this.bound = bound;
    return changed;
  }

  /** Writes one object's resting values where its slots are. */
  restInto(plan: ObjectPlan, out: Float64Array): void {
    for (const { offset, width } of plan.slots) {
      for (let i = offset; i < offset + width; i++) out[i] = this.rest[i];
    }
  }

  /** The material whose surface an object shares, or the object itself. */
  surfaceOwner(plan: ObjectPlan): ObjectPlan {
    const id = settingOf(plan.object, "materialId");
    return (typeof id === "string" && this.byId.get(id)) || plan;
  }

  /** All values of an output by object id, then by property. */
  readAll(out: Float64Array): PropertyValues {
    const values: PropertyValues = {};
    for (const { objectId, key, offset, width } of this.slots) {
      values[objectId] ??= {};
      values[objectId][key] = width === 1 ? out[offset] : [out[offset], out[offset + 1], out[offset + 2]];
    }
    return values;
  }

  private build(): undefined {
    const { scene } = this;
    this.bound = byObject(scene.bindings);
    this.changed = changedByAnswers(scene);
    this.byId = new Map();
    let size = 0;
    const objects = withSingletons(scene.objects);
    const laidOut = objects.map((object) => {
      const slots = slotsOf(object, size);
      for (const { width } of slots) size += width;
      return slots;
    });
    this.size = size;
    this.rest = new Float64Array(size);
    this.plans = objects.map((object, i) => {
      const slots = laidOut[i];
      const at = Object.fromEntries(slots.map((slot) => [slot.key, slot]));
      const plan: ObjectPlan = { object, slots, at, bindings: [], boundSlots: [], copies: undefined };
      this.fill(plan, object, this.bound.get(object.id) ?? NO_BINDINGS);
      this.byId.set(object.id, plan);
      return plan;
    });
    this.slots = laidOut.flat();
    return undefined;
  }

  /** Takes over an object and its bindings; a binding that is the same object as before keeps its track and sums. */
  private fill(plan: ObjectPlan, object: StageObject, bindings: readonly Binding[]): void {
    const known = new Map(plan.bindings.map((active) => [active.binding, active]));
    plan.object = object;
    for (const slot of plan.slots) {
      slot.each = undefined;
      writeRest(slot, object, this.rest);
    }
    plan.bindings = bindings.flatMap((binding) => {
      const slot = plan.at[binding.property];
      return (slot && (known.get(binding) ?? activateBinding(binding, slot))) ?? [];
    });
    const changed = this.changed.get(object.id);
    plan.boundSlots = plan.slots.filter(
      (slot) => changed?.has(slot.key) || plan.bindings.some((active) => active.slot === slot),
    );
    plan.copies = copiesOf(
      object,
      (key) => plan.boundSlots.some((slot) => slot.key === key),
      60 / bpmOf(this.scene),
    );
  }
}

function byObject(bindings: readonly Binding[]): Map<string, readonly Binding[]> {
  const bound = new Map<string, Binding[]>();
  for (const binding of bindings) {
    const list = bound.get(binding.objectId);
    if (list) list.push(binding);
    else bound.set(binding.objectId, [binding]);
  }
  return bound;
}

type Keys = ReadonlyMap<string, ReadonlySet<string>>;
const areAlike = (a: Keys, b: Keys) =>
  a.size === b.size &&
  [...a].every(
    ([id, keys]) => keys.size === b.get(id)?.size && [...keys].every((key) => b.get(id)?.has(key)),
  );

const areSame = (a: readonly unknown[], b: readonly unknown[]) =>
  a === b || (a.length === b.length && a.every((one, i) => one === b[i]));

function hasSameSlots(plan: ObjectPlan, object: StageObject): boolean {
  if (plan.object.kind !== object.kind) return false;
  if (plan.object.settings === object.settings && plan.object.own === object.own) return true;
  const slots = slotsOf(object, 0);
  return slots.length === plan.slots.length && slots.every(({ key }, i) => key === plan.slots[i].key);
}

/** The largest a number of an object can become: its resting value, or the property's limit if a binding moves it. */
export function largestValue({ object, boundSlots }: ObjectPlan, key: string): number {
  const declared = propertyOf(object, key) as NumberProperty;
  if (boundSlots.some((slot) => slot.key === key)) return declared.max;
  return (object.rest[key] as number | undefined) ?? declared.default;
}

/** One number of an object in an output; 0 if the property is not in use. */
export function numberOf(plan: ObjectPlan, key: string, values: Float64Array, axis = 0): number {
  const slot = plan.at[key];
  return slot ? values[slot.offset + axis] : 0;
}
