import { fanBands } from "../../dsp/spectrum/fanBands";
import { partsOf } from "../../sound/kinds";
import type { Scene, Strand } from "../scene";

/** How many bands a fan has; its range may be impossible while it is typed. */
export function fanWidth(measure: Extract<Strand["measure"], { kind: "fan" }>): number {
  return measure.lowHz < measure.highHz ? fanBands(measure).length : 0;
}

/** The parts that a strand can read of what it listens to. */
export function partsListenedTo(scene: Scene, { listensTo }: Pick<Strand, "listensTo">) {
  const { kind } = listensTo;
  if (kind === "bus" || kind === "strands" || kind === "zone") return partsOf(kind);
  const sound = listensTo.kind === "sound" && scene.sounds.find(({ id }) => id === listensTo.id);
  return partsOf(sound ? sound.kind : "file");
}
