import type { NumbersPlan } from "@bumbrel/core/analyse/planned";
import type { MeasureKind } from "@bumbrel/core/strand/measures/table";

/** Code for some measures only, once it has been loaded. */
export const later: Partial<typeof import("./laterPitch") & typeof import("./laterBeats")> = {};

/** Which measures need which file. */
const NEEDED: [kinds: readonly MeasureKind[], load: () => Promise<object>][] = [
  [["pitch", "certainty"], () => import("./laterPitch")],
  [["beatPhase", "barPhase"], () => import("./laterBeats")],
];

/** Loads what only some plans need, each from a file of its own. */
export async function loadLater({ strands }: NumbersPlan): Promise<void> {
  for (const [kinds, load] of NEEDED)
    if (strands.some(({ measure }) => kinds.includes(measure.kind))) Object.assign(later, await load());
}
