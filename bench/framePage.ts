import { newBinding, newObject, newScene, newStrand } from "@bumbrel/core/scene/create";
import { Evaluator } from "@bumbrel/core/scene/evaluate";
import { Stage } from "@bumbrel/player/stage/stage";

/** Script time of frames of a stage with a ring of 512 copies whose height moves, medians in ms. */
export function measureFrames(): { evaluateAndApplyMs: number; withDrawCallsMs: number } {
  const scene = newScene("Bench");
  scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
  const ring = newObject("ring", "ring", "Ring");
  ring.rest = { count: 512 };
  scene.objects.push(ring, newObject("lamp", "pointLight", "Lamp"));
  for (const property of ["growth", "radius", "emissionStrength", "colour"]) {
    scene.bindings.push(newBinding(`b-${property}`, "s", ring, property));
  }
  const values = Float32Array.from({ length: 1000 }, (_, i) => 0.5 + 0.5 * Math.sin(i * 0.3));
  const tracks = new Map([["s", { width: 1, values }]]);
  const evaluator = new Evaluator(scene);
  const out = new Float64Array(evaluator.size);
  const canvas = document.createElement("canvas");
  const stage = new Stage(canvas);
  stage.resize(320, 200, 1);
  stage.setScene(scene, evaluator);
  const apply: number[] = [];
  const whole: number[] = [];
  for (let frame = 0; frame < 360; frame++) {
    const before = performance.now();
    evaluator.evaluateInto(tracks, frame / 60, out);
    stage.apply(out);
    const between = performance.now();
    stage.render();
    const after = performance.now();
    if (frame < 60) continue;
    apply.push(between - before);
    whole.push(after - before);
  }
  const median = (times: number[]) => times.sort((a, b) => a - b)[Math.floor(times.length / 2)];
  return { evaluateAndApplyMs: median(apply), withDrawCallsMs: median(whole) };
}

declare global {
  interface Window {
    measureFrames: typeof measureFrames;
  }
}
window.measureFrames = measureFrames;
