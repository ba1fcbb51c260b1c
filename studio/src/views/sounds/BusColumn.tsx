import type { Bus } from "@bumbrel/core/sound/kinds";
import { OUTPUT_ID } from "@bumbrel/player/audio/mixer";
import { Plus, Trash2 } from "lucide-react";
import { useEditing, useScene } from "../../session/context";
import { addBus, editBus, removeBus } from "../../session/edits/sounds";
import { Button, IconButton } from "../../ui/Button";
import { NameField } from "../../ui/fields/NameField";
import { LevelMeter } from "./LevelMeter";
import { MuteSolo, Strip } from "./Strip";

/** Targets of sounds: buses, and the output behind them. */
export function BusColumn() {
  const editing = useEditing();
  const buses = useScene((scene) => scene.buses);
  return (
    <aside
      aria-label="Buses and output"
      className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-2 overflow-x-hidden overflow-y-auto border-l border-rule px-5 py-5"
    >
      <div className="flex items-center justify-between">
        <h3 className="text-lg font-semibold">Buses</h3>
        <Button onClick={() => addBus(editing)}>
          <Plus size={15} aria-hidden /> Add a bus
        </Button>
      </div>
      {buses.length === 0 && (
        <p className="text-sm text-mist">
          Every sound goes straight to the output. A bus keeps some of them together: music, effects, voice.
        </p>
      )}
      {buses.map((bus) => (
        <BusStrip key={bus.id} bus={bus} />
      ))}
      <div className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-rule pt-2">
        <span className="text-lg">Output</span>
        <LevelMeter id={OUTPUT_ID} name="the output" />
        <p className="text-xs text-mist">Level now, its loudest of late, and loudness over the last 3 s.</p>
      </div>
    </aside>
  );
}

function BusStrip({ bus }: { bus: Bus }) {
  const editing = useEditing();
  const sounds = useScene((scene) => scene.sounds.filter(({ busId }) => busId === bus.id).length);
  const { name } = bus;
  const change = (label: string, apply: (bus: Bus) => void, gesture?: string) =>
    editBus(editing, bus, label, apply, gesture);
  return (
    <section
      aria-label={`Bus ${name}`}
      className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-rule pt-2"
    >
      <div className="flex items-center gap-1.5">
        <NameField
          label="Bus name"
          className="min-w-0 grow px-0 text-lg"
          value={name}
          onRename={(next) =>
            change("rename", (one) => {
              one.name = next;
            })
          }
        />
        <MuteSolo strip={bus} change={change} />
        <IconButton label={`Remove ${name}`} onClick={() => removeBus(editing, bus)}>
          <Trash2 size={15} />
        </IconButton>
      </div>
      <Strip strip={bus} change={change} />
      <LevelMeter id={bus.id} name={name} />
      <p className="text-xs text-mist">
        {sounds === 0 ? "no sound goes here" : `${sounds} ${sounds === 1 ? "sound" : "sounds"}`}
      </p>
    </section>
  );
}
