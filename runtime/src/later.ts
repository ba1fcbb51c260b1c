import type { NumbersPlan } from "@bumbrel/core/analyse/planned";

/** The pitch finder, once it has been loaded. */
export const later: Partial<typeof import("./pitch")> = {};

/** Loads what only some plans need, each from a file of its own. */
export async function loadLater({ strands }: NumbersPlan): Promise<void> {
  const needsPitch = strands.some(({ measure: { kind } }) => kind === "pitch" || kind === "certainty");
  if (needsPitch) Object.assign(later, await import("./pitch"));
}
