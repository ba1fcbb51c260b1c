/**
 * Random walks and teleports through the worked examples that are walked in, on a slow processor: frames of 16 ms to half a
 * second. A visitor is never below the place where they arrive, which is the lowest that can be stood on, and never inside of
 * anything solid.
 *
 * Usage: walks MINUTES
 */

import type { Scene } from "@bumbrel/core/document/scene";
import { restingPose } from "@bumbrel/core/document/take/poses";
import { Take } from "@bumbrel/core/document/take/take";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { settingOf } from "@bumbrel/core/kinds/table";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { fogBellScene } from "@bumbrel/demo/scenes/fogBellScene";
import { slipwayScene } from "@bumbrel/demo/scenes/slipwayScene";
import { throwAlong } from "@bumbrel/player/visit/teleport";
import { Walker } from "@bumbrel/player/visit/walker";

const minutes = Number(process.argv[2] ?? 10);
const anySound = new Proxy({}, { get: () => "sound" }) as Record<string, string>;
/** Feet may sink so far into what they stand on, metres. */
const SINK_M = 0.05;
let faults = 0;

async function visit(name: string, scene: Scene, standY: number): Promise<void> {
  await loadPartsFor(scene);
  const state = new SceneState(scene);
  const take = new Take();
  take.isRun = true;
  state.setTake(take);
  const world = state.plan.of("world")!.object;
  const eye = settingOf(world, "eyeHeight") as number;
  const floorY = settingOf(world, "floorHeight") as number;
  const landsOn = settingOf(world, "teleports") === "solid" ? undefined : floorY;
  const walker = new Walker();
  walker.stand(
    settingOf(world, "arriveAt") as [number, number, number],
    settingOf(world, "arriveTurn") as number,
  );
  const random = seededRandom(11);
  let [timeS, lowest, teleports, refused, inside] = [0, Number.POSITIVE_INFINITY, 0, 0, 0];
  const extent = { x: [0, 0], z: [0, 0] };
  while (timeS < minutes * 60) {
    const passedS = random() < 0.2 ? 0.5 * random() : 0.016;
    timeS += passedS;
    const bodies = state.simulation.awaitsBodies ? ("coming" as const) : state.simulation.answering?.bodies;
    if (random() < 0.02) walker.turn(360 * random(), 0);
    if (random() < 0.012 && bodies && bodies !== "coming") {
      const [yaw, pitch] = [2 * Math.PI * random(), (random() - 0.6) * 1.6];
      const way: [number, number, number] = [
        Math.cos(pitch) * Math.sin(yaw),
        Math.sin(pitch),
        Math.cos(pitch) * Math.cos(yaw),
      ];
      const from: [number, number, number] = [walker.x, walker.y + eye - 0.2, walker.z];
      const { landing } = throwAlong(
        { from, way },
        { scale: 1, feetY: walker.y, eye, floorY: landsOn, bodies },
      );
      if (landing) {
        walker.stand([landing.x, landing.y, landing.z], walker.yaw);
        teleports++;
      } else refused++;
    }
    walker.walk({ ahead: 1, right: random() - 0.5 }, 2, passedS, eye + 0.1, floorY, bodies);
    take.poses.head.record(state.simulation.nextStep, {
      ...restingPose(),
      x: walker.x,
      y: walker.y + eye,
      z: walker.z,
      yaw: walker.yaw,
    });
    state.advanceTo(timeS);
    if (timeS < 1) continue;
    lowest = Math.min(lowest, walker.y);
    extent.x = [Math.min(extent.x[0], walker.x), Math.max(extent.x[1], walker.x)];
    extent.z = [Math.min(extent.z[0], walker.z), Math.max(extent.z[1], walker.z)];
    const { bodies: solid } = state.simulation.answering ?? {};
    if (solid && !solid.isFree([walker.x, walker.y, walker.z], eye + 0.1)) {
      inside++;
      faults++;
    }
    if (walker.y >= standY - SINK_M) continue;
    faults++;
    if (faults < 5)
      console.log(
        `  FAULT: ${name}: at ${timeS.toFixed(1)} s feet at ${[walker.x, walker.y, walker.z].map((one) => one.toFixed(2))}`,
      );
  }
  const range = ([low, high]: number[]) => `${low.toFixed(1)} to ${high.toFixed(1)}`;
  console.log(
    `${`walks, ${name}`.padEnd(24)} ${minutes} min; lowest ${lowest.toFixed(3)} m; x ${range(extent.x)}, z ${range(extent.z)} m; ${teleports} teleports, ${refused} refused; ${inside} frames inside of something`,
  );
}

const arriveY = (scene: Scene) => {
  const world = scene.objects.find(({ kind }) => kind === "world")!;
  return (world.settings.arriveAt as unknown as [number, number, number])[1];
};
for (const [name, scene] of [
  ["Fog Bell", fogBellScene(anySound)],
  ["Slipway", slipwayScene(anySound)],
] as const)
  await visit(name, scene, arriveY(scene));
process.exitCode = faults > 0 ? 1 : 0;
