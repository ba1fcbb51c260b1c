import type { Cue } from "@bumbrel/core/sound/cue";
import { type Catch, LEAST_MARKS } from "@bumbrel/core/strand/hits/catch";
import { X } from "lucide-react";
import { useEffect } from "react";
import { useEditing, useNumbers, usePlayer } from "../../../session/context";
import { editStrand } from "../../../session/edits/strands";
import type { StrandFace } from "../../../session/strandHooks";
import { Button, IconButton } from "../../../ui/Button";
import { formatHz, formatTenths, formatTime } from "../../../ui/format";
import { addMark, clearMarks, crossNothingOut, crossOut, endCatch, useCatching } from "./catching";

/** The key that marks a hit while a catch is in progress. */
export const HIT_KEY = "h";
/** Seconds before a cue that playing begins at. */
const LEAD_IN_S = 0.5;

/** A catch in progress: marks so far, and what they would catch. */
export function CatchPanel({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  const player = usePlayer();
  const editing = useEditing();
  const { transport } = player;
  const { marksS, share, isSearching, result, failure } = useCatching();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.key.toLowerCase() !== HIT_KEY || event.repeat || event.ctrlKey || event.metaKey) return;
      if (target.matches("input, textarea, select")) return;
      event.preventDefault();
      // The key was hit before a slow frame let it through.
      const lateS = Math.max(0, performance.now() - event.timeStamp) / 1000;
      const hitS = Math.max(0, transport.positionS() - (transport.state === "playing" ? lateS : 0));
      addMark(numbers.strandTimeS(strand.id, hitS));
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [transport, numbers, strand.id]);
  const take = () => {
    if (!result) return;
    editStrand(editing, strand.id, `catch for ${strand.name}`, (draft) => {
      Object.assign(draft, structuredClone(result.tuning));
      // The hits were looked for in all of the sound.
      if ("part" in draft.listensTo) delete draft.listensTo.part;
    });
    endCatch();
  };
  const missing = LEAST_MARKS - marksS.length;
  return (
    <section aria-label="Catch" className="grid content-start gap-1.5 text-sm">
      {missing > 0 && (
        <p>
          Play, and press <kbd className="figures rounded border border-rule px-1">H</kbd> on every hit you
          want, from the first to the last; or click them on the trace.
        </p>
      )}
      <p role="status" className="text-mist">
        {share < 1
          ? `Listening through the sound … ${Math.round(share * 100)} %`
          : missing > 0
            ? `${marksS.length} marked; ${missing} more to go by.`
            : isSearching
              ? `${marksS.length} marked; searching …`
              : `${marksS.length} marked from ${formatTime(marksS[0])} to ${formatTime(marksS.at(-1)!)}.`}
      </p>
      {failure && (
        <p role="alert" className="text-alarm">
          {failure}
        </p>
      )}
      {result && missing <= 0 && <CaughtBy result={result} marks={marksS.length} />}
      <div className="flex flex-wrap gap-1.5">
        <Button
          look={result && missing <= 0 ? "main" : "plain"}
          disabled={!result || missing > 0}
          onClick={take}
        >
          Use it
        </Button>
        <Button onClick={() => addMark(numbers.strandTimeS(strand.id, transport.positionS()))}>Hit</Button>
        <Button disabled={marksS.length === 0} onClick={clearMarks}>
          Clear
        </Button>
        <Button look="quiet" onClick={endCatch}>
          Stop
        </Button>
      </div>
      {result && missing <= 0 && <AlsoTaken result={result} />}
    </section>
  );
}

/** How the hits are told from the rest. */
function CaughtBy({ result: { by, missed, cues }, marks }: { result: Catch; marks: number }) {
  if (cues.length === 0) return <p className="text-alarm">Nothing begins near these marks.</p>;
  return (
    <p>
      <span className="text-brass">
        {by.way === "range"
          ? `${formatHz(by.lowHz)} to ${formatHz(by.highHz)} above ${formatTenths(by.mark)} dBFS`
          : `Learnt from ${by.hits} hits and ${by.others} others`}
      </span>{" "}
      catches {marks - missed.length} of {marks}; {cues.length} in the whole sound.
    </p>
  );
}

/** Least sure cues that are shown. */
const SHOWN_UNSURE = 3;

/** Cues that were taken and not marked, and the least sure ones of the rest: each can be gone to, and crossed out. */
function AlsoTaken({ result: { extra, cues, stretch } }: { result: Catch }) {
  const player = usePlayer();
  const { othersS } = useCatching();
  const unsure = cues
    .filter(({ timeS }) => timeS < stretch.fromS || timeS > stretch.toS)
    .sort((a, b) => a.strength - b.strength)
    .slice(0, SHOWN_UNSURE);
  const row = (words: string, taken: readonly Cue[]) =>
    taken.length === 0 ? null : (
      <div className="flex flex-wrap items-center gap-1">
        <span className="text-mist">{words}</span>
        {[...taken]
          .sort((a, b) => a.timeS - b.timeS)
          .map(({ timeS }) => (
            <span key={timeS} className="flex items-center rounded-full border border-rule">
              <button
                type="button"
                className="figures rounded-full pl-2 hover:text-brass"
                title="Go there"
                onClick={() => player.transport.seek(Math.max(0, timeS - LEAD_IN_S))}
              >
                {timeS.toFixed(2)}
              </button>
              <IconButton small label={`Not a hit: ${timeS.toFixed(2)} s`} onClick={() => crossOut(timeS)}>
                <X size={12} />
              </IconButton>
            </span>
          ))}
      </div>
    );
  return (
    <>
      {row("Not marked:", extra)}
      {row("Least sure:", unsure)}
      {othersS.length > 0 && (
        <p className="text-mist">
          {othersS.length} crossed out.{" "}
          <button type="button" className="underline hover:text-brass" onClick={crossNothingOut}>
            Take that back
          </button>
        </p>
      )}
    </>
  );
}
