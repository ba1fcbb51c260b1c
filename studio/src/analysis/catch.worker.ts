import { type PackedSamples, unpackSamples } from "@bumbrel/core/dsp/maths/samples";
import type { Sliced } from "@bumbrel/core/dsp/maths/slices";
import { ownError } from "@bumbrel/core/errors";
import { CachedSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { type Catch, HitFinder } from "@bumbrel/core/strand/hits/catch";

export type ToCatch =
  | { kind: "samples"; samples: PackedSamples }
  | { kind: "marks"; marksS: number[]; othersS: number[] };
export type FromCatch =
  | { kind: "progress"; share: number }
  | { kind: "caught"; search: number; result: Catch }
  | { kind: "failed"; message: string };

/** Milliseconds between two looks at newer marks. */
const SLICE_MS = 12;
let ready: HitFinder | undefined;
let newest: Extract<ToCatch, { kind: "marks" }> | undefined;
let searches = 0;

const send = (message: FromCatch) => postMessage(message);

addEventListener("message", ({ data }: MessageEvent<ToCatch>) => {
  if (data.kind === "samples") {
    void prepare(data.samples);
    return;
  }
  newest = data;
  searches++;
  if (ready) void search(ready);
});

async function prepare(packed: PackedSamples): Promise<void> {
  const finder = new HitFinder(unpackSamples(packed), new CachedSpectra(0));
  await inSlices(
    finder.prepare((share) => send({ kind: "progress", share })),
    () => true,
  );
  ready = finder;
  send({ kind: "progress", share: 1 });
  void search(finder);
}

/** Searches for the newest marks; newer ones stop a search. */
async function search(finder: HitFinder): Promise<void> {
  const wanted = newest;
  if (!wanted) return;
  const search = searches;
  try {
    const result = await inSlices(finder.search(wanted.marksS, wanted.othersS), () => newest === wanted);
    if (result) send({ kind: "caught", search, result });
  } catch (error) {
    const inPlace = {
      code: "catch-failed",
      what: "looking for the hits stopped in the middle",
      where: "",
      remedy: "Mark them again, or other ones",
    };
    send({ kind: "failed", message: ownError(error, inPlace).message });
  }
}

/** Works in slices for as long as the result is wanted. */
async function inSlices<T>(work: Sliced<T>, isWanted: () => boolean): Promise<T | undefined> {
  for (let before = performance.now(); isWanted(); ) {
    const { done, value } = work.next();
    if (done) return value;
    if (performance.now() - before < SLICE_MS) continue;
    await new Promise((resolve) => setTimeout(resolve));
    before = performance.now();
  }
  return undefined;
}
