import { guardLoops } from "@bumbrel/core/program/loops";
import { GLSL_PRELUDE } from "@bumbrel/core/program/offers/glslOffers";
import { definition, wrapped } from "./glslCode";

/** Members that surface programs may set and read, as GLSL structures; {@link POINT_MEMBERS} and so on say what each is. */
const STRUCTURES = `
struct BumbrelPoint { vec3 place; vec3 normal; vec2 uv; vec3 at; int copy; float share; float chance; };
struct BumbrelSurface { vec3 colour; vec3 emission; float roughness; float metalness; float opacity;
  vec3 place; vec3 normal; vec2 uv; vec3 stage; vec3 at; int copy; float share; float chance; };`;

/** A surface program, ready to be put into shaders. */
export interface SurfaceCode {
  /** Tells it from every other, for programs of the graphics card that are kept. */
  key: string;
  hasMove: boolean;
  hasPaint: boolean;
  /** It decides how much is seen through it. */
  changesOpacity: boolean;
  /** Declarations for vertex shaders: what may be used, the program, and `moveBy(place, normal, uv)`. */
  vertex: string;
  /** Declarations for fragment shaders: what may be used, and the program. */
  fragment: string;
}

/** Derivatives are of pixels; helpers that use them compile for points as well. */
const WITHOUT_DERIVATIVES =
  "#define dFdx(x) ((x) * 0.0)\n#define dFdy(x) ((x) * 0.0)\n#define fwidth(x) ((x) * 0.0)";
const BACK_TO_DERIVATIVES = "#undef dFdx\n#undef dFdy\n#undef fwidth";

/** Size of the step by which normals are found again, in the object's own width. */
const NORMAL_STEP = "0.004";

/** Each version that is typed is a program of its own: old ones are forgotten, and their keys never used again. */
const MOST_KNOWN = 200;
const known = new Map<string, SurfaceCode>();
let made = 0;

/** Code of a surface program for shaders. */
export function surfaceCode(code: string): SurfaceCode {
  let surface = known.get(code);
  if (!surface) {
    surface = { key: String(made++), ...make(code) };
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(code, surface);
  }
  return surface;
}

function make(written: string): Omit<SurfaceCode, "key"> {
  // A program whose loops may not end is not run at all; its check says why.
  const code = guardLoops(written).problems.length > 0 ? "" : written;
  const hasMove = definition(code, "move") !== undefined;
  const hasPaint = definition(code, "paint") !== undefined;
  const shared = (without: string) =>
    [
      GLSL_PRELUDE,
      STRUCTURES,
      wrapped(code, { Point: "BumbrelPoint", Surface: "BumbrelSurface" }, without),
    ].join("\n");
  const vertex = `${WITHOUT_DERIVATIVES}
${shared("paint")}
${BACK_TO_DERIVATIVES}
uniform float copiesShown;
varying vec3 vProgramPlace; varying vec2 vProgramUv; varying vec3 vProgramAt; varying vec3 vProgramStage; varying vec3 vProgramCopy;
vec3 movedPlace; vec3 movedNormal;
BumbrelPoint pointOf(vec3 place, vec3 normal, vec2 at) {
  int copy = gl_InstanceID;
  float chance = randomAt(vec3(float(copy), 7.1, 3.7));
  float share = copiesShown > 1.0 ? float(copy) / (copiesShown - 1.0) : 0.0;
  #ifdef USE_INSTANCING
    vec3 stands = instanceMatrix[3].xyz;
  #else
    vec3 stands = vec3(0.0);
  #endif
  return BumbrelPoint(place, normal, at, stands, copy, share, chance);
}
void moveBy(vec3 place, vec3 normal, vec2 at) {
  BumbrelPoint here = pointOf(place, normal, at);
  vProgramPlace = place; vProgramUv = at; vProgramAt = here.at; vProgramCopy = vec3(float(here.copy), here.share, here.chance);
  ${hasMove ? MOVING : ""}
  movedPlace = here.place;
  movedNormal = here.normal;
}`;
  const fragment = `${shared("move")}
varying vec3 vProgramPlace; varying vec2 vProgramUv; varying vec3 vProgramAt; varying vec3 vProgramStage; varying vec3 vProgramCopy;`;
  return { hasMove, hasPaint, changesOpacity: hasPaint && /\.opacity\b/.test(code), vertex, fragment };
}

