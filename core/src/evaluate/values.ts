import type { StageObject } from "../document/scene";
import { type Track, trackMeanAt, trackTimeAt, trackValueAt } from "../strand/track";
import { type ActiveBinding, kickOffset, outputFor } from "./activeBinding";
import type { Copies } from "./copies";
import { dealBands } from "./deal";
import type { ObjectPlan, ScenePlan } from "./plan";
import type { Slot } from "./slots";
import type { Sums } from "./sums";

/** Each strand's track by the strand's id. */
export type Tracks = ReadonlyMap<string, Track>;

/** Value source for simulated objects: the plan, the sums, and evaluation of one object at a time. */
export interface ValueSource {
  readonly plan: ScenePlan;
  readonly sums: Sums;
  evaluatePlan(plan: ObjectPlan, timeS: number, out: Float64Array): void;
  /** Particles that an emitter gives off in the step at hand, by actions. */
  burstOf?(objectId: string): number;
}

/**
 * Turns (plan, tracks, sums, time) into property values without allocating.
 *
 * Bindings apply in listed order onto the resting values; one that points at nothing, or whose strand has no
 * track yet, leaves the property as it is. Results stay within the property's limits.
 */
export class Values implements ValueSource {
  readonly plan: ScenePlan;
  readonly sums: Sums;
  /** Resting values as actions have changed them; without any those of the plan. */
  changedRest: Float64Array | undefined;
  private tracks: Tracks = new Map();
  private readonly deals = new Map<ActiveBinding, { key: string; bands: Float32Array }>();
  private bandsNow = new Float32Array(64);

  constructor(plan: ScenePlan, sums: Sums) {
    this.plan = plan;
    this.sums = sums;
  }

  /**
   * Gives each binding its strand's track; call it again after the plan was edited.
   *
   * @returns the plans whose bindings have another track than before
   */
  setTracks(tracks: Tracks = this.tracks): ReadonlySet<ObjectPlan> {
    this.tracks = tracks;
    const changed = new Set<ObjectPlan>();
    for (const plan of this.plan.plans) {
      for (const active of plan.bindings) {
        const track = tracks.get(active.binding.strandId);
        if (track === active.track) continue;
        active.track = track;
        this.deals.delete(active);
        changed.add(plan);
      }
    }
    return changed;
  }

  private get rest(): Float64Array {
    return this.changedRest ?? this.plan.rest;
  }

  /** Forgets how fans were dealt: after an edit. */
  forgetDeals(): void {
    this.deals.clear();
  }

  /**
   * Writes every property's value at a time.
   *
   * @param out  at least `plan.size` numbers, laid out as the plan's slots say
   */
  evaluateAll(timeS: number, out: Float64Array): void {
    out.set(this.rest);
    for (const plan of this.plan.plans) this.evaluatePlan(plan, timeS, out);
  }

  /** Writes the bound values of one object at a time; all others stay. Sums are as of the last step. */
  evaluatePlan(plan: ObjectPlan, timeS: number, out: Float64Array): void {
    const { bindings, boundSlots, copies } = plan;
    const { rest } = this;
    for (const { offset, width } of boundSlots) {
      for (let i = offset; i < offset + width; i++) out[i] = rest[i];
    }
    for (const active of bindings) this.apply(active, plan, timeS, out);
    if (!copies) return;
    copies.update(plan.at, out);
    for (const slot of boundSlots) {
      if (slot.property.perCopy) this.varyCopies(plan, slot, copies, timeS);
    }
  }

  /** Writes one property's value at a time, as all copies share it. */
  evaluateSlot(plan: ObjectPlan, slot: Slot, timeS: number, out: Float64Array): void {
    const { rest } = this;
    for (let i = slot.offset; i < slot.offset + slot.width; i++) out[i] = rest[i];
    for (const active of plan.bindings) if (active.slot === slot) this.apply(active, plan, timeS, out);
  }

