import type { ObjectPlan } from "@bumbrel/core/evaluate/plan";
import { programKindOf } from "@bumbrel/core/kinds/programKinds";
import { can, settingOf } from "@bumbrel/core/kinds/table";
import type { SceneState } from "@bumbrel/core/simulate/sceneState";
import { type Matrix4, type Object3D, PerspectiveCamera } from "three";
import type { StageAssets } from "./assets";
import { hullsOf } from "./hulls";
import type { ImageLayer } from "./image/imageLayer";
import { DIFFERENCE_LAYER } from "./image/layers";
import type { Backdrop } from "./objects/backdrop";
import type { Environment } from "./objects/environment";
import type { Lens, LensLook } from "./objects/lens";
import type { CastingLight } from "./objects/lights";
import { renderObject } from "./objects/table";
import { type Frame, ObjectSource, programFor, type RenderedObject, type StageEntry } from "./renderedObject";

/**
 * The objects of a scene as things of three.js, in whatever root they are wanted: a stage of their own, or somebody
 * else's scene. They follow the state and never change it.
 *
 * @example
 * const objects = new StageObjects(new Group(), assets);
 * objects.attach(state, 1);
 * state.advanceTo(1.5);
 * objects.update(frame);
 */
export class StageObjects {
  readonly root: Object3D;
  private readonly assets: StageAssets;
  private readonly entriesById = new Map<string, StageEntry>();
  /** In the order of the document. */
  order: readonly StageEntry[] = [];
  /** The scene's own camera. */
  eye = new PerspectiveCamera();
  lens: LensLook | undefined;
  surroundings: Environment | undefined;
  backdrop: Backdrop | undefined;
  /** Lights that may cast shadows. */
  casting: readonly CastingLight["casting"][] = [];
  /** Objects that draw something of their own before each image, such as mirrored water. */
  drawingBefore: readonly RenderedObject[] = [];
  /** True when light falls on any particles. */
  hasLitAir = false;
  /** Layers over the image; the same list object while the layers are the same. */
  layers: readonly ImageLayer[] = [];

  constructor(root: Object3D, assets: StageAssets) {
    this.root = root;
    this.assets = assets;
  }

  get entries(): ReadonlyMap<string, StageEntry> {
    return this.entriesById;
  }

  /**
   * Puts a state's objects there; those that stay as they were made are kept.
   *
   * @param fineness  share of the steps that round shapes are made of
   */
  attach(state: SceneState, fineness: number): void {
    this.assets.setScene(state.scene);
    const alive = new Set<string>();
    const order: StageEntry[] = [];
    const casting: CastingLight["casting"][] = [];
    const drawingBefore: RenderedObject[] = [];
    this.lens = undefined;
    this.hasLitAir = state.plan.plans.some(({ object }) => settingOf(object, "lit") === true);
    for (const plan of state.plan.plans) {
      const { id, kind } = plan.object;
      alive.add(id);
      const entry = this.entryFor(plan, state, fineness);
      order.push(entry);
      const { root } = entry.rendered;
      if (root instanceof PerspectiveCamera) this.eye = root;
      if (kind === "lens") this.lens = (entry.rendered as Lens).look;
      if (kind === "environment") this.surroundings = entry.rendered as Environment;
      if (kind === "backdrop") this.backdrop = entry.rendered as Backdrop;
      if ("casting" in entry.rendered) casting.push((entry.rendered as CastingLight).casting);
      if (entry.rendered.beforeImage) drawingBefore.push(entry.rendered);
    }
    for (const [id, entry] of this.entriesById) if (!alive.has(id)) this.remove(id, entry);
    Object.assign(this, { order, casting, drawingBefore });
    this.findLayers();
  }

  private findLayers(): void {
    const found = this.order.flatMap(({ rendered }) => rendered.imageLayer ?? []);
    const isSame = found.length === this.layers.length && found.every((one, i) => one === this.layers[i]);
    if (!isSame) this.layers = found;
  }

  /**
   * Makes again what an edit changed in how it is made.
   *
   * @param changed  the plans that changed
   * @returns whether anything was made again: then the whole has to be attached again
   */
  follow(state: SceneState, changed: ReadonlySet<ObjectPlan>, hasNewCode: boolean): boolean {
    const { placing, plan: scenePlan } = state;
    let isRemade = false;
    for (const entry of this.order) {
      const { source } = entry;
      const owner = scenePlan.surfaceOwner(source.plan);
      const isTouched =
        (hasNewCode && (owner.object.settings.programId || source.object.settings.programId)) ||
        changed.has(owner) ||
        placing.chainOf(source.plan).some((one) => changed.has(one));
      if (!isTouched) continue;
      source.edits++;
      if (entry.key === keyOf(source)) continue;
      this.remake(entry);
      isRemade = true;
    }
    return isRemade;
  }

  /** Makes those again that a program is used by. */
  restartProgram(programId: string): void {
    for (const entry of this.order)
      if (entry.source.object.settings.programId === programId) this.remake(entry);
  }

  /** Lets all that draw begin once more: what they had drawn is gone. */
  forgetDrawn(): void {
    for (const { source } of this.order) source.edits++;
  }

