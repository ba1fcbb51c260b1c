import type { Place, Scene } from "@bumbrel/core/scene/document";
import { type Evaluator, surfaceOwner } from "@bumbrel/core/scene/evaluate";
import { isBody, isPlaced, type ObjectKind } from "@bumbrel/core/scene/objectKinds";
import { Placing } from "@bumbrel/core/scene/placing";
import {
  Box3,
  Box3Helper,
  type LineBasicMaterial,
  type Object3D,
  PerspectiveCamera,
  Raycaster,
  Sphere,
  Scene as ThreeScene,
  Vector2,
  Vector3,
  WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { type FetchAsset, StageAssets } from "./assets";
import { DIFFERENCE_LAYER } from "./blending";
import { Picture } from "./picture";
import { PlaceRings } from "./placeRings";
import type { Frame, Source, Thing } from "./thing";
import { makeThing } from "./things";
import type { Lens, LensLook } from "./things/lens";

/** Colour of the frame around a chosen object: the interface's brass. */
const CHOSEN_COLOUR = 0xe3b563;
/** Size of the frame around what has no surface of its own. */
const SMALL_FRAME = new Vector3(0.3, 0.3, 0.3);
/** Farther than this nobody means to point. */
const MOST_AWAY_M = 200;
/** Things that are everywhere and cannot be pointed at. */
const NOT_POINTABLE: ReadonlySet<ObjectKind> = new Set(["ground", "water", "particles"]);

/** What a stage costs, as of its last picture. */
export interface Weight {
  objects: number;
  copies: number;
  particles: number;
  triangles: number;
  drawCalls: number;
}

interface Standing {
  thing: Thing;
  source: Source;
  /** What it was made from; made anew when that changes. */
  key: string;
}

/** Draws a scene on a canvas from evaluated property values. */
export class Stage {
  readonly assets: StageAssets;
  /** Handles and marks of whoever edits the scene: drawn over the picture, and on none that is taken of it. */
  readonly overlay = new ThreeScene();
  private readonly renderer: WebGLRenderer;
  private readonly three = new ThreeScene();
  private readonly whole: Picture;
  private readonly standing = new Map<string, Standing>();
  private order: Standing[] = [];
  private values: Float64Array | undefined;
  private seen = new Float64Array(0);
  private seenS = Number.NaN;
  private isDirty = true;
  private eye = new PerspectiveCamera();
  private lens: LensLook | undefined;
  private chosen: readonly string[] = [];
  /** What the last picture took. */
  private drawnWith = { drawCalls: 0, triangles: 0 };
  private readonly frames: Box3Helper[] = [];
  private readonly rings = new PlaceRings();
  private readonly raycaster = new Raycaster();
  private readonly frame: Frame = { values: this.seen, timeS: 0, camera: this.eye, composed: false };

  /**
   * @param fetchAsset  where pictures and models come from
   * @throws Error when the browser offers no WebGL
   */
  constructor(canvas: HTMLCanvasElement, fetchAsset?: FetchAsset) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, powerPreference: "high-performance" });
    this.renderer.info.autoReset = false;
    this.assets = new StageAssets(fetchAsset, () => this.remake());
    this.overlay.add(this.rings.root);
    this.whole = new Picture(this.renderer, this.three, this.eye);
    // A context that was lost comes back with everything on it; until then the last picture stands.
    canvas.addEventListener("webglcontextrestored", this.redraw);
  }

  get camera(): PerspectiveCamera {
    return this.eye;
  }

  get canvas(): HTMLCanvasElement {
    return this.renderer.domElement;
  }

  /** Has the next frame drawn whether anything moved or not. */
  readonly redraw = (): void => {
    this.isDirty = true;
  };

  /** Puts the scene's objects on the stage; those that stay as they were made are kept. */
  setScene(scene: Scene, evaluator: Evaluator): void {
    this.assets.setScene(scene);
    this.whole.setQuality(scene.quality);
    const placing = new Placing(evaluator);
    const alive = new Set<string>();
    this.order = [];
    this.lens = undefined;
    // Groups come before what is in them, so that each is placed when its turn comes.
    const plans = [...evaluator.plans].sort((a, b) => placing.chainOf(a).length - placing.chainOf(b).length);
    for (const plan of plans) {
      const { object } = plan;
      alive.add(object.id);
      const source: Source = { object, plan, evaluator, placing, assets: this.assets };
      const key = keyOf(source);
      let one = this.standing.get(object.id);
      if (one && one.key === key) Object.assign(one.source, source);
      else {
        if (one) this.remove(object.id, one);
        one = { thing: makeThing(source), source, key };
        this.standing.set(object.id, one);
        this.three.add(one.thing.root);
      }
      this.order.push(one);
      if (one.thing.root instanceof PerspectiveCamera) {
        this.eye = one.thing.root;
        this.fitCamera();
      }
      if (object.kind === "lens") this.lens = (one.thing as Lens).look;
    }
    for (const [id, one] of this.standing) if (!alive.has(id)) this.remove(id, one);
    this.whole.hasDifference = this.order.some(({ thing }) => isOnDifference(thing.root));
    this.redraw();
  }

  /** Makes things anew that were made without what has arrived since. */
  private remake(): void {
    for (const [id, one] of this.standing) {
      const { kind, settings } = one.source.object;
      const shared = surfaceOwner(one.source.evaluator, one.source.plan).object.settings;
      if (
        kind !== "model" &&
        kind !== "text" &&
        ![settings, shared].some((all) => all.pictureId || all.textureId)
      )
        continue;
      this.three.remove(one.thing.root);
      one.thing.dispose();
      one.thing = makeThing(one.source);
      this.three.add(one.thing.root);
      this.standing.set(id, one);
    }
    this.values = undefined;
    this.redraw();
  }

  /**
   * Takes over a frame's values, laid out by the evaluator given to `setScene`.
   *
   * @param isLive  something moves that neither the values nor the time tell of
   */
  apply(values: Float64Array, timeS: number, isLive = false): void {
    if (!isLive && !this.isDirty && this.isAsSeen(values, timeS)) return;
    this.isDirty = true;
    if (this.seen.length !== values.length) this.seen = new Float64Array(values.length);
    this.seen.set(values);
    this.seenS = timeS;
    this.values = values;
    const { frame } = this;
    frame.values = values;
    frame.timeS = timeS;
    frame.camera = this.eye;
    frame.composed = this.whole.isComposed(this.lens);
    for (const { thing, source } of this.order) {
      if (source.plan.at.position && source.object.kind !== "camera") {
        source.placing.placeRoots(source.plan, timeS, values);
      }
      thing.apply(frame);
    }
  }

  private isAsSeen(values: Float64Array, timeS: number): boolean {
    if (timeS !== this.seenS || values !== this.values || values.length !== this.seen.length) return false;
    for (let i = 0; i < values.length; i++) if (values[i] !== this.seen[i]) return false;
    return true;
  }

  /** Draws, unless what is on the screen is still right. */
  render(): void {
    if (!this.isDirty) return;
    this.isDirty = false;
    this.showChosen();
    this.renderer.info.reset();
    this.whole.render(this.eye, this.lens, this.seenS);
    this.renderer.autoClear = false;
    this.renderer.clearDepth();
    this.renderer.render(this.overlay, this.eye);
    this.renderer.autoClear = true;
    const { calls, triangles } = this.renderer.info.render;
    this.drawnWith = { drawCalls: calls, triangles };
  }

  /** @param width  CSS pixels; @param height  CSS pixels; @param pixelRatio  device pixels in one of them */
  resize(width: number, height: number, pixelRatio: number): void {
    this.whole.resize(width, height, pixelRatio);
    this.fitCamera();
    this.redraw();
  }

  /** Frames objects, or none. */
  choose(objectIds: readonly string[]): void {
    this.chosen = objectIds;
    this.redraw();
  }

  /** Draws where sounds are: a ring at each reference distance, and one at each maximum. */
  showPlaces(places: readonly Place[]): void {
    if (this.rings.show(places)) this.redraw();
  }

  /** The object under a point of the picture, x and y from 0 (left, top) to 1; `undefined` where there is none. */
  objectAt(x: number, y: number): string | undefined {
    this.three.updateMatrixWorld();
    this.raycaster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.eye);
    this.raycaster.layers.enable(DIFFERENCE_LAYER);
    let nearest: { id: string; distance: number } | undefined;
    for (const [id, { thing, source }] of this.standing) {
      const { kind, locked } = source.object;
      if (locked || NOT_POINTABLE.has(kind) || !isPlaced(kind) || !thing.root.visible) continue;
      const [hit] = this.raycaster.intersectObject(thing.root, true);
      if (hit && (!nearest || hit.distance < nearest.distance)) nearest = { id, distance: hit.distance };
    }
    return nearest?.id;
  }

  /** The point at a height that lies under a point of the picture; `undefined` where the eye looks past it. */
  groundAt(x: number, y: number, heightM: number): [number, number, number] | undefined {
    this.raycaster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.eye);
    const { origin, direction } = this.raycaster.ray;
    const away = (heightM - origin.y) / direction.y;
    if (!(away > 0) || away > MOST_AWAY_M) return undefined;
    return [origin.x + direction.x * away, heightM, origin.z + direction.z * away];
  }

  /** Where an object's root stands: 16 numbers, column by column; `undefined` for what has no place. */
  rootOf(objectId: string): Float32Array | undefined {
    const one = this.standing.get(objectId);
    return one && isPlaced(one.source.object.kind)
      ? one.source.placing.rootsOf(one.source.plan).matrices.subarray(0, 16)
      : undefined;
  }

  /** What the stage shows for a property, read back from what is drawn. */
  read(objectId: string, property: string): number | number[] | undefined {
    return this.standing.get(objectId)?.thing.read(property);
  }

  /** Every number of an object that is sent to be drawn. */
  drawn(objectId: string): number[] {
    return this.standing.get(objectId)?.thing.drawn() ?? [];
  }

  weight(): Weight {
    let copies = 0;
    let particles = 0;
    for (const { thing } of this.order) {
      const counted = thing.count?.();
      copies += counted?.copies ?? 0;
      particles += counted?.particles ?? 0;
    }
    return { objects: this.order.length, copies, particles, ...this.drawnWith };
  }

  /** The picture as it is now, for lists of projects. */
  picture(width: number, height: number): string {
    this.whole.render(this.eye, this.lens, this.seenS);
    const small = document.createElement("canvas");
    small.width = width;
    small.height = height;
    const from = this.renderer.domElement;
    const scale = Math.max(width / from.width, height / from.height);
    const [w, h] = [from.width * scale, from.height * scale];
    small.getContext("2d")?.drawImage(from, (width - w) / 2, (height - h) / 2, w, h);
    this.redraw();
    return small.toDataURL("image/jpeg", 0.85);
  }

  /**
   * A small picture of an object by itself, one of its copies, in the light of the stage; `undefined` for what is not to
   * be seen, or too dark or thin to tell anything. Nothing waits for it: what is drawn meanwhile comes first.
   */
  async portrait(objectId: string, width: number, height: number): Promise<string | undefined> {
    const one = this.standing.get(objectId);
    if (!one || !this.values || !isBody(one.source.object.kind)) return undefined;
    const { root } = one.thing;
    const putBack = one.thing.leaveFew?.(1);
    const box = boundsOf(root);
    if (box.isEmpty()) {
      putBack?.();
      return undefined;
    }
    const hidden: Object3D[] = [];
    for (const child of this.three.children) {
      const isLight = child.getObjectsByProperty("isLight", true).length > 0;
      if (child === root || isLight || !child.visible) continue;
      child.visible = false;
      hidden.push(child);
    }
    const sphere = box.getBoundingSphere(new Sphere());
    const eye = new PerspectiveCamera(30, width / height, 0.01, 5000);
    eye.layers.enable(DIFFERENCE_LAYER);
    const away = Math.max(0.05, sphere.radius) / Math.sin((eye.fov * Math.PI) / 360);
    eye.position.copy(sphere.center).add(new Vector3(0.45, 0.4, 1).normalize().multiplyScalar(away));
    eye.lookAt(sphere.center);
    const target = new WebGLRenderTarget(width, height, { samples: 4 });
    const { fog } = this.three;
    this.three.fog = null;
    this.renderer.setRenderTarget(target);
    this.renderer.setClearColor(0, 0);
    this.renderer.clear();
    this.renderer.render(this.three, eye);
    this.renderer.setRenderTarget(null);
    this.three.fog = fog;
    for (const child of hidden) child.visible = true;
    putBack?.();
    const pixels = new Uint8Array(width * height * 4);
    try {
      await this.renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels);
    } catch {
      // The graphics card was taken away meanwhile.
      return undefined;
    } finally {
      target.dispose();
    }
    return isAnythingSeen(pixels) ? asImage(pixels, width, height) : undefined;
  }

  dispose(): void {
    for (const [id, one] of this.standing) this.remove(id, one);
    for (const frame of this.frames) frame.dispose();
    this.canvas.removeEventListener("webglcontextrestored", this.redraw);
    this.assets.dispose();
    this.rings.dispose();
    this.whole.dispose();
    this.renderer.dispose();
  }

  private remove(id: string, { thing }: Standing): void {
    this.three.remove(thing.root);
    thing.dispose();
    this.standing.delete(id);
  }

  private showChosen(): void {
    while (this.frames.length < this.chosen.length) {
      const frame = new Box3Helper(new Box3(), CHOSEN_COLOUR);
      (frame.material as LineBasicMaterial).toneMapped = false;
      this.frames.push(frame);
      this.overlay.add(frame);
    }
    for (const [i, frame] of this.frames.entries()) {
      const id = this.chosen[i];
      const one = id === undefined ? undefined : this.standing.get(id);
      const kind = one?.source.object.kind;
      frame.visible = one !== undefined && kind !== undefined && isPlaced(kind) && !NOT_POINTABLE.has(kind);
      if (!one || !frame.visible) continue;
      if (isBody(one.source.object.kind)) {
        const putBack = one.thing.leaveFew?.(Number.POSITIVE_INFINITY);
        frame.box.copy(boundsOf(one.thing.root)).expandByScalar(0.04);
        putBack?.();
      } else frame.box.makeEmpty();
      if (!frame.box.isEmpty()) continue;
      const root = this.rootOf(id);
      if (root) frame.box.setFromCenterAndSize(new Vector3(root[12], root[13], root[14]), SMALL_FRAME);
    }
  }

  private fitCamera(): void {
    const size = this.renderer.getSize(new Vector2());
    if (size.y === 0) return;
    this.eye.aspect = size.x / size.y;
    this.eye.updateProjectionMatrix();
  }
}

