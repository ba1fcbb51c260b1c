import type { Bus } from "@bumbrel/core/sound/kinds";
import { OUTPUT_ID } from "@bumbrel/player/audio/mixer";
import { Plus, Trash2 } from "lucide-react";
import { Button, IconButton } from "../../ui/Button";
import { NameField } from "../../ui/NameField";
import { useResults, useScene, useWorkbench } from "../project/context";
import { addBus, editBus, removeBus } from "./edits";
import { LevelMeter } from "./LevelMeter";
import { MuteSolo, Strip } from "./Strip";

/** Targets of sounds: buses, and the output behind them. */
export function BusColumn() {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  return (
    <aside
      aria-label="Buses and output"
      className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-2 overflow-x-hidden overflow-y-auto border-l border-rule px-5 py-5"
    >
      <div className="flex items-center justify-between">
        <h3 className="text-lg font-semibold">Buses</h3>
        <Button onClick={() => addBus(workbench)}>
          <Plus size={15} aria-hidden /> Add a bus
        </Button>
      </div>
      {scene.buses.length === 0 && (
        <p className="text-sm text-mist">
          Every sound goes straight to the output. A bus keeps some of them together: music, effects, voice.
        </p>
      )}
      {scene.buses.map((bus) => (
        <BusStrip
          key={bus.id}
          bus={bus}
          sounds={scene.sounds.filter(({ busId }) => busId === bus.id).length}
        />
      ))}
      <div className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-rule pt-2">
        <span className="text-lg">Output</span>
        <LevelMeter id={OUTPUT_ID} name="the output" />
        <p className="text-xs text-mist">Level now, its loudest of late, and loudness over the last 3 s.</p>
      </div>
    </aside>
  );
}

function BusStrip({ bus, sounds }: { bus: Bus; sounds: number }) {
  const workbench = useWorkbench();
  const { name } = bus;
  const change = (label: string, apply: (bus: Bus) => void, gesture?: string) =>
    editBus(workbench, bus, label, apply, gesture);
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
        <IconButton label={`Remove ${name}`} onClick={() => removeBus(workbench, bus)}>
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
