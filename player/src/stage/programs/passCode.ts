import { guardLoops } from "@bumbrel/core/program/loops";
import { GLSL_PRELUDE, PASS_OFFERS } from "@bumbrel/core/program/offers/glslOffers";
import { definition, wrapped } from "./glslCode";

export const hasPassFunction = (code: string): boolean => definition(code, "paint") !== undefined;

/** The fragment shader of a picture pass; its image, depth and amount are uniforms. */
export function passFragment(written: string): string {
  // A program whose loops may not end is not run at all; its check says why.
  const code = guardLoops(written).problems.length > 0 ? "void paint(inout Pixel p) {}" : written;
  return `
uniform highp sampler2D pictureMap;
uniform highp sampler2D depthMap;
uniform vec2 clipRange;
uniform vec2 pictureSize;
uniform float amount;
varying vec2 vUv;
struct BumbrelPixel { vec3 colour; vec2 uv; vec2 size; float depth; };
${GLSL_PRELUDE}
${PASS_OFFERS.map(({ code }) => code).join("\n")}
${wrapped(code, { Pixel: "BumbrelPixel" })}
void main() {
  vec4 before = texture2D(pictureMap, vUv);
  BumbrelPixel pixel = BumbrelPixel(before.rgb, vUv, pictureSize, depthAt(vUv));
  bumbrel_paint(pixel);
  vec3 after = clamp(pixel.colour, vec3(0.0), vec3(1.0));
  // NaN and infinity would spread over the picture.
  if (!(after.r >= 0.0 && after.g >= 0.0 && after.b >= 0.0)) after = vec3(0.0);
  gl_FragColor = vec4(mix(before.rgb, after, amount), before.a);
  #include <colorspace_fragment>
}`;
}

/** The same by itself, to see whether it compiles. */
export function passShadersForCheck(code: string): { vertex: string; fragment: string } {
  const head = "#version 300 es\nprecision highp float;\nprecision highp int;\n";
  return {
    vertex: `${head}in vec3 position; out vec2 vUv; void main() { vUv = position.xy; gl_Position = vec4(position, 1.0); }`,
    fragment: `${head}#define varying in\n#define texture2D texture\n#define gl_FragColor shown\nout vec4 shown;\n${passFragment(
      code,
    ).replace("#include <colorspace_fragment>", "")}`,
  };
}
