import { newStrand } from "@bumbrel/core/scene/create";
import type { ListensTo, Scene, Strand } from "@bumbrel/core/scene/document";
import { fitWindow } from "@bumbrel/core/strand/fit";
import { MEASURES } from "@bumbrel/core/strand/measures";
import { nanoid } from "nanoid";
import type { Traces, Workbench } from "../project/workbench";

/** Changes one strand as an undoable step. */
export function editStrand(
  workbench: Workbench,
  strandId: string,
  label: string,
  change: (strand: Strand) => void,
  gesture?: string,
): void {
  workbench.edit(
    label,
    (scene) => {
      const strand = scene.strands.find(({ id }) => id === strandId);
      if (strand) change(strand as Strand);
    },
    gesture,
  );
}

/** Listening to a sound as it comes, before its fader. */
export const soundBeforeFader = (id: string): ListensTo => ({ kind: "sound", id, tap: "before" });

/** Adds a strand listening to a range of a sound, and gives its id. */
export function addStrand(
  workbench: Workbench,
  listensTo: ListensTo,
  range: { lowHz: number; highHz: number },
  gesture?: string,
): string {
  const id = nanoid(10);
  const measure = { ...MEASURES.band.defaults, ...range };
  const name = freshName(workbench.scene);
  workbench.edit(
    `add ${name}`,
    (scene) => {
      scene.strands.push(newStrand(scene as Scene, id, name, listensTo, measure));
    },
    gesture,
  );
  return id;
}

function freshName(scene: Scene): string {
  const names = new Set(scene.strands.map(({ name }) => name));
  for (let n = scene.strands.length + 1; ; n++) {
    if (!names.has(`Strand ${n}`)) return `Strand ${n}`;
  }
}

/** Removes a strand and its bindings; what they drove comes to rest. */
export function removeStrand(workbench: Workbench, strand: Strand): void {
  workbench.edit(`remove ${strand.name}`, (scene) => {
    scene.strands = scene.strands.filter(({ id }) => id !== strand.id);
    scene.bindings = scene.bindings.filter(({ strandId }) => strandId !== strand.id);
  });
}

/** Sets floor and range from what the sound does; says whether there was anything to go by. */
export function fitStrand(workbench: Workbench, strand: Strand, traces: Traces, gesture?: string): boolean {
  const { gain } = strand.shaping;
  const window = fitWindow(traces.raw, gain.on ? gain.db : 0);
  if (!window) return false;
  editStrand(
    workbench,
    strand.id,
    `fit ${strand.name}`,
    ({ shaping }) => {
      Object.assign(shaping.window, window, { on: true });
    },
    gesture,
  );
  return true;
}
