import type { Blend } from "@bumbrel/core/kinds/shared";
import {
  AddEquation,
  CustomBlending,
  DstColorFactor,
  type Material,
  NormalBlending,
  OneFactor,
  OneMinusSrcAlphaFactor,
  OneMinusSrcColorFactor,
  SrcAlphaFactor,
  ZeroFactor,
} from "three";

/**
 * Sets how a material's light joins what is behind it. Screen and multiply need colours that have been multiplied by
 * their opacity, or mixed towards white by it: `copyBlend` tells the shader which.
 */
export function setBlend(material: Material, blend: Blend): void {
  material.blending = blend === "normal" || blend === "difference" ? NormalBlending : CustomBlending;
  material.blendEquation = AddEquation;
  switch (blend) {
    case "add":
      material.blendSrc = SrcAlphaFactor;
      material.blendDst = OneFactor;
      break;
    case "screen":
      material.blendSrc = OneFactor;
      material.blendDst = OneMinusSrcColorFactor;
      break;
    case "multiply":
      material.blendSrc = DstColorFactor;
      material.blendDst = ZeroFactor;
      break;
    default:
      material.blendSrc = SrcAlphaFactor;
      material.blendDst = OneMinusSrcAlphaFactor;
  }
  material.blendSrcAlpha = ZeroFactor;
  material.blendDstAlpha = OneFactor;
  if (blend === "normal" || blend === "difference") {
    material.blendSrcAlpha = null;
    material.blendDstAlpha = null;
  }
  if (blend !== "normal") {
    material.transparent = true;
    material.depthWrite = false;
  }
}

/** GLSL that changes a shader's colour before a blend mode that does not read opacity. */
export const BLEND_CODE: Record<Blend, string> = {
  normal: "",
  add: "",
  difference: "",
  screen: "gl_FragColor.rgb = clamp(gl_FragColor.rgb, 0.0, 1.0) * gl_FragColor.a;",
  multiply: "gl_FragColor.rgb = mix(vec3(1.0), gl_FragColor.rgb, gl_FragColor.a);",
};
