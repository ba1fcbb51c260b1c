import { FADER_OFF_DB, FADER_TOP_DB, faderGain } from "@bumbrel/core/dsp/decibel";
import type { Scene, Sound } from "@bumbrel/core/scene/document";
import { Ear, FilePlus2, Headphones, Trash2, Volume2, X } from "lucide-react";
import { nanoid } from "nanoid";
import { type DragEvent, useEffect, useRef, useState } from "react";
import { prepareFile } from "../analysis/prepareFile";
import { api } from "../api/client";
import { useSnapshot, useWorkbench } from "../project/context";
import { useUi } from "../project/ui";
import { Button, IconButton } from "../ui/Button";
import { formatDb, formatLength } from "../ui/format";
import { SliderField } from "../ui/SliderField";
import { themeColour } from "../ui/strandLook";
import { useCanvas } from "../ui/useCanvas";

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
          Drop sound files here: WAV, MP3, OGG, FLAC or M4A.
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

function SoundRow({ sound, scene }: { sound: Sound; scene: Scene }) {
  const workbench = useWorkbench();
  const facts = workbench.facts.get(sound.storedId);
  const failure = workbench.soundFailures.get(sound.storedId);
  const badSamples = workbench.sounds.get(sound.storedId)?.badSampleCount ?? 0;
  const users = scene.strands.filter(({ soundId }) => soundId === sound.id).length;
  const change = (label: string, apply: (sound: Sound) => void, gesture?: string) =>
    workbench.edit(
      `${label} ${sound.name}`,
      (draft) => {
        const one = draft.sounds.find(({ id }) => id === sound.id);
        if (one) apply(one);
      },
      gesture,
    );
  const remove = () =>
    workbench.edit(`remove ${sound.name}`, (draft) => {
      draft.sounds = draft.sounds.filter(({ id }) => id !== sound.id);
      for (const strand of draft.strands) if (strand.soundId === sound.id) strand.soundId = null;
    });
  return (
    <li className="grid grid-cols-[minmax(150px,1fr)_minmax(0,2.4fr)_170px_180px_auto] items-center gap-5 border-t border-rule py-3">
      <div>
        <input
          aria-label="Sound name"
          className="w-full truncate rounded border border-transparent bg-transparent text-lg font-semibold hover:border-rule"
          defaultValue={sound.name}
          key={sound.name}
          onBlur={(event) => {
            const name = event.target.value.trim().slice(0, 120);
            if (name && name !== sound.name) {
              change("rename", (one) => {
                one.name = name;
              });
            }
          }}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
        {facts && (
          <p className="text-sm text-mist">
            <span className="figures">{formatLength(facts.durationS)}</span> · {facts.originalRateHz / 1000}{" "}
            kHz · {["", "mono", "stereo"][facts.channels] ?? `${facts.channels} channels`}
          </p>
        )}
        <p className="text-sm text-mist">
          {facts && `peak ${formatDb(facts.peak)}FS`}
          {facts &&
            Number.isFinite(facts.integratedLufs) &&
            ` · ${facts.integratedLufs?.toFixed(1).replace("-", "−")} LUFS`}
        </p>
        <p className="text-sm text-mist">
          {users === 0
            ? "no strand listens"
            : `${users} ${users === 1 ? "strand listens" : "strands listen"}`}
        </p>
        {badSamples > 0 && (
          <p className="text-sm text-alarm">{badSamples} damaged samples count as silence</p>
        )}
      </div>
      {failure ? (
        <p role="alert" className="text-sm text-alarm">
          {failure}
        </p>
      ) : (
        <RowWaveform storedId={sound.storedId} />
      )}
      <fieldset className="inline-flex overflow-hidden rounded-full border border-rule text-sm">
        <legend className="sr-only">Whether {sound.name} is heard</legend>
        {[true, false].map((heard) => (
          <button
            key={String(heard)}
            type="button"
            aria-pressed={sound.heard === heard}
            title={heard ? "Heard by the audience" : "Only listened to by strands"}
            className={`flex grow items-center justify-center gap-1.5 py-1 ${sound.heard === heard ? "bg-brass text-on-brass" : "text-mist hover:text-paper"}`}
            onClick={() =>
              change(heard ? "let people hear" : "only listen to", (one) => {
                one.heard = heard;
              })
            }
          >
            {heard ? <Volume2 size={15} aria-hidden /> : <Ear size={15} aria-hidden />}
            {heard ? "heard" : "silent"}
          </button>
        ))}
      </fieldset>
      {sound.heard ? (
        <SliderField
          label="Fader"
          unit="dB"
          min={FADER_OFF_DB}
          max={FADER_TOP_DB}
          step={0.1}
          value={sound.faderDb}
          onChange={(db) =>
            change(
              "move the fader of",
              (one) => {
                one.faderDb = db;
              },
              `fader ${sound.id}`,
            )
          }
          onDone={() => workbench.endGesture()}
        />
      ) : (
        <p className="flex items-center gap-2 text-sm text-mist">
          <Headphones size={15} aria-hidden /> only strands listen
        </p>
      )}
      <IconButton label={`Remove ${sound.name}`} onClick={remove}>
        <Trash2 size={16} />
      </IconButton>
      {sound.heard && faderGain(sound.faderDb) === 0 && (
        <p className="col-span-5 text-sm text-mist">The fader is all the way down: nothing is heard of it.</p>
      )}
    </li>
  );
}

function RowWaveform({ storedId }: { storedId: string }) {
  const workbench = useWorkbench();
  const { dataVersion } = useSnapshot();
  const theme = useUi((state) => state.theme);
  const canvas = useCanvas(() => draw());
  const draw = () => {
    const context = canvas.context();
    const wave = workbench.waveform(storedId);
    const { width, height } = canvas.size.current;
    if (!context) return;
    context.clearRect(0, 0, width, height);
    context.fillStyle = themeColour("mist");
    if (!wave) {
      context.font = "14px 'Atkinson Hyperlegible Next Variable', sans-serif";
      context.fillText("Fetching …", 4, height / 2);
      return;
    }
    const columns = wave.length / 2;
    for (let x = 0; x < width; x++) {
      const column = Math.floor((x / width) * columns);
      const top = (1 - wave[column * 2 + 1]) * 0.5 * height;
      const bottom = (1 - wave[column * 2]) * 0.5 * height;
      context.fillRect(x, top, 1, Math.max(1, bottom - top));
    }
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(draw, [storedId, dataVersion, theme]);
  return <canvas ref={canvas.ref} className="h-16 w-full rounded bg-sunk" role="img" aria-label="Waveform" />;
}
