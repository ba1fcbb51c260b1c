import { AudioWaveform, FilePlus2, Mic, Piano, Timer, Wind, X } from "lucide-react";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { type Arrival, droppedFiles, useArrivals } from "../../library/useArrivals";
import { Button, IconButton } from "../../ui/Button";
import { drawWaveform } from "../../ui/drawWaveform";
import { KindMenu } from "../../ui/KindMenu";
import { themeColour } from "../../ui/strandLook";
import { useCanvas } from "../../ui/useCanvas";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useLooking, useUi } from "../project/uiState";
import { BusColumn } from "./BusColumn";
import { addClock, addInput, addKeys, addNoise, addTone } from "./edits";
import { SoundRow } from "./SoundRow";

const ACCEPTED = "audio/*,.wav,.mp3,.ogg,.flac,.m4a,.mid,.midi";

/** What comes in, which bus it goes to, and what of it is heard. */
export function SoundsView() {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const { openSoundId } = useLooking(workbench.projectId);
  const { look } = useUi();
  const { arrivals, bring, putAway } = useArrivals();
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
            items={KINDS.map(({ add, ...kind }) => ({ ...kind, onSelect: () => open(add(workbench)) }))}
          />
          <Button look="main" onClick={() => choose()}>
            <FilePlus2 size={16} aria-hidden /> Add sound files
          </Button>
          <input
            ref={input}
            type="file"
            multiple
            hidden
            accept={ACCEPTED}
            aria-label="Sound files"
            onChange={(event) => {
              void bring([...(event.target.files ?? [])], replacing.current);
              replacing.current = undefined;
              event.target.value = "";
            }}
          />
        </div>
        {arrivals.map((arrival) => (
          <ArrivalRow key={arrival.id} arrival={arrival} onPutAway={() => putAway(arrival)} />
        ))}
        {scene.sounds.length === 0 && arrivals.length === 0 && (
          <p className="mt-4 grid h-64 place-content-center rounded border border-dashed border-rule text-center text-mist">
            Drop sound files or a folder here: WAV, MP3, OGG, FLAC, M4A or MIDI. Or add an input, a tone or a
            clock.
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

const KINDS = [
  {
    label: "Input",
    help: "A microphone or interface; a made-up one ships with Bumbrel.",
    icon: Mic,
    add: addInput,
  },
  {
    label: "Tone",
    help: "Sine, triangle, square or sawtooth, steady or sweeping.",
    icon: AudioWaveform,
    add: addTone,
  },
  { label: "Noise", help: "White, pink or brown.", icon: Wind, add: addNoise },
  {
    label: "Clock",
    help: "Beats, bars and a drawn curve, with an optional click.",
    icon: Timer,
    add: addClock,
  },
  { label: "Keys", help: "A keyboard or knob box, or one on the screen.", icon: Piano, add: addKeys },
];

const STAGE_WORDS = { waiting: "Waiting:", reading: "Reading", storing: "Storing" };

/** A file on its way in: how far it is, and its waveform as it comes. */
function ArrivalRow({ arrival, onPutAway }: { arrival: Arrival; onPutAway(): void }) {
  const { name, stage, share, message } = arrival;
  const failed = stage === "failed";
  let words: ReactNode = message;
  if (!failed) {
    words = (
      <>
        {STAGE_WORDS[stage]} {name} …{" "}
        {stage !== "waiting" && <span className="figures">{Math.round(share * 100)} %</span>}
      </>
    );
  }
  return (
    <div
      role={failed ? "alert" : "status"}
      className="mb-1 grid grid-cols-[minmax(0,1fr)_auto_auto] items-center gap-3 rounded bg-raised px-4 py-2"
    >
      <span className={failed ? "text-alarm" : "truncate"}>{words}</span>
      {!failed && <ArrivingWaveform arrival={arrival} />}
      <IconButton label={failed ? "Put this message away" : `Cancel ${name}`} onClick={onPutAway}>
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
