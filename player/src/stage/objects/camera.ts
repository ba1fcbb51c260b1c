import { smoothNoise } from "@bumbrel/core/dsp/maths/hash";
import { settingOf } from "@bumbrel/core/kinds/table";
import { PerspectiveCamera, Vector3 } from "three";
import {
  DEGREES,
  type Frame,
  numberAt,
  type ObjectSource,
  partsOfReadings,
  type RenderedObject,
} from "../renderedObject";

/** A drift comes round in some ten seconds; a shake goes to and fro some twelve times a second. */
const DRIFT_HZ = 0.12;
const SHAKE_HZ = 12;

export function makeCamera(source: ObjectSource): RenderedObject & { root: PerspectiveCamera } {
  const root = new PerspectiveCamera(45, 1, 0.05, 2000);
  const target = new Vector3();
  const arm = new Vector3();
  const up = new Vector3(0, 1, 0);
  const place = new Vector3();
  const wander = (frame: Frame, hz: number, axis: number) =>
    2 * smoothNoise(settingOf(source.object, "seed") as number, frame.timeS * hz, 37 * axis + hz) - 1;
  let orbit = 0;
  const read = (): Record<string, number | number[]> => ({
    position: root.position.toArray(),
    target: target.toArray(),
    fieldOfView: root.fov,
    orbit,
  });
  return {
    root,
    update(frame) {
      const at = (key: string, axis = 0) => numberAt(source, frame, key, axis);
      target.set(at("target", 0), at("target", 1), at("target", 2));
      place.set(at("position", 0), at("position", 1), at("position", 2));
      const { state, plan } = source;
      orbit = at("orbit") + state.simulation.integralAt(plan.at.orbitSpeed!, frame.timeS, frame.values);
      arm
        .copy(place)
        .sub(target)
        .applyAxisAngle(up, orbit * DEGREES);
      place.copy(target).add(arm);
      const [drift, shake] = [at("drift"), at("shake")];
      if (drift > 0 || shake > 0) {
        place.x += drift * wander(frame, DRIFT_HZ, 1) + shake * wander(frame, SHAKE_HZ, 1);
        place.y += drift * wander(frame, DRIFT_HZ, 2) + shake * wander(frame, SHAKE_HZ, 2);
        place.z += drift * wander(frame, DRIFT_HZ, 3) + shake * wander(frame, SHAKE_HZ, 3);
      }
      root.position.copy(place);
      root.lookAt(target);
      root.userData.targetM = place.distanceTo(target);
      root.updateMatrixWorld();
      const fov = at("fieldOfView");
      if (root.fov !== fov) {
        root.fov = fov;
        root.updateProjectionMatrix();
      }
    },
    read: (property) => read()[property],
    drawnParts: () => ({ ...partsOfReadings(read()), quaternion: root.quaternion.toArray() }),
    dispose() {},
  };
}
