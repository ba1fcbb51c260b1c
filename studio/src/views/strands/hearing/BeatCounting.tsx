import type { Strand } from "@bumbrel/core/document/scene";
import { partsListenedTo } from "@bumbrel/core/document/strands/listening";
import { useEditing, useNumbers, usePlayer, useScene } from "../../../session/context";
import { editStrand } from "../../../session/edits/strands";
import { type StrandFace, useHappensLive } from "../../../session/strandHooks";
import { Button } from "../../../ui/Button";
import { LiveText } from "../../../ui/live/LiveText";

type BeatMeasure = Extract<Strand["measure"], { kind: "beatPhase" | "barPhase" }>;

/** Puts right how beats are counted that are heard in a sound, with one press each. */
export function BeatCounting({ strand, measure }: { strand: StrandFace; measure: BeatMeasure }) {
  const numbers = useNumbers();
  const player = usePlayer();
  const editing = useEditing();
  const isLive = useHappensLive(strand.id);
  const hasBeats = useScene((scene) => partsListenedTo(scene, strand).has("beats"));
  if (hasBeats) return null;
  const change = (label: string, apply: (measure: BeatMeasure) => void) =>
    editStrand(editing, strand.id, label, (draft) => apply(draft.measure as BeatMeasure));
  const count = (tempo: BeatMeasure["tempo"], words: string, title: string) => (
    <Button
      className="px-2 py-0 text-sm leading-5 aria-pressed:border-brass aria-pressed:text-brass"
      aria-pressed={measure.tempo === tempo}
      title={title}
      onClick={() =>
        change(`count ${tempo === measure.tempo ? "beats as heard" : title.toLowerCase()}`, (draft) => {
          draft.tempo = draft.tempo === tempo ? "heard" : tempo;
        })
      }
    >
      {words}
    </Button>
  );
  const bpmText = (timeS: number) => {
    const at = (s: number) => numbers.rawNow(strand.id, s);
    const beats = measure.kind === "barPhase" ? measure.beatsPerBar : 1;
    const step = at(timeS + 0.01) - at(timeS);
    // At the end of a beat the phase begins again.
    const perFrame = step < 0 ? step + 1 : step;
    const bpm = perFrame * beats * 6000;
    return bpm > 0 && bpm < 1000 ? bpm.toFixed(1) : "–";
  };
  return (
    <fieldset className="flex flex-wrap items-center gap-1.5 text-sm" aria-label="Count the beats">
      {count("half", "½ ×", "Every other beat")}
      {count("double", "2 ×", "Twice as many beats")}
      {!isLive && (
        <Button
          className="px-2 py-0 text-sm leading-5"
          title="The beat nearest to the playhead begins a bar"
          onClick={() => {
            const nowS = numbers.strandTimeS(strand.id, player.transport.positionS());
            change("begin the bar here", (draft) => {
              draft.oneAtS = Math.max(0.001, Math.round(nowS * 1000) / 1000);
            });
          }}
        >
          This is one
        </Button>
      )}
      <span className="text-mist">
        <LiveText className="text-paper" text={bpmText} /> BPM
      </span>
    </fieldset>
  );
}
