import {
  AmbientLight,
  type Color,
  DirectionalLight,
  type Light,
  Matrix4,
  Object3D,
  PointLight,
  SpotLight,
} from "three";
import {
  DEGREES,
  type Frame,
  numberAt,
  type ObjectSource,
  partsOfReadings,
  type RenderedObject,
} from "../renderedObject";

const matrix = new Matrix4();

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

function lightObject<L extends Light>(
  source: ObjectSource,
  light: L,
  root: Object3D,
  more: (frame: Frame) => void,
  extra: () => Record<string, number | number[]> = () => ({}),
): RenderedObject {
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
  return lightObject(
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
  return lightObject(
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
  return lightObject(source, light, light, () => {});
}

export function makeAmbientLight(source: ObjectSource): RenderedObject {
  const light = new AmbientLight();
  return lightObject(source, light, light, () => {});
}
