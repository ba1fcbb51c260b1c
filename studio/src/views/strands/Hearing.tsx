import { FFT_SIZES, type FftSize, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { ListensTo, Strand } from "@bumbrel/core/document/scene";
import { happensLive, isMadeOf } from "@bumbrel/core/document/strands";
import { FAN_COMBINES, FAN_LAYOUTS, MAX_BANDS, OCTAVE_FRACTIONS } from "@bumbrel/core/dsp/fanBands";
import { noteHz, noteToHz } from "@bumbrel/core/dsp/note";
import { WINDOW_NAMES } from "@bumbrel/core/dsp/window";
import {
  canMeasure,
  MEASURES,
  type Measure,
  type MeasureKind,
  rangeLimits,
} from "@bumbrel/core/strand/measures/table";
import { Crosshair, X } from "lucide-react";
import type { ReactNode } from "react";
import { Button, IconButton } from "../../ui/Button";
import { Choice, SELECT_LOOK } from "../../ui/Choice";
import { noteName } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { StrandMark } from "../../ui/StrandMark";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useUi } from "../project/uiState";
import { rangeBetween } from "./axis";
import { beginCatch, useCatching } from "./catching";
import { editStrand, listenTo, setMeasure } from "./edits";
import { fanWidth, MEASURE_GROUPS, partsListenedTo } from "./strandText";

const LAYOUT_WORDS: Record<(typeof FAN_LAYOUTS)[number], string> = {
  equal: "equal widths",
  octave: "octave fractions",
  doubling: "doubling widths",
  constantQ: "constant Q",
  mel: "mel",
};
const COMBINE_WORDS: Record<(typeof FAN_COMBINES)[number], string> = {
  sum: "band’s level",
  mean: "mean of bins",
  max: "strongest bin",
};
const WINDOW_WORDS: Record<(typeof WINDOW_NAMES)[number], string> = {
  hann: "Hann",
  hamming: "Hamming",
  blackman: "Blackman",
  flatTop: "flat-top",
  rectangular: "rectangular",
};