/** What a thing has to be made anew for: its kind, its settings and how many copies there may be. */
function keyOf({ object, plan, evaluator, placing }: Source): string {
  const owner = surfaceOwner(evaluator, plan);
  const shared = owner === plan ? "" : JSON.stringify(owner.object.settings);
  const room = isBody(object.kind) ? placing.mostOf(plan) : (plan.copies?.most ?? 0);
  const { particles, wakes, trails } = evaluator.steps;
  const memory = [particles, wakes, trails].map((map) => map.get(object.id)?.most ?? 0);
  return `${object.kind} ${JSON.stringify(object.settings)} ${shared} ${room} ${memory}`;
}

function isOnDifference(root: Object3D): boolean {
  return root.layers.isEnabled(DIFFERENCE_LAYER) || root.children.some(isOnDifference);
}

/** Light of a pixel, 0..255, from which it is seen on a dark ground, and how many of them make a picture. */
const SEEN_FROM = 10;
const SEEN_PIXELS = 40;

function isAnythingSeen(pixels: Uint8Array): boolean {
  let seen = 0;
  for (let i = 0; i < pixels.length; i += 4) {
    if (Math.max(pixels[i], pixels[i + 1], pixels[i + 2]) * pixels[i + 3] > SEEN_FROM * 255) seen++;
  }
  return seen >= SEEN_PIXELS;
}

function boundsOf(root: Object3D): Box3 {
  root.updateMatrixWorld(true);
  return new Box3().setFromObject(root);
}

/** Pixels of linear light, from bottom to top, as a picture with what is clear in it. */
function asImage(pixels: Uint8Array, width: number, height: number): string {
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  // Kept off the graphics card, which would have to finish all its work before it is read back.
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) return "";
  const image = context.createImageData(width, height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width * 4; x++) {
      const value = pixels[(height - 1 - y) * width * 4 + x];
      image.data[y * width * 4 + x] = x % 4 === 3 ? value : 255 * (value / 255) ** (1 / 2.2);
    }
  }
  context.putImageData(image, 0, 0);
  return canvas.toDataURL("image/png");
}
