import { buffer } from "node:stream/consumers";
import type { LoadedProject } from "@bumbrel/api/contracts";
import { type FilmOrder, piecesOf } from "@bumbrel/core/document/film/filmPieces";
import { runnableScene } from "@bumbrel/core/document/programsAllowed";
import type { Scene } from "@bumbrel/core/document/scene";
import { tapeLengthS } from "@bumbrel/core/document/strands/tapeLength";
import type { TakeFile } from "@bumbrel/core/document/take/takeFile";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import { HttpProblem } from "../problem/problem";
import type { AssetStore } from "../store/assets";

/** Pieces of a film, each two seconds of it: more than five hours. */
const MOST_PIECES = 10_000;
/** A film may end so long after the last sample, s: its length is a whole number of frames. */
const PAST_END_S = 1;

/**
 * Makes sure that a film can be ordered: it lies on the tape, or within the take that it shows, and has no more pieces than
 * are kept track of.
 *
 * @returns the scene as it may run in it
 * @throws HttpProblem 422 saying what is wrong
 */
export async function orderedScene(
  project: LoadedProject,
  assets: AssetStore,
  { settings, stretch, title }: FilmOrder,
): Promise<Scene> {
  const scene = runnableScene(project);
  if (!(stretch.toS > stretch.fromS))
    throw new HttpProblem(422, "film-empty", "The film would have no length. Choose a longer stretch.");
  const takeS = await takeLengthS(scene, assets);
  const lengthS = takeS ?? tapeLengthS(scene, (storedId) => project.facts[storedId]?.durationS);
  if (stretch.toS > lengthS + PAST_END_S)
    throw new HttpProblem(
      422,
      "film-too-long",
      `The ${takeS === undefined ? "tape" : "take"} is ${lengthS.toFixed(1)} s long, and the film would end at ${stretch.toS} s. Choose a stretch that ends on it.`,
    );
  const { length } = piecesOf({ settings, stretch, title }).names;
  if (length > MOST_PIECES)
    throw new HttpProblem(
      422,
      "film-too-long",
      `The film would have ${length} pieces, and ${MOST_PIECES} are kept track of. Order it in several stretches.`,
    );
  return scene;
}

/** Seconds of the take that a scene shows; `undefined` for one that shows none. */
async function takeLengthS(
  { takeId, assets: listed }: Scene,
  assets: AssetStore,
): Promise<number | undefined> {
  const asset = listed.find(({ id }) => id === takeId);
  const stored = asset && (await assets.get(asset.storedId));
  if (!stored) return undefined;
  const bytes = await buffer(assets.bytes(stored.blobId, 0, stored.byteLength - 1));
  const { lengthSteps } = JSON.parse(bytes.toString("utf8")) as TakeFile;
  return lengthSteps / STEPS_A_SECOND;
}