  /** Makes objects again that were made before their images, models or fonts arrived; the whole is attached again after it. */
  remakeAssets(state: SceneState): void {
    for (const entry of this.order) {
      const { kind, settings } = entry.source.object;
      const shared = state.plan.surfaceOwner(entry.source.plan).object.settings;
      const showsImage = [settings, shared].some(
        (all) => all.pictureId || all.textureId || all.panoramaId || all.heightId || all.programId,
      );
      if (kind === "model" || kind === "text" || showsImage) this.remake(entry);
    }
  }

  /** Tells a state the outlines of the models that are there now: bodies collide by them. */
  giveHulls(state: SceneState): void {
    const hulls = hullsOf(this.entriesById);
    if (hulls.size > 0) state.setHulls(hulls);
  }

  /** Draws the objects as the frame says; allocates nothing. */
  update(frame: Frame): void {
    for (const { rendered } of this.order) rendered.update(frame);
    const { lens, backdrop } = this;
    if (!lens || !backdrop) return;
    if (lens.fogOfBackdrop) lens.fogColour.copy(backdrop.horizon);
    lens.backdropLight = backdrop.brightest();
  }

  /** True if any object is drawn with the difference blend mode. */
  get hasDifference(): boolean {
    return this.order.some(({ rendered }) => isOnDifference(rendered.root));
  }

  /** An object's root transform: 16 numbers, column by column; `undefined` for one without a place. */
  rootOf(objectId: string): Float32Array | undefined {
    const entry = this.entriesById.get(objectId);
    if (!entry || can(entry.source.object.kind).placement === undefined) return undefined;
    return entry.source.state.placing.rootsOf(entry.source.plan).matrices.subarray(0, 16);
  }

  /** How many copies and particles there are. */
  count(): { copies: number; particles: number } {
    let copies = 0;
    let particles = 0;
    for (const { rendered } of this.order) {
      const counted = rendered.count?.();
      copies += counted?.copies ?? 0;
      particles += counted?.particles ?? 0;
    }
    return { copies, particles };
  }

  dispose(): void {
    for (const [id, entry] of this.entriesById) this.remove(id, entry);
    this.order = [];
  }

  private entryFor(plan: ObjectPlan, state: SceneState, fineness: number): StageEntry {
    const { id } = plan.object;
    let entry = this.entriesById.get(id);
    const source = entry?.source ?? new ObjectSource(plan, state, this.assets);
    source.plan = plan;
    source.state = state;
    source.fineness = fineness;
    source.edits++;
    const key = keyOf(source);
    if (entry?.key !== key) {
      if (entry) this.remove(id, entry);
      entry = { rendered: renderObject(source), source, key };
      this.entriesById.set(id, entry);
      this.root.add(entry.rendered.root);
    }
    entry.rendered.root.name = plan.object.name;
    return entry;
  }

  private remake(entry: StageEntry): void {
    this.root.remove(entry.rendered.root);
    entry.rendered.dispose();
    entry.rendered = renderObject(entry.source);
    entry.key = keyOf(entry.source);
    entry.source.edits++;
    this.root.add(entry.rendered.root);
  }

  private remove(id: string, { rendered }: StageEntry): void {
    this.root.remove(rendered.root);
    rendered.dispose();
    this.entriesById.delete(id);
  }
}

/** Poses of a visitor's eyes and hands, for objects that are pinned to them. */
export type Pins = Readonly<Record<"view" | "left" | "right", Matrix4>>;

/** True if any object of a scene is pinned to its visitor. */
export const hasPinned = ({ scene }: SceneState): boolean =>
  scene.objects.some(({ settings }) => settings.pinnedTo !== undefined);

/** Hands a state's placing the places that things are pinned to. */
export function placePinned(state: SceneState, pins: Pins): void {
  const { placing } = state;
  for (const [pin, { elements }] of Object.entries(pins) as [keyof Pins, Matrix4][]) {
    placing.pins[pin] ??= new Float32Array(16);
    placing.pins[pin]?.set(elements);
  }
  state.placePinned();
}

/** Key of an object that makes it be rebuilt: its kind, its settings, and its greatest number of instances. */
function keyOf(source: ObjectSource): string {
  const { object, plan, state, fineness } = source;
  const owner = state.plan.surfaceOwner(plan);
  const shared = owner === plan ? "" : JSON.stringify(owner.object.settings);
  const instances = can(object.kind).surface ? state.placing.maxInstances(plan) : (plan.copies?.most ?? 0);
  const memory = (["particles", "wake", "orbits"] as const).map(
    (what) => state.simulation.get(what, object.id)?.most ?? 0,
  );
  const program = [
    programFor(source, owner.object, "surface"),
    programFor(source, object, programKindOf(object.kind)),
  ].map((one) => one?.code ?? "");
  return `${object.kind} ${JSON.stringify(object.settings)} ${program} ${shared} ${instances} ${memory} ${fineness}`;
}

function isOnDifference(root: Object3D): boolean {
  return root.layers.mask === 1 << DIFFERENCE_LAYER || root.children.some(isOnDifference);
}
