import { resolveListening } from "@bumbrel/core/analyse/listening";
import type { Scene } from "@bumbrel/core/document/scene";
import { runningOf } from "@bumbrel/core/document/strands/running";
import { faderGain } from "@bumbrel/core/dsp/level/decibel";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import { samplesKey } from "@bumbrel/core/sound/key";
import { isMade, isStored, type Sound } from "@bumbrel/core/sound/kinds";
import {
  AudioWaveform,
  ChevronDown,
  ChevronRight,
  Ear,
  FileAudio,
  Mic,
  Music4,
  Pause,
  Piano,
  Play,
  Repeat,
  Table2,
  Timer,
  Trash2,
  Volume2,
  Wind,
} from "lucide-react";
import { useSyncExternalStore } from "react";
import { useEditing, useLibrary, usePlayer, useResult, useSamples, useScene } from "../../session/context";
import { addBus, editRunning, editSound, removeSound } from "../../session/edits/sounds";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { NameField } from "../../ui/fields/NameField";
import { Toggle } from "../../ui/fields/Toggle";
import { formatDb, formatHz, formatLength, formatLufs } from "../../ui/format";
import { LevelMeter } from "./LevelMeter";
import { RowFace } from "./RowFace";
import { SoundDetail } from "./SoundDetail";
import { MuteSolo, Strip } from "./Strip";

const ICONS = {
  file: FileAudio,
  tone: AudioWaveform,
  noise: Wind,
  clock: Timer,
  notes: Music4,
  input: Mic,
  keys: Piano,
  table: Table2,
} as const;

interface Props {
  sound: Sound;
  isOpen: boolean;
  onOpen(isOpen: boolean): void;
  onReplace(): void;
}

/** One sound: what it is, whether it is heard, how loud, and where it goes. */
export function SoundRow({ sound, isOpen, onOpen, onReplace }: Props) {
  const editing = useEditing();
  const { id, name } = sound;
  const key = samplesKey(sound);
  const { failure, loaded } = useSamples(key);
  const badSamples = loaded?.badSampleCount ?? 0;
  const listeners = useScene((scene) => listenersText(scene, sound));
  const Icon = ICONS[sound.kind];
  return (
    <li className="border-t border-rule py-2.5">
      <div className="grid grid-cols-[218px_minmax(0,1fr)_344px] gap-4">
        <div className="min-w-0">
          <div className="-ml-2 flex items-center">
            <IconButton
              label={isOpen ? `Close ${name}` : `Open ${name}`}
              aria-expanded={isOpen}
              onClick={() => onOpen(!isOpen)}
            >
              {isOpen ? <ChevronDown size={17} /> : <ChevronRight size={17} />}
            </IconButton>
            <Icon size={17} className="mr-1.5 shrink-0 text-brass" aria-hidden />
            <NameField
              label="Sound name"
              className="min-w-0 grow px-0 text-lg"
              value={name}
              onRename={(next) =>
                editSound(editing, sound, "rename", (one) => {
                  one.name = next;
                })
              }
            />
          </div>
          <Facts sound={sound} />
          <p className="truncate text-sm text-mist">{listeners}</p>
          {badSamples > 0 && (
            <p className="text-sm text-alarm">{badSamples} damaged samples count as silence</p>
          )}
        </div>
        {failure ? (
          <p role="alert" className="text-sm text-alarm">
            {failure}
          </p>
        ) : (
          <RowFace sound={sound} onOpen={() => onOpen(true)} />
        )}
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-1">
          {sound.kind === "keys" ? (
            <div className="flex gap-2 text-sm text-mist">
              Keys give notes and turns to strands, and make no sound of their own.
              <RemoveButton sound={sound} />
            </div>
          ) : (
            <>
              <RowSwitches sound={sound} />
              <Strip
                strip={sound}
                change={(label, apply, gesture) => editSound(editing, sound, label, apply, gesture)}
              />
              <LevelMeter id={id} name={name} />
            </>
          )}
          {sound.heard && faderGain(sound.faderDb) === 0 && (
            <p className="text-sm text-mist">The fader is all the way down: nothing is heard of it.</p>
          )}
        </div>
      </div>
      {isOpen && <SoundDetail sound={sound} onReplace={isStored(sound) ? onReplace : undefined} />}
    </li>
  );
}

/** Which strands listen to a sound, by itself or through its bus. */
function listenersText(scene: Scene, { id }: Sound): string {
  const names = scene.strands
    .filter(
      ({ listensTo }) =>
        (listensTo.kind === "sound" && listensTo.id === id) ||
        resolveListening(scene, listensTo)?.sounds.some(({ soundId }) => soundId === id),
    )
    .map(({ name }) => name);
  return names.length === 0 ? "no strand listens" : `heard by ${names.join(", ")}`;
}

