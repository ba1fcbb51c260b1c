import type { ListensTo, Scene } from "@bumbrel/core/document/scene";
import { fanWidth } from "@bumbrel/core/document/strands/listening";
import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { propertiesOf } from "@bumbrel/core/kinds/table";
import { SOUND_PARTS } from "@bumbrel/core/sound/parts";
import { MEASURE_GROUPS as GROUP_LABELS } from "@bumbrel/core/strand/measures/declaration";
import { declarationOf, MEASURE_KINDS, MEASURES } from "@bumbrel/core/strand/measures/table";
import type { MeasureUnit } from "@bumbrel/core/strand/shape/shaping";
import type { NumbersNow } from "../../session/numbersNow";
import type { StrandFace } from "../../session/strandHooks";
import { formatDb, formatHz, formatLufs } from "../../ui/format";

/** A raw number in its measure's unit. */
export function formatRaw(unit: MeasureUnit, raw: number): string {
  switch (unit) {
    case "level":
      return formatDb(raw);
    case "loudness":
      return formatLufs(levelToDb(raw));
    case "hz":
      return raw > 0 ? formatHz(raw) : "none";
    default:
      return raw.toFixed(unit === "strength" ? 3 : 2);
  }
}

/** A strand's number before shaping, as it is now; of a fan, the loudest of its bands. */
export function rawText(numbers: NumbersNow, strand: StrandFace, timeS: number): string {
  const { unit } = declarationOf(strand.measure.kind);
  const width = numbers.widthOf(strand.id);
  let most = 0;
  for (let band = 0; band < width; band++) most = Math.max(most, numbers.rawNow(strand.id, timeS, band));
  return formatRaw(unit, most);
}

/** Source of a strand in words. */
export function sourceText(scene: Scene, { listensTo }: StrandFace): string {
  const part = "part" in listensTo && listensTo.part ? `, ${SOUND_PARTS[listensTo.part]}` : "";
  return wholeSourceText(scene, listensTo) + part;
}

function wholeSourceText(scene: Scene, listensTo: ListensTo): string {
  switch (listensTo.kind) {
    case "nothing":
      return "nothing";
    case "sound":
      return scene.sounds.find(({ id }) => id === listensTo.id)?.name ?? "a sound that is gone";
    case "bus":
      return `${scene.buses.find(({ id }) => id === listensTo.id)?.name ?? "gone"} (bus)`;
    case "zone":
      return `${scene.objects.find(({ id }) => id === listensTo.id)?.name ?? "gone"} (zone)`;
    case "strands":
      return (
        listensTo.ids.map((id) => scene.strands.find((one) => one.id === id)?.name ?? "gone").join(", ") ||
        "no strands yet"
      );
  }
}

/** Measure of a strand in words, with its range. */
export function measureText({ measure }: StrandFace): string {
  const { label } = MEASURES[measure.kind];
  if (measure.kind === "fan") return `${label} of ${fanWidth(measure)} bands`;
  return "lowHz" in measure ? `${label} ${formatHz(measure.lowHz)} to ${formatHz(measure.highHz)}` : label;
}

/** Targets of a strand: the object, the property, and its name. */
export function drivenBy(scene: Scene, strandId: string) {
  return scene.bindings
    .filter((binding) => binding.strandId === strandId)
    .flatMap(({ id, objectId, property }) => {
      const object = scene.objects.find((one) => one.id === objectId);
      const label = object && propertiesOf(object)[property]?.label;
      return object && label ? [{ id, objectId, property, text: `${object.name} · ${label}` }] : [];
    });
}

/** Measures in groups that belong together, for a list to choose from. */
export const MEASURE_GROUPS = Object.entries(GROUP_LABELS).map(
  ([group, label]) => [label, MEASURE_KINDS.filter((kind) => MEASURES[kind].group === group)] as const,
);
