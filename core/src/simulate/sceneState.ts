import type { Scene } from "../document/scene";
import { runningOf } from "../document/strands/running";
import type { Take } from "../document/take/take";
import { TAPE_UNIT, type UnitTimes } from "../document/take/units";
import { type ObjectPlan, type PropertyValues, ScenePlan } from "../evaluate/plan";
import type { Tracks } from "../evaluate/values";
import type { Waves } from "../evaluate/wave";
import type { Track } from "../strand/track";
import type { UnitLength } from "./answers/answeredSounds";
import { Placing } from "./placing";
import { MAX_TIME_S, Simulation } from "./simulation";

/**
 * The state of a scene: a function of (document, tracks, take, time). Owns the plan, the values, the simulation and the
 * placement of every object, and brings them to a time in the right order. After a seek the state is reached from the
 * nearest checkpoint.
 *
 * @example
 * const state = new SceneState(scene);
 * state.setTracks(tracks);
 * state.advanceTo(1.5);
 * state.valueOf("lantern", "scale"); // 1.2
 */
export class SceneState {
  readonly plan: ScenePlan;
  readonly simulation: Simulation;
  placing: Placing;
  /** Values at `timeS`, laid out as the plan's slots say. */
  values: Float64Array;
  timeS = Number.NaN;
  /** Increases whenever values or placement may have changed. */
  version = 0;
  /** Increases when the layout changed: slots and plans are other objects then. */
  layoutVersion = 0;
  private order: readonly ObjectPlan[];
  private isStale = true;
  private tracks: Tracks = new Map();
  private take: Take | undefined;
  private solo: ReadonlySet<string> = new Set();
  /** Tracks of strands on sounds that run by themselves, read where the take says those are. */
  private readonly ownTimed = new Map<string, { of: Track; unitId: string; track: Track }>();

  constructor(scene: Scene) {
    this.plan = new ScenePlan(scene);
    this.simulation = new Simulation(this.plan);
    this.simulation.around.trackOf = (strandId) => this.trackOf(strandId);
    this.values = new Float64Array(this.plan.size);
    this.placing = new Placing(this.plan, this.simulation);
    this.placing.moved = this.simulation.answering?.bodies;
    this.order = inPlacingOrder(this.plan, this.placing);
  }

  get scene(): Scene {
    return this.plan.scene;
  }

  /**
   * Follows an edited scene; only what the edit touches is prepared again.
   *
   * @returns the plans that changed; `undefined` when all of them are new
   */
  update(scene: Scene): ReadonlySet<ObjectPlan> | undefined {
    const changed = this.plan.update(scene);
    this.isStale = true;
    this.simulation.values.forgetDeals();
    const { answering } = this.simulation;
    this.followTracks();
    if (changed) this.simulation.update(changed);
    else {
      this.simulation.rebuild();
      this.values = new Float64Array(this.plan.size);
      this.layoutVersion++;
    }
    if (this.simulation.answering !== answering) this.followTracks();
    if (!changed) this.placing = new Placing(this.plan, this.simulation);
    else this.placing.follow();
    this.placing.moved = this.simulation.answering?.bodies;
    if (!changed || changed.size > 0) this.order = inPlacingOrder(this.plan, this.placing);
    return changed;
  }

  /** Numbers of the strands; a strand without a track leaves what it moves at rest. */
  setTracks(tracks: Tracks): void {
    this.tracks = tracks;
    this.applyTracks();
  }

  /**
   * What happened besides time passing: where the tape and the units are, and what visitors did. Without it they are where
   * the run is.
   *
   * @param sinceS  what happened before this time of the run is as it was
   */
  setTake(take: Take, sinceS = 0): void {
    this.isStale = true;
    this.simulation.forgetAfter(sinceS);
    if (take === this.take) return;
    this.take = take;
    this.simulation.around.take = take;
    this.simulation.forget();
    this.ownTimed.clear();
    this.applyTracks();
  }

  /** How long the tape and the units are that run by themselves, once that is known. */
  setLengths(lengths: ReadonlyMap<string, UnitLength>): void {
    const { around } = this.simulation;
    const isSame =
      lengths.size === around.lengths.size &&
      [...lengths].every(([id, one]) => {
        const known = around.lengths.get(id);
        return known?.lengthS === one.lengthS && known.loops === one.loops && known.fromS === one.fromS;
      });
    if (isSame) return;
    around.lengths = lengths;
    if (this.simulation.answering) this.simulation.forget();
    this.isStale = true;
  }

  /** Points of a model's surface by object, for bodies with the shape of their hull; and once physics has been loaded. */
  setHulls(hulls: ReadonlyMap<string, Float32Array> = this.simulation.around.hulls): void {
    this.simulation.around.hulls = hulls;
    this.simulation.renewAnswering();
    this.followTracks();
    this.placing.moved = this.simulation.answering?.bodies;
    this.isStale = true;
  }

  /** Positions of the tape and the units. */
  get units(): UnitTimes | undefined {
    return this.simulation.answering?.units ?? this.take?.units;
  }

  /** Lets only some strands drive the scene, for looking while working; none lets all of them. */
  setSolo(strandIds: ReadonlySet<string>): void {
    this.solo = strandIds;
    this.applyTracks();
  }

  private followTracks(): void {
    const joined = this.joinedTracks();
    this.simulation.around.tracks = joined;
    this.simulation.values.setTracks(joined);
  }

