import { Type } from "@sinclair/typebox";
import type { ListensTo, Scene, Strand } from "../document/scene";
import { fanWidth, partsListenedTo } from "../document/strands/listening";
import { newStrand } from "../document/strands/newStrand";
import { copyOf } from "../document/versions/copyOf";
import { takeKeep, withKeep } from "../document/versions/keeps";
import { PITCH_CLASS_RANGE } from "../dsp/spectrum/fanBands";
import { rangeBetween } from "../dsp/spectrum/frequencyRange";
import { changeProgram, giveStrandProgram, unlink } from "../kinds/programs";
import type { SettingValue } from "../setting/descriptor";
import { MAX_NAME_LENGTH, Name, oneOf, orNull } from "../setting/schema";
import {
  canMeasure,
  MEASURE_KINDS,
  MEASURES,
  type Measure,
  type MeasureKind,
  rangeLimits,
} from "../strand/measures/table";
import { changeShaping, defaultShaping, type ShapingChange } from "../strand/shape/shaping";
import { STARTING_POINTS, type StartingPoint, type StartingPointName } from "../strand/shape/startingPoints";
import { freeName, fresh, known, merge, namedEdit, nameOf, numberedName, part, withId } from "./namedEdit";

const ListensToArg = part<ListensTo>("What it listens to, as the scene has it");

/** Has a strand give cues. */
export function switchCuesOn(draft: Scene, strandId: string): void {
  const strand = withId(draft.strands, strandId);
  if (strand) strand.cues.on = true;
}

/**
 * Gives a strand another measure. Where its numbers have another unit, shaping starts over from what suits that. A range is
 * kept where both have one.
 */
