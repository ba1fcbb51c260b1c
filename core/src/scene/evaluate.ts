import { type Track, trackMeanAt, trackTimeAt, trackValueAt } from "../strand/track";
import { type Copies, copiesOf } from "./copies";
import { dealBands } from "./deal";
import type { Binding, Scene, StageObject } from "./document";
import { type Drive, driven, kicked, makeDrive } from "./drive";
import { OBJECT_KINDS, propertiesOf, SINGLETON_KINDS, settingOf } from "./objectKinds";
import type { NumberProperty } from "./properties";
import { type Slot, slotsOf, writeRest } from "./slots";
import { MOST_S, Steps } from "./steps";

export { inputShare } from "./drive";
export type { Slot } from "./slots";

export type Tracks = ReadonlyMap<string, Track>;
/** A property's value: a number, three numbers of a vector, or linear RGB of a colour. */
export type PropertyValue = number | [number, number, number];
export type PropertyValues = Record<string, Record<string, PropertyValue>>;

/** What of an object has to be worked out for each frame. */
export interface Plan {
  object: StageObject;
  slots: readonly Slot[];
  /** Its slots by the name of their property; those in use only. */
  at: Readonly<Record<string, Slot | undefined>>;
  drives: readonly Drive[];
  /** Those of its slots that something drives. */
  drivenSlots: readonly Slot[];
  copies: Copies | undefined;
}

/** Samples of a sound at the tape's time, for what is moved by its waveform. */
export interface Wave {
  samples: Float32Array;
  /** The sample that is heard when the tape is at a time. */
  indexAt(timeS: number): number;
  /** Whether it is heard live: nothing is known of what comes after. */
  isLive?: boolean;
}
export type Waves = ReadonlyMap<string, Wave>;
const NO_WAVES: Waves = new Map();

/** Beats a minute where the project has no clock to count by. */
const DEFAULT_BPM = 120;

/**
 * Turns (scene, tracks, time) into property values, frame after frame without allocating.
 *
 * Bindings apply in listed order onto the resting values; one that points at nothing, or whose strand has no
 * track yet, leaves the property as it is. Results stay within the property's limits. What has a memory (rates,
 * particles, wakes, orbits) is stepped from the start at a fixed 1/120 s: the same time gives the same state however it
 * was reached.
 */
export class Evaluator {
  readonly slots: readonly Slot[];
  readonly plans: readonly Plan[];
  /** Numbers in an output. */
  readonly size: number;
  readonly scene: Scene;
  readonly steps: Steps;
  /** Waveforms by sound, for what is moved by them. */
  waves: Waves = NO_WAVES;
  private readonly rest: Float64Array;
  private readonly drives: Drive[] = [];
  private readonly planById = new Map<string, Plan>();
  private readonly deals = new Map<Drive, { key: string; bands: Float32Array }>();
  private tracks: Tracks | undefined;
  private bandsNow = new Float32Array(64);

  constructor(scene: Scene) {
    this.scene = scene;
    const objects = withSingletons(scene.objects);
    const bound = new Map<string, Binding[]>();
    for (const binding of scene.bindings) {
      const list = bound.get(binding.objectId);
      if (list) list.push(binding);
      else bound.set(binding.objectId, [binding]);
    }
    const beatS = 60 / bpmOf(scene);
    let size = 0;
    this.plans = objects.map((object) => {
      const slots = slotsOf(object, size);
      const at = Object.fromEntries(slots.map((slot) => [slot.key, slot]));
      size += slots.reduce((sum, { width }) => sum + width, 0);
      const drives = (bound.get(object.id) ?? []).flatMap((binding) => {
        const slot = at[binding.property];
        return (slot && makeDrive(binding, slot)) ?? [];
      });
      this.drives.push(...drives);
      const drivenSlots = slots.filter((slot) => drives.some((drive) => drive.slot === slot));
      const copies = copiesOf(object, (key) => drivenSlots.some((slot) => slot.key === key), beatS);
      const plan: Plan = { object, slots, at, drives, drivenSlots, copies };
      this.planById.set(object.id, plan);
      return plan;
    });
    this.slots = this.plans.flatMap(({ slots }) => slots);
    this.size = size;
    this.rest = new Float64Array(size);
    for (const { object, slots } of this.plans) {
      for (const slot of slots) writeRest(slot, object, this.rest);
    }
    this.steps = new Steps(this);
    this.steps.begin();
  }

  /** The slot of a property, or `undefined` when the scene has no such object or it has no such property in use. */
  slot(objectId: string, property: string): Slot | undefined {
    return this.planById.get(objectId)?.at[property];
  }

  plan(objectId: string): Plan | undefined {
    return this.planById.get(objectId);
  }

  /**
   * Writes every property's value at a time.
   *
   * @param timeS  seconds since the start of the sounds; what is no number counts as 0, and beyond a day time stands
   * @param out  at least `size` numbers, laid out as `slots` say
   */
  evaluateInto(tracks: Tracks, timeS: number, out: Float64Array): void {
    const atS = Math.min(MOST_S, Math.max(-MOST_S, timeS || 0));
    this.follow(tracks);
    this.steps.advanceTo(atS);
    out.set(this.rest);
    for (const plan of this.plans) this.evaluatePlan(plan, atS, out);
  }

