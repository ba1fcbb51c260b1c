import { settingOf } from "@bumbrel/core/kinds/table";
import {
  Color,
  Mesh,
  MeshStandardMaterial,
  PlaneGeometry,
  ShaderMaterial,
  Texture,
  type WebGLProgramParametersWithUniforms,
} from "three";
import { setTransparent } from "../copyMaterial";
import {
  type Frame,
  numberAt,
  type ObjectSource,
  partsOfReadings,
  type RenderedObject,
} from "../renderedObject";
import { setColour } from "./lights";

/** A sheet behind everything that fills the image: a gradient from bottom to top, with an image over it. */
export function makeBackdrop(source: ObjectSource): RenderedObject {
  const id = settingOf(source.object, "hasPicture") ? settingOf(source.object, "pictureId") : null;
  const texture = typeof id === "string" ? source.assets.picture(id, false) : undefined;
  const image = texture?.image as { width: number; height: number } | undefined;
  const material = new ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
    uniforms: {
      top: { value: new Color() },
      bottom: { value: new Color() },
      backdrop: { value: texture ?? new Texture() },
      pictureAmount: { value: 0 },
      pictureAspect: { value: image ? image.width / image.height : 1 },
      screenAspect: { value: 1 },
      composed: { value: false },
    },
    vertexShader:
      "varying vec2 place; void main() { place = uv; gl_Position = vec4(position.xy, 1.0, 1.0); }",
    // A grain finer than one step of the screen keeps dark gradients from showing bands.
    fragmentShader: `
      uniform vec3 top; uniform vec3 bottom; uniform sampler2D backdrop; uniform float pictureAmount;
      uniform float pictureAspect; uniform float screenAspect; uniform bool composed; varying vec2 place;
      float grain(vec2 p) { return fract(sin(dot(p, vec2(12.9898, 78.233))) * 43758.5453); }
      void main() {
        vec3 colour = mix(bottom, top, smoothstep(0.25, 1.0, place.y));
        if (pictureAmount > 0.0) {
          vec2 fit = screenAspect > pictureAspect ? vec2(1.0, pictureAspect / screenAspect) : vec2(screenAspect / pictureAspect, 1.0);
          vec4 seen = texture2D(backdrop, (place - 0.5) * fit + 0.5);
          colour = mix(colour, seen.rgb, seen.a * pictureAmount);
        }
        // A backdrop is seen in the very colours it has: what the last pass will do to dark ones is undone beforehand.
        if (composed) {
          float least = min(colour.r, min(colour.g, colour.b));
          colour += (least < 0.04 ? 0.4 * sqrt(least) : least + 0.04) - least;
        }
        gl_FragColor = vec4(colour, 1.0);
        #include <colorspace_fragment>
        gl_FragColor.rgb += (grain(gl_FragCoord.xy) - 0.5) / 255.0;
      }`,
  });
  const geometry = new PlaneGeometry(2, 2);
  const root = new Mesh(geometry, material);
  root.frustumCulled = false;
  root.renderOrder = -1000;
  const { uniforms } = material;
  let amount = 1;
  const read = (): Record<string, number | number[]> => ({
    top: uniforms.top.value.toArray(),
    bottom: uniforms.bottom.value.toArray(),
    pictureAmount: amount,
  });
  return {
    root,
    update(frame) {
      setColour(uniforms.top.value, source, frame, "top");
      setColour(uniforms.bottom.value, source, frame, "bottom");
      amount = numberAt(source, frame, "pictureAmount");
      uniforms.pictureAmount.value = texture ? amount : 0;
      uniforms.composed.value = frame.composed;
      uniforms.screenAspect.value = (frame.camera as { aspect?: number }).aspect ?? 1;
    },
    read: (property) => read()[property],
    drawnParts: () => partsOfReadings(read()),
    dispose() {
      geometry.dispose();
      material.dispose();
    },
  };
}

