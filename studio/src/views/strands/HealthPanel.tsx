import type { Strand } from "@bumbrel/core/document/scene";
import { happensLive } from "@bumbrel/core/document/strands";
import { type Health, healthOf } from "@bumbrel/core/strand/health";
import { useEffect, useMemo, useState } from "react";
import { type Bar, BarChart } from "../../ui/BarChart";
import { Button } from "../../ui/Button";
import { LiveText } from "../../ui/LiveText";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useUi } from "../project/uiState";
import { LIVE_S } from "../project/workbench";
import { ChainHint } from "./ChainHint";
import { applyShaping } from "./edits";
import { rawText } from "./strandText";

const LOOK_EVERY_MS = 1000;
const percent = (share: number) => `${Math.round(share * 100)} %`;

/** Value of the strand now, its health over the whole sound, and advice. */
export function HealthPanel({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  useResults();
  const scene = useScene();
  const traces = workbench.analysis.traces.get(strand.id);
  const { health, advice } = traces ?? {};
  return (
    <section aria-label="Strand health" className="grid content-start gap-1.5 text-sm">
      <p className="flex items-baseline gap-1.5 text-mist">
        now
        <ChainHint strand={strand}>
          <LiveText
            className="inline-block w-24 text-right text-paper"
            text={(timeS) => rawText(workbench, strand, timeS)}
          />{" "}
          →{" "}
          <LiveText
            className="text-base text-brass"
            text={(timeS) => workbench.shapedNow(strand.id, timeS).toFixed(2)}
          />
        </ChainHint>
      </p>
      {happensLive(scene, strand) ? <LiveHealth strand={strand} /> : health && <Figures health={health} />}
      {health && !happensLive(scene, strand) && <LevelHistogram health={health} strand={strand} />}
      {advice?.map(({ code, text, change }) => (
        <p key={code} className="border-l-2 border-brass pl-2 leading-snug">
          {text}{" "}
          {change && (
            <Button
              className="px-2 py-0 text-sm"
              onClick={() => applyShaping(workbench, strand, `take advice on ${strand.name}`, change)}
            >
              Do it
            </Button>
          )}
        </p>
      ))}
      {health && advice?.length === 0 && (
        <p className="text-mist">Steady, lively, and never pinned for long.</p>
      )}
    </section>
  );
}

function Figures({ health }: { health: Health }) {
  return (
    <dl className="grid grid-cols-[auto_1fr_auto_1fr] gap-x-2 text-mist">
      <dt>at floor</dt>
      <dd className="figures text-paper">{percent(health.atFloor)}</dd>
      <dt>at ceiling</dt>
      <dd className="figures text-paper">{percent(health.atCeiling)}</dd>
      <dt title="Mean change from one frame to the next">jitter</dt>
      <dd className="figures text-paper">{health.jitter.toFixed(3)}</dd>
      <dt title="How long after what it hears it comes, by shaping alone">lag</dt>
      <dd className="figures text-paper">{Math.round(health.lagMs)} ms</dd>
    </dl>
  );
}

/** How a live strand has done over its last seconds, looked at once a second, and how late it is. */
function LiveHealth({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const [health, setHealth] = useState<Health>();
  useEffect(() => {
    const look = () => {
      const recent = workbench.recent(strand.id, LIVE_S);
      if (!recent) return;
      const { raw, shaped, framesHeard } = recent;
      const heard = framesHeard * shaped.width;
      setHealth(healthOf(raw.subarray(-heard), shaped.values.subarray(-heard), shaped.width, strand));
    };
    const timer = setInterval(look, LOOK_EVERY_MS);
    look();
    return () => clearInterval(timer);
  }, [workbench, strand]);
  return (
    <>
      {health && <Figures health={health} />}
      <Lateness strand={strand} />
    </>
  );
}

const ms = (s: number) => `${Math.round(s * 1000)} ms`;

/** How late a live strand is, and why. */
function Lateness({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  return (
    <p className="text-mist">
      live, late by{" "}
      <LiveText
        className="text-paper"
        text={() => {
          const late = workbench.player.live?.latenessOf(strand.id);
          return late ? ms(late.windowS + late.inputS + late.workS) : "…";
        }}
      />
      :{" "}
      <LiveText
        text={() => {
          const late = workbench.player.live?.latenessOf(strand.id);
          if (!late) return "…";
          return `window ${ms(late.windowS)}, input ${ms(late.inputS)}, work ${ms(late.workS)}`;
        }}
      />
    </p>
  );
}

/** How often each level occurs, with the floor and the ceiling of the window. */
function LevelHistogram({ health, strand }: { health: Health; strand: Strand }) {
  const { theme } = useUi();
  const { levels } = health;
  const { gain, window } = strand.shaping;
  const { bars, marks, max, silent } = useMemo(() => {
    const { inDb, from, step, shares } = levels;
    const gainDb = gain.on ? gain.db : 0;
    const isDb = inDb && window.scale === "dB";
    const [floor, ceiling] = isDb
      ? [window.floorDb - gainDb, window.floorDb + window.rangeDb - gainDb]
      : [window.low / 10 ** (gainDb / 20), window.high / 10 ** (gainDb / 20)];
    const hasEnds = window.on && isDb === inDb;
    const bins = shares.map((value, i): Bar => {
      const low = from + i * step;
      const middle = low + step / 2;
      const isOutside = hasEnds && (middle < floor || middle > ceiling);
      return {
        label: inDb ? low.toFixed(0) : low.toPrecision(2),
        value: value * 100,
        look: isOutside ? "muted" : "plain",
      };
    });
    const binOf = (end: number) => (end - from) / step;
    return {
      bars: bins,
      marks: hasEnds
        ? [
            { before: binOf(floor), text: "floor" },
            { before: binOf(ceiling), text: "ceiling" },
          ]
        : [],
      // Silence would make every other bar flat: it is cut off, and said in words.
      max: Math.ceil(Math.max(1, ...bins.slice(inDb ? 1 : 0).map(({ value }) => value))),
      silent: inDb ? shares[0] : 0,
    };
  }, [levels, gain, window]);
  const text = `Levels before shaping: ${percent(health.atFloor)} at the floor, ${percent(health.atCeiling)} at the ceiling`;
  return (
    <div className="relative">
      <BarChart
        label={text}
        className="h-20"
        {...{ bars, marks, theme, max }}
        min={0}
        valueText={(value) => `${value.toFixed(1)} % of the time`}
      />
      {silent * 100 > max && (
        <p className="absolute top-0 left-11 bg-ground/80 px-0.5 text-xs text-mist">
          silent {percent(silent)}
        </p>
      )}
    </div>
  );
}
