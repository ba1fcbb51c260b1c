import type { ObjectKind } from "@bumbrel/core/document/scene";
import { type CurvePoint, drawnCurve } from "@bumbrel/core/dsp/maths/curve";
import { smoothNoise } from "@bumbrel/core/dsp/maths/hash";
import { partProperty } from "@bumbrel/core/kinds/modelParts";
import { type Blend, type Finish, MAX_COPIES } from "@bumbrel/core/kinds/shared";
import { settingOf, solidityOf } from "@bumbrel/core/kinds/table";
import type { ColourStop, PathPoint } from "@bumbrel/core/setting/descriptor";
import { newInstances } from "@bumbrel/core/simulate/placing";
import {
  Box3,
  type BufferAttribute,
  BufferGeometry,
  ConeGeometry,
  DynamicDrawUsage,
  Euler,
  type Float32BufferAttribute,
  Group,
  IcosahedronGeometry,
  InstancedBufferAttribute,
  InstancedMesh,
  Matrix4,
  type Mesh,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  NearestFilter,
  type Object3D,
  PlaneGeometry,
  RepeatWrapping,
  SphereGeometry,
  type Texture,
  TorusGeometry,
  Vector3,
} from "three";
import { type CopyMaterial, copyMaterial, type RevealFrom, setTransparent } from "../copyMaterial";
import { type OutlineName, outlined, outlinePoints, terrain, turnedProfile } from "../geometry/outlined";
import { capsule, roundedBox, roundedCylinder } from "../geometry/rounded";
import { tube } from "../geometry/tube";
import { DIFFERENCE_LAYER } from "../image/layers";
import type { Drawing } from "../programs/drawing";
import {
  DEGREES,
  HIDDEN,
  numberAt,
  type ObjectSource,
  programFor,
  type RenderedObject,
} from "../renderedObject";

/** Geometry of a body, centred and one metre wide, and the image it shows by itself. */
interface Part {
  geometry: BufferGeometry;
  /** Properties of the object that show and hide it, for a model's part: its own, or that of what it is in. */
  shownBy?: readonly string[];
  /** The image it shows; text takes the colour of the surface. */
  texture?: Texture;
  /** A model's own colours. */
  tint?: readonly [number, number, number];
}

/** Kinds whose edges a shader rounds, and the radius of those without a property of their own: as much as there is room. */
const ROUNDED: Partial<Record<ObjectKind, number>> = { box: 0, cylinder: 0, capsule: 1e4 };

/** Radius of a torus's tube in its geometry, against which the tube is bound by a morph. */
const NO_TUBE = 1e-4;

/** How finely round shapes are drawn: the more copies there are, the smaller each is on the screen. */
const FINENESS = [
  { copies: 12, share: 1 },
  { copies: 200, share: 1 / 2 },
  { copies: Number.POSITIVE_INFINITY, share: 1 / 4 },
];

/** Steps round the edge of a box: none can be told apart on many small ones. */
const roundSteps = (copies: number) => (copies <= 12 ? 4 : copies <= 40 ? 2 : copies <= 200 ? 1 : 0);

const finenessOf = (copies: number): number => FINENESS.find((one) => copies <= one.copies)!.share;

function torusGeometry(fineness: number): BufferGeometry {
  const [around, along] = [24 * fineness, 96 * fineness];
  const thin = new TorusGeometry(1, NO_TUBE, around, along).rotateX(Math.PI / 2);
  const thick = new TorusGeometry(1, 1, around, along).rotateX(Math.PI / 2);
  // From the ring itself to a tube of radius 1 is a straight line for each point: a morph in between is exact.
  const delta = thick.attributes.position.clone();
  for (let i = 0; i < delta.array.length; i++) delta.array[i] -= thin.attributes.position.array[i];
  thin.morphAttributes.position = [delta as Float32BufferAttribute];
  thin.morphTargetsRelative = true;
  thin.setAttribute("normal", thick.attributes.normal);
  return thin;
}

const SHEET = () => new PlaneGeometry(1, 1);

/** Shapes that many objects share, each made once. */
const SHAPES = new Map<string, BufferGeometry>();