/** A flat surface of the surroundings; `inject` gives it lines or waves. */
function flat(
  source: ObjectSource,
  uniforms: Record<string, { value: unknown }>,
  inject: (shader: WebGLProgramParametersWithUniforms) => void,
  more: (frame: Frame) => void,
): RenderedObject {
  const material = new MeshStandardMaterial();
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\nvarying vec3 vPlace;")
      .replace(
        "#include <begin_vertex>",
        "#include <begin_vertex>\nvPlace = (modelMatrix * vec4(position, 1.0)).xyz;",
      );
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <common>",
      "#include <common>\nvarying vec3 vPlace;",
    );
    inject(shader);
  };
  material.customProgramCacheKey = () => source.object.kind;
  const geometry = new PlaneGeometry(1, 1).rotateX(-Math.PI / 2);
  const root = new Mesh(geometry, material);
  const read = (): Record<string, number | number[]> => ({
    position: root.position.toArray(),
    extent: root.scale.x,
    colour: material.color.toArray(),
    roughness: material.roughness,
    metalness: material.metalness,
    opacity: material.opacity,
    visibility: Number(root.visible),
  });
  return {
    root,
    update(frame) {
      const {
        plan,
        state: { placing },
      } = source;
      root.visible = placing.isShown(plan, frame.values);
      const { matrices } = placing.rootsOf(plan);
      root.position.set(matrices[12], matrices[13], matrices[14]);
      root.scale.setScalar(numberAt(source, frame, "extent"));
      setColour(material.color, source, frame, "colour");
      material.roughness = numberAt(source, frame, "roughness");
      material.metalness = numberAt(source, frame, "metalness");
      more(frame);
    },
    read: (property) => read()[property],
    drawnParts: () => ({
      ...partsOfReadings(read()),
      ...Object.fromEntries(
        Object.entries(uniforms).map(([key, { value }]) => [
          key,
          value instanceof Color ? value.toArray() : [value as number],
        ]),
      ),
    }),
    dispose() {
      geometry.dispose();
      material.dispose();
    },
  };
}

export function makeGround(source: ObjectSource): RenderedObject {
  const lineColour = new Color();
  const uniforms = { lineColour: { value: lineColour }, lineGlow: { value: 0 }, lineEvery: { value: 1 } };
  return flat(
    source,
    uniforms,
    (shader) => {
      shader.fragmentShader = shader.fragmentShader
        .replace(
          "#include <common>",
          "#include <common>\nuniform vec3 lineColour; uniform float lineGlow; uniform float lineEvery;",
        )
        .replace(
          "#include <emissivemap_fragment>",
          `#include <emissivemap_fragment>
          if (lineEvery > 0.0) {
            vec2 cell = vPlace.xz / lineEvery;
            vec2 width = fwidth(cell) * 1.2;
            vec2 near = smoothstep(width, vec2(0.0), abs(fract(cell - 0.5) - 0.5));
            // Lines that lie closer than a pixel would only flicker.
            vec2 seen = 1.0 - smoothstep(0.25, 0.7, width);
            totalEmissiveRadiance += lineColour * lineGlow * max(near.x * seen.x, near.y * seen.y);
          }`,
        );
    },
    (frame) => {
      setColour(lineColour, source, frame, "lineColour");
      uniforms.lineGlow.value = numberAt(source, frame, "lineGlow");
      uniforms.lineEvery.value = numberAt(source, frame, "lineEvery");
    },
  );
}

export function makeWater(source: ObjectSource): RenderedObject {
  const uniforms = { waves: { value: 0 }, waveLength: { value: 1 }, wavePhase: { value: 0 } };
  const made: { object?: RenderedObject } = {};
  made.object = flat(
    source,
    uniforms,
    (shader) => {
      shader.fragmentShader = shader.fragmentShader
        .replace(
          "#include <common>",
          "#include <common>\nuniform float waves; uniform float waveLength; uniform float wavePhase;",
        )
        .replace(
          "#include <normal_fragment_maps>",
          `#include <normal_fragment_maps>
          {
            vec2 slope = vec2(0.0);
            float k = 6.2831853 / waveLength;
            vec2 ways[4];
            ways[0] = vec2(0.83, 0.56); ways[1] = vec2(-0.47, 0.88); ways[2] = vec2(0.98, -0.2); ways[3] = vec2(0.3, 0.95);
            float fine = 1.0;
            for (int i = 0; i < 4; i++) {
              // Waves narrower than a pixel are left out: they would only glitter.
              float perPixel = fwidth(dot(vPlace.xz, ways[i])) * k * fine;
              float seen = 1.0 - smoothstep(0.6, 2.2, perPixel);
              slope += ways[i] * cos(dot(vPlace.xz, ways[i]) * k * fine + wavePhase * sqrt(fine) + float(i) * 1.7) * waves * k * seen;
              fine *= 1.73;
            }
            normal = normalize(normal + (viewMatrix * vec4(-slope.x, 0.0, -slope.y, 0.0)).xyz);
          }`,
        );
    },
    (frame) => {
      const { state, plan } = source;
      uniforms.waves.value = numberAt(source, frame, "waves");
      const length = numberAt(source, frame, "waveLength");
      uniforms.waveLength.value = length;
      const run = state.simulation.integralAt(plan.at.waveSpeed!, frame.timeS, frame.values);
      uniforms.wavePhase.value = -((2 * Math.PI * run) / length);
      const material = (made.object!.root as Mesh).material as MeshStandardMaterial;
      material.opacity = numberAt(source, frame, "opacity");
      setTransparent(material, material.opacity < 1);
    },
  );
  return made.object;
}
