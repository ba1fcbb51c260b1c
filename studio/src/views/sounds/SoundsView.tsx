import { ADDED_KINDS, type AddedKind, acceptedFiles } from "@bumbrel/core/sound/create";
import { soundKind } from "@bumbrel/core/sound/kinds";
import { AudioWaveform, FilePlus2, type LucideIcon, Mic, Piano, Timer, Wind } from "lucide-react";
import { useRef, useState } from "react";
import { ArrivalRow } from "../../library/ArrivalRow";
import { droppedFiles } from "../../library/droppedFiles";
import { useArrivals, useEditing, usePlayer, useProjectId, useScene } from "../../session/context";
import { addKind } from "../../session/edits/sounds";
import { useLooking, useUi } from "../../session/viewState";
import { Button } from "../../ui/Button";
import { KindMenu } from "../../ui/KindMenu";
import { BusColumn } from "./BusColumn";
import { SoundRow } from "./SoundRow";

/** Sounds that come in, their buses, and the output. */
export function SoundsView() {
  const projectId = useProjectId();
  const editing = useEditing();
  const player = usePlayer();
  const sounds = useScene((scene) => scene.sounds);
  const { openSoundId } = useLooking(projectId);
  const look = useUi((state) => state.look);
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
  const open = (id: string | undefined) => look(projectId, { openSoundId: id });
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
              onSelect: () => open(addKind(editing, kind, player.transport.durationS)),
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
        {sounds.length === 0 && list.length === 0 && (
          <p className="mt-4 grid h-64 place-content-center rounded border border-dashed border-rule text-center text-mist">
            Drop sound files or a folder here: {FILES.words}. Or add an input, a tone or a clock.
          </p>
        )}
        <ul aria-label="Sounds">
          {sounds.map((sound) => (
            <SoundRow
              key={sound.id}
              sound={sound}
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
