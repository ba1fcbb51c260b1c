import { surfaceOwner } from "@bumbrel/core/scene/evaluate";
import { type Blend, MOST_COPIES } from "@bumbrel/core/scene/families";
import { settingOf } from "@bumbrel/core/scene/objectKinds";
import { newInstances } from "@bumbrel/core/scene/placing";
import type { ColourStop } from "@bumbrel/core/scene/properties";
import {
  Box3,
  BoxGeometry,
  BufferGeometry,
  ConeGeometry,
  CylinderGeometry,
  DynamicDrawUsage,
  type Float32BufferAttribute,
  Group,
  IcosahedronGeometry,
  InstancedBufferAttribute,
  InstancedMesh,
  type Mesh,
  MeshStandardMaterial,
  NearestFilter,
  PlaneGeometry,
  RepeatWrapping,
  SphereGeometry,
  type Texture,
  TorusGeometry,
} from "three";
import { type CopyMaterial, copyMaterial, setTransparent } from "../copyMaterial";
import { DEGREES, numberAt, type Source, type Thing } from "../thing";

/** Drawn geometry of a body, about its middle and one metre wide, and the picture it shows by itself. */
interface Part {
  geometry: BufferGeometry;
  /** The picture it shows, and whether it is words, which take the surface's colour. */
  texture?: Texture;
  /** A model's own colours. */
  tint?: readonly [number, number, number];
}

/** Radius of a torus's tube in its geometry, against which the tube is bound by a morph. */
const NO_TUBE = 1e-4;

function torusGeometry(): BufferGeometry {
  const thin = new TorusGeometry(1, NO_TUBE, 24, 96).rotateX(Math.PI / 2);
  const thick = new TorusGeometry(1, 1, 24, 96).rotateX(Math.PI / 2);
  // From the ring itself to a tube of radius 1 is a straight line for each point: a morph in between is exact.
  const delta = thick.attributes.position.clone();
  for (let i = 0; i < delta.array.length; i++) delta.array[i] -= thin.attributes.position.array[i];
  thin.morphAttributes.position = [delta as Float32BufferAttribute];
  thin.morphTargetsRelative = true;
  thin.setAttribute("normal", thick.attributes.normal);
  return thin;
}

const SHEET = () => new PlaneGeometry(1, 1);

/** Shapes that many things are made of, each made once. */
const SHAPES = new Map<string, BufferGeometry>();

/** A geometry of a thing's own with the corners of a shape that is made once. */
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

/** What a body is drawn from; nothing for what has not come yet. */
function partsOf({ object, assets }: Source): Part[] {
  switch (object.kind) {
    case "box":
      return [{ geometry: shaped("box", () => new BoxGeometry()) }];
    case "sphere":
      return [{ geometry: shaped("sphere", () => new SphereGeometry(0.5, 48, 32)) }];
    case "icosphere": {
      const detail = settingOf(object, "detail") as number;
      return [{ geometry: shaped(`icosphere ${detail}`, () => new IcosahedronGeometry(0.5, detail)) }];
    }
    case "cylinder":
      return [{ geometry: shaped("cylinder", () => new CylinderGeometry(0.5, 0.5, 1, 48)) }];
    case "cone":
      return [{ geometry: shaped("cone", () => new ConeGeometry(0.5, 1, 48)) }];
    case "torus":
      return [{ geometry: shaped("torus", torusGeometry) }];
    case "plane":
      return [{ geometry: SHEET() }];
    case "picture": {
      const id = settingOf(object, "pictureId");
      const texture = typeof id === "string" ? assets.picture(id, isSharp(object)) : undefined;
      return [{ geometry: SHEET(), texture }];
    }
    case "text": {
      const words = assets.words(settingOf(object, "text") as string);
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

const isSharp = (object: Source["object"]) => settingOf(object, "filtering") === "sharp";

function modelParts(object: Source["object"], assets: Source["assets"]): Part[] {
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
      ...(map && { texture: map }),
      ...(color && { tint: [color.r, color.g, color.b] }),
    });
  });
  return parts;
}

