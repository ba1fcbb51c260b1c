import type { MadeWay } from "@bumbrel/api/waysOut";
import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { curveBytes } from "@bumbrel/core/format/curves";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { useResult, useScene } from "../../session/context";
import { formatBytes } from "../../ui/format";

/** Bytes of a number written out, and of a cue. */
const CSV_FIGURE = 12;
const JSON_FIGURE = 9;
const CUE_ROW = 30;
const MIDI_CUE = 8;

/** About how large a way out will be, as a text; nothing where that is not known before. */
export function useWaySize(
  name: MadeWay,
  { strandId, content }: Record<string, SettingValue>,
): string | undefined {
  const wanted = useScene(({ strands }) =>
    strands.filter(({ id }) => !strandId || id === strandId).map(({ id }) => id),
  );
  const found = useResult(({ analysis }) => wanted.flatMap((id) => analysis.traces.get(id) ?? []));
  if (found.length === 0) return undefined;
  const numbers = found.reduce((sum, { shaped }) => sum + shaped.values.length, 0);
  const cues = found.reduce((sum, one) => sum + one.cues.length, 0);
  const frames = Math.max(...found.map(({ shaped }) => shaped.values.length / shaped.width));
  const curves = found.reduce(
    (sum, { shaped: { values, width } }) => sum + curveBytes(values.length / width / FRAME_RATE_HZ, width),
    0,
  );
  const sizes: Partial<Record<MadeWay, number>> = {
    baked: curves + cues * 12,
    csv: content === "cues" ? cues * CUE_ROW : 2 * numbers * CSV_FIGURE + frames * 6,
    json: numbers * JSON_FIGURE + cues * CUE_ROW,
    midi: cues * MIDI_CUE + wanted.length * 40,
    labels: cues * CUE_ROW,
  };
  const bytes = sizes[name];
  if (bytes === undefined) return undefined;
  if (bytes === 0) return "no cues";
  return `about ${formatBytes(bytes)}`;
}
