import { defaultCues } from "../../strand/cues";
import { MEASURES, type Measure } from "../../strand/measures/table";
import { defaultShaping } from "../../strand/shape/shaping";
import { HUE_COUNT, type ListensTo, type Scene, STRAND_SHAPES, type Strand } from "../scene";

/** A strand with default shaping, and the hue and shape least used so far. */
export function newStrand(
  scene: Scene,
  id: string,
  name: string,
  listensTo: ListensTo,
  measure: Measure = MEASURES.band.defaults,
): Strand {
  const hue = leastUsed(
    HUE_COUNT,
    scene.strands.map((strand) => strand.hue),
  );
  const shape = leastUsed(
    STRAND_SHAPES.length,
    scene.strands.map((strand) => STRAND_SHAPES.indexOf(strand.shape)),
  );
  return {
    id,
    name,
    hue,
    shape: STRAND_SHAPES[shape],
    listensTo,
    muted: false,
    measure: { ...measure },
    shaping: defaultShaping(MEASURES[measure.kind].unit),
    cues: defaultCues(),
  };
}

function leastUsed(count: number, used: number[]): number {
  const uses = new Array<number>(count).fill(0);
  for (const one of used) uses[one]++;
  return uses.indexOf(Math.min(...uses));
}