/** A body with all its copies and its wake: each part of it is drawn once, many times over. */
export function makeBody(source: Source): Thing {
  const { object, plan, placing, evaluator, assets } = source;
  const root = new Group();
  const own = placing.mostOf(plan);
  const wake = evaluator.steps.wakes.get(object.id);
  const most = own + (wake ? wake.most * wake.each : 0);
  const instances = newInstances(Math.min(most, MOST_COPIES * 2));
  const owner = surfaceOwner(evaluator, plan).object;
  const along = settingOf(owner, "gradientAlong");
  const isSheet = object.kind === "plane" || object.kind === "picture" || object.kind === "text";
  const colours = new InstancedBufferAttribute(instances.colours, 3).setUsage(DynamicDrawUsage);
  const glows = new InstancedBufferAttribute(instances.glows, 4).setUsage(DynamicDrawUsage);
  const laidOn = settingOf(owner, "textureId");
  const laid = typeof laidOn === "string" ? assets.picture(laidOn, isSharp(owner)) : undefined;
  const drawn: { mesh: InstancedMesh; look: CopyMaterial }[] = [];
  for (const { geometry, texture, tint } of partsOf(source)) {
    const look = copyMaterial({
      unlit: settingOf(owner, "unlit") === true,
      blend: settingOf(owner, "blend") as Blend,
      ramp:
        along === "object"
          ? {
              stops: settingOf(owner, "gradient") as ColourStop[],
              axis: settingOf(object, "growsAlong") as "x" | "y" | "z",
            }
          : undefined,
      bothSides: isSheet || object.kind === "model",
    });
    // Each has its own way of repeating a picture that others show too; the pixels are shared.
    const map = laid?.clone() ?? (object.kind === "picture" ? texture?.clone() : texture) ?? null;
    if (map) {
      map.wrapS = RepeatWrapping;
      map.wrapT = RepeatWrapping;
      if (isSharp(owner)) map.magFilter = NearestFilter;
      map.needsUpdate = true;
      look.material.map = map;
      // What is clear in a picture neither covers nor hides.
      look.material.alphaTest = 0.004;
    }
    if (tint && !laid) look.material.color.setRGB(...tint);
    geometry.setAttribute("copyColour", colours);
    geometry.setAttribute("copyGlow", glows);
    const mesh = new InstancedMesh(geometry, look.material, 1);
    mesh.instanceMatrix = new InstancedBufferAttribute(instances.matrices, 16).setUsage(DynamicDrawUsage);
    mesh.frustumCulled = false;
    if (object.kind === "torus") mesh.morphTargetInfluences = [0];
    if (settingOf(owner, "blend") === "difference") mesh.layers.set(1);
    root.add(mesh);
    drawn.push({ mesh, look });
  }
  const hasAlpha = isSheet && drawn.some(({ look }) => look.material.map);
  const isBlended = settingOf(owner, "blend") !== "normal";
  let lastPlan: unknown;
  let values: Float64Array | undefined;
  let thingsOfWake = 0;
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
    apply(frame) {
      const { plan, placing, evaluator } = source;
      root.visible = placing.isShown(plan, frame.values);
      if (!root.visible) return;
      const isNew = plan !== lastPlan;
      lastPlan = plan;
      values = frame.values;
      if (!isNew && isStill(source)) return;
      ownCount = placing.stand(plan, frame.timeS, frame.values, instances);
      const wake = evaluator.steps.wakes.get(plan.object.id);
      thingsOfWake = wake ? wake.standInto(frame.timeS, frame.values, instances) : 0;
      let least = 1;
      for (let i = 0; i < instances.count; i++) least = Math.min(least, instances.glows[i * 4 + 3]);
      const surface = surfaceOwner(evaluator, plan);
      const at = (key: string) => {
        const slot = surface.at[key];
        return slot ? frame.values[slot.offset] : 0;
      };
      colours.needsUpdate = true;
      glows.needsUpdate = true;
      draw(instances.count);
      for (const { mesh, look } of drawn) {
        mesh.instanceMatrix.needsUpdate = true;
        const { material, uniforms } = look;
        if (material instanceof MeshStandardMaterial) {
          material.roughness = at("roughness");
          material.metalness = at("metalness");
        }
        uniforms.rampAmount.value = at("gradientAmount");
        uniforms.rampShift.value = at("gradientShift");
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
    read: (property) => values && readBody(property, source, values, instances, drawn[0]),
    drawn: () =>
      !root.visible
        ? [0]
        : [
            ...instances.matrices.subarray(0, instances.count * 16),
            ...instances.colours.subarray(0, instances.count * 3),
            ...instances.glows.subarray(0, instances.count * 4),
            ...drawn.flatMap(({ mesh, look: { material, uniforms } }) => [
              material instanceof MeshStandardMaterial ? material.roughness : 0,
              material instanceof MeshStandardMaterial ? material.metalness : 0,
              uniforms.rampAmount.value,
              uniforms.rampShift.value,
              material.map?.repeat.x ?? 0,
              mesh.morphTargetInfluences?.[0] ?? 0,
            ]),
          ],
    leaveFew(most) {
      draw(Math.min(most, ownCount));
      return () => draw(instances.count);
    },
    count: () => ({ copies: root.visible ? instances.count : 0, particles: thingsOfWake }),
    dispose() {
      for (const { mesh, look } of drawn) {
        mesh.dispose();
        mesh.geometry.dispose();
        look.dispose();
        if (laid || object.kind !== "model") look.material.map?.dispose();
      }
    },
  };
}

/** Whether nothing can move it: no strand, no speed, no wake, alone or in groups that are still as well. */
function isStill({ plan, placing, evaluator }: Source): boolean {
  if (plan.at.wakeRate) return false;
  const surface = surfaceOwner(evaluator, plan);
  if (surface !== plan && surface.drives.length > 0) return false;
  if (settingOf(surface.object, "gradientAlong") === "time") return false;
  for (let up: typeof plan | undefined = plan; up; up = placing.parentOf(up)) {
    if (up.drives.length > 0 || (up.object.rest.spin ?? 0) !== 0) return false;
  }
  return true;
}

/** Reads a body's first copy back from its matrix and its look. */
function readBody(
  property: string,
  { plan, placing }: Source,
  values: Float64Array,
  { count, matrices: m, colours, glows }: ReturnType<typeof newInstances>,
  drawn: { mesh: InstancedMesh; look: CopyMaterial } | undefined,
): number | number[] | undefined {
  if (count === 0) return undefined;
  const own = plan.object;
  const lengths = [0, 4, 8].map((c) => Math.hypot(m[c], m[c + 1], m[c + 2]));
  const strength = Math.max(glows[0], glows[1], glows[2]);
  const material = drawn?.look.material;
  switch (property) {
    case "position": {
      // Back from the middle of the geometry to the point it stands on.
      const anchor = settingOf(own, "anchor");
      const share = anchor === "base" ? [0, 0.5, 0] : anchor === "corner" ? [0.5, 0.5, 0.5] : [0, 0, 0];
      return [0, 1, 2].map(
        (axis) => m[12 + axis] - share.reduce((sum, s, c) => sum + s * m[c * 4 + axis], 0),
      );
    }
    case "rotation": {
      const at = (row: number, column: number) => m[column * 4 + row] / (lengths[column] || 1);
      const y = Math.asin(Math.min(1, Math.max(-1, at(0, 2))));
      return [
        Math.atan2(-at(1, 2), at(2, 2)) / DEGREES,
        y / DEGREES,
        Math.atan2(-at(0, 1), at(0, 0)) / DEGREES,
      ];
    }
    case "scale": {
      const size = placing.sizeOf(plan, values);
      return lengths.map((length, axis) => length / size[axis]);
    }
    case "size":
      return lengths;
    case "growth":
    case "height":
      return lengths[1];
    case "radius":
      return lengths[0] / (own.kind === "torus" ? 1 : 2);
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
    default:
      return undefined;
  }
}
