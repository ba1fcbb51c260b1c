import type { ModelShape } from "@bumbrel/core/format/animatedModel";
import { rampTable } from "@bumbrel/core/setting/colour";
import { type BufferAttribute, type BufferGeometry, Matrix4, type Mesh, type Texture, Vector3 } from "three";
import type { CopyShading } from "../stage/copyMaterial";

const RAMP_STEPS = 256;

/** True when a gradient along the body replaces its colours. */
export const isRamped = (shading: CopyShading | undefined): boolean =>
  shading?.look.ramp !== undefined && shading.uniforms.rampAmount.value >= 0.999;

/**
 * The shape of a mesh as other programs draw it: what the stage's shaders do to its vertices is done to them, for a copy of
 * a size.
 *
 * @param matrix  16 numbers of the copy whose size counts for rounded edges
 */
export function shapeOf(mesh: Mesh, matrix: ArrayLike<number>): ModelShape {
  const { geometry } = mesh;
  const shading = (mesh.material as { userData: { shading?: CopyShading } }).userData.shading;
  const position = numbersOf(geometry, "position", 3)!;
  const normal = numbersOf(geometry, "normal", 3)!;
  const uv = numbersOf(geometry, "uv", 2);
  const unit = position.slice();
  if (shading?.look.shaping === "rounded") round(geometry, shading, matrix, position, normal);
  if (shading?.look.shaping === "tube") thicken(shading, uv!, position, normal);
  unitLength(normal);
  const shape: ModelShape = { position, normal };
  const { index } = geometry;
  if (index) shape.index = Uint32Array.from(index.array);
  const [morph] = geometry.morphAttributes.position ?? [];
  if (morph) shape.morph = Float32Array.from(morph.array as Float32Array);
  const map = (mesh.material as { map?: Texture | null }).map;
  if (uv && map) shape.uv = layUv(uv, map);
  if (isRamped(shading))
    shape.colour = rampColours(shading!, shading!.look.shaping === "tube" ? undefined : unit, uv);
  return shape;
}

function numbersOf(geometry: BufferGeometry, name: string, width: number): Float32Array | undefined {
  const attribute = geometry.attributes[name] as BufferAttribute | undefined;
  if (!attribute) return undefined;
  const numbers = new Float32Array(attribute.count * width);
  for (let i = 0; i < attribute.count; i++)
    for (let axis = 0; axis < width; axis++) numbers[i * width + axis] = attribute.getComponent(i, axis);
  return numbers;
}

/** As the shader of rounded shapes does, see `stage/geometry/rounded`. */
function round(
  geometry: BufferGeometry,
  { uniforms }: CopyShading,
  matrix: ArrayLike<number>,
  position: Float32Array,
  normal: Float32Array,
): void {
  const corner = numbersOf(geometry, "corner", 3)!;
  const size = new Vector3()
    .setFromMatrixScale(new Matrix4().fromArray(matrix))
    .max(new Vector3(1e-5, 1e-5, 1e-5));
  const radius = Math.min(uniforms.rounding.value, 0.5 * Math.min(size.x, size.y, size.z));
  const full = size.toArray();
  for (let i = 0; i < position.length; i++) {
    const share = radius / full[i % 3];
    position[i] = corner[i] * (0.5 - share) + normal[i] * share;
  }
  for (let i = 0; i < normal.length; i++) normal[i] *= full[i % 3];
}

/** As the shader of tubes does, see `stage/geometry/tube`. */
function thicken(
  { uniforms }: CopyShading,
  uv: Float32Array,
  position: Float32Array,
  normal: Float32Array,
): void {
  const { tubeRadius, tubeTaper } = uniforms;
  for (let i = 0; i < position.length; i++) {
    const end = 1 - tubeTaper.value * Math.abs(uv[Math.floor(i / 3) * 2] * 2 - 1);
    position[i] += normal[i] * tubeRadius.value * end;
  }
}

function unitLength(normal: Float32Array): void {
  for (let i = 0; i < normal.length; i += 3) {
    const length = Math.hypot(normal[i], normal[i + 1], normal[i + 2]);
    if (length > 1e-9) for (let axis = 0; axis < 3; axis++) normal[i + axis] /= length;
    else normal.set([0, 1, 0], i);
  }
}

/** Places on the image: glTF counts from its top, and images repeat by their places. */
function layUv(uv: Float32Array, map: Texture): Float32Array {
  const isFromTop = !map.flipY && map.userData.isTurnedOver !== true;
  const laid = new Float32Array(uv.length);
  for (let i = 0; i < uv.length; i += 2) {
    laid[i] = uv[i] * map.repeat.x;
    const v = uv[i + 1] * map.repeat.y;
    laid[i + 1] = isFromTop ? v : 1 - v;
  }
  return laid;
}

/** The gradient's colour at each vertex. */
function rampColours(
  { look, uniforms }: CopyShading,
  unit: Float32Array | undefined,
  uv: Float32Array | undefined,
): Float32Array {
  const { stops, axis } = look.ramp!;
  const table = rampTable(stops, RAMP_STEPS);
  const count = unit ? unit.length / 3 : uv!.length / 2;
  const colours = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) {
    const along = unit ? unit[i * 3 + "xyz".indexOf(axis)] + 0.5 : uv![i * 2];
    const place = (((Math.min(0.998, Math.max(0.002, along)) + uniforms.rampShift.value) % 1) + 1) % 1;
    const step = Math.min(RAMP_STEPS - 1, Math.floor(place * RAMP_STEPS));
    for (let axis = 0; axis < 3; axis++) colours[i * 4 + axis] = table[step * 3 + axis];
    colours[i * 4 + 3] = 1;
  }
  return colours;
}

/** An image of a texture as PNG, its first row at the top. */
export async function imageOf(map: Texture): Promise<Uint8Array | undefined> {
  const image = map.image as ImageBitmap | undefined;
  if (!image?.width) return undefined;
  const canvas = new OffscreenCanvas(image.width, image.height);
  const context = canvas.getContext("2d");
  if (!context) return undefined;
  if (map.userData.isTurnedOver === true) {
    context.translate(0, image.height);
    context.scale(1, -1);
  }
  context.drawImage(image, 0, 0);
  return new Uint8Array(await (await canvas.convertToBlob({ type: "image/png" })).arrayBuffer());
}
