import { SceneAnalysis } from "@bumbrel/core/analyse/sceneAnalysis";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics, type Sound } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { makeRegattaNight } from "@bumbrel/demo/scenes/regattaNight";
import { MeasurerThreads } from "../../studio/src/analysis/measurerThreads";

/** Strands that share nothing with each other. */
const KINDS = ["pitch", "momentary", "percussive", "beatPhase", "band", "width"] as const;

/** Milliseconds until all strands of a scene have their numbers, with so many threads beside this one. */
async function strandsMs(threads: number, workerCode: string): Promise<number> {
  const samples = makeRegattaNight(1).mix[0];
  const song: Sound = { ...newSoundBasics("song", "Song"), kind: "file", storedId: "song" };
  const scene = newScene("Quay");
  scene.sounds = [song];
  scene.strands = KINDS.map((kind) =>
    newStrand(scene, kind, kind, { kind: "sound", id: "song", tap: "before" }, MEASURES[kind].defaults),
  );
  const url = URL.createObjectURL(new Blob([workerCode]));
  const workers: Worker[] = [];
  const start = () => {
    const worker = new Worker(url);
    workers.push(worker);
    return worker;
  };
  const before = performance.now();
  await new Promise<void>((resolve) => {
    let isWorking = false;
    const work = async () => {
      if (isWorking) return;
      isWorking = true;
      while (analysis.work()) await new Promise((next) => setTimeout(next));
      isWorking = false;
      if (analysis.isDone) resolve();
    };
    const analysis = new SceneAnalysis({
      onNumbers: () => {},
      onWork: () => void work(),
      now: () => performance.now(),
      measurers: threads > 0 ? new MeasurerThreads(threads, start) : undefined,
    });
    analysis.setSound(song, { channels: [samples], mono: samples });
    analysis.setScene(scene);
    void work();
  });
  for (const worker of workers) worker.terminate();
  return performance.now() - before;
}

Object.assign(window, { strandsMs });
