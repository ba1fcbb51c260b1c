import { CUE_SOURCE_KINDS, CUE_SOURCES, type CueSourceKind } from "@bumbrel/core/action/cueSources";
import type { StageObject } from "@bumbrel/core/document/scene";
import {
  AudioLines,
  BoxSelect,
  Clapperboard,
  Flag,
  Footprints,
  Hand,
  House,
  Keyboard,
  type LucideIcon,
  MousePointerClick,
  Music,
  PanelsTopLeft,
  Radar,
  Square,
  Timer,
  Volume2,
  Zap,
} from "lucide-react";
import { useState } from "react";
import { useAudition, useEditing, useResult, useScene } from "../../../session/context";
import { addAnswer, isAbout } from "../../../session/edits/answers";
import { Toggle } from "../../../ui/fields/Toggle";
import { KindMenu } from "../../../ui/KindMenu";
import { AnswerLine, useScrollTo } from "./AnswerLine";

const ICONS: Record<CueSourceKind, LucideIcon> = {
  strand: AudioLines,
  tap: MousePointerClick,
  press: Timer,
  key: Keyboard,
  enter: BoxSelect,
  leave: Footprints,
  inside: House,
  near: Radar,
  touch: Hand,
  meet: Zap,
  soundStarts: Music,
  soundEnds: Square,
  mark: Flag,
  section: PanelsTopLeft,
  start: Clapperboard,
};

/** The answers that an object takes part in, or all of the scene. */
export function AnswerList({ object }: { object?: StageObject }) {
  const audition = useAudition();
  const editing = useEditing();
  const answers = useScene((scene) =>
    object ? scene.answers.filter((answer) => isAbout(answer, object.id)) : scene.answers,
  );
  const [made, setMade] = useState<string>();
  const list = useScrollTo(made);
  const hearsAnswers = useResult((sources) => sources.audition.hearsAnswers);
  return (
    <div>
      <div ref={list}>
        {answers.map((answer) => (
          <AnswerLine key={answer.id} answer={answer} object={object} />
        ))}
      </div>
      {answers.length === 0 && (
        <p className="border-t border-rule py-1.5 text-sm text-mist">
          {object
            ? "Nothing happens to it, or because of it, yet."
            : "The scene answers nobody yet: choose what it should answer."}
        </p>
      )}
      <div className="flex items-center justify-between gap-2">
        <KindMenu
          words="When something happens"
          items={CUE_SOURCE_KINDS.map((kind) => ({
            label: CUE_SOURCES[kind].label,
            help: CUE_SOURCES[kind].help,
            icon: ICONS[kind],
            onSelect: () => setMade(addAnswer(editing, kind, object)),
          }))}
        />
        {answers.length > 0 && (
          <Toggle
            label="Hear each as a click"
            on={hearsAnswers}
            onChange={(hears) => audition.setHearsAnswers(hears)}
          >
            <Volume2 size={14} aria-hidden /> each as a click
          </Toggle>
        )}
      </div>
    </div>
  );
}
