import type { Blend, Finish } from "@bumbrel/core/kinds/shared";
import { rampTable } from "@bumbrel/core/setting/colour";
import type { ColourStop } from "@bumbrel/core/setting/descriptor";
import {
  ClampToEdgeWrapping,
  DataTexture,
  DoubleSide,
  FloatType,
  FrontSide,
  LinearFilter,
  type Material,
  MeshBasicMaterial,
  MeshDepthMaterial,
  MeshDistanceMaterial,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  RepeatWrapping,
  RGBADepthPacking,
  RGBAFormat,
  type WebGLProgramParametersWithUniforms,
} from "three";
import { BLEND_CODE, setBlend } from "./blending";
import { ROUNDED_NORMAL, ROUNDED_VERTEX } from "./geometry/rounded";
import { TUBE_VERTEX } from "./geometry/tube";
import type { SurfaceProgram } from "./programs/surfaceCode";

const RAMP_STEPS = 256;

/** The edge from which a value uncovers an object. */
export type RevealFrom = "none" | "left" | "right" | "bottom" | "top" | "back" | "front" | "middle";

export interface SurfaceLook {
  unlit: boolean;
  blend: Blend;
  finish: Finish;
  /** Colours along the object from foot to top, and the axis that runs along; none without a gradient. */
  ramp: { stops: readonly ColourStop[]; axis: "x" | "y" | "z" } | undefined;
  revealFrom: RevealFrom;
  /** GLSL that moves the vertices, see `geometry/rounded` and `geometry/tube`. */
  shaping: "none" | "rounded" | "tube";
  /** Seen from behind too: sheets. */
  bothSides: boolean;
  /** Code of the user's own that moves and paints it, and the values it exposes. */
  program: { code: SurfaceProgram; values: Record<string, { value: unknown }> } | undefined;
}

/** A gradient as a texture one pixel high. */
export function rampTexture(stops: readonly ColourStop[]): DataTexture {
  const table = rampTable(stops, RAMP_STEPS);
  const data = new Float32Array(RAMP_STEPS * 4);
  for (let i = 0; i < RAMP_STEPS; i++) {
    for (let axis = 0; axis < 3; axis++) data[i * 4 + axis] = table[i * 3 + axis];
    data[i * 4 + 3] = 1;
  }
  const texture = new DataTexture(data, RAMP_STEPS, 1, RGBAFormat, FloatType);
  texture.magFilter = LinearFilter;
  texture.minFilter = LinearFilter;
  texture.wrapS = RepeatWrapping;
  texture.wrapT = ClampToEdgeWrapping;
  texture.needsUpdate = true;
  return texture;
}

/** A material whose colour, glow and opacity come from each instance: `copyColour` (rgb) and `copyGlow` (rgb, opacity). */
export interface CopyMaterial {
  material: MeshPhysicalMaterial | MeshStandardMaterial | MeshBasicMaterial;
  /** Materials for its shadows, for lights from one side and for lamps; none where the usual ones do. */
  shadow: { depth: MeshDepthMaterial; distance: MeshDistanceMaterial } | undefined;
  uniforms: Record<
    | "rampAmount"
    | "rampShift"
    | "emissionFalloff"
    | "reveal"
    | "revealSoftness"
    | "rounding"
    | "tubeRadius"
    | "tubeTaper"
    | "copiesShown",
    { value: number }
  >;
  dispose(): void;
}

/** How a copy material's shaders shape and paint it; its `userData.shading`. */
export interface CopyShading {
  uniforms: CopyMaterial["uniforms"];
  look: SurfaceLook;
}

export function copyMaterial(look: SurfaceLook): CopyMaterial {
  const { unlit, blend, finish, ramp, revealFrom, shaping, bothSides, program } = look;
  const material = unlit
    ? new MeshBasicMaterial()
    : finish === "plain"
      ? new MeshStandardMaterial()
      : new MeshPhysicalMaterial();
  const texture = ramp && rampTexture(ramp.stops);
  const uniforms = {
    rampAmount: { value: 1 },
    rampShift: { value: 0 },
    rampMap: { value: texture ?? null },
    emissionFalloff: { value: 0 },
    reveal: { value: 1 },
    revealSoftness: { value: 0.05 },
    rounding: { value: 0 },
    tubeRadius: { value: 0 },
    tubeTaper: { value: 0 },
    copiesShown: { value: 1 },
    ...program?.code.uniforms,
    ...program?.values,
  };
  material.side = bothSides ? DoubleSide : FrontSide;
  setBlend(material, blend);
  // For those who write it down for other programs, which have no such shaders.
  material.userData.shading = { uniforms, look } satisfies CopyShading;
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    placeVertices(shader, shaping, ramp?.axis ?? "y", program?.code);
    paintSurface(shader, look);
  };
  material.customProgramCacheKey = () =>
    `copies ${unlit} ${blend} ${ramp?.axis ?? ""} ${revealFrom} ${shaping} ${program?.code.key ?? ""}`;
  const isShaped = shaping !== "none" || revealFrom !== "none" || program?.code.hasMove === true;
  const shadow = isShaped ? shadowMaterials(look, uniforms) : undefined;
  return {
    material,
    shadow,
    uniforms,
    dispose() {
      material.dispose();
      shadow?.depth.dispose();
      shadow?.distance.dispose();
      texture?.dispose();
    },
  };
}

