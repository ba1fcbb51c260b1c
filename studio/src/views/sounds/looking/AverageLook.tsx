import { samplesKey } from "@bumbrel/core/sound/key";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { useEffect, useMemo } from "react";
import { type Bar, BarChart } from "../../../ui/BarChart";
import { formatHz } from "../../../ui/format";
import { useResults, useWorkbench } from "../../project/context";
import { useUi } from "../../project/uiState";

const LOWEST_DB = -96;

/** A sound's average spectrum: the mean level of each third octave over its whole length. */
export function AverageLook({ sound }: { sound: Sound }) {
  const workbench = useWorkbench();
  const results = useResults();
  const { theme } = useUi();
  const key = samplesKey(sound);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again when the sound has been loaded
  useEffect(() => {
    if (key !== undefined && workbench.library.sounds.has(key)) {
      workbench.analysis.request("averageSpectrum", key);
    }
  }, [workbench, key, results]);
  const average = key === undefined ? undefined : workbench.analysis.averageSpectra.get(key);
  const bars = useMemo((): Bar[] => {
    if (!average) return [];
    const loudest = Math.max(...average.levelsDb);
    return average.centresHz.map((hz, i) => ({
      label: formatHz(Number(hz.toPrecision(2))),
      value: Math.max(LOWEST_DB, average.levelsDb[i]),
      look: average.levelsDb[i] === loudest ? "strong" : "plain",
    }));
  }, [average]);
  if (!average) return <p className="text-sm text-mist">Averaging the spectrum over the whole sound …</p>;
  return (
    <BarChart
      label={`Average spectrum of ${sound.name} in third octaves, dBFS`}
      className="h-36"
      min={LOWEST_DB}
      max={0}
      {...{ bars, theme }}
      valueText={(value) => `${value.toFixed(1)} dBFS on average`}
    />
  );
}
