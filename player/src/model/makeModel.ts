import type { ModelSettings } from "@bumbrel/core/document/modelSettings";
import type { ObjectKind } from "@bumbrel/core/document/scene";
import { KeyTrack } from "@bumbrel/core/dsp/spectrum/keyframes";
import {
  type AnimatedModel,
  type ModelLight,
  type ModelMaterial,
  type ModelNode,
  type ModelPart,
  type ModelTrack,
  writeAnimatedModel,
} from "@bumbrel/core/format/animatedModel";
import {
  type Color,
  type DirectionalLight,
  InstancedMesh,
  type Light,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  type Object3D,
  PerspectiveCamera,
  type PointLight,
  Quaternion,
  type SpotLight,
  type Texture,
  Vector3,
} from "three";
import type { CopyShading } from "../stage/copyMaterial";
import type { StageEntry } from "../stage/renderedObject";
import { DEGREES } from "../stage/renderedObject";
import type { LoadedScene } from "../staged/loadedScene";
import { imageOf, isRamped, shapeOf } from "./modelShape";

/** Colours and light are within this of what they should be: half a step of a screen's. */
const COLOUR_WITHIN = 1 / 512;
/** Light of its own and that of lights goes beyond 1. */
const LIGHT_WITHIN = 0.01;
/** Parts of a quaternion are half an angle, and what turns is up to two metres across. */
const TURN_WITHIN = 0.25;
/** Scales below this count as hidden: no rotation can be read from them. */
const GONE = 1e-7;
/** Nodes of a model at most. */
export const MOST_NODES = 20_000;

/** Kinds that a model file has nothing for, and why. */
const LEFT: Partial<Record<ObjectKind, string>> = {
  particles: "Particles come and go; a model's parts stay.",
  orbits: "Its trails are drawn anew for each frame.",
  waveform: "It is drawn anew for each frame.",
  spectrum: "It is drawn anew for each frame.",
  outlines: "It is drawn anew for each frame.",
  nest: "It is drawn anew for each frame.",
  ribbon: "It is drawn anew for each frame.",
  water: "Its waves and its mirror are the work of a shader.",
  ambientLight: "Models have no light from all round.",
  drawing: "A program draws it.",
  drawingOver: "A program draws it over the picture.",
  picturePass: "It changes the finished picture.",
};

/** Facts about a model, in the extras of its scene. */
export interface ModelExtras {
  lengthS: number;
  framesPerSecond: number;
  /** Metres; scales likewise. */
  within: number;
  sounds: readonly { name: string; soundS: number }[];
  /** Parts of the scene that are left out, and why. */
  left: { name: string; why: string }[];
}

export interface ModelOrder {
  settings: ModelSettings;
  lengthS: number;
  name: string;
  sounds: readonly { name: string; soundS: number }[];
  onProgress?(share: number): Promise<void> | void;
}

/**
 * Reads a scene frame by frame and writes it as a model with baked motion.
 *
 * @returns a GLB file
 * @throws Error when there are more copies than a model may have nodes
 */
export async function makeModel(loaded: LoadedScene, order: ModelOrder): Promise<Uint8Array> {
  const { settings, lengthS, onProgress } = order;
  const frames = Math.max(1, Math.floor(lengthS * settings.rate + 1e-6) + 1);
  const reading: Reading = { copies: settings.copies, within: settings.withinMm / 1000 };
  const readers: Reader[] = [];
  const left: ModelExtras["left"] = [];
  for (const entry of loaded.objects.order) {
    const { object } = entry.source;
    const why = LEFT[object.kind];
    if (why) left.push({ name: object.name, why });
    else readers.push(...readersOf(entry, reading, left));
  }
  for (let frame = 0; frame < frames; frame++) {
    loaded.update(frame / settings.rate);
    loaded.root.updateMatrixWorld();
    let nodes = 0;
    for (const reader of readers) {
      reader.read(frame);
      nodes += reader.count;
    }
    if (nodes > MOST_NODES)
      throw new Error(`It would have more than ${MOST_NODES} nodes: a model is for fewer copies.`);
    if (frame % 20 === 0) await onProgress?.(frame / frames);
  }
  const nodes: ModelNode[] = [];
  for (const reader of readers) nodes.push(...(await reader.finish()));
  const extras: ModelExtras = {
    lengthS,
    framesPerSecond: settings.rate,
    within: reading.within,
    sounds: order.sounds,
    left,
  };
  const model: AnimatedModel = {
    name: order.name,
    nodes,
    rateHz: settings.rate,
    extras: { bumbrel: extras },
  };
  return writeAnimatedModel(model);
}

