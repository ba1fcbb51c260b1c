import type { Strand } from "@bumbrel/core/document/scene";
import { happensLive } from "@bumbrel/core/document/strands";
import { type Health, healthOf } from "@bumbrel/core/strand/health";
import { useEffect, useState } from "react";
import { Button } from "../../ui/Button";
import { LiveText } from "../../ui/LiveText";
import { useResults, useScene, useWorkbench } from "../project/context";
import { LIVE_S } from "../project/workbench";
import { ChainHint } from "./ChainHint";
import { applyShaping } from "./edits";
import { rawText } from "./strandText";

const LOOK_EVERY_MS = 1000;
const percent = (share: number) => `${Math.round(share * 100)} %`;

/** What the strand is now, how it does over the whole sound, and what would make it more useful. */
export function HealthPanel({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  useResults();
  const scene = useScene();
  const traces = workbench.analysis.traces.get(strand.id);
  const { health, advice } = traces ?? {};
  return (
    <section aria-label="How it does" className="grid content-start gap-1.5 text-sm">
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