function Facts({ sound }: { sound: Sound }) {
  const library = useLibrary();
  const key = samplesKey(sound);
  const loaded = useResult((sources) => sources.library.soundOf(sound));
  const facts = key === undefined ? undefined : library.facts.get(key);
  const line = "truncate text-sm text-mist";
  switch (sound.kind) {
    case "file":
      return facts ? <FileFacts facts={facts} /> : null;
    case "notes": {
      const notes = loaded?.notes;
      return (
        <p className={line}>
          {notes ? `${notes.notes.length} notes · ${formatLength(notes.durationS)}` : "reading …"}
        </p>
      );
    }
    case "table": {
      const table = loaded?.table;
      return (
        <p className={line}>
          {table ? `${table.columns.length} columns · ${formatLength(table.durationS)}` : "reading …"}
        </p>
      );
    }
    case "tone":
      return (
        <p className={line}>
          {sound.waveform}, {formatHz(sound.hz)}
          {sound.toHz !== null && ` to ${formatHz(sound.toHz)}`} · {formatLength(sound.seconds)}
        </p>
      );
    case "noise":
      return (
        <p className={line}>
          {sound.colour} · {formatLength(sound.seconds)}
        </p>
      );
    case "clock":
      return (
        <p className={line}>
          <span className="figures">{sound.bpm.toFixed(1)}</span> beats a minute, {sound.beatsPerBar} to a bar
        </p>
      );
    case "input":
      return <p className={line}>{sound.device?.name ?? "Made-up microphone"}</p>;
    case "keys":
      return <p className={line}>{sound.device?.name ?? "On the screen"}</p>;
  }
}

function FileFacts({ facts }: { facts: SoundFacts }) {
  const { durationS, originalRateHz, channels, layout, peak, integratedLufs } = facts;
  return (
    <>
      <p className="truncate text-sm text-mist" title={layout}>
        <span className="figures">{formatLength(durationS)}</span> · {originalRateHz / 1000} kHz ·{" "}
        {["", "mono", "stereo"][channels] ?? layout ?? `${channels} channels`}
      </p>
      <p className="truncate text-sm text-mist">
        peak {formatDb(peak)}FS
        {typeof integratedLufs === "number" && ` · ${formatLufs(integratedLufs)}`}
      </p>
    </>
  );
}

function RowSwitches({ sound }: { sound: Sound }) {
  const editing = useEditing();
  const { groups, buses } = useScene((scene) => ({ groups: scene.groups, buses: scene.buses }));
  const { name } = sound;
  const { runs, loops } = runningOf({ groups }, sound);
  const change = (label: string, apply: (sound: Sound) => void) => editSound(editing, sound, label, apply);
  return (
    <div className="flex items-center gap-0.5">
      <fieldset className="inline-flex overflow-hidden rounded-full border border-rule text-sm">
        <legend className="sr-only">Whether {name} is heard</legend>
        {[true, false].map((heard) => (
          <button
            key={String(heard)}
            type="button"
            aria-label={heard ? `Let people hear ${name}` : `Only listen to ${name}`}
            aria-pressed={sound.heard === heard}
            title={heard ? "Heard by the audience" : "Only listened to by strands"}
            className={`flex h-6 w-8 items-center justify-center ${sound.heard === heard ? "bg-brass text-on-brass" : "text-mist hover:text-paper"}`}
            onClick={() =>
              change(heard ? "let people hear" : "only listen to", (one) => {
                one.heard = heard;
              })
            }
          >
            {heard ? <Volume2 size={15} aria-hidden /> : <Ear size={15} aria-hidden />}
          </button>
        ))}
      </fieldset>
      <MuteSolo strip={sound} change={change} />
      {isMade(sound) && (
        <Toggle
          label={`${name} on`}
          title="Whether it sounds at all"
          on={sound.on}
          onChange={(on) => change(on ? "switch on" : "switch off", (one) => Object.assign(one, { on }))}
        >
          {sound.on ? "on" : "off"}
        </Toggle>
      )}
      {samplesKey(sound) !== undefined && (
        <IconButton
          label={loops ? `Let ${name} play once` : `Let ${name} go round`}
          aria-pressed={loops}
          small
          className={loops ? "text-brass" : "text-mist"}
          onClick={() => editRunning(editing, sound, { loops: !loops })}
        >
          <Repeat size={15} />
        </IconButton>
      )}
      {runs === "alone" && samplesKey(sound) !== undefined && (
        <AlonePlay sound={sound} unit={runningOf({ groups }, sound).unitId} />
      )}
      <span aria-hidden className="ml-auto pr-0.5 text-mist">
        {isMade(sound) ? "" : "→"}
      </span>
      <Choice
        label={`Where ${name} goes`}
        className="w-[5.2rem] shrink-0"
        value={sound.busId ?? ""}
        choices={[["", "output"], ...buses.map((bus) => [bus.id, bus.name] as const), ["+", "a new bus"]]}
        onChange={(busId) => {
          if (busId === "+") addBus(editing, sound);
          else
            change("send", (one) => {
              one.busId = busId === "" ? null : busId;
            });
        }}
      />
      <RemoveButton sound={sound} />
    </div>
  );
}

function RemoveButton({ sound }: { sound: Sound }) {
  const editing = useEditing();
  return (
    <IconButton
      label={`Remove ${sound.name}`}
      small
      className="-mr-1"
      onClick={() => removeSound(editing, sound)}
    >
      <Trash2 size={15} />
    </IconButton>
  );
}

/** Plays and pauses a sound that runs by itself; its place is kept. */
function AlonePlay({ sound, unit }: { sound: Sound; unit: string }) {
  const player = usePlayer();
  const { transport } = player;
  const state = useSyncExternalStore(
    (listener) => transport.onChange(listener),
    () => transport.stateOf(unit),
  );
  const playing = state === "playing";
  return (
    <IconButton
      label={playing ? `Pause ${sound.name}` : `Play ${sound.name}`}
      small
      className="bg-brass text-on-brass hover:bg-brass"
      onClick={() => {
        if (playing) transport.pauseUnit(unit);
        else transport.playUnit(unit);
      }}
    >
      {playing ? <Pause size={14} fill="currentColor" /> : <Play size={14} fill="currentColor" />}
    </IconButton>
  );
}
