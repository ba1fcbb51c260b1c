import {
  Color,
  Mesh,
  MeshStandardMaterial,
  PlaneGeometry,
  type WebGLProgramParametersWithUniforms,
} from "three";
import { BLURRED_MIRROR, setTransparent } from "../copyMaterial";
import { CONTACT_AT, ContactShadow } from "../light/contactShadow";
import { Mirror } from "../light/mirror";
import {
  type Frame,
  numberAt,
  type ObjectSource,
  partsOfReadings,
  type RenderedObject,
} from "../renderedObject";
import { setColour } from "./lights";

/** Blur of the reflection in the roughest surface, in halvings of its image. */
const MOST_BLUR = 5;

/** Mixes in what is mirrored: the more, the flatter the surface is looked at. */
const REFLECT = `
  if (reflection > 0.0) {
    vec4 mirrorAt = mirrorPlaces * vec4(vPlace, 1.0);
    // Waves shift what is mirrored along the surface, far less across than towards the eye.
    vec3 lean = (vec4(normal, 0.0) * viewMatrix).xyz;
    vec2 mirrorUv = mirrorAt.xy / mirrorAt.w + vec2(lean.x, lean.z) * vec2(0.12, 0.22);
    float facing = abs(dot(normal, normalize(vViewPosition)));
    float share = reflection * mix(0.12, 1.0, pow(1.0 - facing, 2.2));
    vec3 mirrored = textureLod(mirrorMap, clamp(mirrorUv, 0.001, 0.999), roughnessFactor * ${MOST_BLUR}.0).rgb;
    outgoingLight = mix(outgoingLight, mirrored, share);
  }`;

/** Keeps light away where things are near. */
const DARKEN = "if (contactShadow > 0.0) outgoingLight *= 1.0 - contactShadow * contactAt(vPlace);";

/** A flat surface of the surroundings, which may mirror what stands on it; `inject` gives it lines or waves. */
function flat(
  source: ObjectSource,
  uniforms: Record<string, { value: unknown }>,
  inject: (shader: WebGLProgramParametersWithUniforms) => void,
  more: (frame: Frame) => void,
): RenderedObject {
  const material = new MeshStandardMaterial();
  const mirror = new Mirror();
  const contact = source.object.kind === "ground" ? new ContactShadow() : undefined;
  const edge = { reflection: { value: 0 }, edgeFade: { value: 0 }, contactShadow: { value: 0 } };
  const wanted = { reflection: 0, contactShadow: 0, contactReach: 0 };
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms, edge, mirror.uniforms, contact?.uniforms);
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\nvarying vec3 vPlace; varying vec2 vAway;")
      .replace(
        "#include <begin_vertex>",
        "#include <begin_vertex>\nvPlace = (modelMatrix * vec4(position, 1.0)).xyz; vAway = position.xz * 2.0;",
      );
    shader.fragmentShader = shader.fragmentShader
      .replace(
        "#include <common>",
        `#include <common>
        varying vec3 vPlace; varying vec2 vAway;
        uniform sampler2D mirrorMap; uniform mat4 mirrorPlaces; uniform float reflection; uniform float edgeFade;
        ${contact ? `uniform float contactShadow; ${CONTACT_AT}` : ""}`,
      )
      .replace(
        "#include <lights_fragment_end>",
        `${contact ? BLURRED_MIRROR : ""}\n#include <lights_fragment_end>`,
      )
      .replace("#include <opaque_fragment>", `${contact ? DARKEN : ""}${REFLECT}\n#include <opaque_fragment>`)
      .replace(
        "#include <dithering_fragment>",
        `#include <dithering_fragment>
        if (edgeFade > 0.0) gl_FragColor.a *= 1.0 - smoothstep(1.0 - edgeFade, 1.0, length(vAway));`,
      );
    inject(shader);
  };
  material.customProgramCacheKey = () => source.object.kind;
  const geometry = new PlaneGeometry(1, 1).rotateX(-Math.PI / 2);
  const root = new Mesh(geometry, material);
  root.receiveShadow = true;
  const read = (): Record<string, number | number[]> => ({
    position: root.position.toArray(),
    extent: root.scale.x,
    colour: material.color.toArray(),
    roughness: material.roughness,
    metalness: material.metalness,
    opacity: material.opacity,
    ...wanted,
    edgeFade: edge.edgeFade.value,
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
      wanted.reflection = numberAt(source, frame, "reflection");
      if (contact) {
        wanted.contactShadow = numberAt(source, frame, "contactShadow");
        wanted.contactReach = numberAt(source, frame, "contactReach");
      }
      edge.edgeFade.value = numberAt(source, frame, "edgeFade");
      more(frame);
      setTransparent(material, material.opacity < 1 || edge.edgeFade.value > 0);
    },
    beforeImage(renderer, stage, eye, { reflections, contacts }) {
      edge.reflection.value = 0;
      edge.contactShadow.value = 0;
      // Seen from below there is nothing to mirror, nor to shade.
      if (!root.visible || eye.position.y <= root.position.y) return;
      const { reflection, contactShadow, contactReach } = wanted;
      if (contact && contactShadow > 0 && contacts > 0) {
        contact.draw(renderer, stage, eye, root, contactReach, contacts);
        edge.contactShadow.value = contactShadow;
      }
      if (reflection <= 0 || reflections === 0) return;
      mirror.draw(renderer, stage, eye, root, reflections);
      edge.reflection.value = reflection;
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
      mirror.dispose();
      contact?.dispose();
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
    },
  );
  return made.object;
}
