import { fanWidth } from "@bumbrel/core/document/strands/listening";
import { Hash, Trash2 } from "lucide-react";
import { useEffect } from "react";
import { ProgramPanel } from "../../program/ProgramPanel";
import { useEditing, useProjectId, useResult } from "../../session/context";
import { useOpenProgram } from "../../session/edits/programs";
import { editStrand, removeStrand } from "../../session/edits/strands";
import type { StrandFace } from "../../session/strandHooks";
import { useLooking, useUi } from "../../session/viewState";
import { IconButton } from "../../ui/Button";
import { NameField } from "../../ui/fields/NameField";
import { Toggle } from "../../ui/fields/Toggle";
import { StrandMark } from "../../ui/StrandMark";
import { CatchPanel } from "./hearing/CatchPanel";
import { endCatch, useCatching } from "./hearing/catching";
import { CatchButton, Hearing } from "./hearing/Hearing";
import { TalkingButton } from "./hearing/TalkingButton";
import { StrandChips } from "./StrandChips";
import { ALWAYS_OPEN, Chain, type ChainPart } from "./shaping/Chain";
import { CueGroup } from "./shaping/CueGroup";
import { Group, StepGroup } from "./shaping/StepGroup";
import { HealthPanel } from "./whole/HealthPanel";
import { NumbersPanel } from "./whole/NumbersPanel";
import { TraceCanvas } from "./whole/TraceCanvas";

/** The chosen strand: what it does over the whole sound, and how it is shaped. */
export function Bench({ chosen }: { chosen: StrandFace | undefined }) {
  const catchingId = useCatching((state) => state.strandId);
  // A catch belongs to the strand it was begun for.
  useEffect(() => {
    if (catchingId !== undefined && catchingId !== chosen?.id) endCatch();
  }, [catchingId, chosen?.id]);
  useEffect(() => endCatch, []);
  return (
    <section
      aria-label="Bench"
      className="grid min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_auto_minmax(0,1fr)] content-start gap-2 px-4 pt-2 pb-2"
    >
      <StrandChips chosen={chosen} />
      {chosen ? (
        <ChosenStrand key={chosen.id} strand={chosen} isCatching={catchingId === chosen.id} />
      ) : (
        <p className="row-span-3 grid place-content-center text-mist">
          No strand yet. Drag up or down on the spectrogram to listen to a range of frequencies.
        </p>
      )}
    </section>
  );
}

function ChosenStrand({ strand, isCatching }: { strand: StrandFace; isCatching: boolean }) {
  const projectId = useProjectId();
  const width = useResult(({ analysis }) => analysis.traces.get(strand.id)?.shaped.width ?? 1);
  const look = useUi((state) => state.look);
  const { openPart, numbers } = useLooking(projectId);
  const isFan = (strand.measure.kind === "fan" && fanWidth(strand.measure) > 1) || width > 1;
  const { programId } = useOpenProgram();
  const isWriting =
    strand.measure.kind === "program" && strand.measure.programId === programId && programId !== null;
  const hearing = (
    <Group
      heading={
        <StrandName strand={strand} numbers={numbers} onNumbers={(on) => look(projectId, { numbers: on })} />
      }
    >
      <Hearing strand={strand} />
    </Group>
  );
  const open = openPart as ChainPart;
  const opened =
    open !== "cues" && (ALWAYS_OPEN.includes(open) || (!isFan && FAN_PARTS.has(open))) ? "cues" : open;
  return (
    <>
      <div className="grid grid-cols-[minmax(0,1fr)_316px] gap-4">
        <TraceCanvas strand={strand} isFan={isFan} />
        <div className="min-h-0 overflow-y-auto" style={{ maxHeight: 160 }}>
          {isCatching ? (
            <CatchPanel strand={strand} />
          ) : numbers ? (
            <NumbersPanel />
          ) : (
            <HealthPanel strand={strand} />
          )}
        </div>
      </div>
      {isWriting ? (
        <div className="row-span-2 grid min-h-0 grid-cols-[minmax(0,318fr)_minmax(0,872fr)] gap-5">
          <div className="min-h-0 overflow-y-auto">{hearing}</div>
          <ProgramPanel />
        </div>
      ) : (
        <>
          <Chain
            strand={strand}
            isFan={isFan}
            open={opened}
            onOpen={(part) => look(projectId, { openPart: part })}
          />
          <div className="grid min-h-0 grid-cols-[minmax(0,318fr)_minmax(0,218fr)_minmax(0,330fr)_minmax(0,324fr)] gap-5 overflow-y-auto">
            {hearing}
            <StepGroup strand={strand} name="window" />
            <StepGroup strand={strand} name="follow" columns={2} />
            {opened === "cues" ? (
              <CueGroup strand={strand} />
            ) : (
              <StepGroup strand={strand} name={opened} columns={2} />
            )}
          </div>
        </>
      )}
    </>
  );
}

const FAN_PARTS: ReadonlySet<ChainPart> = new Set(["relative", "neighbours"]);

function StrandName({
  strand,
  numbers,
  onNumbers,
}: {
  strand: StrandFace;
  numbers: boolean;
  onNumbers(on: boolean): void;
}) {
  const editing = useEditing();
  return (
    <span className="flex w-full items-center gap-1.5">
      <StrandMark strand={strand} />
      <NameField
        label="Strand name"
        className="min-w-0 grow"
        value={strand.name}
        onRename={(name) =>
          editStrand(editing, strand.id, `rename ${strand.name}`, (one) => {
            one.name = name;
          })
        }
      />
      <CatchButton strand={strand} />
      <TalkingButton strand={strand} />
      <Toggle
        label="Plain numbers"
        title="Every strand’s numbers as text"
        className="leading-5"
        on={numbers}
        onChange={onNumbers}
      >
        <Hash size={13} aria-hidden />
      </Toggle>
      <IconButton small label={`Remove ${strand.name}`} onClick={() => removeStrand(editing, strand)}>
        <Trash2 size={15} />
      </IconButton>
    </span>
  );
}
