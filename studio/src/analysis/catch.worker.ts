import { type Catch, HitFinder } from "@bumbrel/core/strand/catch";
import { CachedSpectra } from "@bumbrel/core/strand/spectrumSource";

export type ToCatch = { kind: "samples"; samples: Float32Array } | { kind: "marks"; marksS: number[] };
export type FromCatch =
  | { kind: "progress"; share: number }
  | { kind: "caught"; marksS: number[]; result: Catch }
  | { kind: "failed"; message: string };

let finder: HitFinder | undefined;
let newest: number[] | undefined;

const send = (message: FromCatch) => postMessage(message);

addEventListener("message", ({ data }: MessageEvent<ToCatch>) => {
  if (data.kind === "samples") {
    finder = new HitFinder(data.samples, new CachedSpectra(0), (share) => send({ kind: "progress", share }));
    send({ kind: "progress", share: 1 });
    return;
  }
  newest = data.marksS;
  // Marks that have come meanwhile make earlier ones needless.
  setTimeout(() => {
    const marksS = newest;
    newest = undefined;
    if (!marksS || !finder) return;
    try {
      send({ kind: "caught", marksS, result: finder.find(marksS) });
    } catch (error) {
      send({ kind: "failed", message: (error as Error).message });
    }
  });
});
