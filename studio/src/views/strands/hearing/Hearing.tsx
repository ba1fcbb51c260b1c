import type { ListensTo, Strand } from "@bumbrel/core/document/scene";
import { fanWidth, partsListenedTo } from "@bumbrel/core/document/strands/listening";
import { isMadeOf } from "@bumbrel/core/document/strands/strands";
import { setMeasure, setMeasureSetting } from "@bumbrel/core/edit/strandEdits";
import { exposedNumbers } from "@bumbrel/core/program/exposedNumbers";
import { type Setting, type SettingValue, toggle } from "@bumbrel/core/setting/descriptor";
import type { NumberProperty } from "@bumbrel/core/setting/property";
import { SOUND_PARTS, type SoundPart } from "@bumbrel/core/sound/parts";
import {
  canMeasure,
  declarationOf,
  MEASURES,
  type MeasureKind,
  readsSamples,
} from "@bumbrel/core/strand/measures/table";
import { Crosshair, X } from "lucide-react";
import { Fragment } from "react";
import { ProgramChoice } from "../../../program/ProgramFields";
import { useEditing, useNumbers, useProjectId, useResult, useScene } from "../../../session/context";
import { chooseNumber, writeNumber } from "../../../session/edits/programs";
import { editStrand, listenTo } from "../../../session/edits/strands";
import { type StrandFace, useHappensLive, useStrands } from "../../../session/strandHooks";
import { useUi } from "../../../session/viewState";
import { Button, IconButton } from "../../../ui/Button";
import { Choice, SELECT_LOOK } from "../../../ui/fields/Choice";
import { DeclaredField } from "../../../ui/fields/DeclaredField";
import { StrandMark } from "../../../ui/StrandMark";
import { MEASURE_GROUPS } from "../strandText";
import { BeatCounting } from "./BeatCounting";
import { beginCatch, useCatching } from "./catching";

/** Measures whose short fields leave room beside them for the side of the fader. */
const sharesRow = (measure: Strand["measure"]) => "fftSize" in measure || "tempo" in measure;

/** Source and measure of a strand. */
export function Hearing({ strand }: { strand: StrandFace }) {
  const editing = useEditing();
  const { measure } = strand;
  const change = (label: string, apply: (strand: Strand) => void) =>
    editStrand(editing, strand.id, label, apply);
  const parts = useScene((scene) => partsListenedTo(scene, strand));
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
            const possible = kinds.filter(
              // Hits are learnt by a catch, not chosen.
              (kind) => kind === measure.kind || (kind !== "hits" && canMeasure(kind, parts)),
            );
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
      {measure.kind === "program" ? (
        <ProgramOfStrand strand={strand} measure={measure} change={change} />
      ) : (
        <MeasureFields strand={strand} change={change} />
      )}
      {(measure.kind === "beatPhase" || measure.kind === "barPhase") && (
        <BeatCounting strand={strand} measure={measure} />
      )}
      {!sharesRow(measure) && <HeardChoices strand={strand} />}
    </div>
  );
}

/** Begins a catch on what a strand hears. */
export function CatchButton({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  const { listensTo } = strand;
  const isCatching = useCatching((state) => state.strandId === strand.id);
  const isLive = useHappensLive(strand.id);
  const hasSamples = useScene((scene) => partsListenedTo(scene, strand).has("samples"));
  // A microphone is shaped for talking in its place.
  const isInput = useScene(({ sounds }) =>
    sounds.some(({ id, kind }) => listensTo.kind === "sound" && id === listensTo.id && kind === "input"),
  );
  if (listensTo.kind === "strands" || !hasSamples || isInput) return null;
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
        const heard = numbers.heardBy(strand);
        if (heard) beginCatch(strand.id, heard);
      }}
    >
      <Crosshair size={13} aria-hidden /> Catch
    </Button>
  );
}

interface FieldsProps {
  strand: StrandFace;
  change(label: string, apply: (strand: Strand) => void): void;
}