/** What a strand listens to, and what it reads there. */
export function Hearing({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const { measure } = strand;
  const change = (label: string, apply: (strand: Strand) => void) =>
    editStrand(workbench, strand.id, label, apply);
  const parts = partsListenedTo(scene, strand);
  return (
    <div className="grid content-start gap-1">
      <div className="flex items-center gap-1.5 text-sm">
        <select
          aria-label="Measure"
          className={`${SELECT_LOOK} w-32`}
          title={MEASURES[measure.kind].help}
          value={measure.kind}
          onChange={(event) => {
            const kind = event.target.value as MeasureKind;
            change(`measure ${MEASURES[kind].label.toLowerCase()}`, (draft) => setMeasure(draft, kind));
          }}
        >
          {MEASURE_GROUPS.map(([group, kinds]) => {
            const possible = kinds.filter((kind) => kind === measure.kind || canMeasure(kind, parts));
            return possible.length === 0 ? null : (
              <optgroup key={group} label={group}>
                {possible.map((kind) => (
                  <option key={kind} value={kind}>
                    {MEASURES[kind].label}
                  </option>
                ))}
              </optgroup>
            );
          })}
        </select>
        <span className="text-mist">of</span>
        <SourceChoice strand={strand} />
      </div>
      {strand.listensTo.kind === "strands" && <Ingredients strand={strand} />}
      <MeasureFields strand={strand} change={change} />
      {!("fftSize" in measure) && <TapChoice strand={strand} />}
    </div>
  );
}

/** Begins a catch on what a strand hears. */
export function CatchButton({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const isCatching = useCatching((state) => state.strandId === strand.id);
  if (strand.listensTo.kind === "strands" || !partsListenedTo(scene, strand).has("samples")) return null;
  const isLive = happensLive(scene, strand);
  return (
    <Button
      className="px-2 py-0 text-sm leading-5"
      disabled={isCatching || isLive}
      title={
        isLive
          ? "A catch needs a sound that stays: record the input in the Sounds view, and listen to the recording"
          : "Mark a few hits, and have the range and mark found that pick them out"
      }
      onClick={() => {
        const heard = workbench.heardBy(strand);
        if (heard) beginCatch(strand.id, heard);
      }}
    >
      <Crosshair size={13} aria-hidden /> Catch
    </Button>
  );
}

interface FieldsProps {
  strand: Strand;
  change(label: string, apply: (strand: Strand) => void): void;
}

/** What the measure can be set to. */
function MeasureFields({ strand, change }: FieldsProps) {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const { measure } = strand;
  const set = (label: string, settings: object) =>
    change(label, (draft) => {
      Object.assign(draft.measure, settings);
    });
  const whole = (
    label: string,
    key: string,
    value: number,
    min: number,
    max: number,
    chars = 3,
    unit?: string,
  ) => (
    <NumberField
      {...{ label, value, min, max, chars, unit }}
      step={1}
      onChange={(next) => set(`set the ${label.toLowerCase()}`, { [key]: Math.round(next) })}
    />
  );
  const rows: ReactNode[] = [];
  if (measure.kind === "fan") {
    const byOctave = measure.layout === "octave" || measure.layout === "constantQ";
    rows.push(
      <>
        <Choice
          label="Layout"
          value={measure.layout}
          choices={FAN_LAYOUTS.map((layout) => [layout, LAYOUT_WORDS[layout]] as const)}
          onChange={(layout) =>
            set("lay the bands out", { layout, bands: fanWidth(measure) || measure.bands })
          }
        />
        {byOctave ? (
          <>
            <Choice
              label="Bands an octave"
              value={String(measure.perOctave)}
              choices={OCTAVE_FRACTIONS.map(
                (n) => [String(n), n === 1 ? "octaves" : `1/${n} octaves`] as const,
              )}
              onChange={(n) => set("change the bands an octave", { perOctave: Number(n) })}
            />
            <span className="figures text-paper">{fanWidth(measure)}</span> bands
          </>
        ) : (
          whole("Bands", "bands", measure.bands, 1, MAX_BANDS, 4, "bands")
        )}
      </>,
    );
  }
  if ("lowHz" in measure) {
    const limits = rangeLimits(measure.kind) ?? { min: 0, max: SAMPLE_RATE_HZ / 2 };
    const end = (label: string, key: "lowHz" | "highHz") => (
      <NumberField
        label={label}
        unit={`Hz ${noteName(Math.max(measure[key], 1))}`}
        value={measure[key]}
        {...limits}
        step={0.1}
        chars={7}
        read={noteToHz}
        onChange={(hz) => {
          const [low, high] =
            key === "lowHz" ? [hz, Math.max(hz, measure.highHz)] : [Math.min(hz, measure.lowHz), hz];
          const range = rangeBetween(low, high);
          set(`set the ${label.toLowerCase()}`, {
            lowHz: Math.max(limits.min, range.lowHz),
            highHz: Math.min(limits.max, range.highHz),
          });
        }}
      />
    );
    rows.push(
      <>
        from {end("Low end", "lowHz")} to {end("High end", "highHz")}
      </>,
    );
  }
  if (measure.kind === "fan") {
    rows.push(
      <>
        <Choice
          label="Each band’s number"
          value={measure.combine}
          choices={FAN_COMBINES.map((one) => [one, COMBINE_WORDS[one]] as const)}
          onChange={(combine) => set("change what bands read", { combine })}
        />
        tilt
        <NumberField
          label="Tilt"
          unit="dB/oct"
          value={measure.tiltDb}
          min={-24}
          max={24}
          step={0.5}
          chars={4}
          onChange={(tiltDb) => set("tilt the fan", { tiltDb })}
        />
      </>,
    );
  }
  if (measure.kind === "pitch") {
    rows.push(
      <>
        sure by at least
        <NumberField
          label="Least certainty"
          value={measure.leastCertainty}
          min={0}
          max={1}
          step={0.01}
          chars={4}
          onChange={(leastCertainty) => set("change how sure a pitch must be", { leastCertainty })}
        />
      </>,
    );
  }
  if (measure.kind === "barPhase") {
    rows.push(
      whole(
        "Beats to a bar",
        "beatsPerBar",
        measure.beatsPerBar,
        1,
        32,
        2,
        "beats to a bar, where the sound has none of its own",
      ),
    );
  }
  if (measure.kind === "velocity" || measure.kind === "note") {
    rows.push(
      <>
        notes {whole("Lowest note", "lowNote", measure.lowNote, 0, 127, 3, noteName(noteHz(measure.lowNote)))}
        {whole("Highest note", "highNote", measure.highNote, 0, 127, 3, noteName(noteHz(measure.highNote)))}
      </>,
    );
  }
  if (measure.kind === "control") {
    rows.push(<>controller number {whole("Controller", "controller", measure.controller, 0, 127)}</>);
  }
  if (measure.kind === "bands") {
    rows.push(
      <>
        from band {whole("First band", "first", measure.first, 1, MAX_BANDS, 4)} to{" "}
        {whole("Last band", "last", measure.last, 1, MAX_BANDS, 4)}
      </>,
    );
  }
  if (measure.kind === "column") {
    const { listensTo } = strand;
    const sound = listensTo.kind === "sound" ? scene.sounds.find(({ id }) => id === listensTo.id) : undefined;
    const names = (sound && workbench.library.soundOf(sound)?.table?.columns.map(({ name }) => name)) ?? [
      measure.column,
    ];
    rows.push(
      <Choice
        label="Column"
        className="w-full"
        value={names.includes(measure.column) ? measure.column : names[0]}
        choices={names}
        onChange={(column) => set("read another column", { column })}
      />,
    );
  }
  if ("fftSize" in measure) {
    rows.push(
      <>
        <SpectrumChoice measure={measure} set={set} />
        <TapChoice strand={strand} />
      </>,
    );
  }
  if (rows.length === 0) return <p className="text-sm text-mist">{MEASURES[measure.kind].help}</p>;
  return rows.map((row, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: rows of a measure keep their places
    <div key={i} className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-sm text-mist">
      {row}
    </div>
  ));
}

function SpectrumChoice({
  measure,
  set,
}: {
  measure: Extract<Measure, { fftSize: FftSize }>;
  set(label: string, settings: object): void;
}) {
  return (
    <>
      <Choice
        label="FFT size"
        title={`Samples in a spectrum, ${Math.round((1000 * measure.fftSize) / SAMPLE_RATE_HZ)} ms now: more tell low notes apart, fewer follow quick hits`}
        value={String(measure.fftSize)}
        choices={FFT_SIZES.map((size) => [String(size), String(size)] as const)}
        onChange={(size) => set("change the FFT size", { fftSize: Number(size) })}
      />
      <Choice
        label="FFT window"
        title="How a spectrum’s samples are weighted: Hann for most, flat-top for exact levels"
        value={measure.window}
        choices={WINDOW_NAMES.map((name) => [name, WINDOW_WORDS[name]] as const)}
        onChange={(window) => set("change the FFT window", { window })}
      />
    </>
  );
}

/** The sound or bus a strand listens to, or that it is made of others. */
function SourceChoice({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const { look } = useUi();
  const { listensTo } = strand;
  const tap = listensTo.kind === "sound" || listensTo.kind === "bus" ? listensTo.tap : "before";
  const value =
    listensTo.kind === "nothing"
      ? ""
      : listensTo.kind === "strands"
        ? "strands"
        : `${listensTo.kind} ${listensTo.id}`;
  const options: [value: string, words: string][] = [
    ...scene.sounds.map(({ id, name }) => [`sound ${id}`, name] as [string, string]),
    ...scene.buses.map(({ id, name }) => [`bus ${id}`, `${name} (bus)`] as [string, string]),
    ["strands", "other strands"],
  ];
  const listen = (chosen: string) => {
    const [kind, id] = chosen.split(" ");
    const next: ListensTo =
      kind === "strands" ? { kind, ids: [] } : { kind: kind as "sound" | "bus", id, tap };
    listenTo(workbench, strand.id, next);
    if (next.kind === "sound") look(workbench.projectId, { soundId: next.id });
  };
  const isKnown = options.some(([one]) => one === value);
  return (
    <Choice
      label="Sound"
      className="w-16 grow"
      value={value}
      choices={isKnown ? options : [["", "choose a sound"], ...options]}
      onChange={listen}
    />
  );
}

/** The strands that one is made of, in order. */
function Ingredients({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const { listensTo } = strand;
  if (listensTo.kind !== "strands") return null;
  const setIds = (label: string, ids: string[]) =>
    editStrand(workbench, strand.id, `${label} ${strand.name}`, (draft) => {
      draft.listensTo = { kind: "strands", ids };
    });
  const others = scene.strands.filter(
    (one) => one.id !== strand.id && !listensTo.ids.includes(one.id) && !isMadeOf(scene, one, strand.id),
  );
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-sm">
      {listensTo.ids.map((id) => {
        const source = scene.strands.find((one) => one.id === id);
        return (
          <span key={id} className="flex items-center gap-1 rounded-full border border-rule pl-2">
            {source && <StrandMark strand={source} size={11} />}
            {source?.name ?? "gone"}
            <IconButton
              small
              label={`Take out ${source?.name ?? "what is gone"}`}
              onClick={() =>
                setIds(
                  "take a strand out of",
                  listensTo.ids.filter((one) => one !== id),
                )
              }
            >
              <X size={12} />
            </IconButton>
          </span>
        );
      })}
      {others.length > 0 && (
        <Choice
          label="Add a strand"
          value=""
          choices={[["", "add …"], ...others.map(({ id, name }) => [id, name] as const)]}
          onChange={(id) => id !== "" && setIds("add a strand to", [...listensTo.ids, id])}
        />
      )}
    </div>
  );
}

/** On which side of the fader a strand listens. */
function TapChoice({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const { listensTo } = strand;
  if (listensTo.kind !== "sound" && listensTo.kind !== "bus") return null;
  return (
    <Choice
      label="Before or after the fader"
      title="Whether the fader changes what the strand hears"
      className="w-fit"
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
