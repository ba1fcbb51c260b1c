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
import { DEGREES, type Frame, numberAt, type Source, type Thing } from "../thing";

const matrix = new Matrix4();

/** Evaluated colours are linear light already, which is what three.js works in. */
export function setColour(colour: Color, source: Source, frame: Frame, key: string): void {
  colour.r = numberAt(source, frame, key, 0);
  colour.g = numberAt(source, frame, key, 1);
  colour.b = numberAt(source, frame, key, 2);
}

/** Stands where the first root of an object is. */
export function standAtRoot(root: Object3D, { placing, plan }: Source): void {
  matrix.fromArray(placing.rootsOf(plan).matrices);
  matrix.decompose(root.position, root.quaternion, root.scale);
}

function lightThing<L extends Light>(
  source: Source,
  light: L,
  root: Object3D,
  more: (frame: Frame) => void,
  extra: () => Record<string, number | number[]> = () => ({}),
): Thing {
  const read = (): Record<string, number | number[]> => ({
    position: light.position.toArray(),
    colour: light.color.toArray(),
    intensity: light.intensity,
    visibility: Number(root.visible),
    ...extra(),
  });
  return {
    root,
    apply(frame) {
      root.visible = source.placing.isShown(source.plan, frame.values);
      if (source.plan.at.position) standAtRoot(light, source);
      setColour(light.color, source, frame, "colour");
      light.intensity = numberAt(source, frame, "intensity");
      more(frame);
    },
    read: (property) => read()[property],
    drawn: () => Object.values(read()).flat(),
    dispose: () => light.dispose(),
  };
}

export function makePointLight(source: Source): Thing {
  const light = new PointLight();
  return lightThing(
    source,
    light,
    light,
    (frame) => {
      light.distance = numberAt(source, frame, "reach");
    },
    () => ({ reach: light.distance }),
  );
}

export function makeSpotLight(source: Source): Thing {
  const light = new SpotLight();
  const root = new Object3D();
  root.add(light, light.target);
  return lightThing(
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

export function makeSunLight(source: Source): Thing {
  const light = new DirectionalLight();
  return lightThing(source, light, light, () => {});
}

export function makeAmbientLight(source: Source): Thing {
  const light = new AmbientLight();
  return lightThing(source, light, light, () => {});
}