  /** Writes the values of one object at a time; of the others nothing. Rates are as at the last step. */
  evaluatePlan(plan: Plan, timeS: number, out: Float64Array): void {
    const { drives, drivenSlots, copies } = plan;
    for (const { offset, width } of drivenSlots) {
      for (let i = offset; i < offset + width; i++) out[i] = this.rest[i];
    }
    for (const drive of drives) this.apply(drive, plan, timeS, out);
    if (!copies) return;
    copies.update(plan.at, out);
    for (const slot of drivenSlots) {
      if (slot.property.perCopy) this.varyCopies(plan, slot, copies, timeS);
    }
  }

  /** Writes one property's value at a time, as all copies share it. */
  evaluateSlot(plan: Plan, slot: Slot, timeS: number, out: Float64Array): void {
    for (let i = slot.offset; i < slot.offset + slot.width; i++) out[i] = this.rest[i];
    for (const drive of plan.drives) if (drive.slot === slot) this.apply(drive, plan, timeS, out);
  }

  /** Goes on with what another evaluator has summed up, as far as this one's scene sums the same. */
  goOnFrom(before: Evaluator): void {
    if (!before.tracks) return;
    this.follow(before.tracks);
    this.steps.goOnFrom(before.steps);
  }

  /** What a property rests at, written where its slot is. */
  restInto(plan: Plan, out: Float64Array): void {
    for (const { offset, width } of plan.slots) {
      for (let i = offset; i < offset + width; i++) out[i] = this.rest[i];
    }
  }

  /** One number of an object in an output; 0 if the property is not in use. */
  numberOf(plan: Plan, key: string, out: Float64Array): number {
    const slot = plan.at[key];
    return slot ? out[slot.offset] : 0;
  }

  /** Whether each copy of an object may have a number of its own for this. */
  private isVaried({ track, binding }: Drive, { delayS, valueSpread }: Copies): boolean {
    if (!track) return false;
    return (track.width > 1 && binding.deal.kind !== "one") || delayS > 0 || valueSpread > 0;
  }

  /** One drive onto the numbers all copies share. */
  private apply(drive: Drive, { object, copies }: Plan, timeS: number, out: Float64Array): void {
    const { track, slot, axes, blend, binding } = drive;
    if (!track) return;
    if (binding.mode === "kick") {
      if (slot.property.type === "number" && slot.property.atCues) return;
      if (track.cues) put(drive, out, slot.offset, kicked(drive, track.cues, trackTimeAt(track, timeS)));
      return;
    }
    if (binding.mode === "rate") {
      put(drive, out, slot.offset, this.steps.rateAt(drive, timeS));
      return;
    }
    const byPlace = !copies && binding.deal.kind === "place" && track.width > 1;
    const value = byPlace ? this.atPlaceOf(object, drive, timeS) : trackMeanAt(track, timeS);
    if (blend) blend(drive.share(value), out, slot.offset);
    else if (axes.length > 0) put(drive, out, slot.offset, driven(drive, value));
  }

  /** The band that stands for where a single object rests. */
  private atPlaceOf({ rest }: StageObject, drive: Drive, timeS: number): number {
    const track = drive.track!;
    const known = this.deals.get(drive) ?? { key: "", bands: new Float32Array(1) };
    if (known.key === "") {
      const place = (rest.position as number[] | undefined) ?? [0, 0, 0];
      dealBands(drive.binding.deal, 1, track.width, place, known.bands);
      known.key = "place";
      this.deals.set(drive, known);
    }
    return between(track, known.bands[0], timeS);
  }

  /** All drives of a property once more, for each copy by itself, if any of them sets copies apart. */
  private varyCopies(plan: Plan, slot: Slot, copies: Copies, timeS: number): void {
    const { drives } = plan;
    let isVaried = false;
    for (const drive of drives) if (drive.slot === slot && this.isVaried(drive, copies)) isVaried = true;
    if (!isVaried) {
      slot.each = undefined;
      return;
    }
    const { width, offset } = slot;
    const each = slot.each ?? new Float32Array(copies.most * width);
    slot.each = each;
    for (let i = 0; i < copies.count; i++) {
      for (let axis = 0; axis < width; axis++) each[i * width + axis] = this.rest[offset + axis];
    }
    for (const drive of drives) {
      if (drive.slot === slot && drive.track) this.applyToCopies(drive, copies, timeS, each);
    }
  }

