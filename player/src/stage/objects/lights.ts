import { settingOf } from "@bumbrel/core/kinds/table";
import {
  AmbientLight,
  type Color,
  DirectionalLight,
  type Light,
  Matrix4,
  Object3D,
  PointLight,
  SpotLight,
  Vector3,
} from "three";
import type { ShadowLight } from "../light/shadows";
import {
  DEGREES,
  type Frame,
  numberAt,
  type ObjectSource,
  partsOfReadings,
  type RenderedObject,
} from "../renderedObject";

const matrix = new Matrix4();
const LANTERN_M = 0.7;

/** Evaluated colours are linear light already, which is what three.js works in. */
export function setColour(colour: Color, source: ObjectSource, frame: Frame, key: string): void {
  colour.r = numberAt(source, frame, key, 0);
  colour.g = numberAt(source, frame, key, 1);
  colour.b = numberAt(source, frame, key, 2);
}

/** Stands where the first root of an object is. */
export function standAtRoot(root: Object3D, { state: { placing }, plan }: ObjectSource): void {
  matrix.fromArray(placing.rootsOf(plan).matrices);
  matrix.decompose(root.position, root.quaternion, root.scale);
}

/** A light that can cast shadows, as the stage hands them out. */
export interface CastingLight extends RenderedObject {
  casting: ShadowLight;
}

/** Blur of a shadow's edge at the greatest softness, in pixels of its map. */
const MOST_BLUR = 12;

function castingLight<L extends ShadowLight["light"]>(
  source: ObjectSource,
  light: L,
  root: Object3D,
  more: (frame: Frame) => void,
  extra?: () => Record<string, number | number[]>,
): CastingLight {
  const castsShadows = settingOf(source.object, "castsShadows") === true;
  light.shadow.bias = -0.0004;
  light.shadow.normalBias = 0.03;
  const object = lightObject(
    source,
    light,
    root,
    (frame) => {
      light.shadow.radius = 1 + MOST_BLUR * numberAt(source, frame, "shadowSoftness");
      more(frame);
    },
    () => ({ shadowSoftness: (light.shadow.radius - 1) / MOST_BLUR, ...extra?.() }),
  );
  return { ...object, casting: { light, root, castsShadows } };
}

function lightObject<L extends Light>(
  source: ObjectSource,
  light: L,
  root: Object3D,
  more: (frame: Frame) => void,
  extra: () => Record<string, number | number[]> = () => ({}),
): RenderedObject {
  // Objects of every layer are lit, also those that are drawn by themselves.
  light.layers.enableAll();
  const read = (): Record<string, number | number[]> => ({
    position: light.position.toArray(),
    colour: light.color.toArray(),
    intensity: light.intensity,
    visibility: Number(root.visible),
    ...extra(),
  });
  return {
    root,
    update(frame) {
      root.visible = source.state.placing.isShown(source.plan, frame.values);
      if (source.plan.at.position) standAtRoot(light, source);
      setColour(light.color, source, frame, "colour");
      light.intensity = numberAt(source, frame, "intensity");
      more(frame);
    },
    read: (property) => read()[property],
    drawnParts: () => partsOfReadings(read()),
    dispose: () => light.dispose(),
  };
}

export function makePointLight(source: ObjectSource): RenderedObject {
  const light = new PointLight();
  // A lamp can be inside a lantern: what is nearer to it casts no shadow.
  light.shadow.camera.near = LANTERN_M;
  return castingLight(
    source,
    light,
    light,
    (frame) => {
      light.distance = numberAt(source, frame, "reach");
    },
    () => ({ reach: light.distance }),
  );
}

export function makeSpotLight(source: ObjectSource): RenderedObject {
  const light = new SpotLight();
  const root = new Object3D();
  root.add(light, light.target);
  return castingLight(
    source,
    light,
    root,
    (frame) => {
      light.target.position.set(
        numberAt(source, frame, "target", 0),
        numberAt(source, frame, "target", 1),
        numberAt(source, frame, "target", 2),
      );
      light.angle = numberAt(source, frame, "angle") * DEGREES;
      light.penumbra = numberAt(source, frame, "softness");
      light.distance = numberAt(source, frame, "reach");
    },
    () => ({
      target: light.target.position.toArray(),
      angle: light.angle / DEGREES,
      softness: light.penumbra,
      reach: light.distance,
    }),
  );
}

export function makeSunLight(source: ObjectSource): RenderedObject {
  const light = new DirectionalLight();
  const root = new Object3D();
  root.add(light, light.target);
  // The place it shines from: its own position moves with its shadow.
  const from = new Vector3();
  light.userData.from = from;
  return castingLight(
    source,
    light,
    root,
    () => {
      from.copy(light.position);
      light.target.position.set(0, 0, 0);
    },
    () => ({ position: from.toArray() }),
  );
}

export function makeAmbientLight(source: ObjectSource): RenderedObject {
  const light = new AmbientLight();
  return lightObject(source, light, light, () => {});
}
