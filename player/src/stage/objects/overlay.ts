import type { Blend } from "@bumbrel/core/kinds/shared";
import {
  type BufferAttribute,
  type BufferGeometry,
  Color,
  DoubleSide,
  Mesh,
  ShaderMaterial,
  UniformsLib,
  UniformsUtils,
} from "three";
import { BLEND_CODE, setBlend } from "../blending";
import { DIFFERENCE_LAYER } from "../image/layers";
import { softUniforms } from "../image/softUniforms";

/** Mean light of the surroundings, for what is lit in the air. */
export const airLight = { value: new Color(0) };

/** Differences between kinds of drawing, as GLSL. */
interface Parts {
  /** Attributes of each corner. */
  attributes: string;
  /** Varyings from the corners to the pixels. */
  varyings: string;
  /** Sets the varyings, and `seen`: the corner's place before the eye. */
  vertex: string;
  /** Sets `gl_FragColor`, in linear light. */
  fragment: string;
  /** The stage's lights fall on it: the vertex code can read `fallingLight`. */
  isLit?: boolean;
  /** It fades where it touches things, over so many metres: a number of its own for all of it. */
  softness?: { value: number };
}

/** Light that falls on a point in the air, from all sides alike, as GLSL: a quarter of what a surface facing it gets. */
const FALLING_LIGHT = `
#include <common>
#include <lights_pars_begin>
vec3 lightAt(vec3 seen) {
  vec3 sum = ambientLightColor + airLight;
  #if NUM_POINT_LIGHTS > 0
  for (int i = 0; i < NUM_POINT_LIGHTS; i++) {
    float away = length(pointLights[i].position - seen);
    sum += 0.25 * pointLights[i].color * getDistanceAttenuation(away, pointLights[i].distance, pointLights[i].decay);
  }
  #endif
  #if NUM_SPOT_LIGHTS > 0
  for (int i = 0; i < NUM_SPOT_LIGHTS; i++) {
    vec3 way = spotLights[i].position - seen;
    float cone = smoothstep(spotLights[i].coneCos, spotLights[i].penumbraCos, dot(normalize(way), spotLights[i].direction));
    sum += 0.25 * cone * spotLights[i].color * getDistanceAttenuation(length(way), spotLights[i].distance, spotLights[i].decay);
  }
  #endif
  #if NUM_DIR_LIGHTS > 0
  for (int i = 0; i < NUM_DIR_LIGHTS; i++) sum += 0.25 * directionalLights[i].color;
  #endif
  return sum;
}`;

/** Hides what is behind the image, and fades what is near to it. */
const FADE = `
  if (softOn > 0.5) {
    float depth = texture2D(sceneDepth, gl_FragCoord.xy / sceneSize).r * 2.0 - 1.0;
    float behind = vToDepth.y / (depth + vToDepth.x) - vSeenDepth;
    if (behind <= 0.0) discard;
    gl_FragColor.a *= clamp(behind / max(softness, 1e-4), 0.0, 1.0);
  }`;

/** A mesh with light of its own that is blended over the image and fades in fog. */
export function overlaidMesh<G extends BufferGeometry>(
  geometry: G,
  blend: Blend,
  { attributes, varyings, vertex, fragment, isLit = false, softness }: Parts,
): Mesh<G, ShaderMaterial> {
  const softOn = { value: 0 };
  const material = new ShaderMaterial({
    transparent: true,
    depthWrite: false,
    side: DoubleSide,
    fog: true,
    lights: isLit,
    uniforms: {
      ...UniformsUtils.clone(UniformsLib.fog),
      ...(isLit && { ...UniformsUtils.clone(UniformsLib.lights), airLight }),
      ...(softness && { ...softUniforms, softness, softOn }),
    },
    vertexShader: `
      #include <fog_pars_vertex>
      ${isLit ? `uniform vec3 airLight; ${FALLING_LIGHT}` : ""}
      ${softness ? "varying float vSeenDepth; varying vec2 vToDepth;" : ""}
      ${attributes} ${varyings}
      void main() {
        vec4 seen;
        ${vertex}
        gl_Position = projectionMatrix * seen;
        ${softness ? "vSeenDepth = -seen.z; vToDepth = vec2(projectionMatrix[2][2], projectionMatrix[3][2]);" : ""}
        #ifdef USE_FOG
          vFogDepth = -seen.z;
        #endif
      }`,
    fragmentShader: `
      #include <fog_pars_fragment>
      ${softness ? "varying float vSeenDepth; varying vec2 vToDepth; uniform sampler2D sceneDepth; uniform vec2 sceneSize; uniform float softness; uniform float softOn;" : ""}
      ${varyings}
      void main() {
        ${fragment}
        ${softness ? FADE : ""}
        #ifdef USE_FOG
          gl_FragColor.a *= exp(-fogDensity * fogDensity * vFogDepth * vFogDepth);
        #endif
        #include <tonemapping_fragment>
        #include <colorspace_fragment>
        ${BLEND_CODE[blend]}
      }`,
  });
  setBlend(material, blend);
  const mesh = new Mesh(geometry, material);
  mesh.frustumCulled = false;
  if (softness) {
    // In a mirror there is no depth to read.
    mesh.onBeforeRender = (_renderer, _scene, camera) => {
      softOn.value = mesh.layers.isEnabled(0) || camera.userData.isMirror === true ? 0 : 1;
      material.uniformsNeedUpdate = true;
    };
  }
  if (blend === "difference") mesh.layers.set(DIFFERENCE_LAYER);
  return mesh;
}

/** Sends the first numbers of attributes to the graphics card again: `items` times the width of each. */
export function sendFirst(attributes: readonly BufferAttribute[], items: number): void {
  for (const attribute of attributes) {
    attribute.clearUpdateRanges();
    attribute.addUpdateRange(0, items * attribute.itemSize);
    attribute.needsUpdate = true;
  }
}
