import type { ObjectKind } from "@bumbrel/core/scene/objectKinds";
import {
  AmbientLight,
  BoxGeometry,
  type BufferGeometry,
  Color,
  DirectionalLight,
  Group,
  InstancedMesh,
  Mesh,
  MeshStandardMaterial,
  type Object3D,
  PerspectiveCamera,
  PlaneGeometry,
  PointLight,
  ShaderMaterial,
  SphereGeometry,
  Vector3,
} from "three";

/** One object of the scene as it stands on the stage. */
export interface Thing {
  root: Object3D;
  /** Takes over evaluated values; called every frame, so it allocates nothing. */
  apply(values: Float64Array): void;
  /** What the stage shows for a property now, read back from what is drawn. */
  read(property: string): number | number[] | undefined;
  dispose(): void;
}

/** Where a property's first number stands among the evaluated values. */
export type OffsetOf = (property: string) => number;

const DEGREES = Math.PI / 180;
const MAX_COPIES = 512;

type Reader = () => number | number[];

function reading(readers: Record<string, Reader>): Thing["read"] {
  return (property) => readers[property]?.();
}

/** Position, and for solids rotation and scale, of anything that stands somewhere. */
function placing(root: Object3D, at: OffsetOf, solid: boolean) {
  const position = at("position");
  const rotation = solid ? at("rotation") : 0;
  const scale = solid ? at("scale") : 0;
  const readers: Record<string, Reader> = { position: () => root.position.toArray() };
  if (solid) {
    readers.rotation = () =>
      [root.rotation.x, root.rotation.y, root.rotation.z].map((angle) => angle / DEGREES);
    readers.scale = () => root.scale.toArray();
  }
  const apply = (values: Float64Array) => {
    root.position.set(values[position], values[position + 1], values[position + 2]);
    if (!solid) return;
    root.rotation.set(
      values[rotation] * DEGREES,
      values[rotation + 1] * DEGREES,
      values[rotation + 2] * DEGREES,
    );
    root.scale.set(values[scale], values[scale + 1], values[scale + 2]);
  };
  return { apply, readers };
}

function surface(at: OffsetOf) {
  const material = new MeshStandardMaterial();
  const [colour, roughness, metalness, emissionColour, emissionStrength, opacity] = [
    "colour",
    "roughness",
    "metalness",
    "emissionColour",
    "emissionStrength",
    "opacity",
  ].map(at);
  const apply = (values: Float64Array) => {
    setColour(material.color, values, colour);
    material.roughness = values[roughness];
    material.metalness = values[metalness];
    setColour(material.emissive, values, emissionColour);
    material.emissiveIntensity = values[emissionStrength];
    material.opacity = values[opacity];
    const transparent = material.opacity < 1;
    if (transparent !== material.transparent) {
      material.transparent = transparent;
      material.needsUpdate = true;
    }
  };
  const readers: Record<string, Reader> = {
    colour: () => material.color.toArray(),
    roughness: () => material.roughness,
    metalness: () => material.metalness,
    emissionColour: () => material.emissive.toArray(),
    emissionStrength: () => material.emissiveIntensity,
    opacity: () => material.opacity,
  };
  return { material, apply, readers };
}

/** Evaluated colours are linear light already, which is what three.js works in. */
function setColour(colour: Color, values: Float64Array, offset: number): void {
  colour.r = values[offset];
  colour.g = values[offset + 1];
  colour.b = values[offset + 2];
}

/** A solid of one geometry whose own size is part of its mesh's scale, inside a group that is placed. */
function solidThing(
  geometry: BufferGeometry,
  at: OffsetOf,
  sizing: (mesh: Mesh) => { apply(values: Float64Array): void; readers: Record<string, Reader> },
): Thing {
  const root = new Group();
  const place = placing(root, at, true);
  const { material, apply, readers } = surface(at);
  const mesh = new Mesh(geometry, material);
  const size = sizing(mesh);
  root.add(mesh);
  return {
    root,
    apply(values) {
      place.apply(values);
      apply(values);
      size.apply(values);
    },
    read: reading({ ...place.readers, ...readers, ...size.readers }),
    dispose() {
      geometry.dispose();
      material.dispose();
    },
  };
}

function box(at: OffsetOf): Thing {
  const size = at("size");
  return solidThing(new BoxGeometry().translate(0, 0.5, 0), at, (mesh) => ({
    apply: (values) => mesh.scale.set(values[size], values[size + 1], values[size + 2]),
    readers: { size: () => mesh.scale.toArray() },
  }));
}

function sphere(at: OffsetOf): Thing {
  const radius = at("radius");
  return solidThing(new SphereGeometry(1, 48, 32), at, (mesh) => ({
    apply: (values) => mesh.scale.setScalar(values[radius]),
    readers: { radius: () => mesh.scale.x },
  }));
}

