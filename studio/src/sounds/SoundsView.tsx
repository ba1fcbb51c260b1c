import { AudioWaveform, FilePlus2, Wind, X } from "lucide-react";
import { nanoid } from "nanoid";
import { type DragEvent, useRef, useState } from "react";
import { prepareFile } from "../analysis/prepareFile";
import { api } from "../api/client";
import { useSnapshot, useWorkbench } from "../project/context";
import { Button, IconButton } from "../ui/Button";
import { addNoise, addTone } from "./edits";
import { SoundRow } from "./SoundRow";

interface Arrival {
  id: string;
  name: string;
  stage: "reading" | "storing" | "failed";
  message?: string;
  abort: AbortController;
}

/** What comes in, and what of it is heard. */
export function SoundsView() {
  const workbench = useWorkbench();
  const { scene } = useSnapshot();
  const [arrivals, setArrivals] = useState<Arrival[]>([]);
  const [isOver, setIsOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);

  const bring = async (files: Iterable<File>) => {
    for (const file of files) {
      const arrival: Arrival = {
        id: nanoid(8),
        name: file.name,
        stage: "reading",
        abort: new AbortController(),
      };
      const update = (change: Partial<Arrival>) =>
        setArrivals((all) => all.map((one) => (one.id === arrival.id ? { ...one, ...change } : one)));
      const forget = () => setArrivals((all) => all.filter(({ id }) => id !== arrival.id));
      setArrivals((all) => [...all, arrival]);
      try {
        const { facts, wav } = await prepareFile(file, arrival.abort.signal);
        update({ stage: "storing" });
        const name = file.name.replace(/\.[^.]+$/, "").slice(0, 120) || "Sound";
        const { id: storedId } = await api.announceSound(name, facts);
        await api.sendSoundBytes(storedId, wav, arrival.abort.signal);
        workbench.facts.set(storedId, facts);
        workbench.edit(`add ${name}`, (draft) => {
          draft.sounds.push({ id: nanoid(10), name, kind: "file", storedId, heard: true, faderDb: 0 });
        });
        forget();
      } catch (error) {
        if (arrival.abort.signal.aborted) forget();
        else update({ stage: "failed", message: (error as Error).message });
      }
    }
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setIsOver(false);
    void bring(event.dataTransfer.files);
  };
  return (
    <main
      className={`min-h-0 overflow-y-auto px-8 py-5 ${isOver ? "outline-2 -outline-offset-8 outline-brass outline-dashed" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setIsOver(true);
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={drop}
    >
      <div className="flex items-baseline gap-4 pb-3">
        <h2 className="text-2xl font-semibold">Sounds</h2>
        <p className="grow text-mist">
          What is heard, and what is only listened to by strands. All start together.
        </p>
        <Button onClick={() => addTone(workbench)}>
          <AudioWaveform size={16} aria-hidden /> Make a tone
        </Button>
        <Button onClick={() => addNoise(workbench)}>
          <Wind size={16} aria-hidden /> Make noise
        </Button>
        <Button look="main" onClick={() => input.current?.click()}>
          <FilePlus2 size={16} aria-hidden /> Add sound files
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept="audio/*,.wav,.mp3,.ogg,.flac,.m4a"
          aria-label="Sound files"
          onChange={(event) => {
            void bring([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
      </div>
      {arrivals.map((arrival) => (
        <p
          key={arrival.id}
          role={arrival.stage === "failed" ? "alert" : "status"}
          className="mb-1 flex items-center gap-3 rounded bg-raised px-4 py-2"
        >
          <span className={`grow ${arrival.stage === "failed" ? "text-alarm" : ""}`}>
            {arrival.stage === "reading" && `Reading ${arrival.name} …`}
            {arrival.stage === "storing" && `Storing ${arrival.name} …`}
            {arrival.stage === "failed" && arrival.message}
          </span>
          <IconButton
            label={arrival.stage === "failed" ? "Put this message away" : `Cancel ${arrival.name}`}
            onClick={() => {
              arrival.abort.abort();
              setArrivals((all) => all.filter(({ id }) => id !== arrival.id));
            }}
          >
            <X size={16} />
          </IconButton>
        </p>
      ))}
      {scene.sounds.length === 0 && arrivals.length === 0 && (
        <p className="mt-4 grid h-64 place-content-center rounded border border-dashed border-rule text-center text-mist">
          Drop sound files here: WAV, MP3, OGG, FLAC or M4A. Or make a tone or noise to try things with.
        </p>
      )}
      <ul>
        {scene.sounds.map((sound) => (
          <SoundRow key={sound.id} sound={sound} scene={scene} />
        ))}
      </ul>
    </main>
  );
}