/** How things are read. */
interface Reading extends Pick<ModelSettings, "copies"> {
  /** Metres that they may be off. */
  within: number;
}

/** Reads one thing of the scene, frame by frame. */
interface Reader {
  /** Nodes it will give. */
  count: number;
  read(frame: number): void;
  finish(): Promise<ModelNode[]>;
}

function readersOf({ rendered, source }: StageEntry, settings: Reading, left: ModelExtras["left"]): Reader[] {
  const { name } = source.object;
  const { root } = rendered;
  if (root instanceof PerspectiveCamera) return [new CameraReader(name, root, settings)];
  const lights: Light[] = [];
  root.traverse((one) => {
    if ((one as Light).isLight) lights.push(one as Light);
  });
  if (lights.length > 0) return lights.map((light) => new LightReader(name, light, root, settings));
  const meshes = root.children.filter((one) => one instanceof InstancedMesh);
  if (meshes.length > 0) return [new BodyReader(name, root, meshes, settings, left)];
  if (root instanceof Mesh && root.material instanceof MeshStandardMaterial)
    return [new BodyReader(name, root, [root], settings, left)];
  return [];
}

/** Position of something over time. */
class PlaceTrack {
  private readonly translation: KeyTrack;
  private readonly rotation: KeyTrack;
  private readonly scale: KeyTrack;
  private readonly last = { at: new Vector3(), turn: new Quaternion(), size: new Vector3() };
  /** How far its corners are from where they should be, where a matrix leans. */
  leans = 0;

  constructor(within: number) {
    this.translation = new KeyTrack(3, within);
    this.rotation = new KeyTrack(4, within * TURN_WITHIN, true);
    this.scale = new KeyTrack(3, within);
  }

  /** @param matrix  16 numbers; none while it is hidden: then it has no size */
  add(matrix: ArrayLike<number> | undefined, offset = 0): void {
    const { at, turn, size } = this.last;
    if (matrix) this.read(matrix, offset);
    else size.setScalar(0);
    this.translation.add(at.toArray());
    this.rotation.add(turn.toArray());
    this.scale.add(size.toArray());
  }

  private read(matrix: ArrayLike<number>, offset: number): void {
    const { at, turn, size } = this.last;
    whole.fromArray(matrix, offset);
    newSize.setFromMatrixScale(whole);
    if (Math.min(newSize.x, newSize.y, newSize.z) > GONE) {
      whole.decompose(at, turn, size);
      again.compose(at, turn, size);
      for (let i = 0; i < 12; i++)
        this.leans = Math.max(this.leans, Math.abs(again.elements[i] - whole.elements[i]));
    } else {
      at.setFromMatrixPosition(whole);
      size.copy(newSize);
    }
  }

  leap(): void {
    for (const track of [this.translation, this.rotation, this.scale]) track.leap();
  }

  /** Hidden until a frame. */
  waitUntil(frame: number): void {
    this.translation.holdUntil(frame, [0, 0, 0]);
    this.rotation.holdUntil(frame, [0, 0, 0, 1]);
    this.scale.holdUntil(frame, [0, 0, 0]);
  }

  finish(): Pick<ModelNode, "translation" | "rotation" | "scale"> {
    return {
      translation: this.translation.finish(),
      rotation: this.rotation.finish(),
      scale: this.scale.finish(),
    };
  }
}
const whole = new Matrix4();
const again = new Matrix4();
const newSize = new Vector3();

interface Copy {
  place: PlaceTrack;
  /** Linear RGBA and own light, without the tint of parts. */
  colour: KeyTrack;
  emission: KeyTrack;
  /** True when it was visible in the last frame. */
  isThere: boolean;
  /** Its matrix then, and how far that went in a frame. */
  was: Float64Array;
  went: Float64Array;
}