export function setMeasure(strand: Strand, kind: MeasureKind): void {
  const before = strand.measure;
  if (MEASURES[kind].unit !== MEASURES[before.kind].unit)
    strand.shaping = defaultShaping(MEASURES[kind].unit);
  const measure: Measure = copyOf(MEASURES[kind].defaults);
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

/** Edits of strands and of snapshots of all tunings. */
export const STRAND_EDITS = {
  addStrand: namedEdit({
    help: "Adds a strand with a measure, which is a range of frequencies unless one is given.",
    args: {
      id: fresh("strand"),
      name: Type.Optional(Name),
      listensTo: ListensToArg,
      measure: Type.Optional(part<Measure>("The measure with its settings, as the scene has it")),
    },
    label: (scene, { name }) =>
      `add ${name ? freeName(scene.strands, name) : numberedName(scene.strands, "Strand")}`,
    apply(draft, { id, name, listensTo, measure = MEASURES.band.defaults }) {
      const own = name ? freeName(draft.strands, name) : numberedName(draft.strands, "Strand");
      draft.strands.push(newStrand(draft, id, own, copyOf(listensTo), copyOf(measure)));
    },
  }),
  changeStrand: namedEdit({
    help: "Changes settings of a strand: its name, shaping, cues and the like.",
    args: {
      strandId: known("strand"),
      values: part<object>("Settings, as the scene has them; those that are not named stay"),
    },
    label: ({ strands }, { strandId }) => `change ${nameOf(strands, strandId, "a strand")}`,
    apply(draft, { strandId, values }) {
      const strand = withId(draft.strands, strandId);
      if (strand) merge(strand, values);
    },
  }),
  removeStrand: namedEdit({
    help: "Removes a strand, its bindings and its place in others; what they drove comes to rest.",
    args: { strandId: known("strand") },
    label: ({ strands }, { strandId }) => `remove ${nameOf(strands, strandId, "a strand")}`,
    apply(draft, { strandId }) {
      draft.strands = draft.strands.filter(({ id }) => id !== strandId);
      draft.bindings = draft.bindings.filter((binding) => binding.strandId !== strandId);
      for (const { listensTo } of draft.strands) {
        if (listensTo.kind === "strands") listensTo.ids = listensTo.ids.filter((id) => id !== strandId);
      }
      unlink(draft, strandId);
    },
  }),
  duplicateStrand: namedEdit({
    help: "Adds a strand like another beside it, without its bindings.",
    args: { strandId: known("strand"), id: fresh("strand") },
    label: ({ strands }, { strandId }) => `duplicate ${nameOf(strands, strandId, "a strand")}`,
    apply(draft, { strandId, id }) {
      const at = draft.strands.findIndex((one) => one.id === strandId);
      if (at < 0) return;
      const strand = copyOf(draft.strands[at]);
      const name = freeName(draft.strands, `${strand.name} copy`).slice(0, MAX_NAME_LENGTH);
      const { hue, shape } = newStrand(draft, id, name, strand.listensTo);
      draft.strands.splice(at + 1, 0, { ...strand, id, name, hue, shape });
    },
  }),
  moveStrand: namedEdit({
    help: "Puts a strand at another place in the row.",
    args: { strandId: known("strand"), to: Type.Integer({ minimum: 0 }) },
    label: ({ strands }, { strandId }) => `move ${nameOf(strands, strandId, "a strand")}`,
    apply({ strands }, { strandId, to }) {
      const from = strands.findIndex(({ id }) => id === strandId);
      if (from < 0 || to >= strands.length || from === to) return;
      const [strand] = strands.splice(from, 1);
      strands.splice(to, 0, strand);
    },
  }),
  setMeasure: namedEdit({
    help: "Gives a strand another measure; its range is kept where both have one.",
    args: { strandId: known("strand"), kind: oneOf(MEASURE_KINDS) },
    label: ({ strands }, { strandId, kind }) =>
      `measure ${MEASURES[kind].label.toLowerCase()} for ${nameOf(strands, strandId, "a strand")}`,
    apply(draft, { strandId, kind }) {
      const strand = withId(draft.strands, strandId);
      if (strand) setMeasure(strand, kind);
    },
  }),
  setMeasureSetting: namedEdit({
    help: "Sets one setting of a strand's measure; the ends of a range push each other along.",
    args: { strandId: known("strand"), key: Type.String(), value: part<SettingValue>("Its value") },
    label: ({ strands }, { strandId }) => `change ${nameOf(strands, strandId, "a strand")}`,
    apply(draft, { strandId, key, value }) {
      const strand = withId(draft.strands, strandId);
      if (strand) setMeasureSetting(strand, key, value);
    },
  }),
  listenTo: namedEdit({
    help: "Has a strand listen to something else; a measure that cannot be read there gives way to one that can.",
    args: { strandId: known("strand"), listensTo: ListensToArg },
    label: () => "listen to something else",
    apply(draft, { strandId, listensTo }) {
      const strand = withId(draft.strands, strandId);
      if (!strand) return;
      strand.listensTo = copyOf(listensTo);
      const parts = partsListenedTo(draft, strand);
      if (!canMeasure(strand.measure.kind, parts)) {
        setMeasure(strand, MEASURE_KINDS.find((kind) => canMeasure(kind, parts)) ?? "band");
      }
    },
  }),
  changeShaping: namedEdit({
    help: "Changes steps of a strand's shaping.",
    args: { strandId: known("strand"), change: part<ShapingChange>("Settings by the names of steps") },
    label: ({ strands }, { strandId }) => `shape ${nameOf(strands, strandId, "a strand")}`,
    apply(draft, { strandId, change }) {
      const strand = withId(draft.strands, strandId);
      if (strand) changeShaping(strand.shaping, change);
    },
  }),
  startFrom: namedEdit({
    help: "Shapes a strand as one of the starting points does.",
    args: {
      strandId: known("strand"),
      name: oneOf(Object.keys(STARTING_POINTS) as StartingPointName[]),
    },
    label: ({ strands }, { strandId, name }) =>
      `start ${nameOf(strands, strandId, "a strand")} from ${STARTING_POINTS[name].label}`,
    apply(draft, { strandId, name }) {
      const strand = withId(draft.strands, strandId);
      if (!strand) return;
      const { shaping, measure }: StartingPoint = STARTING_POINTS[name];
      changeShaping(strand.shaping, shaping);
      if (measure && strand.measure.kind === "fan") Object.assign(strand.measure, measure);
    },
  }),
  chooseNumber: namedEdit({
    help: "Has a program give a strand its numbers, or none.",
    args: { strandId: known("strand"), programId: orNull(known("program")) },
    label: (_scene, { programId }) => (programId === null ? "use no program" : "choose a program"),
    apply(draft, { strandId, programId }) {
      const strand = withId(draft.strands, strandId);
      if (strand) giveStrandProgram(strand, withId(draft.programs, programId));
    },
  }),
  switchCuesOn: namedEdit({
    help: "Has a strand give cues.",
    args: { strandId: known("strand") },
    label: () => "switch cues on",
    apply(draft, { strandId }) {
      switchCuesOn(draft, strandId);
    },
  }),
  addSnapshot: namedEdit({
    help: "Keeps all tunings as they are under a name.",
    args: { id: fresh("snapshot"), name: Name },
    label: (_scene, { name }) => `keep ${name}`,
    apply(draft, { id, name }) {
      draft.keeps.push(takeKeep(copyOf(draft), id, name));
    },
  }),
  goBackTo: namedEdit({
    help: "Goes back to a snapshot.",
    args: { snapshotId: known("snapshot") },
    label: ({ keeps }, { snapshotId }) => `go back to ${nameOf(keeps, snapshotId, "a snapshot")}`,
    apply(draft, { snapshotId }) {
      const keep = withId(draft.keeps, snapshotId);
      if (!keep) return;
      const { strands, bindings } = withKeep(draft, keep);
      draft.strands = strands;
      draft.bindings = bindings;
      for (const { id, code } of keep.programs) changeProgram(draft, id, code);
    },
  }),
  renameSnapshot: namedEdit({
    help: "Renames a snapshot.",
    args: { snapshotId: known("snapshot"), name: Name },
    label: (_scene, { name }) => `rename a keep to ${name}`,
    apply(draft, { snapshotId, name }) {
      const keep = withId(draft.keeps, snapshotId);
      if (keep) keep.name = name;
    },
  }),
  removeSnapshot: namedEdit({
    help: "Removes a snapshot.",
    args: { snapshotId: known("snapshot") },
    label: () => "remove a keep",
    apply(draft, { snapshotId }) {
      draft.keeps = draft.keeps.filter(({ id }) => id !== snapshotId);
    },
  }),
};
