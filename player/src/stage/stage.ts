import type { Place, Scene } from "@bumbrel/core/scene/document";
import { type Evaluator, withSingletons } from "@bumbrel/core/scene/evaluate";
import type { ObjectKind } from "@bumbrel/core/scene/objectKinds";
import {
  Box3,
  Box3Helper,
  type LineBasicMaterial,
  NeutralToneMapping,
  PerspectiveCamera,
  Raycaster,
  Scene as ThreeScene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { PlaceRings } from "./placeRings";
import { THING_MAKERS, type Thing } from "./things";

/** Colour of the frame around the chosen object: the interface's brass. */
const CHOSEN_COLOUR = 0xe3b563;
/** Size of the frame around what has no surface of its own. */
const LAMP_FRAME = new Vector3(0.3, 0.3, 0.3);
/** Things that are everywhere and cannot be pointed at. */
const NOT_POINTABLE: ReadonlySet<ObjectKind> = new Set(["camera", "backdrop", "sunLight", "ambientLight"]);

/** Draws a scene on a canvas from evaluated property values. */
export class Stage {
  private readonly renderer: WebGLRenderer;
  private readonly three = new ThreeScene();
  private readonly things = new Map<string, Thing>();
  private readonly kinds = new Map<string, ObjectKind>();
  private layout = "";
  private camera = new PerspectiveCamera();
  private chosen: string | undefined;
  private readonly frame = new Box3Helper(new Box3(), CHOSEN_COLOUR);
  private readonly rings = new PlaceRings();
  private readonly raycaster = new Raycaster();

  /** @throws Error when the browser offers no WebGL */
  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, powerPreference: "high-performance" });
    this.renderer.toneMapping = NeutralToneMapping;
    this.frame.visible = false;
    (this.frame.material as LineBasicMaterial).toneMapped = false;
    this.three.add(this.frame, this.rings.root);
  }

  /** Puts the scene's objects on the stage; those that stay are kept unless the list of objects changed. */
  setScene(scene: Scene, evaluator: Evaluator): void {
    const objects = withSingletons(scene.objects);
    const layout = objects.map(({ id, kind }) => `${id}:${kind}`).join(" ");
    if (layout === this.layout) return;
    this.layout = layout;
    this.clear();
    for (const { id, kind } of objects) {
      const thing = THING_MAKERS[kind]((property) => evaluator.slot(id, property)!.offset);
      this.things.set(id, thing);
      this.kinds.set(id, kind);
      this.three.add(thing.root);
      if (thing.root instanceof PerspectiveCamera) {
        this.camera = thing.root;
        this.fitCamera();
      }
    }
  }

  /** Takes over a frame's values, laid out by the evaluator given to `setScene`. */
  apply(values: Float64Array): void {
    for (const thing of this.things.values()) thing.apply(values);
  }

  render(): void {
    const chosen = this.chosen ? this.things.get(this.chosen) : undefined;
    this.frame.visible = chosen !== undefined && !NOT_POINTABLE.has(this.kinds.get(this.chosen!)!);
    if (chosen && this.frame.visible) {
      this.frame.box.setFromObject(chosen.root).expandByScalar(0.06);
      if (this.frame.box.isEmpty()) this.frame.box.setFromCenterAndSize(chosen.root.position, LAMP_FRAME);
    }
    this.renderer.render(this.three, this.camera);
  }

  /** @param width  CSS pixels; @param height  CSS pixels; @param pixelRatio  device pixels in one of them */
  resize(width: number, height: number, pixelRatio: number): void {
    this.renderer.setPixelRatio(pixelRatio);
    this.renderer.setSize(width, height, false);
    this.fitCamera();
  }

  /** Frames an object, or none. */
  choose(objectId: string | undefined): void {
    this.chosen = objectId;
  }

  /** Draws where sounds are: a ring at each reference distance, and one at each maximum. */
  showPlaces(places: readonly Place[]): void {
    this.rings.show(places);
  }

  /** The object under a point of the picture, x and y from 0 (left, top) to 1; `undefined` where there is none. */
  objectAt(x: number, y: number): string | undefined {
    this.three.updateMatrixWorld();
    this.raycaster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.camera);
    let nearest: { id: string; distance: number } | undefined;
    for (const [id, thing] of this.things) {
      if (NOT_POINTABLE.has(this.kinds.get(id)!)) continue;
      const [hit] = this.raycaster.intersectObject(thing.root, true);
      if (hit && (!nearest || hit.distance < nearest.distance)) nearest = { id, distance: hit.distance };
    }
    return nearest?.id;
  }

  /** What the stage shows for a property, read back from what is drawn. */
  read(objectId: string, property: string): number | number[] | undefined {
    return this.things.get(objectId)?.read(property);
  }

  /** The picture as it is now, for lists of projects. */
  picture(width: number, height: number): string {
    this.rings.root.visible = false;
    this.render();
    this.rings.root.visible = true;
    const small = document.createElement("canvas");
    small.width = width;
    small.height = height;
    const from = this.renderer.domElement;
    const scale = Math.max(width / from.width, height / from.height);
    const [w, h] = [from.width * scale, from.height * scale];
    small.getContext("2d")?.drawImage(from, (width - w) / 2, (height - h) / 2, w, h);
    return small.toDataURL("image/jpeg", 0.85);
  }

  dispose(): void {
    this.clear();
    this.frame.dispose();
    this.rings.dispose();
    this.renderer.dispose();
  }

  private clear(): void {
    for (const thing of this.things.values()) {
      this.three.remove(thing.root);
      thing.dispose();
    }
    this.things.clear();
    this.kinds.clear();
  }

  private fitCamera(): void {
    const size = this.renderer.getSize(new Vector2());
    if (size.y === 0) return;
    this.camera.aspect = size.x / size.y;
    this.camera.updateProjectionMatrix();
  }
}
