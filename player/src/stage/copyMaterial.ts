import type { Blend } from "@bumbrel/core/kinds/shared";
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
  MeshStandardMaterial,
  RepeatWrapping,
  RGBAFormat,
  type WebGLProgramParametersWithUniforms,
} from "three";
import { BLEND_CODE, setBlend } from "./blending";

const RAMP_STEPS = 256;

export interface SurfaceLook {
  unlit: boolean;
  blend: Blend;
  /** Colours along the object from foot to top, and the axis that runs along; none without a gradient. */
  ramp: { stops: readonly ColourStop[]; axis: "x" | "y" | "z" } | undefined;
  /** Seen from behind too: sheets. */
  bothSides: boolean;
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
  material: MeshStandardMaterial | MeshBasicMaterial;
  uniforms: { rampAmount: { value: number }; rampShift: { value: number } };
  dispose(): void;
}

export function copyMaterial({ unlit, blend, ramp, bothSides }: SurfaceLook): CopyMaterial {
  const material: MeshStandardMaterial | MeshBasicMaterial = unlit
    ? new MeshBasicMaterial()
    : new MeshStandardMaterial();
  const texture = ramp && rampTexture(ramp.stops);
  const uniforms = { rampAmount: { value: 1 }, rampShift: { value: 0 }, rampMap: { value: texture ?? null } };
  material.side = bothSides ? DoubleSide : FrontSide;
  setBlend(material, blend);
  material.onBeforeCompile = (shader) => inject(shader, unlit, blend, ramp?.axis, uniforms);
  material.customProgramCacheKey = () => `copies ${unlit} ${blend} ${ramp?.axis ?? ""}`;
  return {
    material,
    uniforms,
    dispose() {
      material.dispose();
      texture?.dispose();
    },
  };
}

function inject(
  shader: WebGLProgramParametersWithUniforms,
  unlit: boolean,
  blend: Blend,
  axis: string | undefined,
  uniforms: object,
): void {
  Object.assign(shader.uniforms, uniforms);
  shader.vertexShader = shader.vertexShader
    .replace(
      "#include <common>",
      `#include <common>
      attribute vec3 copyColour; attribute vec4 copyGlow;
      varying vec3 vCopyColour; varying vec4 vCopyGlow; varying float vAlong;`,
    )
    .replace(
      "#include <begin_vertex>",
      `#include <begin_vertex>
      vCopyColour = copyColour; vCopyGlow = copyGlow; vAlong = position.${axis ?? "y"} + 0.5;`,
    );
  shader.fragmentShader = shader.fragmentShader
    .replace(
      "#include <common>",
      `#include <common>
      varying vec3 vCopyColour; varying vec4 vCopyGlow; varying float vAlong;
      ${axis ? "uniform sampler2D rampMap; uniform float rampAmount; uniform float rampShift;" : ""}`,
    )
    .replace(
      "#include <color_fragment>",
      `#include <color_fragment>
      vec3 ownColour = vCopyColour; vec3 ownGlow = vCopyGlow.rgb;
      ${
        axis
          ? `vec3 rampColour = texture2D(rampMap, vec2(clamp(vAlong, 0.002, 0.998) + rampShift, 0.5)).rgb;
      ownColour = mix(ownColour, rampColour, rampAmount);
      float ownStrength = max(ownGlow.r, max(ownGlow.g, ownGlow.b));
      ownGlow = mix(ownGlow, rampColour * ownStrength, rampAmount);`
          : ""
      }
      diffuseColor.rgb *= ownColour; diffuseColor.a *= vCopyGlow.a;`,
    );
  if (unlit) {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <opaque_fragment>",
      "outgoingLight += ownGlow;\n#include <opaque_fragment>",
    );
  } else {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <emissivemap_fragment>",
      "#include <emissivemap_fragment>\ntotalEmissiveRadiance += ownGlow;",
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
