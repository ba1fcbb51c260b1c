import type { Blend } from "@bumbrel/core/kinds/shared";
import {
  type BufferAttribute,
  type BufferGeometry,
  DoubleSide,
  Mesh,
  ShaderMaterial,
  UniformsLib,
  UniformsUtils,
} from "three";
import { BLEND_CODE, DIFFERENCE_LAYER, setBlend } from "../blending";

/** What differs between kinds of drawing, as GLSL. */
interface Parts {
  /** What it reads at each corner. */
  attributes: string;
  /** What goes from the corners to the pixels. */
  varyings: string;
  /** Sets the varyings, and `seen`: the corner's place before the eye. */
  vertex: string;
  /** Sets `gl_FragColor`, in linear light. */
  fragment: string;
}

/** A mesh with light of its own that is blended over the image and fades in fog. */
export function overlaidMesh<G extends BufferGeometry>(
  geometry: G,
  blend: Blend,
  { attributes, varyings, vertex, fragment }: Parts,
): Mesh<G, ShaderMaterial> {
  const material = new ShaderMaterial({
    transparent: true,
    depthWrite: false,
    side: DoubleSide,
    fog: true,
    uniforms: UniformsUtils.clone(UniformsLib.fog),
    vertexShader: `
      #include <fog_pars_vertex>
      ${attributes} ${varyings}
      void main() {
        vec4 seen;
        ${vertex}
        gl_Position = projectionMatrix * seen;
        #ifdef USE_FOG
          vFogDepth = -seen.z;
        #endif
      }`,
    fragmentShader: `
      #include <fog_pars_fragment>
      ${varyings}
      void main() {
        ${fragment}
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
