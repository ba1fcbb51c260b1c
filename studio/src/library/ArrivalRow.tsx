import { X } from "lucide-react";
import { type ReactNode, useEffect } from "react";
import { IconButton } from "../ui/Button";
import { drawWaveform } from "../ui/live/drawWaveform";
import { useCanvas } from "../ui/live/useCanvas";
import { themeColour } from "../ui/strandLook";
import type { Arrival } from "./arrivals";

const STAGE_WORDS = { waiting: "Waiting:", reading: "Reading", storing: "Storing" };

/** A file on its way in: how far it is, and its waveform as it comes. */
export function ArrivalRow({ arrival, onDismiss }: { arrival: Arrival; onDismiss(): void }) {
  const { name, becomes, stage, share, message } = arrival;
  const failed = stage === "failed";
  let words: ReactNode = message;
  if (!failed) {
    words = (
      <>
        {STAGE_WORDS[stage]} {name} …{" "}
        {stage !== "waiting" && becomes === "sound" && (
          <span className="figures">{Math.round(share * 100)} %</span>
        )}
      </>
    );
  }
  return (
    <div
      role={failed ? "alert" : "status"}
      className="mb-1 grid grid-cols-[minmax(0,1fr)_auto_auto] items-center gap-3 rounded bg-raised px-4 py-2"
    >
      <span className={failed ? "text-alarm" : "truncate"}>{words}</span>
      {!failed && becomes === "sound" && <ArrivingWaveform arrival={arrival} />}
      <IconButton label={failed ? "Put this message away" : `Cancel ${name}`} onClick={onDismiss}>
        <X size={16} />
      </IconButton>
    </div>
  );
}

function ArrivingWaveform({ arrival }: { arrival: Arrival }) {
  const canvas = useCanvas(() => draw());
  const { pairs, share, stage } = arrival;
  const draw = () => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    if (!context) return;
    context.clearRect(0, 0, width, height);
    context.fillStyle = themeColour("mist");
    const ready = stage === "reading" ? share : 1;
    const total = pairs.reduce((sum, part) => sum + part.length, 0);
    if (total === 0 || ready <= 0) return;
    const all = new Float32Array(total);
    let at = 0;
    for (const part of pairs) {
      all.set(part, at);
      at += part.length;
    }
    drawWaveform(context, all, 0, total / 2 / ready, width, height);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(draw, [pairs.length, share, stage]);
  return (
    <canvas
      ref={canvas.ref}
      className="h-8 w-72 rounded bg-sunk"
      role="img"
      aria-label={`Waveform of ${arrival.name} so far`}
    />
  );
}