/** A geometry of an object's own that shares the vertices of a shape. */
function shaped(key: string, make: () => BufferGeometry): BufferGeometry {
  let shape = SHAPES.get(key);
  if (!shape) {
    shape = make();
    SHAPES.set(key, shape);
  }
  const geometry = new BufferGeometry();
  for (const [name, attribute] of Object.entries(shape.attributes)) geometry.setAttribute(name, attribute);
  geometry.setIndex(shape.index);
  Object.assign(geometry.morphAttributes, shape.morphAttributes);
  geometry.morphTargetsRelative = shape.morphTargetsRelative;
  return geometry;
}

/**
 * The geometries that a body is drawn from; none while its image or model is loading.
 *
 * @param copies  how many there can be
 */
function partsOf(source: ObjectSource, copies: number, drawing?: Drawing): Part[] {
  const { object, assets } = source;
  const fineness = finenessOf(copies) * source.fineness;
  const round = (make: (fineness: number) => BufferGeometry) => [
    { geometry: shaped(`${object.kind} ${fineness}`, () => make(fineness)) },
  ];
  switch (object.kind) {
    case "box": {
      const steps = Math.floor(roundSteps(copies) * source.fineness);
      return [{ geometry: shaped(`box ${steps}`, () => roundedBox(steps)) }];
    }
    case "sphere":
      return round((share) => new SphereGeometry(0.5, 48 * share, 32 * share));
    case "icosphere": {
      const detail = settingOf(object, "detail") as number;
      return [{ geometry: shaped(`icosphere ${detail}`, () => new IcosahedronGeometry(0.5, detail)) }];
    }
    case "cylinder":
      return round((share) => roundedCylinder(64 * share, Math.ceil(3 * share)));
    case "capsule":
      return round((share) => capsule(48 * share, Math.ceil(12 * share)));
    case "cone":
      return round((share) => new ConeGeometry(0.5, 1, 48 * share));
    case "torus":
      return round(torusGeometry);
    case "plane":
      return [{ geometry: SHEET() }];
    case "drawing":
      return drawing ? [{ geometry: SHEET(), texture: drawing.texture }] : [];
    case "picture": {
      const id = settingOf(object, "pictureId");
      const texture = typeof id === "string" ? assets.picture(id, isSharp(object)) : undefined;
      return [{ geometry: SHEET(), texture }];
    }
    case "extrusion":
      return [{ geometry: extrusion(object, fineness) }];
    case "lathe": {
      const curve = drawnCurve(settingOf(object, "profile") as CurvePoint[]);
      return [{ geometry: turnedProfile(curve, 48 * fineness, Math.max(16, 48 * fineness)) }];
    }
    case "tube": {
      const course = settingOf(object, "course") as PathPoint[];
      const along = Math.max(16, Math.round(course.length * 24 * fineness));
      return [
        { geometry: tube(course, settingOf(object, "isClosed") === true, along, Math.max(8, 24 * fineness)) },
      ];
    }
    case "terrain":
      return [{ geometry: land(object, assets, (copies <= 12 ? 160 : 48) * source.fineness) }];
    case "text": {
      const written = settingOf(object, "text") as string;
      const letters = assets.letters(written);
      if (letters) return [{ geometry: letters.geometry(written, settingOf(object, "bevel") as number) }];
      // Letters that the font does not have are drawn by the browser, on a sheet.
      const words = assets.words(written);
      if (!words) return [{ geometry: SHEET() }];
      const height = words.lines;
      return [{ geometry: SHEET().scale(height * words.aspect, height, 1), texture: words.texture }];
    }
    case "model":
      return modelParts(object, assets);
    default:
      return [];
  }
}

function extrusion(object: ObjectSource["object"], fineness: number): BufferGeometry {
  const read = (key: string) => settingOf(object, key) as number;
  const points = outlinePoints(
    settingOf(object, "outline") as OutlineName,
    read("sides"),
    read("inner"),
    settingOf(object, "drawnOutline") as PathPoint[],
    fineness,
  );
  return outlined(points, read("taper"), read("twist") * DEGREES, read("bevel"), fineness);
}

/** Hills from noise of several sizes, or from an image. */
function land(object: ObjectSource["object"], assets: ObjectSource["assets"], steps: number): BufferGeometry {
  if (settingOf(object, "heightsFrom") === "image") {
    const id = settingOf(object, "heightId");
    return terrain((typeof id === "string" && assets.heights(id)) || (() => 0), steps);
  }
  const [hills, rugged, seed] = (["hills", "ruggedness", "seed"] as const).map(
    (key) => settingOf(object, key) as number,
  );
  return terrain((x, z) => {
    let sum = 0;
    let share = 1;
    let all = 0;
    for (let octave = 0, size = hills; octave < 5; octave++, size *= 2.07) {
      sum += share * smoothNoise(seed + octave, x * size, z * size);
      all += share;
      share *= 0.2 + 0.5 * rugged;
    }
    return sum / all;
  }, steps);
}