/** Settings of the measure, from its declaration. */
function MeasureFields({ strand, change }: FieldsProps) {
  const { measure } = strand;
  const { settings, help } = declarationOf(measure.kind);
  const values = measure as unknown as Record<string, SettingValue>;
  const set = (key: string, setting: Setting, value: SettingValue) =>
    change(`set the ${setting.label.toLowerCase()}`, (draft) => setMeasureSetting(draft, key, value));
  const shown = Object.entries(settings).filter(
    ([, { type, when }]) =>
      (type !== "text" || measure.kind === "column") &&
      (!when || when.is.some((value) => value === values[when.setting])),
  );
  if (shown.length === 0) return <p className="text-sm text-mist">{help}</p>;
  return (
    <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-sm text-mist">
      {shown.map(([key, setting]) => {
        const onChange = (value: SettingValue) => set(key, setting, value);
        if (key === "column") return <ColumnChoice key={key} strand={strand} onChange={onChange} />;
        if (setting.type !== "number" && setting.type !== "choice") return null;
        // Two buttons say it instead.
        if (key === "tempo") return null;
        return (
          <Fragment key={key}>
            {setting.type === "number" && (setting.before ?? setting.label)}
            <DeclaredField setting={setting} value={values[key]} onChange={onChange} />
            {key === "perOctave" && measure.kind === "fan" && (
              <span>
                <span className="figures text-paper">{fanWidth(measure)}</span> bands
              </span>
            )}
          </Fragment>
        );
      })}
      {sharesRow(measure) && <HeardChoices strand={strand} />}
    </div>
  );
}

/** The program that gives a strand its numbers, and what that lets be set. */
function ProgramOfStrand({
  strand,
  measure,
  change,
}: FieldsProps & { measure: Extract<Strand["measure"], { kind: "program" }> }) {
  const editing = useEditing();
  const code = useScene((scene) => scene.programs.find(({ id }) => id === measure.programId)?.code);
  return (
    <div className="grid gap-1 text-sm">
      <div className="flex flex-wrap items-center gap-1.5">
        <ProgramChoice
          label="Program"
          kind="number"
          programId={measure.programId}
          onChoose={(id) => chooseNumber(editing, strand.id, id)}
          onWrite={(example) => writeNumber(editing, [strand], example)}
        />
      </div>
      <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-mist">
        {code !== undefined &&
          exposedNumbers(code).map(({ name, label, property }) => (
            <Fragment key={name}>
              {label}
              <ExposedField
                property={property}
                value={measure.values[name] ?? property.default}
                onChange={(value) =>
                  change(`set ${label.toLowerCase()}`, (draft) => {
                    if (draft.measure.kind === "program") draft.measure.values[name] = value;
                  })
                }
              />
            </Fragment>
          ))}
      </div>
    </div>
  );
}

/** A number, a choice or a switch of a program. */
function ExposedField({
  property,
  value,
  onChange,
}: {
  property: NumberProperty;
  value: number;
  onChange(value: number): void;
}) {
  const { words, switchesAt, label, help } = property;
  if (words) {
    return (
      <Choice
        label={label}
        title={help}
        value={words[Math.round(value)] ?? words[0]}
        choices={words}
        onChange={(word) => onChange(words.indexOf(word))}
      />
    );
  }
  if (switchesAt !== undefined) {
    return (
      <DeclaredField
        setting={toggle(label, property.default >= switchesAt, help)}
        value={value >= switchesAt}
        onChange={(on) => onChange(on === true ? 1 : 0)}
      />
    );
  }
  return <DeclaredField setting={property} value={value} onChange={(next) => onChange(next as number)} />;
}

/** The columns of the table that a strand listens to. */
function ColumnChoice({ strand, onChange }: { strand: StrandFace; onChange(column: string): void }) {
  const { listensTo, measure } = strand;
  const sound = useScene(({ sounds }) =>
    sounds.find(({ id }) => listensTo.kind === "sound" && id === listensTo.id),
  );
  const table = useResult(({ library }) => sound && library.soundOf(sound)?.table);
  if (measure.kind !== "column") return null;
  const names = table?.columns.map(({ name }) => name) ?? [measure.column];
  return (
    <Choice
      label={MEASURES.column.settings.column.label}
      title={MEASURES.column.settings.column.help}
      className="w-full"
      value={names.includes(measure.column) ? measure.column : names[0]}
      choices={names}
      onChange={onChange}
    />
  );
}