  /** True if each copy of an object may have a number of its own for this binding. */
  private isVaried({ track, binding }: ActiveBinding, { delayS, valueSpread }: Copies): boolean {
    if (!track) return false;
    return (track.width > 1 && binding.deal.kind !== "one") || delayS > 0 || valueSpread > 0;
  }

  /** Applies one binding to the numbers all copies share. */
  private apply(
    active: ActiveBinding,
    { object, copies }: ObjectPlan,
    timeS: number,
    out: Float64Array,
  ): void {
    const { track, slot, axes, blend, binding } = active;
    if (!track) return;
    if (binding.mode === "kick") {
      if (slot.property.type === "number" && slot.property.atCues) return;
      if (track.cues)
        put(active, out, slot.offset, kickOffset(active, track.cues, trackTimeAt(track, timeS)));
      return;
    }
    if (binding.mode === "rate") {
      put(active, out, slot.offset, this.sums.rateAt(active, timeS));
      return;
    }
    const byPlace = !copies && binding.deal.kind === "place" && track.width > 1;
    const value = byPlace ? this.bandAtPlace(object, active, timeS) : trackMeanAt(track, timeS);
    if (blend) blend(active.share(value), out, slot.offset);
    else if (axes.length > 0) put(active, out, slot.offset, outputFor(active, value));
  }

  /** The band that belongs to where a single object rests. */
  private bandAtPlace({ rest }: StageObject, active: ActiveBinding, timeS: number): number {
    const track = active.track!;
    const known = this.deals.get(active) ?? { key: "", bands: new Float32Array(1) };
    if (known.key === "") {
      const place = (rest.position as number[] | undefined) ?? [0, 0, 0];
      dealBands(active.binding.deal, 1, track.width, place, known.bands);
      known.key = "place";
      this.deals.set(active, known);
    }
    return between(track, known.bands[0], timeS);
  }

  /** Applies all bindings of a property again, copy by copy, if any of them sets copies apart. */
  private varyCopies(plan: ObjectPlan, slot: Slot, copies: Copies, timeS: number): void {
    const { bindings } = plan;
    const { rest } = this;
    let isVaried = false;
    for (const active of bindings) if (active.slot === slot && this.isVaried(active, copies)) isVaried = true;
    if (!isVaried) {
      slot.each = undefined;
      return;
    }
    const { width, offset } = slot;
    const each = slot.each ?? new Float32Array(copies.most * width);
    slot.each = each;
    for (let i = 0; i < copies.count; i++) {
      for (let axis = 0; axis < width; axis++) each[i * width + axis] = rest[offset + axis];
    }
    for (const active of bindings) {
      if (active.slot === slot && active.track) this.applyToCopies(active, copies, timeS, each);
    }
  }

  private applyToCopies(active: ActiveBinding, copies: Copies, timeS: number, each: Float32Array): void {
    const track = active.track!;
    const { binding, slot, blend } = active;
    const { width } = slot;
    const bands = this.dealt(active, copies);
    const { delayS, offsets, count } = copies;
    const { mode } = binding;
    if (mode === "kick") {
      if (!track.cues) return;
      const ownS = trackTimeAt(track, timeS);
      for (let i = 0; i < count; i++) {
        put(active, each, i * width, kickOffset(active, track.cues, ownS - delayS * i));
      }
      return;
    }
    if (delayS === 0) this.readBands(active, timeS);
    if (delayS === 0 && mode === "set" && slot.property.type === "number") {
      this.setCopies(active, copies, bands, each);
      return;
    }
    for (let i = 0; i < count; i++) {
      let value: number;
      if (delayS > 0 && mode !== "rate") {
        value = bands ? between(track, bands[i], timeS - delayS * i) : trackMeanAt(track, timeS - delayS * i);
      } else if (mode === "rate") {
        value = this.sums.rateAt(active, timeS, bands ? bands[i] : undefined);
        put(active, each, i * width, value);
        continue;
      } else {
        value = bands ? mixed(this.bandsNow, bands[i], track.width) : this.bandsNow[track.width];
      }
      value += offsets[i];
      if (blend) blend(active.share(value), each, i * width);
      else put(active, each, i * width, outputFor(active, value));
    }
  }