const isSharp = (object: ObjectSource["object"]) => settingOf(object, "filtering") === "sharp";

function modelParts(object: ObjectSource["object"], assets: ObjectSource["assets"]): Part[] {
  const id = settingOf(object, "modelId");
  const model = typeof id === "string" ? assets.model(id) : undefined;
  if (!model) return [];
  const wanted = settingOf(object, "part") as string;
  const top = wanted === "" ? model : model.getObjectByName(wanted);
  const parts: Part[] = [];
  top?.traverse((node) => {
    const mesh = node as Mesh;
    if (!mesh.isMesh) return;
    const geometry = new BufferGeometry();
    for (const [name, attribute] of Object.entries(mesh.geometry.attributes)) {
      geometry.setAttribute(name, attribute);
    }
    geometry.setIndex(mesh.geometry.index);
    const placed = geometry.clone().applyMatrix4(mesh.matrixWorld);
    if (!placed.attributes.normal) placed.computeVertexNormals();
    const material = mesh.material as MeshStandardMaterial;
    const { map, color } = material;
    parts.push({
      geometry: placed,
      shownBy: partKeys(node),
      ...(map && { texture: map }),
      ...(color && { tint: [color.r, color.g, color.b] }),
    });
  });
  return parts;
}

/** Keys of the properties of a part and of the parts around it; loaders change names that have spaces. */
function partKeys(node: Object3D): string[] {
  const keys: string[] = [];
  for (let up: Object3D | null = node; up; up = up.parent) {
    const name = (up.userData.name as string | undefined) ?? up.name;
    if (name !== "") keys.push(partProperty(name));
  }
  return keys;
}

