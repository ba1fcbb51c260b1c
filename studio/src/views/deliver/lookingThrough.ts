import { flashStretches } from "@bumbrel/core/check/flash";
import type { LookedThrough } from "@bumbrel/player/film/lookThrough";
import { create } from "zustand";
import { fetchTake, takesOf } from "../../session/edits/takes";
import type { Session } from "../../session/session";
import { Cancelled, Pace } from "./pace";

interface Looking {
  projectId: string | undefined;
  /** Share that is done, while somebody waits for it. */
  share: number | undefined;
  result: LookedThrough | undefined;
  failure: string | undefined;
}
const NOTHING: Looking = { projectId: undefined, share: undefined, result: undefined, failure: undefined };

/** Result of the last look through the whole tape. */
export const useLookedThrough = create<Looking>(() => NOTHING);

let pace: Pace | undefined;
export const stopLooking = (): void => pace?.cancel();

/** Looks through every frame and sample of the scene, and notes in it what flashes. */
export async function lookThroughScene({ projectId, document, player, playback }: Session): Promise<void> {
  const { scene } = document;
  const own = new Pace();
  pace = own;
  useLookedThrough.setState({ ...NOTHING, projectId, share: 0 });
  try {
    const { lookThrough } = await import("@bumbrel/player/film/lookThrough");
    await player.whenLoaded();
    const asset = takesOf(scene).find(({ id }) => id === scene.takeId);
    const take = asset && (await fetchTake(asset));
    const toS = take ? take.lengthS : player.transport.durationS;
    if (!(toS > 0)) throw new Error("There is no tape to look through: add a sound, or choose a take.");
    const stretch = { fromS: 0, toS };
    const result = await lookThrough(playback.filmSource(take), stretch, own, (share) => {
      const shown = Math.floor(share * SHOWN_SHARES) / SHOWN_SHARES;
      if (shown !== useLookedThrough.getState().share) useLookedThrough.setState({ share: shown });
    });
    useLookedThrough.setState({ share: undefined, result });
    const stretches = flashStretches(result.flashes).slice(0, MOST_STRETCHES);
    const most = result.flashes.reduce((sum, { general, red }) => Math.max(sum, general, red), 0);
    document.edit("note what flashes", (draft) => {
      draft.flashing = { most, stretches };
    });
  } catch (error) {
    if (error instanceof Cancelled) useLookedThrough.setState(NOTHING);
    else useLookedThrough.setState({ share: undefined, failure: (error as Error).message });
  } finally {
    pace = undefined;
  }
}

/** The share that is done is shown in so many steps: more often, showing it takes longer than looking. */
const SHOWN_SHARES = 50;
/** As many as a document keeps. */
const MOST_STRETCHES = 64;
