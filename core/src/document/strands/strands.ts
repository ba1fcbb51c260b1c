import { isLive } from "../../sound/kinds";
import type { Tuning } from "../../strand/tuning";
import type { Scene, Strand } from "../scene";

/** The strands of a scene and the strands each is made of. */
class StrandGraph {
  private readonly byId: ReadonlyMap<string, Strand>;
  private readonly sources = new Map<Strand, Strand[]>();

  constructor(scene: Scene) {
    // Of two with one id the first counts, as everywhere.
    this.byId = new Map([...scene.strands].reverse().map((strand) => [strand.id, strand]));
  }

  /** The strands that a strand is made of, in order; missing ones are skipped. */
  sourcesOf(strand: Strand): Strand[] {
    const { listensTo } = strand;
    if (listensTo.kind !== "strands") return [];
    let sources = this.sources.get(strand);
    if (!sources) {
      sources = listensTo.ids.flatMap((id) => this.byId.get(id) ?? []);
      this.sources.set(strand, sources);
    }
    return sources;
  }

  /** All that a strand is made of, directly or by way of others; itself too if it is made of itself. */
  allSourcesOf(strand: Strand): Set<Strand> {
    const found = new Set<Strand>();
    const open = [strand];
    for (let next = open.pop(); next; next = open.pop()) {
      for (const source of this.sourcesOf(next)) {
        if (found.has(source)) continue;
        found.add(source);
        open.push(source);
      }
    }
    return found;
  }
}

/** Everything that a strand's numbers depend on, beside what it listens to. */
export function tuningOf({ programs }: Pick<Scene, "programs">, strand: Strand): Tuning {
  const { measure, shaping, cues, listensTo } = strand;
  const part = "part" in listensTo ? { part: listensTo.part } : {};
  if (measure.kind !== "program") return { measure, shaping, cues, ...part };
  const code = programs.find(({ id }) => id === measure.programId)?.code;
  return { measure, shaping, cues, code, ...part };
}

/** The strands that a strand is made of, in order; those that are gone are left out. */
export function sourcesOf(scene: Scene, strand: Strand): Strand[] {
  return new StrandGraph(scene).sourcesOf(strand);
}

/** True if a strand is made of another, directly or by way of others. */
export function isMadeOf(scene: Scene, strand: Strand, otherId: string): boolean {
  return [...new StrandGraph(scene).allSourcesOf(strand)].some(({ id }) => id === otherId);
}

/**
 * Strands in an order in which each comes after those it is made of. A strand that is made of itself is left out.
 *
 * @param wanted  the strands that are needed; what they are made of comes along
 */
export function inMakingOrder(scene: Scene, wanted: readonly Strand[] = scene.strands): Strand[] {
  const graph = new StrandGraph(scene);
  const out = new Set<Strand>();
  const visited = new Set<Strand>();
  for (const strand of wanted) {
    // A strand is met twice: on the way to what it is made of, and on the way back.
    const open = [{ strand, isDone: false }];
    for (let next = open.pop(); next; next = open.pop()) {
      if (next.isDone) {
        out.add(next.strand);
        continue;
      }
      if (visited.has(next.strand)) continue;
      visited.add(next.strand);
      if (graph.allSourcesOf(next.strand).has(next.strand)) continue;
      open.push({ strand: next.strand, isDone: true });
      for (const source of [...graph.sourcesOf(next.strand)].reverse()) {
        open.push({ strand: source, isDone: false });
      }
    }
  }
  return [...out];
}

/** True when a strand, or one it is made of, reads a zone: its numbers come as a run goes on. */
export function readsZone(scene: Scene, strand: Strand): boolean {
  if (strand.listensTo.kind === "zone") return true;
  const sources = new StrandGraph(scene).allSourcesOf(strand);
  return !sources.has(strand) && [...sources].some(({ listensTo }) => listensTo.kind === "zone");
}

/** True if a strand's numbers are known only live: it, or a strand it is made of, hears a live sound or reads a zone. */
export function happensLive(scene: Scene, strand: Strand): boolean {
  const live = new Set(scene.sounds.filter(isLive).map(({ id }) => id));
  const hears = ({ listensTo }: Strand) =>
    listensTo.kind === "zone" || (listensTo.kind === "sound" && live.has(listensTo.id));
  if (hears(strand)) return true;
  const sources = new StrandGraph(scene).allSourcesOf(strand);
  return !sources.has(strand) && [...sources].some(hears);
}