/** A body with all its copies and its wake: each part of it is drawn once, many times over. */
export function makeBody(source: ObjectSource): RenderedObject {
  const { object, plan, assets } = source;
  const { placing, simulation, plan: scenePlan } = source.state;
  const root = new Group();
  const own = placing.maxInstances(plan);
  const wake = simulation.get("wake", object.id);
  const most = own + (wake ? wake.most * wake.each : 0);
  const instances = newInstances(Math.min(most, MAX_COPIES * 2));
  const owner = scenePlan.surfaceOwner(plan).object;
  const along = settingOf(owner, "gradientAlong");
  const isSheet =
    object.kind === "plane" ||
    object.kind === "picture" ||
    object.kind === "text" ||
    object.kind === "drawing";
  const isTransparent =
    isSheet && (object.kind !== "text" || !assets.letters(settingOf(object, "text") as string));
  const colours = new InstancedBufferAttribute(instances.colours, 3).setUsage(DynamicDrawUsage);
  const glows = new InstancedBufferAttribute(instances.glows, 4).setUsage(DynamicDrawUsage);
  const laidOn = settingOf(owner, "textureId");
  const laid = typeof laidOn === "string" ? assets.picture(laidOn, isSharp(owner)) : undefined;
  const drawn: { mesh: InstancedMesh; look: CopyMaterial; shownBy: readonly string[] | undefined }[] = [];
  const ofSurface = programFor(source, owner, "surface");
  const program = ofSurface && assets.programs()?.use(ofSurface, source);
  const ofDrawing = object.kind === "drawing" && programFor(source, object, "drawing");
  const drawing = ofDrawing ? assets.drawing(ofDrawing, source) : undefined;
  let timeS = 0;
  let fade = 0;
  for (const { geometry, texture, tint, shownBy } of partsOf(source, most, drawing)) {
    const look = copyMaterial({
      program: program && { code: program.code, values: program.uniforms },
      unlit: settingOf(owner, "unlit") === true,
      blend: settingOf(owner, "blend") as Blend,
      ramp:
        along === "object"
          ? {
              stops: settingOf(owner, "gradient") as ColourStop[],
              axis: settingOf(object, "growsAlong") as "x" | "y" | "z",
            }
          : undefined,
      finish: settingOf(owner, "finish") as Finish,
      revealFrom: settingOf(owner, "revealFrom") as RevealFrom,
      shaping: object.kind in ROUNDED ? "rounded" : object.kind === "tube" ? "tube" : "none",
      bothSides: isSheet || object.kind === "model",
    });
    // Each object repeats an image in its own way; the pixels are shared.
    const map = drawing
      ? drawing.texture
      : (laid?.clone() ?? (object.kind === "picture" ? texture?.clone() : texture) ?? null);
    if (map) {
      map.wrapS = RepeatWrapping;
      map.wrapT = RepeatWrapping;
      if (isSharp(owner)) map.magFilter = NearestFilter;
      if (!drawing) map.needsUpdate = true;
      look.material.map = map;
      // Transparent pixels of an image hide nothing.
      look.material.alphaTest = 0.004;
    }
    if (tint && !laid) look.material.color.setRGB(...tint);
    geometry.setAttribute("copyColour", colours);
    geometry.setAttribute("copyGlow", glows);
    const mesh = new InstancedMesh(geometry, look.material, 1);
    mesh.instanceMatrix = new InstancedBufferAttribute(instances.matrices, 16).setUsage(DynamicDrawUsage);
    mesh.frustumCulled = false;
    mesh.castShadow = settingOf(object, "castsShadow") === true;
    mesh.receiveShadow = true;
    if (look.shadow) {
      mesh.customDepthMaterial = look.shadow.depth;
      mesh.customDistanceMaterial = look.shadow.distance;
    }
    if (object.kind === "torus") mesh.morphTargetInfluences = [0];
    if (settingOf(owner, "blend") === "difference") mesh.layers.set(DIFFERENCE_LAYER);
    root.add(mesh);
    drawn.push({ mesh, look, shownBy });
  }
  const hasAlpha = isTransparent && drawn.some(({ look }) => look.material.map);
  const isBlended = settingOf(owner, "blend") !== "normal" || program?.code.changesOpacity === true;
  let lastEdit = -1;
  let wakeCount = 0;
  /** Copies without those of the wake, which come after them. */
  let ownCount = 0;
  const draw = (count: number) => {
    for (const { mesh } of drawn) {
      mesh.count = count;
      mesh.boundingSphere = null;
      mesh.boundingBox = null;
    }
  };

  return {
    root,
    update(frame) {
      const { plan, state, edits } = source;
      const { placing } = state;
      root.visible = placing.isShown(plan, frame.values);
      if (!root.visible) return;
      ({ timeS } = frame);
      if (drawing) fade = numberAt(source, frame, "fade");
      const isEdited = edits !== lastEdit;
      lastEdit = edits;
      const surface = state.plan.surfaceOwner(plan);
      const at = (key: string, axis = 0) => {
        const slot = surface.at[key];
        return slot ? frame.values[slot.offset + axis] : 0;
      };
      // The values that a program reads may lie elsewhere now, though nothing of the object moves.
      program?.follow(surface.object, at);
      if (!isEdited && isStill(source)) return;
      ownCount = placing.writeInstances(plan, frame.timeS, frame.values, instances);
      const wake = state.simulation.get("wake", plan.object.id);
      wakeCount = wake ? wake.appendTo(frame.timeS, frame.values, instances) : 0;
      let least = 1;
      for (let i = 0; i < instances.count; i++) least = Math.min(least, instances.glows[i * 4 + 3]);
      const { kind } = plan.object;
      colours.needsUpdate = true;
      glows.needsUpdate = true;
      draw(instances.count);
      for (const { mesh, look, shownBy } of drawn) {
        const shown = shownBy && plan.at[shownBy.find((key) => plan.at[key]) ?? ""];
        mesh.visible = !shown || frame.values[shown.offset] >= 0.5;
        mesh.instanceMatrix.needsUpdate = true;
        const { material, uniforms } = look;
        if (material instanceof MeshStandardMaterial) {
          material.roughness = at("roughness");
          material.metalness = at("metalness");
        }
        if (material instanceof MeshPhysicalMaterial) setFinish(material, at);
        uniforms.rampAmount.value = at("gradientAmount");
        uniforms.rampShift.value = at("gradientShift");
        uniforms.emissionFalloff.value = at("emissionFalloff");
        uniforms.copiesShown.value = ownCount;
        uniforms.reveal.value = at("reveal");
        uniforms.revealSoftness.value = at("revealSoftness");
        uniforms.tubeRadius.value = kind === "tube" ? numberAt(source, frame, "tube") : 0;
        uniforms.tubeTaper.value = numberAt(source, frame, "tubeTaper");
        uniforms.rounding.value = plan.at.rounding
          ? numberAt(source, frame, "rounding")
          : (ROUNDED[kind] ?? 0);
        material.map?.repeat.setScalar(at("tiling"));
        setTransparent(material, isBlended || hasAlpha || least < 1);
        if (mesh.morphTargetInfluences) {
          const radius = numberAt(source, frame, "radius");
          const tube = radius > 0 ? numberAt(source, frame, "tube") / radius : 0;
          mesh.morphTargetInfluences[0] = tube;
          // By itself it would be as large as the whole morph.
          mesh.geometry.boundingBox ??= new Box3();
          mesh.geometry.boundingBox.min.set(-1 - tube, -tube, -1 - tube);
          mesh.geometry.boundingBox.max.set(1 + tube, tube, 1 + tube);
        }
      }
    },
    ...(drawing && {
      beforeImage(renderer) {
        if (root.visible) drawing.show(renderer, timeS, sheetAspect(source));
      },
      reachImage: (renderer) =>
        root.visible ? drawing.reach(renderer, timeS, sheetAspect(source)) : undefined,
    }),
    read: (property) => readBody(property, source, instances, drawn[0]),
    drawnParts: () => {
      if (!root.visible) return HIDDEN;
      const { count } = instances;
      const ofParts = (read: (part: (typeof drawn)[number]) => number) => drawn.map(read);
      const standard = (key: "roughness" | "metalness") =>
        ofParts(({ look: { material } }) => (material instanceof MeshStandardMaterial ? material[key] : 0));
      return {
        matrices: [...instances.matrices.subarray(0, count * 16)],
        colours: [...instances.colours.subarray(0, count * 3)],
        glows: [...instances.glows.subarray(0, count * 4)],
        shown: ofParts(({ mesh }) => Number(mesh.visible)),
        roughness: standard("roughness"),
        metalness: standard("metalness"),
        gradientAmount: ofParts(({ look: { uniforms } }) => uniforms.rampAmount.value as number),
        gradientShift: ofParts(({ look: { uniforms } }) => uniforms.rampShift.value as number),
        tiling: ofParts(({ look: { material } }) => material.map?.repeat.x ?? 0),
        ...Object.fromEntries(
          SHADER_NUMBERS.map((key) => [key, ofParts(({ look: { uniforms } }) => uniforms[key].value)]),
        ),
        ...Object.fromEntries(
          FINISH_PROPERTIES.map((key) => [key, drawn.flatMap(({ look }) => finishOf(look, key))]),
        ),
        tube: ofParts(({ mesh }) => mesh.morphTargetInfluences?.[0] ?? 0),
        ...(drawing && { fade: [fade] }),
      };
    },
    limitCopies(most) {
      draw(Math.min(most, ownCount));
      return () => draw(instances.count);
    },
    count: () => ({ copies: root.visible ? instances.count : 0, particles: wakeCount }),
    dispose() {
      drawing?.dispose();
      for (const { mesh, look } of drawn) {
        mesh.dispose();
        mesh.geometry.dispose();
        look.dispose();
        if (!drawing && (laid || object.kind !== "model")) look.material.map?.dispose();
      }
    },
  };
}