/** The sound or bus a strand listens to, or that it is made of others. */
function SourceChoice({ strand }: { strand: StrandFace }) {
  const projectId = useProjectId();
  const editing = useEditing();
  const { look } = useUi.getState();
  const { sounds, buses } = useScene(({ sounds, buses }) => ({ sounds, buses }));
  const zones = useScene(({ objects }) => objects.filter(({ kind }) => kind === "zone"));
  const { listensTo } = strand;
  const tap = listensTo.kind === "sound" || listensTo.kind === "bus" ? listensTo.tap : "before";
  const part = "part" in listensTo ? { part: listensTo.part } : {};
  const value =
    listensTo.kind === "nothing"
      ? ""
      : listensTo.kind === "strands"
        ? "strands"
        : `${listensTo.kind} ${listensTo.id}`;
  const options: [value: string, words: string][] = [
    ...sounds.map(({ id, name }) => [`sound ${id}`, name] as [string, string]),
    ...buses.map(({ id, name }) => [`bus ${id}`, `${name} (bus)`] as [string, string]),
    ["strands", "other strands"],
    ...zones.map(({ id, name }) => [`zone ${id}`, `${name} (zone)`] as [string, string]),
  ];
  const listen = (chosen: string) => {
    const [kind, id] = chosen.split(" ");
    const next: ListensTo =
      kind === "strands"
        ? { kind, ids: [] }
        : kind === "zone"
          ? { kind, id }
          : { kind: kind as "sound" | "bus", id, tap, ...part };
    listenTo(editing, strand.id, next);
    if (next.kind === "sound") look(projectId, { soundId: next.id });
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
function Ingredients({ strand }: { strand: StrandFace }) {
  const editing = useEditing();
  const strands = useStrands();
  const { listensTo } = strand;
  const otherIds = useScene((scene) =>
    scene.strands.filter((one) => !isMadeOf(scene, one, strand.id)).map(({ id }) => id),
  );
  if (listensTo.kind !== "strands") return null;
  const setIds = (label: string, ids: string[]) =>
    editStrand(editing, strand.id, `${label} ${strand.name}`, (draft) => {
      draft.listensTo = { kind: "strands", ids };
    });
  const others = strands.filter(
    ({ id }) => id !== strand.id && !listensTo.ids.includes(id) && otherIds.includes(id),
  );
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-sm">
      {listensTo.ids.map((id) => {
        const source = strands.find((one) => one.id === id);
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

/** Chooses the part of a sound that a strand hears. */
function PartChoice({ strand }: { strand: StrandFace }) {
  const editing = useEditing();
  const { listensTo, measure } = strand;
  if ((listensTo.kind !== "sound" && listensTo.kind !== "bus") || !readsSamples(measure)) return null;
  return (
    <Choice
      label="Part of the sound"
      title="Drums without the chords under them, or chords without the drums over them; live it comes 110 ms later"
      className="w-fit"
      value={listensTo.part ?? ""}
      choices={[["", "all of it"], ...Object.entries(SOUND_PARTS)]}
      onChange={(chosen) =>
        editStrand(editing, strand.id, "listen to another part of the sound", (draft) => {
          const { part: _part, ...whole } = listensTo;
          draft.listensTo = chosen === "" ? whole : { ...whole, part: chosen as SoundPart };
        })
      }
    />
  );
}

/** Choices of the fader's side and of the part of a sound or bus. */
function HeardChoices({ strand }: { strand: StrandFace }) {
  return (
    <>
      <TapChoice strand={strand} />
      <PartChoice strand={strand} />
    </>
  );
}

/** On which side of the fader a strand listens. */
function TapChoice({ strand }: { strand: StrandFace }) {
  const editing = useEditing();
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
        editStrand(editing, strand.id, `listen ${tap} the fader`, (draft) => {
          draft.listensTo = { ...listensTo, tap };
        })
      }
    />
  );
}
