import { type Health, healthOf } from "@bumbrel/core/strand/health";
import { useEffect, useMemo, useState } from "react";
import { useEditing, useNumbers, usePlayer, useResult } from "../../../session/context";
import { applyShaping } from "../../../session/edits/strands";
import { LIVE_S } from "../../../session/numbersNow";
import type { StrandFace } from "../../../session/strandHooks";
import { useHappensLive, useStrand } from "../../../session/strandHooks";
import { useUi } from "../../../session/viewState";
import { type Bar, BarChart } from "../../../ui/BarChart";
import { Button } from "../../../ui/Button";
import { LiveText } from "../../../ui/live/LiveText";
import { rawText } from "../strandText";
import { ChainHint } from "./ChainHint";

const LOOK_EVERY_MS = 1000;
const percent = (share: number) => `${Math.round(share * 100)} %`;

/** Value of the strand now, its health over the whole sound, and advice. */
export function HealthPanel({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  return (
    <section aria-label="Strand health" className="grid content-start gap-1.5 text-sm">
      <p className="flex items-baseline gap-1.5 text-mist">
        now
        <ChainHint strand={strand}>
          <LiveText
            className="inline-block w-24 text-right text-paper"
            text={(timeS) => rawText(numbers, strand, timeS)}
          />{" "}
          →{" "}
          <LiveText
            className="text-base text-brass"
            text={(timeS) => numbers.shapedNow(strand.id, timeS).toFixed(2)}
          />
        </ChainHint>
      </p>
      <OverTheSound strand={strand} />
    </section>
  );
}

/** Health over the whole sound, or the last seconds of a live one, with advice. */
function OverTheSound({ strand }: { strand: StrandFace }) {
  const editing = useEditing();
  const isLive = useHappensLive(strand.id);
  const { health, advice } = useResult(({ analysis }) => {
    const traces = analysis.traces.get(strand.id);
    return { health: traces?.health, advice: traces?.advice };
  });
  return (
    <>
      {isLive ? <LiveHealth strand={strand} /> : health && <Figures health={health} />}
      {health && !isLive && <LevelHistogram health={health} strand={strand} />}
      {advice?.map(({ code, text, change }) => (
        <p key={code} className="border-l-2 border-brass pl-2 leading-snug">
          {text}{" "}
          {change && (
            <Button
              className="px-2 py-0 text-sm"
              onClick={() => applyShaping(editing, strand, `take advice on ${strand.name}`, change)}
            >
              Do it
            </Button>
          )}
        </p>
      ))}
      {health && advice?.length === 0 && (
        <p className="text-mist">Steady, lively, and never pinned for long.</p>
      )}
    </>
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
function LiveHealth({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  const editing = useEditing();
  const [health, setHealth] = useState<Health>();
  useEffect(() => {
    const look = () => {
      const recent = numbers.recent(strand.id, LIVE_S);
      const tuned = editing.scene.strands.find(({ id }) => id === strand.id);
      if (!recent || !tuned) return;
      const { raw, shaped, framesHeard } = recent;
      const heard = framesHeard * shaped.width;
      setHealth(healthOf(raw.subarray(-heard), shaped.values.subarray(-heard), shaped.width, tuned));
    };
    const timer = setInterval(look, LOOK_EVERY_MS);
    look();
    return () => clearInterval(timer);
  }, [editing, numbers, strand.id]);
  return (
    <>
      {health && <Figures health={health} />}
      <Lateness strand={strand} />
    </>
  );
}

const ms = (s: number) => `${Math.round(s * 1000)} ms`;

/** How late a live strand is, and why. */
function Lateness({ strand }: { strand: StrandFace }) {
  const player = usePlayer();
  return (
    <p className="text-mist">
      live, late by{" "}
      <LiveText
        className="text-paper"
        text={() => {
          const late = player.live?.latenessOf(strand.id);
          return late ? ms(late.windowS + late.inputS + late.workS) : "…";
        }}
      />
      :{" "}
      <LiveText
        text={() => {
          const late = player.live?.latenessOf(strand.id);
          if (!late) return "…";
          return `window ${ms(late.windowS)}, input ${ms(late.inputS)}, work ${ms(late.workS)}`;
        }}
      />
    </p>
  );
}

/** How often each level occurs, with the floor and the ceiling of the window. */
function LevelHistogram({ health, strand }: { health: Health; strand: StrandFace }) {
  const theme = useUi((state) => state.theme);
  const { levels } = health;
  const { gain, window } = useStrand(strand.id, ({ shaping }) => ({
    gain: shaping.gain,
    window: shaping.window,
  }));
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
