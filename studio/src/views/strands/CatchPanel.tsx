import type { Strand } from "@bumbrel/core/document/scene";
import { LEAST_MARKS } from "@bumbrel/core/strand/catch";
import { useEffect } from "react";
import { Button } from "../../ui/Button";
import { formatHz, formatTenths, formatTime } from "../../ui/format";
import { useWorkbench } from "../project/context";
import { addMark, clearMarks, endCatch, useCatching } from "./catching";
import { editStrand } from "./edits";

/** The key that marks a hit while a catch is in progress. */
export const HIT_KEY = "h";

/** A catch in progress: marks so far, and what they would catch. */
export function CatchPanel({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const { transport } = workbench.player;
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
      addMark(workbench.strandTimeS(strand.id, hitS));
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [transport, workbench, strand.id]);
  const take = () => {
    if (!result) return;
    editStrand(workbench, strand.id, `catch for ${strand.name}`, (draft) => {
      Object.assign(draft, structuredClone(result.tuning));
    });
    endCatch();
  };
  const missing = LEAST_MARKS - marksS.length;
  return (
    <section aria-label="Catch" className="grid content-start gap-1.5 text-sm">
      <p>
        Play, and press <kbd className="figures rounded border border-rule px-1">H</kbd> on every hit you
        want, from the first to the last; or click them on the trace.
      </p>
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
      {result && missing <= 0 && (
        <p>
          <span className="text-brass">
            {formatHz(result.lowHz)} to {formatHz(result.highHz)} above {formatTenths(result.mark)} dBFS
          </span>{" "}
          catches {marksS.length - result.missed.length} of {marksS.length}
          {result.extra.length > 0 && `, and ${result.extra.length} more that you did not mark`};{" "}
          {result.cues.length} in the whole sound.
        </p>
      )}
      <div className="flex flex-wrap gap-1.5">
        <Button
          look={result && missing <= 0 ? "main" : "plain"}
          disabled={!result || missing > 0}
          onClick={take}
        >
          Use it
        </Button>
        <Button onClick={() => addMark(workbench.strandTimeS(strand.id, transport.positionS()))}>Hit</Button>
        <Button disabled={marksS.length === 0} onClick={clearMarks}>
          Clear
        </Button>
        <Button look="quiet" onClick={endCatch}>
          Stop
        </Button>
      </div>
    </section>
  );
}
