import { ADDED_KINDS, type AddedKind, acceptedFiles } from "@bumbrel/core/sound/create";
import { soundKind } from "@bumbrel/core/sound/kinds";
import { AudioWaveform, FilePlus2, type LucideIcon, Mic, Piano, Timer, Wind } from "lucide-react";
import { useRef, useState } from "react";
import { droppedFiles } from "../../library/droppedFiles";
import { Button } from "../../ui/Button";
import { KindMenu } from "../../ui/KindMenu";
import { ArrivalRow } from "../project/ArrivalRow";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useArrivals } from "../project/importing";
import { useLooking, useUi } from "../project/uiState";
import { BusColumn } from "./BusColumn";
import { addKind } from "./edits";
import { SoundRow } from "./SoundRow";

/** Sounds that come in, their buses, and the output. */
export function SoundsView() {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const { openSoundId } = useLooking(workbench.projectId);
  const { look } = useUi();
  const { arrivals, list: all } = useArrivals();
  const list = all.filter(({ becomes }) => becomes === "sound");
  const bring = (files: readonly File[], replacingId?: string) => arrivals.bring(files, replacingId);
  const [isOver, setIsOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const replacing = useRef<string>(undefined);

  const choose = (soundId?: string) => {
    replacing.current = soundId;
    input.current?.click();
  };
  const open = (id: string | undefined) => look(workbench.projectId, { openSoundId: id });
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_310px]">
      <section
        aria-label="What comes in"
        className={`min-h-0 overflow-y-auto px-6 py-5 ${isOver ? "outline-2 -outline-offset-8 outline-brass outline-dashed" : ""}`}
        onDragOver={(event) => {
          event.preventDefault();
          setIsOver(true);
        }}
        onDragLeave={() => setIsOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setIsOver(false);
          void droppedFiles(event.dataTransfer).then((files) => bring(files));
        }}
      >
        <div className="flex items-baseline gap-3 pb-3">
          <h2 className="text-2xl font-semibold">Sounds</h2>
          <p className="grow truncate text-mist">What is heard, and what only strands listen to.</p>
          <KindMenu
            words="Add something else"
            items={KINDS.map(({ kind, ...item }) => ({
              ...item,
              onSelect: () => open(addKind(workbench, kind)),
            }))}
          />
          <Button look="main" onClick={() => choose()}>
            <FilePlus2 size={16} aria-hidden /> Add sound files
          </Button>
          <input
            ref={input}
            type="file"
            multiple
            hidden
            accept={FILES.accept}
            aria-label="Sound files"
            onChange={(event) => {
              void bring([...(event.target.files ?? [])], replacing.current);
              replacing.current = undefined;
              event.target.value = "";
            }}
          />
        </div>
        {list.map((arrival) => (
          <ArrivalRow key={arrival.id} arrival={arrival} onDismiss={() => arrivals.dismiss(arrival)} />
        ))}
        {scene.sounds.length === 0 && list.length === 0 && (
          <p className="mt-4 grid h-64 place-content-center rounded border border-dashed border-rule text-center text-mist">
            Drop sound files or a folder here: {FILES.words}. Or add an input, a tone or a clock.
          </p>
        )}
        <ul aria-label="Sounds">
          {scene.sounds.map((sound) => (
            <SoundRow
              key={sound.id}
              sound={sound}
              scene={scene}
              isOpen={sound.id === openSoundId}
              onOpen={(isOpen) => open(isOpen ? sound.id : undefined)}
              onReplace={() => choose(sound.id)}
            />
          ))}
        </ul>
      </section>
      <BusColumn />
    </main>
  );
}

const ICONS: Record<AddedKind, LucideIcon> = {
  input: Mic,
  tone: AudioWaveform,
  noise: Wind,
  clock: Timer,
  keys: Piano,
};
const KINDS = ADDED_KINDS.map((kind) => {
  const { label, help } = soundKind(kind);
  return { kind, label, help, icon: ICONS[kind] };
});
const FILES = acceptedFiles();
