import { samplesKey } from "@bumbrel/core/sound/key";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { useEffect, useMemo } from "react";
import { useAnalysis, useResult, useSamples } from "../../../session/context";
import { useUi } from "../../../session/viewState";
import { type Bar, BarChart } from "../../../ui/BarChart";
import { formatHz } from "../../../ui/format";

const LOWEST_DB = -96;

/** A sound's average spectrum: the mean level of each third octave over its whole length. */
export function AverageLook({ sound }: { sound: Sound }) {
  const analysis = useAnalysis();
  const theme = useUi((state) => state.theme);
  const key = samplesKey(sound);
  const { loaded } = useSamples(key);
  useEffect(() => {
    if (key !== undefined && loaded) analysis.request("averageSpectrum", key);
  }, [analysis, key, loaded]);
  const average = useResult(({ analysis: { averageSpectra } }) => key && averageSpectra.get(key));
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