/** Numbers of a surface that our own part of the shader reads. */
const SHADER_NUMBERS = [
  "emissionFalloff",
  "reveal",
  "revealSoftness",
  "rounding",
  "tubeRadius",
  "tubeTaper",
] as const;

/** Properties of a finish, and what three.js keeps of each. */
const FINISHED: Record<string, (material: MeshPhysicalMaterial) => number[]> = {
  clearcoat: ({ clearcoat }) => [clearcoat],
  clearcoatRoughness: ({ clearcoatRoughness }) => [clearcoatRoughness],
  sheen: ({ sheen }) => [sheen],
  sheenColour: ({ sheenColor }) => sheenColor.toArray(),
  transmission: ({ transmission }) => [transmission],
  thickness: ({ thickness }) => [thickness],
  refraction: ({ ior }) => [ior],
  iridescence: ({ iridescence }) => [iridescence],
  filmThickness: ({ iridescenceThicknessMaximum }) => [iridescenceThicknessMaximum],
};
const FINISH_PROPERTIES = Object.keys(FINISHED);

const finishOf = ({ material }: CopyMaterial, key: string): number[] =>
  material instanceof MeshPhysicalMaterial ? FINISHED[key](material) : [];

function setFinish(material: MeshPhysicalMaterial, at: (key: string, axis?: number) => number): void {
  material.clearcoat = at("clearcoat");
  material.clearcoatRoughness = at("clearcoatRoughness");
  material.sheen = at("sheen");
  material.sheenRoughness = 0.5;
  material.sheenColor.setRGB(at("sheenColour"), at("sheenColour", 1), at("sheenColour", 2));
  material.transmission = at("transmission");
  material.thickness = at("thickness");
  material.ior = at("refraction") || 1.5;
  material.iridescence = at("iridescence");
  material.iridescenceIOR = 2;
  material.iridescenceThicknessMaximum = at("filmThickness");
}

