import { takeKeep, withKeep } from "@bumbrel/core/document/keeps";
import { newStrand } from "@bumbrel/core/document/newStrand";
import type { ListensTo, Scene, Strand } from "@bumbrel/core/document/scene";
import { PITCH_CLASS_RANGE } from "@bumbrel/core/dsp/fanBands";
import { changeProgram, unlink } from "@bumbrel/core/kinds/programs";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { fitWindow } from "@bumbrel/core/strand/fit";
import {
  canMeasure,
  MEASURE_KINDS,
  MEASURES,
  type Measure,
  type MeasureKind,
  rangeLimits,
} from "@bumbrel/core/strand/measures/table";
import { changeShaping, defaultShaping, type ShapingChange } from "@bumbrel/core/strand/shaping";
import {
  STARTING_POINTS,
  type StartingPoint,
  type StartingPointName,
} from "@bumbrel/core/strand/startingPoints";
import { nanoid } from "nanoid";
import type { Traces } from "../../analysis/analysisClient";
import type { Workbench } from "../project/workbench";
import { rangeBetween } from "./axis";
import { fanWidth, partsListenedTo } from "./strandText";

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
      if (strand) change(strand);
    },
    gesture,
  );
}

/** Listening to a sound as it comes, before its fader. */
export const soundBeforeFader = (id: string): ListensTo => ({ kind: "sound", id, tap: "before" });

/** Adds a strand with a measure of its own, and gives its id. */
export function addStrandOf(
  workbench: Workbench,
  listensTo: ListensTo,
  measure: Measure,
  gesture?: string,
): string {
  const id = nanoid(10);
  const name = freshName(workbench.scene);
  workbench.edit(
    `add ${name}`,
    (scene) => {
      scene.strands.push(newStrand(scene, id, name, listensTo, measure));
    },
    gesture,
  );
  return id;
}

/** Adds a strand listening to a range of a sound, and gives its id. */
export function addStrand(
  workbench: Workbench,
  listensTo: ListensTo,
  range: { lowHz: number; highHz: number },
  gesture?: string,
): string {
  return addStrandOf(workbench, listensTo, { ...MEASURES.band.defaults, ...range }, gesture);
}

function freshName(scene: Scene): string {
  const names = new Set(scene.strands.map(({ name }) => name));
  for (let n = scene.strands.length + 1; ; n++) {
    if (!names.has(`Strand ${n}`)) return `Strand ${n}`;
  }
}

/** Removes a strand, its bindings and its place in others; what they drove comes to rest. */
export function removeStrand(workbench: Workbench, strand: Strand): void {
  workbench.edit(`remove ${strand.name}`, (scene) => {
    scene.strands = scene.strands.filter(({ id }) => id !== strand.id);
    scene.bindings = scene.bindings.filter(({ strandId }) => strandId !== strand.id);
    for (const { listensTo } of scene.strands) {
      if (listensTo.kind === "strands") listensTo.ids = listensTo.ids.filter((id) => id !== strand.id);
    }
    unlink(scene, strand.id);
  });
}

/** Adds a strand like another beside it, without its bindings, and gives its id. */
export function duplicateStrand(workbench: Workbench, strand: Strand): string {
  const id = nanoid(10);
  workbench.edit(`duplicate ${strand.name}`, (scene) => {
    const names = new Set(scene.strands.map(({ name }) => name));
    let name = `${strand.name} copy`;
    for (let n = 2; names.has(name); n++) name = `${strand.name} copy ${n}`;
    const { hue, shape } = newStrand(scene, id, name, strand.listensTo);
    const at = scene.strands.findIndex((one) => one.id === strand.id);
    scene.strands.splice(at + 1, 0, { ...structuredClone(strand), id, name: name.slice(0, 120), hue, shape });
  });
  return id;
}

/** Puts a strand at another place in the row. */
export function moveStrand(workbench: Workbench, strandId: string, to: number): void {
  const { strands } = workbench.scene;
  const from = strands.findIndex(({ id }) => id === strandId);
  if (from < 0 || to < 0 || to >= strands.length || from === to) return;
  workbench.edit(`move ${strands[from].name}`, (scene) => {
    const [strand] = scene.strands.splice(from, 1);
    scene.strands.splice(to, 0, strand);
  });
}