/** Moves a point, and finds the normal again from two points beside it unless the program has given one. */
const MOVING = `
  bumbrel_move(here);
  if (here.normal == normal) {
    vec3 along = normalize(abs(normal.y) < 0.9 ? cross(normal, vec3(0.0, 1.0, 0.0)) : cross(normal, vec3(1.0, 0.0, 0.0)));
    vec3 across = cross(normal, along);
    BumbrelPoint first = pointOf(place + along * ${NORMAL_STEP}, normal, at);
    BumbrelPoint second = pointOf(place + across * ${NORMAL_STEP}, normal, at);
    bumbrel_move(first);
    bumbrel_move(second);
    vec3 found = cross(first.place - here.place, second.place - here.place);
    here.normal = dot(found, found) > 0.0 ? normalize(found) : normal;
  }`;

/** Fills a surface from three.js's variables, paints it, and writes it back; for surfaces in light. */
export const PAINT_LIT = `
  BumbrelSurface painted = BumbrelSurface(diffuseColor.rgb, totalEmissiveRadiance, roughnessFactor, metalnessFactor, diffuseColor.a,
    vProgramPlace, inverseTransformDirection(normal, viewMatrix), vProgramUv, vProgramStage, vProgramAt,
    int(vProgramCopy.x + 0.5), vProgramCopy.y, vProgramCopy.z);
  bumbrel_paint(painted);
  if (!(painted.opacity > 0.003)) discard;
  diffuseColor = vec4(max(painted.colour, vec3(0.0)), min(painted.opacity, 1.0));
  totalEmissiveRadiance = max(painted.emission, vec3(0.0));
  roughnessFactor = clamp(painted.roughness, 0.0, 1.0);
  metalnessFactor = clamp(painted.metalness, 0.0, 1.0);`;

/** The same for surfaces that no light falls on. */
export const PAINT_UNLIT = `
  BumbrelSurface painted = BumbrelSurface(diffuseColor.rgb, ownGlow, 1.0, 0.0, diffuseColor.a,
    vProgramPlace, vec3(0.0, 0.0, 1.0), vProgramUv, vProgramStage, vProgramAt,
    int(vProgramCopy.x + 0.5), vProgramCopy.y, vProgramCopy.z);
  bumbrel_paint(painted);
  if (!(painted.opacity > 0.003)) discard;
  diffuseColor.a = min(painted.opacity, 1.0);
  outgoingLight = max(painted.colour + painted.emission, vec3(0.0));`;

/** A pair of shaders that hold a program and nothing else, to see whether it compiles. */
export function shadersForCheck(code: string): { vertex: string; fragment: string } {
  const { vertex, fragment, hasMove, hasPaint } = surfaceCode(code);
  const head = (text: string, varying: string) =>
    `#version 300 es\nprecision highp float;\nprecision highp int;\n#define varying ${varying}\n${text}`;
  return {
    vertex: head(
      `${vertex}
in vec3 position;
void main() { ${hasMove ? "moveBy(position, vec3(0.0, 1.0, 0.0), position.xy);" : ""} vProgramStage = movedPlace; gl_Position = vec4(movedPlace + movedNormal, 1.0); }`,
      "out",
    ),
    fragment: head(
      `${fragment}
out vec4 shown;
void main() {
  BumbrelSurface it = BumbrelSurface(vec3(0.5), vec3(0.0), 0.5, 0.0, 1.0, vProgramPlace, vec3(0.0), vProgramUv, vProgramStage, vProgramAt, 0, 0.0, 0.0);
  ${hasPaint ? "bumbrel_paint(it);" : ""}
  shown = vec4(it.colour + it.emission + vec3(it.roughness + it.metalness), it.opacity);
}`,
      "in",
    ),
  };
}

/** A surface program as materials take it. */
export interface SurfaceProgram extends SurfaceCode {
  paintLit: string;
  paintUnlit: string;
  /** Uniforms that all programs read. */
  uniforms: Record<string, { value: unknown }>;
}