function ring(at: OffsetOf): Thing {
  const root = new Group();
  const place = placing(root, at, true);
  const { material, apply, readers } = surface(at);
  const geometry = new BoxGeometry().translate(0, 0.5, 0);
  const copies = new InstancedMesh(geometry, material, MAX_COPIES);
  copies.frustumCulled = false;
  root.add(copies);
  const [count, radius, size, growth] = ["count", "radius", "size", "growth"].map(at);
  const matrices = copies.instanceMatrix.array;
  const laidOut = new Float64Array(6).fill(Number.NaN);
  const shape = new Float64Array(6);

  return {
    root,
    apply(values) {
      place.apply(values);
      apply(values);
      shape[0] = Math.round(values[count]);
      shape[1] = values[radius];
      shape[2] = values[size];
      shape[3] = values[size + 1];
      shape[4] = values[size + 2];
      shape[5] = values[growth];
      let changed = false;
      for (let i = 0; i < shape.length; i++) {
        if (shape[i] !== laidOut[i]) changed = true;
        laidOut[i] = shape[i];
      }
      if (!changed) return;
      copies.count = shape[0];
      for (let copy = 0; copy < shape[0]; copy++) {
        const angle = (2 * Math.PI * copy) / shape[0];
        const sin = Math.sin(angle);
        const cos = Math.cos(angle);
        const m = copy * 16;
        matrices[m] = cos * shape[2];
        matrices[m + 2] = -sin * shape[2];
        matrices[m + 5] = shape[3] * shape[5];
        matrices[m + 8] = sin * shape[4];
        matrices[m + 10] = cos * shape[4];
        matrices[m + 12] = sin * shape[1];
        matrices[m + 14] = cos * shape[1];
        matrices[m + 15] = 1;
      }
      copies.instanceMatrix.needsUpdate = true;
      copies.boundingBox = null;
      copies.boundingSphere = null;
    },
    read: reading({
      ...place.readers,
      ...readers,
      count: () => copies.count,
      radius: () => Math.hypot(matrices[12], matrices[14]),
      size: () => [matrices[0], laidOut[3], matrices[10]],
      growth: () => matrices[5] / laidOut[3],
    }),
    dispose() {
      copies.dispose();
      geometry.dispose();
      material.dispose();
    },
  };
}

function pointLight(at: OffsetOf): Thing {
  const root = new PointLight();
  const place = placing(root, at, false);
  const [colour, intensity, reach] = ["colour", "intensity", "reach"].map(at);
  return {
    root,
    apply(values) {
      place.apply(values);
      setColour(root.color, values, colour);
      root.intensity = values[intensity];
      root.distance = values[reach];
    },
    read: reading({
      ...place.readers,
      colour: () => root.color.toArray(),
      intensity: () => root.intensity,
      reach: () => root.distance,
    }),
    dispose: () => root.dispose(),
  };
}

function plainLight(root: DirectionalLight | AmbientLight, at: OffsetOf, hasPlace: boolean): Thing {
  const place = hasPlace ? placing(root, at, false) : undefined;
  const [colour, intensity] = ["colour", "intensity"].map(at);
  return {
    root,
    apply(values) {
      place?.apply(values);
      setColour(root.color, values, colour);
      root.intensity = values[intensity];
    },
    read: reading({
      ...place?.readers,
      colour: () => root.color.toArray(),
      intensity: () => root.intensity,
    }),
    dispose: () => root.dispose(),
  };
}

function camera(at: OffsetOf): Thing {
  const root = new PerspectiveCamera(45, 1, 0.05, 2000);
  const [position, target, fieldOfView] = ["position", "target", "fieldOfView"].map(at);
  const looksAt = new Vector3();
  return {
    root,
    apply(values) {
      root.position.set(values[position], values[position + 1], values[position + 2]);
      looksAt.set(values[target], values[target + 1], values[target + 2]);
      root.lookAt(looksAt);
      if (root.fov !== values[fieldOfView]) {
        root.fov = values[fieldOfView];
        root.updateProjectionMatrix();
      }
    },
    read: reading({
      position: () => root.position.toArray(),
      target: () => looksAt.toArray(),
      fieldOfView: () => root.fov,
    }),
    dispose() {},
  };
}

/** A sheet over the whole picture, behind everything, with a gradient from bottom to top. */
function backdrop(at: OffsetOf): Thing {
  const material = new ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
    uniforms: { top: { value: new Color() }, bottom: { value: new Color() } },
    vertexShader:
      "varying vec2 place; void main() { place = uv; gl_Position = vec4(position.xy, 1.0, 1.0); }",
    // A grain finer than one step of the screen keeps dark gradients from showing bands.
    fragmentShader: `
      uniform vec3 top; uniform vec3 bottom; varying vec2 place;
      float grain(vec2 p) { return fract(sin(dot(p, vec2(12.9898, 78.233))) * 43758.5453); }
      void main() {
        gl_FragColor = vec4(mix(bottom, top, smoothstep(0.25, 1.0, place.y)), 1.0);
        #include <colorspace_fragment>
        gl_FragColor.rgb += (grain(gl_FragCoord.xy) - 0.5) / 255.0;
      }`,
  });
  const geometry = new PlaneGeometry(2, 2);
  const root = new Mesh(geometry, material);
  root.frustumCulled = false;
  root.renderOrder = -1000;
  const [top, bottom] = ["top", "bottom"].map(at);
  return {
    root,
    apply(values) {
      setColour(material.uniforms.top.value, values, top);
      setColour(material.uniforms.bottom.value, values, bottom);
    },
    read: reading({
      top: () => material.uniforms.top.value.toArray(),
      bottom: () => material.uniforms.bottom.value.toArray(),
    }),
    dispose() {
      geometry.dispose();
      material.dispose();
    },
  };
}

/** How each kind is put on the stage: the player's side of core's table of kinds. */
export const THING_MAKERS: Record<ObjectKind, (at: OffsetOf) => Thing> = {
  camera,
  backdrop,
  box,
  sphere,
  ring,
  pointLight,
  sunLight: (at) => plainLight(new DirectionalLight(), at, true),
  ambientLight: (at) => plainLight(new AmbientLight(), at, false),
};