/** Depth for shadows of what a shader shapes or cuts. */
function shadowMaterials({ shaping, revealFrom, bothSides, program }: SurfaceLook, uniforms: object) {
  const depth = new MeshDepthMaterial({ depthPacking: RGBADepthPacking });
  const distance = new MeshDistanceMaterial();
  for (const material of [depth, distance]) {
    material.side = bothSides ? DoubleSide : FrontSide;
    material.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, uniforms);
      placeVertices(shader, shaping, "y", program?.code);
      shader.fragmentShader = shader.fragmentShader
        .replace(
          "#include <common>",
          `#include <common>\nvarying vec3 vUnit; varying float vAlong; ${REVEAL_UNIFORMS}`,
        )
        .replace("#include <map_fragment>", `#include <map_fragment>\n${revealCode(revealFrom, "0.5")}`);
    };
    material.customProgramCacheKey = () => `shadow ${shaping} ${revealFrom} ${program?.code.key ?? ""}`;
  }
  return { depth, distance };
}

function placeVertices(
  shader: WebGLProgramParametersWithUniforms,
  shaping: SurfaceLook["shaping"],
  axis: string,
  program: SurfaceProgram | undefined,
): void {
  const isColoured = shader.vertexShader.includes("#include <color_vertex>");
  shader.vertexShader = shader.vertexShader
    .replace(
      "#include <common>",
      `#include <common>
      ${isColoured ? "attribute vec3 copyColour; attribute vec4 copyGlow; varying vec3 vCopyColour; varying vec4 vCopyGlow;" : ""}
      ${SHAPING[shaping].declared}
      varying vec3 vUnit; varying float vAlong;
      ${program?.vertex ?? ""}`,
    )
    .replace("void main() {", `void main() {\n${SHAPING[shaping].before}`)
    .replace(
      "#include <beginnormal_vertex>",
      `#include <beginnormal_vertex>\n${SHAPING[shaping].normal}\n${program ? moveNormal(shaping) : ""}`,
    )
    .replace(
      "#include <begin_vertex>",
      `#include <begin_vertex>
      ${SHAPING[shaping].place}
      ${program ? movePlace(shaping) : ""}
      ${isColoured ? "vCopyColour = copyColour; vCopyGlow = copyGlow;" : ""}
      vUnit = ${shaping === "tube" ? "vec3(uv.x - 0.5, transformed.yz)" : "transformed"}; vAlong = ${shaping === "tube" ? "uv.x" : `transformed.${axis} + 0.5`};`,
    );
}

/** Position of a point before a program moves it, as GLSL that may come before `transformed` is known. */
const SHAPED_PLACE: Record<SurfaceLook["shaping"], string> = {
  none: "position",
  rounded: "roundPlace",
  tube: "position + normal * tubeRadius * (1.0 - tubeTaper * abs(uv.x * 2.0 - 1.0))",
};
/** Surfaces in light ask for the normal before the place; others never ask for it. */
const moveNormal = (shaping: SurfaceLook["shaping"]) => `
  #define MOVED_WITH_NORMAL
  moveBy(${SHAPED_PLACE[shaping]}, normalize(objectNormal), uv);
  objectNormal = movedNormal;`;
const movePlace = (shaping: SurfaceLook["shaping"]) => `
  #ifndef MOVED_WITH_NORMAL
    moveBy(${SHAPED_PLACE[shaping]}, normalize(normal), uv);
  #endif
  transformed = movedPlace;
  #ifdef USE_INSTANCING
    vProgramStage = (modelMatrix * instanceMatrix * vec4(transformed, 1.0)).xyz;
  #else
    vProgramStage = (modelMatrix * vec4(transformed, 1.0)).xyz;
  #endif`;

/** Code that each way of shaping adds to the vertex shader. */
const SHAPING: Record<SurfaceLook["shaping"], Record<"declared" | "before" | "normal" | "place", string>> = {
  none: { declared: "", before: "", normal: "", place: "" },
  rounded: {
    declared: "attribute vec3 corner; uniform float rounding;",
    before: ROUNDED_VERTEX,
    normal: ROUNDED_NORMAL,
    place: "transformed = roundPlace;",
  },
  tube: {
    declared: "uniform float tubeRadius; uniform float tubeTaper;",
    before: "",
    normal: "",
    place: TUBE_VERTEX,
  },
};

