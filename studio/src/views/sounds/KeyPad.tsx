import { noteHz } from "@bumbrel/core/dsp/tone/note";
import type { Sound } from "@bumbrel/core/sound/kinds";
import type { LiveNotes } from "@bumbrel/player/live/liveNotes";
import { useEffect, useState } from "react";
import { useEditing, usePlayer } from "../../session/context";
import { editSound } from "../../session/edits/sounds";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { noteName } from "../../ui/format";
import { useFrame } from "../../ui/live/frames";

type Keys = Extract<Sound, { kind: "keys" }>;

/** C3 to begin with. */
const FIRST_OCTAVE = 3;
const OCTAVES = { lowest: 0, highest: 8 };
const isBlack = (note: number) => [1, 3, 6, 8, 10].includes(note % 12);
/** A press in the upper part of a key is softer than one near its end. */
const SOFTEST = 0.3;
const KNOBS = [
  { controller: 1, label: "Turn 1" },
  { controller: 74, label: "Turn 74" },
];

function useNotes(sound: Keys): LiveNotes | undefined {
  return usePlayer().live?.keys.get(sound.id);
}

/** An octave of keys to press, with two buttons that move it. */
export function KeyPad({ sound }: { sound: Keys }) {
  const notes = useNotes(sound);
  const [held, setHeld] = useState<ReadonlySet<number>>(new Set());
  const [octave, setOctave] = useState(FIRST_OCTAVE);
  useEffect(() => notes?.onEvent(() => setHeld(new Set(notes.held.map(({ note }) => note)))), [notes]);
  const first = (octave + 1) * 12;
  return (
    <fieldset className="flex h-16" aria-label={`Keys of ${sound.name}`}>
      {Array.from({ length: 12 }, (_, i) => first + i).map((note) => {
        const name = noteName(noteHz(note));
        const ground = held.has(note) ? "bg-brass" : isBlack(note) ? "bg-rule" : "bg-paper";
        return (
          <button
            key={note}
            type="button"
            aria-label={name}
            title={name}
            className={`min-w-6 grow touch-none rounded-b-sm border-x border-ground ${ground} ${isBlack(note) ? "mb-5" : ""}`}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              const { top, height } = event.currentTarget.getBoundingClientRect();
              notes?.strike(note, SOFTEST + (1 - SOFTEST) * Math.min(1, (event.clientY - top) / height));
            }}
            onPointerUp={() => notes?.release(note)}
            onPointerCancel={() => notes?.release(note)}
            onKeyDown={(event) => {
              if (event.repeat || (event.key !== " " && event.key !== "Enter")) return;
              event.preventDefault();
              notes?.strike(note, 0.8);
            }}
            onKeyUp={() => notes?.release(note)}
            onBlur={() => notes?.release(note)}
          />
        );
      })}
      <span className="grid">
        <button
          type="button"
          aria-label="An octave higher"
          title="An octave higher"
          className="size-6 text-mist hover:text-brass"
          onClick={() => setOctave(Math.min(OCTAVES.highest, octave + 1))}
        >
          ↑
        </button>
        <button
          type="button"
          aria-label="An octave lower"
          title="An octave lower"
          className="size-6 text-mist hover:text-brass"
          onClick={() => setOctave(Math.max(OCTAVES.lowest, octave - 1))}
        >
          ↓
        </button>
      </span>
    </fieldset>
  );
}

/** Which keyboard or knob box is listened to, and two knobs on the screen. */
export function KeysSettings({ sound }: { sound: Keys }) {
  const player = usePlayer();
  const editing = useEditing();
  const notes = useNotes(sound);
  const [devices, setDevices] = useState<{ id: string; name: string }[]>([]);
  const [failure, setFailure] = useState<string>();
  const find = async () => {
    try {
      const found = (await player.live?.findKeys()) ?? [];
      setDevices(found);
      setFailure(
        found.length > 0
          ? undefined
          : navigator.requestMIDIAccess === undefined
            ? "This browser has no access to keyboards. The keys on the screen work all the same."
            : "No keyboard or knob box is connected. Plug one in and look again; the keys on the screen work all the same.",
      );
    } catch {
      setFailure(
        "The browser was not allowed to use keyboards. Allow it in the address bar's site settings.",
      );
    }
  };
  const { device } = sound;
  const known = devices.some(({ id }) => id === device?.id);
  return (
    <div className="grid gap-2 text-sm text-mist">
      <div className="flex items-center gap-2">
        <Choice
          label="Device"
          className="w-52"
          value={device?.id ?? ""}
          choices={[
            ["", "On the screen"],
            ...devices.map(({ id, name }) => [id, name] as const),
            ...(device && !known ? [[device.id, `${device.name} (not connected)`] as const] : []),
          ]}
          onChange={(id) =>
            editSound(editing, sound, "change", (one) =>
              Object.assign(one, { device: devices.find((found) => found.id === id) ?? null }),
            )
          }
        />
        <Button className="text-sm" onClick={() => void find()}>
          Look for keyboards
        </Button>
      </div>
      {failure && <p role="status">{failure}</p>}
      <div className="flex gap-6">
        {KNOBS.map(({ controller, label }) => (
          <label key={controller} className="grid gap-1">
            {label}
            <input
              type="range"
              min={0}
              max={127}
              defaultValue={0}
              className="accent-brass"
              onChange={(event) => notes?.turn(controller, Number(event.target.value) / 127)}
            />
          </label>
        ))}
      </div>
      <LastPlayed notes={notes} />
    </div>
  );
}

function LastPlayed({ notes }: { notes: LiveNotes | undefined }) {
  const [text, setText] = useState("nothing played yet");
  useFrame(() => {
    if (!notes) return;
    const held = notes.held.map(
      ({ note, velocity }) => `${noteName(noteHz(note))} ${Math.round(velocity * 127)}`,
    );
    const turned = [...notes.controls].map(([number, value]) => `turn ${number}: ${Math.round(value * 127)}`);
    const next = [...held, ...turned].join(" · ");
    if (next !== "" && next !== text) setText(next);
  });
  return <p className="figures">{text}</p>;
}
