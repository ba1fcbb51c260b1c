import type { MeasureKind } from "../table";

/**
 * Code that only some measures need. Delivered pages and the runtime for games load it by itself: their build puts `later`
 * in the place of its imports.
 */
export const later: Partial<
  typeof import("./laterPitch") &
    typeof import("./laterBeats") &
    typeof import("./laterHits") &
    typeof import("./laterParts") &
    typeof import("./laterWeighted")
> = {};

/** Which measures need which part. */
export const LATER_PARTS = {
  pitch: { kinds: ["pitch", "certainty"], load: () => import("./laterPitch") },
  beats: { kinds: ["beatPhase", "barPhase", "beatCertainty"], load: () => import("./laterBeats") },
  parts: { kinds: ["percussive", "harmonic"], load: () => import("./laterParts") },
  weighted: { kinds: ["aWeighted", "momentary", "shortTerm"], load: () => import("./laterWeighted") },
  hits: { kinds: ["hits"], load: () => import("./laterHits") },
} as const satisfies Record<string, { kinds: readonly MeasureKind[]; load: () => Promise<object> }>;
export type LaterPart = keyof typeof LATER_PARTS;

/** A strand as far as it says which code it needs; what it listens to is in the document, its part in plans. */
interface Needing {
  measure: { kind: MeasureKind };
  part?: unknown;
  listensTo?: object;
}
const listensToPart = ({ part, listensTo }: Needing) =>
  part !== undefined || (listensTo !== undefined && "part" in listensTo);

/** The parts that some strands need. */
export const laterPartsOf = (strands: readonly Needing[]): LaterPart[] =>
  (Object.keys(LATER_PARTS) as LaterPart[]).filter((part) =>
    strands.some(
      (strand) =>
        (LATER_PARTS[part].kinds as readonly MeasureKind[]).includes(strand.measure.kind) ||
        (part === "parts" && listensToPart(strand)),
    ),
  );

/** Loads what some strands need. */
export async function loadLater(strands: Parameters<typeof laterPartsOf>[0]): Promise<void> {
  for (const part of laterPartsOf(strands)) Object.assign(later, await LATER_PARTS[part].load());
}