const REVEAL_UNIFORMS = "uniform float reveal; uniform float revealSoftness;";
/** How far along each pixel lies from the edge that is uncovered first, 0..1, as GLSL. */
const REVEAL_ALONG: Record<Exclude<RevealFrom, "none">, string> = {
  left: "vUnit.x + 0.5",
  right: "0.5 - vUnit.x",
  bottom: "vUnit.y + 0.5",
  top: "0.5 - vUnit.y",
  back: "vUnit.z + 0.5",
  front: "0.5 - vUnit.z",
  middle: "2.0 * length(vUnit)",
};

/**
 * Light that a film sends back by interference of two beams (wavelengths in nm; index 1.5), in the body's colour: matte
 * bodies would hardly show the film, whose mirror image alone three.js computes.
 */
const PEARL = `
      #ifdef USE_IRIDESCENCE
        float inFilm = sqrt(1.0 - (1.0 - facing * facing) / 2.25);
        vec3 film = 0.5 + 0.5 * cos(12.566371 * 1.5 * iridescenceThicknessMaximum * inFilm / vec3(650.0, 532.0, 450.0));
        diffuseColor.rgb = mix(diffuseColor.rgb, (0.3 * diffuseColor.rgb + 0.7 * max(diffuseColor.r, max(diffuseColor.g, diffuseColor.b))) * (0.35 + 1.1 * film), 0.7 * iridescence);
      #endif`;

/** If the surroundings are not mirrored, surfaces mirror the mean brightness in that direction, so that metal is not black. */
export const BLURRED_MIRROR = `
#if defined(USE_LIGHT_PROBES) && !defined(USE_ENVMAP) && defined(RE_IndirectSpecular)
  radiance += getLightProbeIrradiance(lightProbe, reflect(-geometryViewDir, geometryNormal)) * RECIPROCAL_PI;
#endif`;

/** Leaves out pixels that are covered; `least` is the cover below which they are. */
function revealCode(from: RevealFrom, least: string): string {
  if (from === "none") return "";
  return `
    float revealEdge = reveal * (1.0 + revealSoftness);
    float revealed = 1.0 - smoothstep(revealEdge - max(revealSoftness, 1e-4), revealEdge, ${REVEAL_ALONG[from]});
    if (revealed <= ${least}) discard;`;
}

function paintSurface(shader: WebGLProgramParametersWithUniforms, look: SurfaceLook): void {
  const { unlit, blend, ramp, revealFrom } = look;
  const program = look.program?.code;
  shader.fragmentShader = shader.fragmentShader
    .replace(
      "#include <common>",
      `#include <common>
      varying vec3 vCopyColour; varying vec4 vCopyGlow; varying vec3 vUnit; varying float vAlong;
      uniform float emissionFalloff; ${REVEAL_UNIFORMS}
      ${ramp ? "uniform sampler2D rampMap; uniform float rampAmount; uniform float rampShift;" : ""}
      ${program?.hasPaint ? program.fragment : ""}`,
    )
    .replace(
      "#include <color_fragment>",
      `#include <color_fragment>
      vec3 ownColour = vCopyColour; vec3 ownGlow = vCopyGlow.rgb;
      ${
        ramp
          ? `vec3 rampColour = texture2D(rampMap, vec2(clamp(vAlong, 0.002, 0.998) + rampShift, 0.5)).rgb;
      ownColour = mix(ownColour, rampColour, rampAmount);
      float ownStrength = max(ownGlow.r, max(ownGlow.g, ownGlow.b));
      ownGlow = mix(ownGlow, rampColour * ownStrength, rampAmount);`
          : ""
      }
      diffuseColor.rgb *= ownColour; diffuseColor.a *= vCopyGlow.a;
      ${revealCode(revealFrom, "0.003")}
      ${revealFrom === "none" ? "" : "diffuseColor.a *= revealed;"}`,
    );
  if (unlit) {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <opaque_fragment>",
      `outgoingLight += ownGlow;\n${program?.hasPaint ? program.paintUnlit : ""}\n#include <opaque_fragment>`,
    );
  } else {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <emissivemap_fragment>",
      `#include <emissivemap_fragment>
      float facing = abs(dot(normal, normalize(vViewPosition)));
      totalEmissiveRadiance += ownGlow * mix(1.0, 0.1 + 1.15 * facing * facing, emissionFalloff);
      ${PEARL}
      ${program?.hasPaint ? program.paintLit : ""}`,
    );
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <lights_fragment_end>",
      `${BLURRED_MIRROR}\n#include <lights_fragment_end>`,
    );
  }
  shader.fragmentShader = shader.fragmentShader.replace(
    "#include <dithering_fragment>",
    `#include <dithering_fragment>\n${BLEND_CODE[blend]}`,
  );
}

/** Switches transparency on or off without making a new program each frame. */
export function setTransparent(material: Material, isTransparent: boolean): void {
  if (material.transparent === isTransparent) return;
  material.transparent = isTransparent;
  material.needsUpdate = true;
}
