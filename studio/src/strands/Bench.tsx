import { FFT_SIZES, type FftSize, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { noteHz } from "@bumbrel/core/dsp/note";
import type { ListensTo, Scene, Strand } from "@bumbrel/core/scene/document";
import { partsOf } from "@bumbrel/core/scene/soundSource";
import { canMeasure, MEASURE_KINDS, MEASURES, type MeasureKind } from "@bumbrel/core/strand/measures";
import {
  defaultShaping,
  type Setting,
  SHAPING_STEPS,
  STEP_NAMES,
  type StepName,
} from "@bumbrel/core/strand/shaping";
import { Plus, Trash2 } from "lucide-react";
import { Switch } from "radix-ui";
import { type ReactNode, useState } from "react";
import { useSnapshot, useWorkbench } from "../project/context";
import { useUi } from "../project/ui";
import type { Workbench } from "../project/workbench";
import { Button, IconButton } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { formatDb, noteName } from "../ui/format";
import { LiveBar } from "../ui/LiveBar";
import { LiveText } from "../ui/LiveText";
import { NameField } from "../ui/NameField";
import { NumberField } from "../ui/NumberField";
import { SliderField } from "../ui/SliderField";
import { StrandMark } from "../ui/StrandMark";
import { strandColour } from "../ui/strandLook";
import { rangeBetween } from "./axis";
import { addStrand, editStrand, fitStrand, removeStrand, soundBeforeFader } from "./edits";
import { shownSound } from "./shownSound";
import { TraceCanvas } from "./TraceCanvas";

const FIRST_RANGE = { lowHz: 80, highHz: 160 };

/** The chosen strand: what it does over the whole sound, and how it is shaped. */
export function Bench({ chosen }: { chosen: Strand | undefined }) {
  return (
    <section
      aria-label="Bench"
      className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-2 px-4 pt-2 pb-3"
    >
      <StrandChips chosen={chosen} />
      {chosen ? (
        <>
          <TraceCanvas strand={chosen} />
          <Controls key={chosen.id} strand={chosen} />
        </>
      ) : (
        <p className="grid h-56 place-content-center text-mist">
          No strand yet. Drag up or down on the spectrogram to listen to a range of frequencies.
        </p>
      )}
    </section>
  );
}

function StrandChips({ chosen }: { chosen: Strand | undefined }) {
  const workbench = useWorkbench();
  const { scene } = useSnapshot();
  const { look, looking } = useUi();
  const choose = (strand: Strand) =>
    look(workbench.projectId, {
      strandId: strand.id,
      soundId: strand.listensTo.kind === "sound" ? strand.listensTo.id : undefined,
    });
  const add = () => {
    const sound = shownSound(scene, looking[workbench.projectId] ?? {});
    if (!sound) return;
    const strandId = addStrand(workbench, soundBeforeFader(sound.id), FIRST_RANGE);
    // A clock has beats rather than frequencies.
    if (sound.kind === "clock") {
      editStrand(workbench, strandId, "measure beat phase", (draft) => setMeasure(draft, "beatPhase"));
    }
    look(workbench.projectId, { strandId });
  };
  return (
    <div className="flex items-center gap-2 overflow-x-auto p-0.5">
      {scene.strands.map((strand) => (
        <button
          key={strand.id}
          type="button"
          aria-pressed={strand.id === chosen?.id}
          onClick={() => choose(strand)}
          className={`grid w-36 shrink-0 gap-1 rounded border px-2 py-1 text-left ${
            strand.id === chosen?.id ? "border-brass bg-raised" : "border-rule hover:border-mist"
          }`}
        >
          <span className="flex items-center gap-1.5">
            <StrandMark strand={strand} />
            <span className="truncate text-sm">{strand.name}</span>
          </span>
          <LiveBar
            colour={strandColour(strand.hue)}
            value={(timeS) => workbench.shapedNow(strand.id, timeS)}
          />
        </button>
      ))}
      <Button className="shrink-0" onClick={add}>
        <Plus size={15} aria-hidden /> New strand
      </Button>
      {chosen && (
        <p className="ml-auto shrink-0 text-sm text-mist">
          now{" "}
          <LiveText
            className="inline-block w-20 text-right text-paper"
            text={(timeS) => rawText(workbench, chosen, timeS)}
          />{" "}
          →{" "}
          <LiveText
            className="text-brass"
            text={(timeS) => workbench.shapedNow(chosen.id, timeS).toFixed(2)}
          />
        </p>
      )}
    </div>
  );
}

/** A level in dB, a share as it is. */
function rawText(workbench: Workbench, strand: Strand, timeS: number): string {
  const raw = workbench.rawNow(strand.id, timeS);
  return MEASURES[strand.measure.kind].unit === "level" ? formatDb(raw) : raw.toFixed(2);
}

function Controls({ strand }: { strand: Strand }) {
  return (
    <div className="grid grid-cols-[minmax(250px,1.5fr)_minmax(110px,0.8fr)_minmax(230px,1.7fr)_minmax(230px,1.7fr)_auto] gap-5">
      <Hearing strand={strand} />
      {STEP_NAMES.map((name) => (
        <StepGroup key={name} strand={strand} name={name} />
      ))}
    </div>
  );
}

const selectLook = "min-w-0 rounded border border-rule bg-sunk px-1.5 py-0.5 text-sm";

function Hearing({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const { scene } = useSnapshot();
  const { measure } = strand;
  const change = (label: string, apply: (strand: Strand) => void) =>
    editStrand(workbench, strand.id, label, apply);
  const parts = partsListenedTo(scene, strand);
  return (
    <Group heading={<StrandName strand={strand} />}>
      <div className="flex items-center gap-2 text-sm">
        <select
          aria-label="Measure"
          className={`${selectLook} w-28`}
          value={measure.kind}
          onChange={(event) => {
            const kind = event.target.value as MeasureKind;
            change(`measure ${MEASURES[kind].label.toLowerCase()}`, (draft) => setMeasure(draft, kind));
          }}
        >
          {MEASURE_KINDS.filter((kind) => kind === measure.kind || canMeasure(kind, parts)).map((kind) => (
            <option key={kind} value={kind}>
              {MEASURES[kind].label}
            </option>
          ))}
        </select>
        <span className="text-mist">of</span>
        <SourceChoice strand={strand} />
      </div>
      {measure.kind === "band" && (
        <div className="flex items-baseline gap-2 text-sm text-mist">
          from
          <NumberField
            label="Low end"
            unit={`Hz ${noteName(Math.max(measure.lowHz, 1))}`}
            value={measure.lowHz}
            min={0}
            max={SAMPLE_RATE_HZ / 2}
            step={0.1}
            chars={7}
            onChange={(lowHz) =>
              change("set the low end", (draft) =>
                Object.assign(draft.measure, rangeBetween(lowHz, Math.max(lowHz, measure.highHz))),
              )
            }
          />
          to
          <NumberField
            label="High end"
            unit={`Hz ${noteName(Math.max(measure.highHz, 1))}`}
            value={measure.highHz}
            min={0}
            max={SAMPLE_RATE_HZ / 2}
            step={0.1}
            chars={7}
            onChange={(highHz) =>
              change("set the high end", (draft) =>
                Object.assign(draft.measure, rangeBetween(Math.min(highHz, measure.lowHz), highHz)),
              )
            }
          />
        </div>
      )}
      {measure.kind !== "band" && <p className="text-sm text-mist">{MEASURES[measure.kind].help}</p>}
      {(measure.kind === "velocity" || measure.kind === "note") && (
        <div className="flex items-baseline gap-2 text-sm text-mist">
          notes
          {(["lowNote", "highNote"] as const).map((end) => (
            <NumberField
              key={end}
              label={end === "lowNote" ? "Lowest note" : "Highest note"}
              unit={noteName(noteHz(measure[end]))}
              value={measure[end]}
              min={0}
              max={127}
              step={1}
              chars={3}
              onChange={(note) =>
                change("set the notes", (draft) => Object.assign(draft.measure, { [end]: Math.round(note) }))
              }
            />
          ))}
        </div>
      )}
      {measure.kind === "control" && (
        <p className="text-sm text-mist">
          controller number{" "}
          <NumberField
            label="Controller"
            value={measure.controller}
            min={0}
            max={127}
            step={1}
            chars={3}
            onChange={(controller) =>
              change("set the controller", (draft) =>
                Object.assign(draft.measure, { controller: Math.round(controller) }),
              )
            }
          />
        </p>
      )}
      <div className="flex items-center gap-2 text-sm text-mist">
        {measure.kind === "band" && (
          <Choice
            label="FFT size"
            title="Samples in a spectrum: more tell low notes apart, fewer follow quick hits"
            value={String(measure.fftSize)}
            choices={FFT_SIZES.map(
              (size) =>
                [String(size), `FFT ${size} · ${Math.round((1000 * size) / SAMPLE_RATE_HZ)} ms`] as const,
            )}
            onChange={(size) =>
              change("change the FFT size", (draft) => {
                Object.assign(draft.measure, { fftSize: Number(size) as FftSize });
              })
            }
          />
        )}
        <TapChoice strand={strand} />
      </div>
    </Group>
  );
}

/** The sound or bus a strand listens to. */
function SourceChoice({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const { scene } = useSnapshot();
  const { look } = useUi();
  const { listensTo } = strand;
  const listen = (next: ListensTo) => {
    editStrand(workbench, strand.id, "listen to something else", (draft) => {
      draft.listensTo = next;
      const parts = partsListenedTo(scene, draft);
      if (!canMeasure(draft.measure.kind, parts)) {
        setMeasure(draft, MEASURE_KINDS.find((kind) => canMeasure(kind, parts)) ?? "band");
      }
    });
    if (next.kind === "sound") look(workbench.projectId, { soundId: next.id });
  };
  const tap = listensTo.kind === "nothing" ? "before" : listensTo.tap;
  const value = listensTo.kind === "nothing" ? "" : `${listensTo.kind} ${listensTo.id}`;
  const options = [
    ...scene.sounds.map(({ id, name }) => [`sound ${id}`, name]),
    ...scene.buses.map(({ id, name }) => [`bus ${id}`, `${name} (bus)`]),
  ];
  return (
    <select
      aria-label="Sound"
      className={`${selectLook} w-16 grow`}
      value={value}
      onChange={(event) => {
        const [kind, id] = event.target.value.split(" ");
        listen({ kind: kind as "sound" | "bus", id, tap });
      }}
    >
      {!options.some(([one]) => one === value) && <option value="">choose a sound</option>}
      {options.map(([one, name]) => (
        <option key={one} value={one}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** On which side of the fader a strand listens. */
function TapChoice({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const { listensTo } = strand;
  if (listensTo.kind === "nothing") return null;
  return (
    <Choice
      label="Before or after the fader"
      title="Whether the fader changes what the strand hears"
      className="min-w-0"
      value={listensTo.tap}
      choices={[
        ["before", "before fader"],
        ["after", "after fader"],
      ]}
      onChange={(tap) =>
        editStrand(workbench, strand.id, `listen ${tap} the fader`, (draft) => {
          draft.listensTo = { ...listensTo, tap };
        })
      }
    />
  );
}

function partsListenedTo(scene: Scene, { listensTo }: Strand) {
  if (listensTo.kind === "bus") return partsOf("bus");
  const sound = listensTo.kind === "sound" && scene.sounds.find(({ id }) => id === listensTo.id);
  return partsOf(sound ? sound.kind : "file");
}

/** Another measure; one that gives shares needs no window. */
function setMeasure(strand: Strand, kind: MeasureKind): void {
  if (MEASURES[kind].unit !== MEASURES[strand.measure.kind].unit) {
    strand.shaping = defaultShaping(MEASURES[kind].unit);
  }
  strand.measure = { ...MEASURES[kind].defaults };
}

function StrandName({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  return (
    <span className="flex w-full items-center gap-1.5">
      <StrandMark strand={strand} />
      <NameField
        label="Strand name"
        className="min-w-0 grow"
        value={strand.name}
        onRename={(name) =>
          editStrand(workbench, strand.id, `rename ${strand.name}`, (one) => {
            one.name = name;
          })
        }
      />
      <IconButton
        label={`Remove ${strand.name}`}
        className="-my-2"
        onClick={() => removeStrand(workbench, strand)}
      >
        <Trash2 size={15} />
      </IconButton>
    </span>
  );
}

/** One shaping step with its switch and sliders, as the core declares it. */
function StepGroup({ strand, name }: { strand: Strand; name: StepName }) {
  const workbench = useWorkbench();
  const step = SHAPING_STEPS[name];
  const state = strand.shaping[name] as { on: boolean } & Record<string, number>;
  const settings = Object.entries(step.settings as Record<string, Setting>);
  const set = (key: string, value: number | boolean, gesture?: string) =>
    editStrand(
      workbench,
      strand.id,
      `change ${step.label.toLowerCase()} of ${strand.name}`,
      ({ shaping }) => Object.assign(shaping[name], { [key]: value }),
      gesture,
    );
  const [isSilent, setIsSilent] = useState(false);
  const fit = () =>
    // Right after a change the numbers may still be on their way: fitting waits for them.
    workbench.afterTraces(strand.id, () => {
      const traces = workbench.traces.get(strand.id);
      setIsSilent(!traces || !fitStrand(workbench, strand, traces));
    });
  return (
    <Group
      heading={
        <>
          <span title={step.help}>{step.label}</span>
          {name === "window" && (
            <button
              type="button"
              className="rounded-full border border-brass px-2.5 text-sm text-brass hover:bg-brass hover:text-on-brass"
              title="Set floor and range from what this sound really does"
              onClick={fit}
            >
              Fit
            </button>
          )}
          <Switch.Root
            aria-label={`${step.label} on`}
            checked={state.on}
            onCheckedChange={(on) => set("on", on)}
            className="ml-auto h-4 w-7 rounded-full border border-rule bg-sunk data-[state=checked]:bg-brass"
          >
            <Switch.Thumb className="block size-3 translate-x-0.5 rounded-full bg-mist transition data-[state=checked]:translate-x-3 data-[state=checked]:bg-on-brass" />
          </Switch.Root>
        </>
      }
    >
      {isSilent && (
        <p role="status" className="text-sm text-alarm">
          There is nothing to fit to: this strand hears only silence. Move its range, or choose another sound.
        </p>
      )}
      {settings.length === 0 ? (
        <p className="w-28 text-sm text-mist">{step.help}</p>
      ) : (
        <div className={`grid gap-x-4 ${settings.length > 1 ? "grid-cols-2" : ""}`}>
          {settings.map(([key, setting]) => (
            <SliderField
              key={key}
              {...setting}
              curve={setting.unit === "ms" ? "square" : "linear"}
              value={state[key]}
              disabled={!state.on}
              onChange={(value) => set(key, value, `${strand.id} ${name} ${key}`)}
              onDone={() => workbench.endGesture()}
            />
          ))}
        </div>
      )}
    </Group>
  );
}

function Group({ heading, children }: { heading: ReactNode; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 border-t border-rule pt-1.5">
      <div className="flex h-6 items-center gap-2">{heading}</div>
      {children}
    </div>
  );
}