  /** The commonest case by itself: a number that is set, at one instant for all copies. */
  private setCopies(
    active: ActiveBinding,
    { count, offsets }: Copies,
    bands: Float32Array | undefined,
    each: Float32Array,
  ): void {
    const { bandsNow } = this;
    const { min, max } = active.slot.property as { min: number; max: number };
    const { width } = active.track!;
    const last = width - 1;
    for (let i = 0; i < count; i++) {
      let value = bandsNow[width];
      if (bands) {
        const low = Math.min(last, Math.floor(bands[i]));
        value = bandsNow[low] + (bandsNow[Math.min(last, low + 1)] - bandsNow[low]) * (bands[i] - low);
      }
      each[i] = Math.min(max, Math.max(min, outputFor(active, value + offsets[i])));
    }
  }

  /** Reads all bands of a binding's strand at a time into `bandsNow`, followed by their mean. */
  private readBands({ track }: ActiveBinding, timeS: number): void {
    const { width } = track!;
    if (this.bandsNow.length <= width) this.bandsNow = new Float32Array(width + 64);
    let sum = 0;
    for (let band = 0; band < width; band++) {
      const value = trackValueAt(track!, timeS, band);
      this.bandsNow[band] = value;
      sum += value;
    }
    this.bandsNow[width] = sum / width;
  }

  /** Which band each copy reads; `undefined` if all read the same. */
  private dealt(active: ActiveBinding, copies: Copies): Float32Array | undefined {
    const { track, binding } = active;
    if (track!.width === 1 || binding.deal.kind === "one") return undefined;
    const byPlace = binding.deal.kind === "place";
    const known = this.deals.get(active);
    const { count, version } = copies;
    if (known && known.bands.length >= count && known.key === dealKey(count, byPlace ? version : 0)) {
      return known.bands;
    }
    const bands = new Float32Array(copies.most);
    dealBands(binding.deal, count, track!.width, byPlace ? placesOnStage(copies) : copies.places, bands);
    this.deals.set(active, { key: dealKey(count, byPlace ? version : 0), bands });
    return bands;
  }
}

const dealKey = (count: number, version: number) => `${count} ${version}`;

/** Applies a binding's value to the numbers of its property, which begin at an offset. */
function put(active: ActiveBinding, out: Float64Array | Float32Array, offset: number, value: number): void {
  const { axes, slot, binding } = active;
  if (slot.property.type === "colour") return;
  const { min, max } = slot.property;
  for (let a = 0; a < axes.length; a++) {
    const at = offset + axes[a];
    const before = out[at];
    const { mode } = binding;
    const added = mode === "rate" && slot.property.wraps ? value % slot.property.wraps : value;
    const after = mode === "set" ? value : mode === "multiply" ? before * value : before + added;
    out[at] = Math.min(max, Math.max(min, after));
  }
}

/** A fan's number between two of its bands. */
function mixed(values: Float32Array, band: number, width: number): number {
  const low = Math.min(width - 1, Math.floor(band));
  const high = Math.min(width - 1, low + 1);
  return values[low] + (values[high] - values[low]) * (band - low);
}

function between(track: Track, band: number, timeS: number): number {
  const low = Math.min(track.width - 1, Math.floor(band));
  const share = band - low;
  const below = trackValueAt(track, timeS, low);
  return share > 0 ? below + (trackValueAt(track, timeS, low + 1) - below) * share : below;
}

/** Positions of an object's copies at rest: x, y, z each, metres. */
function placesOnStage({ object, places, count }: Copies): Float32Array {
  const [x, y, z] = (object.rest.position as number[] | undefined) ?? [0, 0, 0];
  const out = new Float32Array(count * 3);
  for (let i = 0; i < count; i++) {
    out[i * 3] = places[i * 3] + x;
    out[i * 3 + 1] = places[i * 3 + 1] + y;
    out[i * 3 + 2] = places[i * 3 + 2] + z;
  }
  return out;
}