/** A body with all its copies, or a flat ground. */
class BodyReader implements Reader {
  private readonly name: string;
  private readonly root: Object3D;
  private readonly meshes: readonly Mesh[];
  private readonly settings: Reading;
  private readonly left: ModelExtras["left"];
  private readonly copies: Copy[] = [];
  private readonly morph: KeyTrack | undefined;
  private parts: { shape: ModelPart["shape"]; map: Texture | null; tint: Color; mesh: Mesh }[] | undefined;
  private isTransparent = false;
  private hasHiddenParts = false;
  /** Places of the copies seen from the first, as long as they keep together and look alike. */
  private together: Matrix4[] | undefined;
  private hasParted: boolean;

  constructor(
    name: string,
    root: Object3D,
    meshes: readonly Mesh[],
    settings: Reading,
    left: ModelExtras["left"],
  ) {
    this.name = name;
    this.root = root;
    this.meshes = meshes;
    this.settings = settings;
    this.left = left;
    this.hasParted = settings.copies === "nodes";
    if (meshes[0].morphTargetInfluences) this.morph = new KeyTrack(1, settings.within);
  }

  get count(): number {
    return this.copies.length;
  }

  read(frame: number): void {
    const { root, meshes, copies } = this;
    const [first] = meshes;
    const isShown = root.visible && meshes.some(({ visible }) => visible);
    const many = first instanceof InstancedMesh ? first : undefined;
    const shown = !isShown ? 0 : (many?.count ?? 1);
    const matrices = many?.instanceMatrix.array ?? first.matrixWorld.elements;
    if (shown > 0) this.parts ??= this.firstSeen(matrices);
    if (meshes.some(({ visible }) => visible !== first.visible)) this.hasHiddenParts = true;
    // Copies of the wake come after the object's own, and move up one place when the oldest is dropped.
    const { shading } = (first.material as MeshStandardMaterial).userData as { shading?: CopyShading };
    const own = shading?.uniforms.copiesShown.value ?? 1;
    while (copies.length < shown) copies.push(this.newCopy(frame));
    copies.forEach((copy, i) => {
      const isThere = i < shown;
      const isOther = i >= own && isThere && isLeap(copy, matrices, i * 16);
      if (isOther || isThere !== copy.isThere) {
        copy.isThere = isThere;
        for (const track of [copy.place, copy.colour, copy.emission]) track.leap();
      }
      copy.place.add(isThere ? matrices : undefined, i * 16);
      this.addLook(copy, frame, i, many, isThere);
    });
    this.morph?.add([first.morphTargetInfluences![0]]);
    if (!this.hasParted) this.keepTogether(matrices, shown);
  }

  private firstSeen(matrices: ArrayLike<number>) {
    return this.meshes.map((mesh) => {
      const { map, color } = mesh.material as MeshStandardMaterial;
      return { shape: shapeOf(mesh, matrices), map, tint: color.clone(), mesh };
    });
  }

  private newCopy(frame: number): Copy {
    const { within } = this.settings;
    const copy: Copy = {
      place: new PlaceTrack(within),
      colour: new KeyTrack(4, COLOUR_WITHIN),
      emission: new KeyTrack(3, LIGHT_WITHIN),
      isThere: false,
      was: new Float64Array(16),
      went: new Float64Array(16),
    };
    copy.place.waitUntil(frame);
    return copy;
  }

  private readonly look = { colour: [0, 0, 0, 0], emission: [0, 0, 0] };
  private addLook(
    { colour, emission }: Copy,
    frame: number,
    i: number,
    many: InstancedMesh | undefined,
    isShown: boolean,
  ): void {
    const { look } = this;
    if (many && isShown) {
      const { copyColour, copyGlow } = many.geometry.attributes;
      for (let axis = 0; axis < 3; axis++) {
        look.colour[axis] = Math.min(1, Math.max(0, copyColour.array[i * 3 + axis]));
        look.emission[axis] = Math.max(0, copyGlow.array[i * 4 + axis]);
      }
      look.colour[3] = Math.min(1, Math.max(0, copyGlow.array[i * 4 + 3]));
    } else if (isShown) {
      const material = this.meshes[0].material as MeshStandardMaterial;
      material.color.toArray(look.colour);
      look.colour[3] = material.opacity;
      material.emissive.clone().multiplyScalar(material.emissiveIntensity).toArray(look.emission);
    }
    if (isShown && look.colour[3] < 0.999) this.isTransparent = true;
    // While it is hidden it looks as it did last; before it was ever seen, as it does at first.
    colour.holdUntil(frame, look.colour);
    emission.holdUntil(frame, look.emission);
    colour.add(look.colour);
    emission.add(look.emission);
  }

