import { isLive } from "../sound/kinds";
import type { Scene, Strand } from "./scene";

/** The strands that a strand is made of, in order; those that are gone are left out. */
export function sourcesOf(scene: Scene, { listensTo }: Strand): Strand[] {
  if (listensTo.kind !== "strands") return [];
  return listensTo.ids.flatMap((id) => scene.strands.find((one) => one.id === id) ?? []);
}

/** Whether a strand is made of another, directly or by way of others. */
export function isMadeOf(scene: Scene, strand: Strand, otherId: string, seen = new Set<string>()): boolean {
  if (seen.has(strand.id)) return false;
  seen.add(strand.id);
  return sourcesOf(scene, strand).some(
    (source) => source.id === otherId || isMadeOf(scene, source, otherId, seen),
  );
}

/**
 * Strands in an order in which each comes after those it is made of. A strand that is made of itself is left out.
 *
 * @param wanted  the strands that are needed; what they are made of comes along
 */
export function inMakingOrder(scene: Scene, wanted: readonly Strand[] = scene.strands): Strand[] {
  const out = new Set<Strand>();
  const visit = (strand: Strand) => {
    if (out.has(strand) || isMadeOf(scene, strand, strand.id)) return;
    for (const source of sourcesOf(scene, strand)) visit(source);
    out.add(strand);
  };
  for (const strand of wanted) visit(strand);
  return [...out];
}

/** Whether a strand's numbers are known only as they happen: it, or something it is made of, hears a live sound. */
export function happensLive(scene: Scene, strand: Strand): boolean {
  const { listensTo } = strand;
  if (listensTo.kind === "sound") {
    const sound = scene.sounds.find(({ id }) => id === listensTo.id);
    return sound !== undefined && isLive(sound);
  }
  if (isMadeOf(scene, strand, strand.id)) return false;
  return sourcesOf(scene, strand).some((source) => happensLive(scene, source));
}
