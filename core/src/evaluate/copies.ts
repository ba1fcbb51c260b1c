import type { StageObject } from "../document/scene";
import { hashed } from "../dsp/maths/hash";
import { type FormationKind, MAX_COPIES } from "../kinds/shared";
import { hasCopies, propertyOf, settingOf } from "../kinds/table";
import type { PathPoint } from "../setting/descriptor";
import type { NumberProperty } from "../setting/property";
import { type Facing, layOut } from "./formation";
import type { Slot } from "./slots";

/** Offsets of the seed, so that each variation is random by itself. */
const SEED_OF = { value: 11, size: 12, hue: 13, place: 14, shape: 15 };

/** The copies an object is made of: their places about its middle and their random differences. */
export class Copies {
  readonly object: StageObject;
  /** Copies there can be at most, whatever drives their number. */
  readonly most: number;
  count = 0;
  /** x, y, z of each. */
  readonly places: Float32Array;
  /** Quaternion of each. */
  readonly turns: Float32Array;
  /** Factors on the width, height and depth of each. */
  readonly sizes: Float32Array;
  /** Turn of the hue of each, in radians. */
  readonly hues: Float32Array;
  /** Offset that is added to a strand's number for each copy. */
  readonly offsets: Float32Array;
  /** Seconds by which each hears a strand later than the one before it. */
  delayS = 0;
  valueSpread = 0;
  hasHues = false;
  /** Increases when places, sizes or hues change. */
  version = 0;
  private readonly formation: FormationKind;
  private readonly beatS: number;
  private readonly known = new Float64Array(10).fill(Number.NaN);

  /**
   * @param most  copies it may come to have
   * @param beatS  seconds of a beat, for delays that are counted in beats
   */
  constructor(object: StageObject, most: number, beatS: number) {
    this.object = object;
    this.most = most;
    this.beatS = beatS;
    this.formation = (settingOf(object, "formation") ?? "none") as FormationKind;
    this.places = new Float32Array(most * 3);
    this.turns = new Float32Array(most * 4);
    for (let i = 0; i < most; i++) this.turns[i * 4 + 3] = 1;
    this.sizes = new Float32Array(most * 3).fill(1);
    this.hues = new Float32Array(most);
    this.offsets = new Float32Array(most);
  }

  /**
   * Lays the copies out for numbers as they are now; does nothing while they are the same.
   *
   * @param at  the object's slots
   * @param out  values as evaluated
   */
  update(at: Readonly<Record<string, Slot | undefined>>, out: Float64Array): void {
    const { known } = this;
    const read = (key: string) => {
      const slot = at[key];
      return slot ? out[slot.offset] : 0;
    };
    this.count = Math.max(1, Math.min(this.most, Math.round(read("copies"))));
    this.delayS = read("copyDelay") / 1000 + read("copyDelayBeats") * this.beatS;
    this.valueSpread = read("valueSpread");
    const now = NUMBERS;
    now[0] = this.count;
    now[1] = read("reach");
    now[2] = read("spacing");
    now[3] = read("sweep");
    now[4] = read("climb");
    now[5] = read("scaleSpread");
    now[6] = read("hueSpread");
    now[7] = read("placeSpread");
    now[8] = this.valueSpread;
    now[9] = read("shapeSpread");
    let isSame = true;
    for (let i = 0; i < now.length; i++) {
      if (now[i] !== known[i]) isSame = false;
      known[i] = now[i];
    }
    if (!isSame) this.layOutCopies();
  }

  /**
   * Places copies that come and go by cues.
   *
   * @param places  x, y, z of each, about the object's middle
   * @param alive  1 for each copy that is there, 0 for the others
   */
  setCued(places: Float32Array, alive: Float32Array): void {
    this.cued = { places, alive };
    this.known[0] = Number.NaN;
  }
  private cued: { places: Float32Array; alive: Float32Array } | undefined;

  private layOutCopies(): void {
    const { object, count, known, places, sizes, hues, offsets } = this;
    this.version++;
    const seed = (settingOf(object, "seed") as number | null) ?? 0;
    if (this.formation !== "none" && this.formation !== "cues") {
      layOut(
        {
          kind: this.formation,
          copies: count,
          reach: known[1],
          spacing: known[2],
          sweep: known[3],
          climb: known[4],
          columns: settingOf(object, "columns") as number,
          path: settingOf(object, "path") as PathPoint[],
          facing: settingOf(object, "facing") as Facing,
          seed,
        },
        places,
        this.turns,
      );
    }
    const { cued } = this;
    const isCued = this.formation === "cues";
    if (isCued && cued) places.set(cued.places.subarray(0, count * 3));
    const random = (what: number, i: number, of = 0) => 2 * hashed(seed + what, i, of) - 1;
    this.hasHues = known[6] > 0;
    for (let i = 0; i < count; i++) {
      const isThere = !isCued || (cued !== undefined && cued.alive[i] > 0);
      const size = isThere ? 1 + known[5] * random(SEED_OF.size, i) : 0;
      for (let axis = 0; axis < 3; axis++) {
        sizes[i * 3 + axis] = size * (1 + known[9] * random(SEED_OF.shape, i, axis));
      }
      hues[i] = known[6] * (Math.PI / 180) * random(SEED_OF.hue, i);
      offsets[i] = known[8] * random(SEED_OF.value, i);
      for (let axis = 0; axis < 3 && known[7] > 0; axis++) {
        places[i * 3 + axis] += known[7] * random(SEED_OF.place, i, axis);
      }
    }
  }
}

const NUMBERS = new Float64Array(10);

/** Copies of an object that is made of them, else none. `isDriven` tells whether strands move a property. */
export function copiesOf(
  object: StageObject,
  isDriven: (key: string) => boolean,
  beatS: number,
): Copies | undefined {
  if (!hasCopies(object)) return undefined;
  const declared = propertyOf(object, "copies") as NumberProperty;
  const most = isDriven("copies")
    ? Math.min(MAX_COPIES, declared.max)
    : Math.round((object.rest.copies as number | undefined) ?? declared.default);
  return new Copies(object, Math.max(1, most), beatS);
}