  private keepTogether(matrices: ArrayLike<number>, shown: number): void {
    if (shown === 0) return;
    const first = new Matrix4().fromArray(matrices);
    if (this.together && this.together.length !== shown) {
      this.hasParted = true;
      return;
    }
    if (Math.abs(first.determinant()) < GONE) return;
    const back = first.clone().invert();
    this.together ??= Array.from({ length: shown }, (_none, i) =>
      new Matrix4().fromArray(matrices, i * 16).premultiply(back),
    );
    const { copyColour, copyGlow } = this.meshes[0].geometry.attributes;
    for (let i = 0; i < shown && !this.hasParted; i++) {
      whole.multiplyMatrices(first, this.together[i]);
      for (let k = 0; k < 16; k++)
        if (Math.abs(whole.elements[k] - matrices[i * 16 + k]) > this.settings.within) this.hasParted = true;
      if (!copyColour) continue;
      for (let axis = 0; axis < 3; axis++)
        if (Math.abs(copyColour.array[i * 3 + axis] - copyColour.array[axis]) > COLOUR_WITHIN)
          this.hasParted = true;
      for (let axis = 0; axis < 4; axis++)
        if (Math.abs(copyGlow.array[i * 4 + axis] - copyGlow.array[axis]) > COLOUR_WITHIN)
          this.hasParted = true;
    }
  }

  async finish(): Promise<ModelNode[]> {
    const { copies, parts, name, left } = this;
    if (!parts) {
      left.push({ name, why: "It is never to be seen." });
      return [];
    }
    const tell = (why: string) => left.push({ name, why });
    const leans = Math.max(...copies.map(({ place }) => place.leans));
    if (leans > this.settings.within)
      tell(`Its copies lean, which nodes cannot: up to ${leans.toPrecision(2)} m are off.`);
    const { userData } = parts[0].mesh.material as MeshStandardMaterial;
    const shading = userData.shading as CopyShading | undefined;
    if (this.hasHiddenParts)
      tell("Parts of it that are shown and hidden by themselves are shown with the whole.");
    if (shading?.look.program) tell("What its program does to its surface is not in it.");
    if (shading && shading.look.revealFrom !== "none")
      tell("It is shown whole: readers cannot uncover a part of it.");
    if (shading?.look.ramp && !isRamped(shading)) tell("Its gradient is mixed in by a shader.");
    const images = await Promise.all(parts.map(({ map }) => map && imageOf(map)));
    const materials = new Map<string, ModelMaterial[]>();
    const together = this.hasParted ? undefined : this.together;
    const given = together && together.length > 1 ? copies.slice(0, 1) : copies;
    const morph = this.morph?.finish();
    return given.map((copy, i) => {
      const [colour, emission] = [copy.colour.finish(), copy.emission.finish()];
      const key = JSON.stringify([colour, emission]);
      let look = materials.get(key);
      if (!look) {
        look = parts.map(({ mesh, tint }, n) =>
          this.materialOf(mesh, tint, images[n] ?? undefined, colour, emission),
        );
        materials.set(key, look);
      }
      return {
        name: given.length > 1 ? `${name} ${i + 1}` : name,
        ...copy.place.finish(),
        parts: parts.map(({ shape }, n) => ({ shape, material: look[n] })),
        ...(morph && { morph }),
        ...(together && together.length > 1 && { copies: placesOf(together) }),
      };
    });
  }

  private materialOf(
    mesh: Mesh,
    tint: Color,
    image: Uint8Array | undefined,
    colour: ModelTrack,
    emission: ModelTrack,
  ): ModelMaterial {
    const material = mesh.material as MeshStandardMaterial;
    const shading = material.userData.shading as CopyShading | undefined;
    const factors = isRamped(shading) ? undefined : [tint.r, tint.g, tint.b, 1];
    const values = colour.values.map((one, i) => (i % 4 === 3 ? one : factors ? one * factors[i % 4] : 1));
    const isLit = material instanceof MeshStandardMaterial;
    return {
      name: this.name,
      // A ground's own colour is its material's.
      colour: shading ? { frames: colour.frames, values } : colour,
      emission,
      roughness: isLit ? material.roughness : 1,
      metalness: isLit ? material.metalness : 0,
      isUnlit: mesh.material instanceof MeshBasicMaterial,
      isSeenFromBehind: shading?.look.bothSides === true,
      isTransparent: this.isTransparent || material.transparent,
      ...(image && { image }),
    };
  }
}

