import type { Strand } from "@bumbrel/core/document/scene";
import { declarationOf } from "@bumbrel/core/strand/measures/table";
import { SHAPING_STEPS, STEP_NAMES, type StepName } from "@bumbrel/core/strand/shape/shaping";
import { type StartingPointName, startingPointsFor } from "@bumbrel/core/strand/shape/startingPoints";
import { useEditing, useScene } from "../../../session/context";
import { startFrom } from "../../../session/edits/strands";
import { type StrandFace, useStrand } from "../../../session/strandHooks";
import { Choice } from "../../../ui/fields/Choice";
import { formatTenths } from "../../../ui/format";
import { drivenBy } from "../strandText";

/** A part of the chain that can be opened: a step, or the cues at its end. */
export type ChainPart = StepName | "cues";
/** Steps that always stand open; the others open one at a time. */
export const ALWAYS_OPEN: readonly StepName[] = ["window", "follow"];

/** Current settings of a step, in a few figures. */
function summary({ shaping }: Strand, name: StepName): string {
  const { gain, window, autoRange, relative, neighbours, gate, curve, follow, average, output } = shaping;
  switch (name) {
    case "gain":
      return `${gain.db > 0 ? "+" : ""}${formatTenths(gain.db)} dB`;
    case "window":
      return window.scale === "dB"
        ? `${Math.round(window.floorDb)} to ${Math.round(window.floorDb + window.rangeDb)} dB`.replaceAll(
            "-",
            "−",
          )
        : `${short(window.low)} to ${short(window.high)}`;
    case "autoRange":
      return `${autoRange.fallDbPerS} dB/s`;
    case "relative":
      return `from ${relative.least}`;
    case "neighbours":
      return `±${neighbours.bands}`;
    case "gate":
      return `at ${gate.mark.toFixed(2)}`;
    case "curve":
      return curve.way === "power" ? `power ${curve.power}` : "drawn";
    case "follow":
      return `${follow.attackMs} / ${follow.releaseMs} ms`;
    case "average":
      return `${average.frames * 10} ms`;
    case "clamp":
      return "0 to 1";
    case "output":
      return `× ${output.scale} + ${output.offset}`;
  }
}

const short = (value: number) => (value >= 100 ? value.toFixed(0) : Number(value.toPrecision(3)).toString());

/** The way from what is heard to what is driven, step by step; a press opens a step. */
export function Chain({
  strand,
  isFan,
  open,
  onOpen,
}: {
  strand: StrandFace;
  isFan: boolean;
  open: ChainPart;
  onOpen(part: ChainPart): void;
}) {
  const editing = useEditing();
  const driven = useScene((scene) => drivenBy(scene, strand.id).length);
  const points = startingPointsFor(declarationOf(strand.measure.kind).unit, isFan);
  const steps = STEP_NAMES.filter((name) => isFan || !("fansOnly" in SHAPING_STEPS[name]));
  const parts: ChainPart[] = [...steps, "cues"];
  return (
    <nav aria-label="Shaping steps" className="flex items-stretch gap-0.5 border-y border-rule py-0.5">
      <Choice
        label="Start from"
        title="Shaping for a common wish, as somewhere to begin"
        className="mr-1 w-28 self-center"
        value=""
        choices={[["", "start from …"], ...points.map(([name, { label }]) => [name, label] as const)]}
        onChange={(name) => name !== "" && startFrom(editing, strand, name as StartingPointName)}
      />
      <div className="grid min-w-0 grow auto-cols-fr grid-flow-col">
        {parts.map((part) => (
          <ChainCell key={part} strandId={strand.id} part={part} open={open} onOpen={onOpen} />
        ))}
      </div>
      <p className="self-center pl-2 text-xs whitespace-nowrap text-mist">
        drives <span className="figures text-paper">{driven}</span>
      </p>
    </nav>
  );
}

/** A step of the chain, or the cues at its end, with its current settings. */
function ChainCell({
  strandId,
  part,
  open,
  onOpen,
}: {
  strandId: string;
  part: ChainPart;
  open: ChainPart;
  onOpen(part: ChainPart): void;
}) {
  const { on, figures } = useStrand(strandId, (strand) =>
    part === "cues"
      ? { on: strand.cues.on, figures: "on" }
      : { on: strand.shaping[part].on, figures: summary(strand, part) },
  );
  const isOpen = part === open || (ALWAYS_OPEN as readonly string[]).includes(part);
  return (
    <button
      type="button"
      aria-pressed={isOpen}
      title={part === "cues" ? "When the number becomes an instant" : SHAPING_STEPS[part].help}
      onClick={() => onOpen(part)}
      className={`grid min-w-0 border-b-2 px-1.5 text-left leading-tight hover:bg-raised ${
        part === open ? "border-brass" : isOpen ? "border-mist/50" : "border-transparent"
      }`}
    >
      <span className={`truncate text-xs ${on ? "text-paper" : "text-mist"}`}>
        <span aria-hidden className={on ? "text-brass" : ""}>
          {on ? "●" : "○"}
        </span>{" "}
        {part === "cues" ? "Cues" : (SHORT[part] ?? SHAPING_STEPS[part].label)}
      </span>
      <span className="figures truncate text-[11px] text-mist">{on ? figures : "off"}</span>
    </button>
  );
}

const SHORT: { [N in StepName]?: string } = { follow: "Attack" };
