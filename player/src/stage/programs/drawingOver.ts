import type { Blend } from "@bumbrel/core/kinds/shared";

/** How a drawing joins the picture under it: `now` is its colour, `cover` its opacity. */
const JOINS: Record<Blend, string> = {
  normal: "mix(before.rgb, now, cover)",
  add: "before.rgb + now * cover",
  screen: "1.0 - (1.0 - before.rgb) * (1.0 - clamp(now, 0.0, 1.0) * cover)",
  multiply: "before.rgb * mix(vec3(1.0), now, cover)",
  difference: "abs(before.rgb - now * cover)",
};

/** The fragment shader that lays a drawing over the picture. */
export const drawingOverFragment = (blend: Blend): string => `
uniform sampler2D pictureMap; uniform sampler2D drawn; uniform float amount;
varying vec2 vUv;
void main() {
  vec4 before = texture2D(pictureMap, vUv);
  vec4 over = texture2D(drawn, vUv);
  vec3 now = over.rgb;
  float cover = over.a * amount;
  gl_FragColor = vec4(clamp(${JOINS[blend]}, vec3(0.0), vec3(1.0)), before.a);
  #include <colorspace_fragment>
}`;