  private applyTracks(): void {
    const joined = this.joinedTracks();
    this.simulation.around.tracks = joined;
    const changed = this.simulation.values.setTracks(joined);
    if (changed.size === 0) return;
    this.isStale = true;
    this.simulation.setTracks(changed);
  }

  /** Tracks of the strands that drive something: not muted, and if some are soloed, one of them. */
  private joinedTracks(): Tracks {
    const { scene, solo, tracks } = this;
    const joined = new Map<string, Track>();
    for (const { id, muted } of scene.strands) {
      const track = this.trackOf(id);
      if (track && !muted && (solo.size === 0 || solo.has(id))) joined.set(id, track);
    }
    // Tracks of strands that the document does not list, as tests and tools give them.
    for (const [id, track] of tracks) if (!joined.has(id) && !this.isListed(id)) joined.set(id, track);
    return joined;
  }

  private isListed(strandId: string): boolean {
    return this.scene.strands.some(({ id }) => id === strandId);
  }

  /**
   * A strand's track as it is read: on a sound that runs by itself it has that sound's time. In a run it is at 0 before
   * that sound is started, and falls with the strand's release once it stops.
   */
  trackOf(strandId: string): Track | undefined {
    const { take, scene } = this;
    const ofZone = this.simulation.answering?.zones.trackOf(strandId);
    if (ofZone) return ofZone;
    const of = this.tracks.get(strandId);
    if (!of || of.newest || !take) return of;
    const unitId = ownUnitOf(scene, strandId) ?? (take.isRun ? TAPE_UNIT : undefined);
    if (unitId === undefined) return of;
    let known = this.ownTimed.get(strandId);
    if (known?.of !== of || known.unitId !== unitId) {
      const positionS = (timeS: number) => (this.units ?? take.units).positionS(unitId, timeS);
      const track: Track = { ...of, positionS };
      if (unitId !== TAPE_UNIT && take.isRun) {
        const { on, releaseMs } = scene.strands.find(({ id }) => id === strandId)!.shaping.follow;
        const releaseS = on ? releaseMs / 1000 : 0;
        track.shareLeft = (timeS) => {
          const sinceS = (this.units ?? take.units).standsSinceS(unitId, timeS);
          return sinceS === undefined ? 1 : releaseS > 0 ? Math.exp((sinceS - timeS) / releaseS) : 0;
        };
      }
      known = { of, unitId, track };
      this.ownTimed.set(strandId, known);
    }
    return known.track;
  }

  setWaves(waves: Waves): void {
    this.simulation.waves = waves;
    this.isStale = true;
  }

  /** Has the next `advanceTo` evaluate again even at the same time: numbers that are heard live have moved on. */
  invalidate(): void {
    this.isStale = true;
  }

  /**
   * Brings values, simulation and placement to a time.
   *
   * @param timeS  seconds on the tape; NaN counts as 0, and times beyond a day are clamped
   * @returns whether anything was evaluated again
   */
  advanceTo(timeS: number): boolean {
    const atS = Math.min(MAX_TIME_S, Math.max(-MAX_TIME_S, timeS || 0));
    if (!this.isStale && atS === this.timeS) return false;
    this.isStale = false;
    this.timeS = atS;
    this.version++;
    this.simulation.advanceTo(atS);
    this.simulation.values.evaluateAll(atS, this.values);
    for (const plan of this.order) this.placing.placeRoots(plan, atS, this.values);
    return true;
  }

  /** Places what is pinned to a visitor again: they have moved since. */
  placePinned(): void {
    for (const plan of this.order) {
      const [outermost] = this.placing.chainOf(plan);
      if (outermost.object.settings.pinnedTo !== undefined)
        this.placing.placeRoots(plan, this.timeS, this.values);
    }
  }

  /** One number of a property as last evaluated; 0 for a property that is not in use. */
  valueOf(objectId: string, property: string, axis = 0): number {
    const slot = this.plan.slot(objectId, property);
    return slot ? this.values[slot.offset + axis] : 0;
  }

  /** All values as last evaluated, by object id, then by property. */
  readAll(): PropertyValues {
    return this.plan.readAll(this.values);
  }
}

/** The unit whose time a strand follows: that of its sound, if it runs by itself. */
function ownUnitOf(scene: Scene, strandId: string): string | undefined {
  const listensTo = scene.strands.find(({ id }) => id === strandId)?.listensTo;
  if (listensTo?.kind !== "sound") return undefined;
  const sound = scene.sounds.find(({ id }) => id === listensTo.id);
  if (!sound) return undefined;
  const { runs, unitId } = runningOf(scene, sound);
  return runs === "alone" ? unitId : undefined;
}

/** Objects that have a place, groups before what is in them. */
function inPlacingOrder(plan: ScenePlan, placing: Placing): ObjectPlan[] {
  return plan.plans
    .filter(({ at, object }) => at.position && object.kind !== "camera")
    .map((one) => ({ one, depth: placing.chainOf(one).length }))
    .sort((a, b) => a.depth - b.depth)
    .map(({ one }) => one);
}

/**
 * Property values of a scene at a time.
 *
 * @param tracks  each strand's track by the strand's id
 * @param timeS  seconds since the start of the sounds
 * @returns values by object id, then by property
 * @example evaluateScene(scene, tracks, 1.5).lantern.scale // [1.2, 1.2, 1.2]
 */
export function evaluateScene(scene: Scene, tracks: Tracks, timeS: number): PropertyValues {
  const state = new SceneState(scene);
  state.setTracks(tracks);
  state.advanceTo(timeS);
  return state.readAll();
}
