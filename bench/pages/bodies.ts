import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";

/** Steps of 500 bodies that fall on a floor, pile up and come to rest. */
const scene = newScene("Bench");
const floor = newObject("floor", "ground", "Floor");
const pile = newObject("pile", "box", "Pile");
pile.settings = { solid: "moving", formation: "grid" };
pile.rest = { position: [0, 2, 0], size: [0.5, 0.5, 0.5], copies: 500, spacing: 0.6, placeSpread: 0.3 };
scene.objects.push(floor, pile);

await loadPartsFor(scene);
const state = new SceneState(scene);
const times: number[] = [];
for (let step = 1; step <= 480; step++) {
  const before = performance.now();
  state.advanceTo(step / 120);
  times.push(performance.now() - before);
}
const sorted = [...times].sort((a, b) => a - b);
const at = (share: number) => sorted[Math.floor(share * (sorted.length - 1))].toFixed(2);
const row = (what: string, figure: string) => console.log(`${what.padEnd(46)} ${figure}`);
row("a step of 500 bodies, over four seconds", `median ${at(0.5)} ms, 95 % under ${at(0.95)} ms`);

const seeks: number[] = [];
for (const timeS of [3.4, 0.6, 2.1, 1.3, 3.9, 0.2]) {
  const before = performance.now();
  state.advanceTo(timeS);
  seeks.push(performance.now() - before);
}
row("a seek among 500 bodies, all steps at once", `${Math.max(...seeks).toFixed(0)} ms at most`);
const slices: number[] = [];
for (const timeS of [3.4, 0.6, 2.1, 1.3, 3.9, 0.2]) {
  let isDone = false;
  while (!isDone) {
    const before = performance.now();
    state.simulation.mayGoOn = () => performance.now() - before < 24;
    state.invalidate();
    state.advanceTo(timeS);
    slices.push(performance.now() - before);
    isDone = state.simulation.behindS === 0;
  }
}
row("the same in slices of 24 ms", `${Math.max(...slices).toFixed(0)} ms at a time at most`);