/** True if nothing can move it: no strand, no speed, no wake, alone or in groups that are still as well. */
function isStill({ plan, state }: ObjectSource): boolean {
  const { settings } = plan.object;
  // A body, what is pinned to a visitor, and what actions put somewhere move though nothing is bound.
  if (solidityOf(plan.object) === "moving" || settings.formation === "cues") return false;
  if (state.simulation.answering && solidityOf(plan.object) === "carried") return false;
  if (state.placing.chainOf(plan).some(({ object }) => object.settings.pinnedTo !== undefined)) return false;
  if (plan.at.wakeRate) return false;
  const surface = state.plan.surfaceOwner(plan);
  if (surface !== plan && surface.boundSlots.length > 0) return false;
  if (settingOf(surface.object, "gradientAlong") === "time") return false;
  for (let up: typeof plan | undefined = plan; up; up = state.placing.parentOf(up)) {
    if (up.boundSlots.length > 0 || (up.object.rest.spin ?? 0) !== 0) return false;
  }
  return true;
}

/** The point of the unit geometry that stands at an object's position, by its anchor. */
const ANCHOR_POINTS: Record<string, readonly [number, number, number]> = {
  base: [0, -0.5, 0],
  centre: [0, 0, 0],
  corner: [-0.5, -0.5, -0.5],
};

/** Width over height of the sheet that a drawing is seen on. */
function sheetAspect({ plan, state }: ObjectSource): number {
  const resting = (key: string) => state.plan.rest[plan.at[key]!.offset];
  return resting("width") / resting("height");
}

/** Drawn values of a body's first copy, by three.js from its mesh. */
function readBody(
  property: string,
  { object }: ObjectSource,
  { count, matrices, colours, glows }: ReturnType<typeof newInstances>,
  drawn: { mesh: InstancedMesh; look: CopyMaterial } | undefined,
): number | number[] | undefined {
  if (count === 0) return undefined;
  const matrix = new Matrix4().fromArray(matrices);
  const strength = Math.max(glows[0], glows[1], glows[2]);
  const material = drawn?.look.material;
  switch (property) {
    case "position": {
      const anchor = ANCHOR_POINTS[settingOf(object, "anchor") as string] ?? ANCHOR_POINTS.centre;
      return new Vector3(...anchor).applyMatrix4(matrix).toArray();
    }
    case "rotation": {
      const turn = new Euler().setFromRotationMatrix(new Matrix4().extractRotation(matrix), "XYZ");
      return [turn.x, turn.y, turn.z].map((angle) => angle / DEGREES);
    }
    case "drawnSize": {
      const box = new Box3().setFromBufferAttribute(
        drawn!.mesh.geometry.attributes.position as BufferAttribute,
      );
      const scale = new Vector3().setFromMatrixScale(matrix);
      return box.getSize(new Vector3()).multiply(scale).toArray();
    }
    case "copies":
      return count;
    case "colour":
      return [...colours.subarray(0, 3)];
    case "emissionColour":
      return [...glows.subarray(0, 3)].map((one) => (strength > 0 ? one / strength : 0));
    case "emissionStrength":
      return strength;
    case "opacity":
      return glows[3];
    case "roughness":
      return material instanceof MeshStandardMaterial ? material.roughness : undefined;
    case "metalness":
      return material instanceof MeshStandardMaterial ? material.metalness : undefined;
    default: {
      const known = SHADER_NUMBERS.find((key) => key === property);
      if (known) return drawn?.look.uniforms[known].value;
      return drawn && property in FINISHED ? finishOf(drawn.look, property) : undefined;
    }
  }
}