/** Nothing that is left behind changes its speed by more, metres a frame. */
const LEAP_M = 0.02;

/** True when a place in the list shows another copy than in the last frame; remembers where it is. */
function isLeap({ was, went }: Copy, matrices: ArrayLike<number>, offset: number): boolean {
  let off = 0;
  for (let i = 0; i < 16; i++) {
    off = Math.max(off, Math.abs(matrices[offset + i] - was[i] - went[i]));
    went[i] = matrices[offset + i] - was[i];
    was[i] = matrices[offset + i];
  }
  if (off <= LEAP_M) return false;
  went.fill(0);
  return true;
}

function placesOf(matrices: readonly Matrix4[]): NonNullable<ModelNode["copies"]> {
  const at = new Vector3();
  const turn = new Quaternion();
  const size = new Vector3();
  const places = {
    translations: new Float32Array(matrices.length * 3),
    rotations: new Float32Array(matrices.length * 4),
    scales: new Float32Array(matrices.length * 3),
  };
  matrices.forEach((matrix, i) => {
    matrix.decompose(at, turn, size);
    at.toArray(places.translations, i * 3);
    turn.toArray(places.rotations, i * 4);
    size.toArray(places.scales, i * 3);
  });
  return places;
}

const FORWARD = new Vector3(0, 0, -1);

/** A light that has a place or a direction. */
class LightReader implements Reader {
  readonly count = 1;
  private readonly name: string;
  private readonly light: Light;
  private readonly root: Object3D;
  private readonly place: PlaceTrack;
  private readonly colour = new KeyTrack(3, COLOUR_WITHIN);
  private readonly intensity: KeyTrack;
  private readonly matrix = new Matrix4();
  private readonly from = new Vector3();
  private readonly to = new Vector3();
  private readonly turn = new Quaternion();
  private readonly one = new Vector3(1, 1, 1);

  constructor(name: string, light: Light, root: Object3D, { within }: Reading) {
    this.name = name;
    this.light = light;
    this.root = root;
    this.place = new PlaceTrack(within);
    this.intensity = new KeyTrack(1, LIGHT_WITHIN);
  }

  read(): void {
    const { light, root, from, to, turn, matrix } = this;
    const { target } = light as DirectionalLight;
    from.setFromMatrixPosition(light.matrixWorld);
    const sun = light.userData.from as Vector3 | undefined;
    if (sun) from.copy(sun);
    turn.identity();
    if (target) {
      to.setFromMatrixPosition(target.matrixWorld).sub(from);
      if (to.length() > GONE) turn.setFromUnitVectors(FORWARD, to.normalize());
    }
    this.place.add(matrix.compose(from, turn, this.one).elements);
    this.colour.add(light.color.toArray());
    this.intensity.add([root.visible ? light.intensity : 0]);
  }

  async finish(): Promise<ModelNode[]> {
    const { light } = this;
    const { isSpotLight, angle, penumbra } = light as SpotLight;
    const kind = isSpotLight ? "spot" : (light as PointLight).isPointLight ? "point" : "directional";
    const told: ModelLight = {
      kind,
      colour: this.colour.finish(),
      intensity: this.intensity.finish(),
      reachM: (light as PointLight).distance ?? 0,
      innerAngle: isSpotLight ? angle * (1 - penumbra) : 0,
      outerAngle: isSpotLight ? angle : 0,
    };
    return [{ name: this.name, ...this.place.finish(), parts: [], light: told }];
  }
}

/** The scene's camera. */
class CameraReader implements Reader {
  readonly count = 1;
  private readonly name: string;
  private readonly camera: PerspectiveCamera;
  private readonly place: PlaceTrack;
  private readonly view: KeyTrack;

  constructor(name: string, camera: PerspectiveCamera, { within }: Reading) {
    this.name = name;
    this.camera = camera;
    this.place = new PlaceTrack(within);
    this.view = new KeyTrack(1, within);
  }

  read(): void {
    this.place.add(this.camera.matrixWorld.elements);
    this.view.add([this.camera.fov * DEGREES]);
  }

  async finish(): Promise<ModelNode[]> {
    return [{ name: this.name, ...this.place.finish(), parts: [], camera: this.view.finish() }];
  }
}
