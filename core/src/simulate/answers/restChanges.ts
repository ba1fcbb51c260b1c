import { type Easing, eased } from "../../action/easing";
import type { RestValue } from "../../document/scene";
import type { ScenePlan } from "../../evaluate/plan";
import type { Slot } from "../../evaluate/slots";
import { hexToLinear } from "../../setting/colour";

/** A resting value on its way to another one, and perhaps back. */
export interface Glide {
  from: readonly number[];
  to: readonly number[];
  startS: number;
  overS: number;
  easing: Easing;
  /** When it returns to the document's value; without it, it stays. */
  backAtS?: number;
  backS?: number;
}

/** An offset that dies away. */
export interface Kick {
  key: string;
  amount: number;
  startS: number;
  decayS: number;
}

/** A kick is over after this many time constants: it is down to a millionth. */
const DECAYS = 14;

/** Changes of resting values by actions: plain data that can be saved and restored. */
export interface RestState {
  glides: Record<string, Glide>;
  kicks: Kick[];
}

export const slotKey = (objectId: string, property: string): string => `${objectId} ${property}`;

/**
 * Resting values as actions have changed them: what glides, and what was kicked. Bindings move properties from there.
 */
export class RestChanges {
  state: RestState = { glides: {}, kicks: [] };
  /** Resting values as of the time they were last written for, laid out as the plan's slots say. */
  readonly rest: Float64Array;
  private readonly plan: ScenePlan;
  private readonly slots = new Map<string, Slot>();

  /** @param targets  properties that any action may change */
  constructor(plan: ScenePlan, targets: Iterable<{ objectId: string; property: string }>) {
    this.plan = plan;
    this.rest = Float64Array.from(plan.rest);
    for (const { objectId, property } of targets) {
      const slot = plan.slot(objectId, property);
      if (slot) this.slots.set(slotKey(objectId, property), slot);
    }
  }

  /** Takes over the document's values again: after an edit. */
  follow(): void {
    this.rest.set(this.plan.rest);
  }

  /** Sets a property on its way to a value; does nothing for one that is not in use. */
  glide(objectId: string, property: string, to: RestValue, glide: Omit<Glide, "from" | "to">): void {
    const key = slotKey(objectId, property);
    const slot = this.slots.get(key);
    if (!slot) return;
    const from = this.at(key, slot, glide.startS);
    this.state.glides[key] = { ...glide, from, to: numbersOf(slot, to, this.plan.rest) };
  }

  /** Lets a property go back to where it rests. */
  takeBack(objectId: string, property: string, atS: number, backS: number): void {
    const key = slotKey(objectId, property);
    const glide = this.state.glides[key];
    if (glide) this.state.glides[key] = { ...glide, backAtS: atS, backS };
  }

  /** A property's number as of a time. */
  numberAt(objectId: string, property: string, timeS: number): number | undefined {
    const key = slotKey(objectId, property);
    const slot = this.slots.get(key);
    return slot && this.at(key, slot, timeS)[0];
  }

  kick(objectId: string, property: string, amount: number, startS: number, decayMs: number): void {
    const key = slotKey(objectId, property);
    if (this.slots.has(key)) this.state.kicks.push({ key, amount, startS, decayS: decayMs / 1000 });
  }

  /** Writes the resting values as of a time. */
  write(timeS: number): void {
    const { glides, kicks } = this.state;
    const { rest, slots, plan } = this;
    for (const [key, slot] of slots) {
      const glide = glides[key];
      for (let i = 0; i < slot.width; i++) {
        const still = plan.rest[slot.offset + i];
        rest[slot.offset + i] = glide ? numberAt(glide, i, still, timeS) : still;
      }
    }
    if (kicks.length === 0) return;
    this.state.kicks = kicks.filter(({ startS, decayS }) => timeS - startS < DECAYS * decayS);
    for (const { key, amount, startS, decayS } of this.state.kicks) {
      const slot = slots.get(key);
      if (!slot || timeS < startS || slot.property.type === "colour") continue;
      const { min, max } = slot.property;
      const axes =
        slot.width === 3 && slot.property.type === "vector" && !slot.property.uniform ? [1] : [0, 1, 2];
      for (const axis of axes) {
        if (axis >= slot.width) continue;
        const at = slot.offset + axis;
        const value = rest[at] + amount * Math.exp(-(timeS - startS) / decayS);
        rest[at] = Math.min(max, Math.max(min, value));
      }
    }
  }

  private at(key: string, slot: Slot, timeS: number): number[] {
    const glide = this.state.glides[key];
    return Array.from({ length: slot.width }, (_none, i) => {
      const still = this.plan.rest[slot.offset + i];
      return glide ? numberAt(glide, i, still, timeS) : still;
    });
  }
}

function numberAt(glide: Glide, i: number, still: number, timeS: number): number {
  const { from, to, startS, overS, easing, backAtS, backS = 0 } = glide;
  if (backAtS !== undefined && timeS >= backAtS) {
    const share = backS > 0 ? eased(easing, (timeS - backAtS) / backS) : 1;
    return to[i] + (still - to[i]) * share;
  }
  const share = overS > 0 ? eased(easing, (timeS - startS) / overS) : timeS >= startS ? 1 : 0;
  return from[i] + (to[i] - from[i]) * share;
}

/** A value as the numbers of a slot, within its limits; one that does not fit leaves the property as it rests. */
function numbersOf({ width, offset, property }: Slot, value: RestValue, rest: Float64Array): number[] {
  const still = Array.from(rest.subarray(offset, offset + width));
  if (property.type === "colour") return typeof value === "string" ? [...hexToLinear(value)] : still;
  if (typeof value === "string") return still;
  const { min, max } = property;
  return still.map((_one, i) => Math.min(max, Math.max(min, typeof value === "number" ? value : value[i])));
}