/** Sets floor and range from what the sound does; says whether there was anything to go by. */
export function fitStrand(workbench: Workbench, strand: Strand, traces: Traces, gesture?: string): boolean {
  const window = fitWindow(traces.raw, strand.shaping);
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

/** Another measure; one whose numbers are felt in another way begins with shaping of its own. A range is kept. */
export function setMeasure(strand: Strand, kind: MeasureKind): void {
  const before = strand.measure;
  if (MEASURES[kind].unit !== MEASURES[before.kind].unit)
    strand.shaping = defaultShaping(MEASURES[kind].unit);
  const measure: Measure = structuredClone(MEASURES[kind].defaults);
  const limits = rangeLimits(kind) ?? { min: 0, max: 24_000 };
  if ("lowHz" in before && "lowHz" in measure && before.kind !== "fan" && kind !== "fan") {
    if (before.lowHz >= limits.min && before.highHz <= limits.max) {
      Object.assign(measure, { lowHz: before.lowHz, highHz: before.highHz });
    }
  }
  strand.measure = measure;
}

/**
 * Sets one of a measure's settings. The ends of its range push each other along, and a fan keeps its number of bands
 * when they are laid out in another way; pitch classes begin with the range in which they are heard best.
 */
export function setMeasureSetting({ measure }: Strand, key: string, value: SettingValue): void {
  if (key === "layout" && measure.kind === "fan") {
    measure.bands = fanWidth(measure) || measure.bands;
    if (value === "pitchClasses") Object.assign(measure, PITCH_CLASS_RANGE);
  }
  const limits = rangeLimits(measure.kind);
  if (limits && "lowHz" in measure && (key === "lowHz" || key === "highHz")) {
    const hz = value as number;
    const [low, high] =
      key === "lowHz" ? [hz, Math.max(hz, measure.highHz)] : [Math.min(hz, measure.lowHz), hz];
    const range = rangeBetween(low, high);
    measure.lowHz = Math.max(limits.min, range.lowHz);
    measure.highHz = Math.min(limits.max, range.highHz);
    return;
  }
  Object.assign(measure, { [key]: value });
}

/** Has a strand listen to something else; a measure that cannot be read there gives way to one that can. */
export function listenTo(workbench: Workbench, strandId: string, next: ListensTo): void {
  const { scene } = workbench;
  editStrand(workbench, strandId, "listen to something else", (draft) => {
    draft.listensTo = next;
    const parts = partsListenedTo(scene, draft);
    if (!canMeasure(draft.measure.kind, parts)) {
      setMeasure(draft, MEASURE_KINDS.find((kind) => canMeasure(kind, parts)) ?? "band");
    }
  });
}

/** Takes over some shaping settings as one step. */
export function applyShaping(
  workbench: Workbench,
  strand: Strand,
  label: string,
  change: ShapingChange,
): void {
  editStrand(workbench, strand.id, label, ({ shaping }) => changeShaping(shaping, change));
}

/** Begins from a starting point by name. */
export function startFrom(workbench: Workbench, strand: Strand, name: StartingPointName): void {
  const { label, shaping, measure }: StartingPoint = STARTING_POINTS[name];
  editStrand(workbench, strand.id, `start ${strand.name} from ${label}`, (draft) => {
    changeShaping(draft.shaping, shaping);
    if (measure && draft.measure.kind === "fan") Object.assign(draft.measure, measure);
  });
}

/** Keeps all tunings as they are under a name, and gives its id. */
export function addKeep(workbench: Workbench, name: string): string {
  const id = nanoid(10);
  workbench.edit(`keep ${name}`, (scene) => {
    scene.keeps.push(takeKeep(workbench.scene, id, name));
  });
  return id;
}

/** Goes back to a keep, as one step that can be undone. */
export function goBackTo(workbench: Workbench, keepId: string): void {
  const keep = workbench.scene.keeps.find(({ id }) => id === keepId);
  if (!keep) return;
  const { strands, bindings } = withKeep(workbench.scene, keep);
  workbench.edit(`go back to ${keep.name}`, (scene) => {
    scene.strands = strands;
    scene.bindings = bindings;
    for (const { id, code } of keep.programs) changeProgram(scene, id, code);
  });
}

export function removeKeep(workbench: Workbench, keepId: string): void {
  workbench.edit("remove a keep", (scene) => {
    scene.keeps = scene.keeps.filter(({ id }) => id !== keepId);
  });
}

export function renameKeep(workbench: Workbench, keepId: string, name: string): void {
  workbench.edit(`rename a keep to ${name}`, (scene) => {
    const keep = scene.keeps.find(({ id }) => id === keepId);
    if (keep) keep.name = name;
  });
}
