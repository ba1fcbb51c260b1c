import { type Track, trackValueAt } from "../strand/track";
import { type ColourBlend, colourBlend, hexToLinear } from "./colour";
import { AXES, type Binding, type RestValue, type Scene, type StageObject } from "./document";
import { OBJECT_KINDS, type Property, propertiesOf, SINGLETON_KINDS } from "./objectKinds";

/** Where a property's numbers stand in an evaluator's output. */
export interface Slot {
  objectId: string;
  key: string;
  property: Property;
  offset: number;
  /** 1 for a number; 3 for a vector, or a colour in linear RGB. */
  width: 1 | 3;
}

export type Tracks = ReadonlyMap<string, Track>;
/** A property's value: a number, three numbers of a vector, or linear RGB of a colour. */
export type PropertyValue = number | [number, number, number];
export type PropertyValues = Record<string, Record<string, PropertyValue>>;

interface Drive {
  binding: Binding;
  slot: Slot;
  /** Which of the slot's numbers it moves. */
  axes: number[];
  blend: ColourBlend | undefined;
}

/**
 * Turns (scene, tracks, time) into property values, frame after frame without allocating.
 *
 * Bindings apply in listed order onto the resting values; one that points at nothing, or whose strand has no
 * track yet, leaves the property as it is. Results stay within the property's limits.
 */
export class Evaluator {
  readonly slots: readonly Slot[];
  /** Numbers in an output. */
  readonly size: number;
  private readonly rest: Float64Array;
  private readonly drives: Drive[];
  private readonly byProperty = new Map<string, Slot>();

  constructor(scene: Scene) {
    const slots: Slot[] = [];
    const objects = withSingletons(scene.objects);
    let size = 0;
    for (const object of objects) {
      for (const [key, property] of Object.entries(propertiesOf(object.kind))) {
        const width = property.type === "number" ? 1 : 3;
        const slot: Slot = { objectId: object.id, key, property, offset: size, width };
        slots.push(slot);
        this.byProperty.set(`${object.id} ${key}`, slot);
        size += width;
      }
    }
    this.slots = slots;
    this.size = size;
    this.rest = new Float64Array(size);
    const objectById = new Map(objects.map((object) => [object.id, object]));
    for (const slot of slots) {
      const value = objectById.get(slot.objectId)?.rest[slot.key] ?? slot.property.default;
      writeRest(slot, value as RestValue, this.rest);
    }
    this.drives = scene.bindings.flatMap((binding) => {
      const slot = this.slot(binding.objectId, binding.property);
      if (!slot || (slot.property.type === "colour") !== (binding.output.kind === "colours")) return [];
      const { output } = binding;
      return [
        {
          binding,
          slot,
          axes: slot.property.type === "vector" ? binding.axes.map((axis) => AXES.indexOf(axis)) : [0],
          blend: output.kind === "colours" ? colourBlend(output.from, output.to, output.mix) : undefined,
        },
      ];
    });
  }

  /** The slot of a property, or `undefined` when the scene has no such object or property. */
  slot(objectId: string, property: string): Slot | undefined {
    return this.byProperty.get(`${objectId} ${property}`);
  }

  /**
   * Writes every property's value at a time.
   *
   * @param timeS  seconds since the start of the sounds
   * @param out  at least `size` numbers, laid out as `slots` say
   */
  evaluateInto(tracks: Tracks, timeS: number, out: Float64Array): void {
    out.set(this.rest);
    for (let i = 0; i < this.drives.length; i++) {
      const { binding, slot, axes, blend } = this.drives[i];
      const track = tracks.get(binding.strandId);
      if (!track) continue;
      const share = inputShare(trackValueAt(track, timeS), binding.input.low, binding.input.high);
      if (blend) {
        blend(share, out, slot.offset);
        continue;
      }
      if (binding.output.kind !== "range" || slot.property.type === "colour") continue;
      const value = binding.output.low + (binding.output.high - binding.output.low) * share;
      const { min, max } = slot.property;
      for (let a = 0; a < axes.length; a++) {
        const at = slot.offset + axes[a];
        const before = out[at];
        const after =
          binding.mode === "add" ? before + value : binding.mode === "multiply" ? before * value : value;
        out[at] = Math.min(max, Math.max(min, after));
      }
    }
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

/**
 * How far a strand's value stands between two input marks, 0 to 1. Marks in the other order run backwards; two
 * equal marks make a switch.
 */
export function inputShare(value: number, low: number, high: number): number {
  if (low === high) return value >= high ? 1 : 0;
  return Math.min(1, Math.max(0, (value - low) / (high - low)));
}

/** The scene's objects, and those of which there is always one. */
export function withSingletons(objects: readonly StageObject[]): StageObject[] {
  const missing = SINGLETON_KINDS.filter((kind) => !objects.some((object) => object.kind === kind));
  return [
    ...missing.map((kind) => ({ id: kind, name: OBJECT_KINDS[kind].label, kind, rest: {} })),
    ...objects,
  ];
}

function writeRest(slot: Slot, value: RestValue, out: Float64Array): void {
  if (typeof value === "number") out[slot.offset] = value;
  else out.set(typeof value === "string" ? hexToLinear(value) : value, slot.offset);
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