  private applyToCopies(drive: Drive, copies: Copies, timeS: number, each: Float32Array): void {
    const track = drive.track!;
    const { binding, slot, blend } = drive;
    const { width } = slot;
    const bands = this.dealt(drive, copies);
    const { delayS, offsets, count } = copies;
    const { mode } = binding;
    if (mode === "kick") {
      if (!track.cues) return;
      const ownS = trackTimeAt(track, timeS);
      for (let i = 0; i < count; i++) {
        put(drive, each, i * width, kicked(drive, track.cues, ownS - delayS * i));
      }
      return;
    }
    if (delayS === 0) this.readBands(drive, timeS);
    for (let i = 0; i < count; i++) {
      let value: number;
      if (delayS > 0 && mode !== "rate") {
        value = bands ? between(track, bands[i], timeS - delayS * i) : trackMeanAt(track, timeS - delayS * i);
      } else if (mode === "rate") {
        value = this.steps.rateAt(drive, timeS, bands ? bands[i] : undefined);
        put(drive, each, i * width, value);
        continue;
      } else {
        value = bands ? mixed(this.bandsNow, bands[i], track.width) : this.bandsNow[track.width];
      }
      value += offsets[i];
      if (blend) blend(drive.share(value), each, i * width);
      else put(drive, each, i * width, driven(drive, value));
    }
  }

  /** All bands of a drive's strand at a time, and their mean after them. */
  private readBands({ track }: Drive, timeS: number): void {
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
  private dealt(drive: Drive, copies: Copies): Float32Array | undefined {
    const { track, binding } = drive;
    if (track!.width === 1 || binding.deal.kind === "one") return undefined;
    const byPlace = binding.deal.kind === "place";
    const known = this.deals.get(drive);
    const { count, version } = copies;
    if (known && known.bands.length >= count && known.key === dealKey(count, byPlace ? version : 0)) {
      return known.bands;
    }
    const bands = new Float32Array(copies.most);
    dealBands(binding.deal, count, track!.width, byPlace ? standing(copies) : copies.places, bands);
    this.deals.set(drive, { key: dealKey(count, byPlace ? version : 0), bands });
    return bands;
  }

  /** Gives each drive its track, and forgets what was summed from others. */
  private follow(tracks: Tracks): void {
    if (tracks === this.tracks) return;
    this.tracks = tracks;
    let isOther = false;
    for (const drive of this.drives) {
      const track = tracks.get(drive.binding.strandId);
      if (track === drive.track) continue;
      drive.track = track;
      isOther = true;
    }
    if (!isOther) return;
    this.deals.clear();
    this.steps.forget();
  }

  /** All values of an output, by object id and then by property. */
  readAll(out: Float64Array): PropertyValues {
    const values: PropertyValues = {};
    for (const { objectId, key, offset, width } of this.slots) {
      values[objectId] ??= {};
      values[objectId][key] = width === 1 ? out[offset] : [out[offset], out[offset + 1], out[offset + 2]];
    }
    return values;
  }
}

const dealKey = (count: number, version: number) => `${count} ${version}`;

/** Puts a drive's value onto the numbers of its property that stand from an offset on. */
function put(drive: Drive, out: Float64Array | Float32Array, offset: number, value: number): void {
  const { axes, slot, binding } = drive;
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

/** Where an object's copies stand on the stage at rest. */
function standing({ object, places, count }: Copies): Float32Array {
  const [x, y, z] = (object.rest.position as number[] | undefined) ?? [0, 0, 0];
  const out = new Float32Array(count * 3);
  for (let i = 0; i < count; i++) {
    out[i * 3] = places[i * 3] + x;
    out[i * 3 + 1] = places[i * 3 + 1] + y;
    out[i * 3 + 2] = places[i * 3 + 2] + z;
  }
  return out;
}

/** The tempo that delays in beats are counted by: that of the project's first clock. */
export function bpmOf(scene: Scene): number {
  const clock = scene.sounds.find(({ kind }) => kind === "clock");
  return clock?.kind === "clock" ? clock.bpm : DEFAULT_BPM;
}

/** The scene's objects, and those of which there is always one. */
export function withSingletons(objects: readonly StageObject[]): StageObject[] {
  const missing = SINGLETON_KINDS.filter((kind) => !objects.some((object) => object.kind === kind));
  return [
    ...missing.map((kind) => ({
      id: kind,
      name: OBJECT_KINDS[kind].label,
      kind,
      parentId: null,
      hidden: false,
      locked: false,
      settings: {},
      rest: {},
    })),
    ...objects,
  ];
}

/** The most a number of an object can come to: what it rests at, or the property's limit if strands move it. */
export function mostOf({ object, drivenSlots }: Plan, key: string): number {
  const declared = propertiesOf(object.kind)[key] as NumberProperty;
  if (drivenSlots.some((slot) => slot.key === key)) return declared.max;
  return (object.rest[key] as number | undefined) ?? declared.default;
}

/** The material an object shares, or the object itself. */
export function surfaceOwner(evaluator: Evaluator, plan: Plan): Plan {
  const id = settingOf(plan.object, "materialId");
  return (typeof id === "string" && evaluator.plan(id)) || plan;
}

/**
 * Property values of a scene at a time.
 *
 * @param tracks  each strand's track by the strand's id
 * @param timeS  seconds since the start of the sounds
 * @returns values by object id, then by property
 * @example evaluate(scene, tracks, 1.5).lantern.scale // [1.2, 1.2, 1.2]
 */
export function evaluate(scene: Scene, tracks: Tracks, timeS: number): PropertyValues {
  const evaluator = new Evaluator(scene);
  const out = new Float64Array(evaluator.size);
  evaluator.evaluateInto(tracks, timeS, out);
  return evaluator.readAll(out);
}
