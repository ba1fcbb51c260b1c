import type { Strand } from "@bumbrel/core/document/scene";
import { drawnCurve } from "@bumbrel/core/dsp/curve";
import type { Setting } from "@bumbrel/core/setting/descriptor";
import { declarationOf } from "@bumbrel/core/strand/measures/table";
import { SHAPING_STEPS, type StepName, stepSettings } from "@bumbrel/core/strand/shaping";
import { type ReactNode, useState } from "react";
import { Choice } from "../../ui/Choice";
import { SliderField } from "../../ui/SliderField";
import { useWorkbench } from "../project/context";
import { LIVE_S } from "../project/workbench";
import { CurveEditor } from "../sounds/CurveEditor";
import { editStrand, fitStrand } from "./edits";
import { SwitchDot } from "./SwitchDot";

type State = { on: boolean } & Record<string, unknown>;

/** One shaping step with its switch and settings, as the core declares it. */
export function StepGroup({
  strand,
  name,
  columns = 1,
}: {
  strand: Strand;
  name: StepName;
  columns?: number;
}) {
  const workbench = useWorkbench();
  const step = SHAPING_STEPS[name];
  const state = strand.shaping[name] as State;
  const set = (key: string, value: unknown, gesture?: string) =>
    editStrand(
      workbench,
      strand.id,
      `change ${step.label.toLowerCase()} of ${strand.name}`,
      ({ shaping }) => Object.assign(shaping[name], { [key]: value }),
      gesture,
    );
  const shown = Object.entries(stepSettings(name)).filter(([key, setting]) =>
    isShown(strand, name, key, setting),
  );
  const sliders = shown.filter(([, setting]) => setting.type === "number");
  const points = shown.find(([, setting]) => setting.type === "curve");
  return (
    <section aria-label={step.label} className="grid min-w-0 content-start gap-1">
      <div className="flex h-6 items-center gap-2">
        <span className="truncate" title={step.help}>
          {step.label}
        </span>
        {name === "window" && <FitButton strand={strand} />}
        {shown.map(([key, setting]) =>
          setting.type === "choice" ? (
            <Choice
              key={key}
              label={`${step.label} ${setting.label.toLowerCase()}`}
              value={String(state[key])}
              choices={Object.entries(setting.choices)}
              onChange={(value) => set(key, value)}
            />
          ) : null,
        )}
        <SwitchDot label={`${step.label} on`} on={state.on} onChange={(on) => set("on", on)} />
      </div>
      {sliders.length > 0 && (
        <div className="grid gap-x-4" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
          {sliders.map(([key, setting]) => {
            if (setting.type !== "number") return null;
            const { label, unit, min, default: resetTo } = setting;
            const max =
              name === "window" && (key === "low" || key === "high") ? linearTop(strand) : setting.max;
            const stepSize = max > 100 && unit === "" ? 1 : setting.step;
            return (
              <SliderField
                key={key}
                {...{ label, unit, min, max, resetTo }}
                chars={columns > 1 ? 4 : 6}
                step={stepSize}
                curve={setting.travel ?? "linear"}
                value={state[key] as number}
                disabled={!state.on}
                onChange={(value) => set(key, value, `${strand.id} ${name} ${key}`)}
                onDone={() => workbench.endGesture()}
              />
            );
          })}
        </div>
      )}
      {points && (
        <CurveEditor
          label={`${step.label} of ${strand.name}`}
          points={strand.shaping.curve.points}
          phase={() =>
            inputOfCurve(strand, workbench.shapedNow(strand.id, workbench.player.transport.positionS()))
          }
          onChange={(next, gesture) => set(points[0], next, `${strand.id} ${gesture}`)}
          onDone={() => workbench.endGesture()}
        />
      )}
      {(sliders.length <= 1 || name === "gate") && !points && (
        <p className="text-sm leading-snug text-mist">{step.help}</p>
      )}
    </section>
  );
}

/** True if a setting has any effect with the strand's other settings as they are. */
function isShown(strand: Strand, name: StepName, key: string, { when }: Setting): boolean {
  if (!when) return true;
  const { window } = strand.shaping;
  if (when.setting === "window.scale") {
    // The ceiling of auto-range counts in decibels only behind a window that does.
    const scale = name === "window" || window.on ? window.scale : "linear";
    return when.is.includes(scale) && key !== "scale";
  }
  const state = strand.shaping[name] as unknown as Record<string, string>;
  return when.is.includes(state[when.setting]);
}

/** How far a plain window reaches: as far as its measure does. */
function linearTop({ measure }: Strand): number {
  const { unit } = declarationOf(measure.kind);
  return unit === "hz" ? ("highHz" in measure ? Math.max(200, measure.highHz) : 16_000) : 1;
}

/** Input of the drawn curve for an output, near enough to point at it. */
function inputOfCurve(strand: Strand, value: number): number {
  const curve = drawnCurve(strand.shaping.curve.points);
  let nearest = 0;
  for (let at = 0; at <= 1; at += 0.01)
    if (Math.abs(curve(at) - value) < Math.abs(curve(nearest) - value)) nearest = at;
  return nearest;
}

function FitButton({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const [isSilent, setIsSilent] = useState(false);
  const fit = () =>
    // Right after a change the numbers may still be on their way: fitting waits for them.
    workbench.analysis.afterTraces(() => {
      const traces = workbench.analysis.traces.get(strand.id) ?? workbench.recent(strand.id, LIVE_S);
      setIsSilent(!traces || !fitStrand(workbench, strand, traces));
    });
  return (
    <>
      <button
        type="button"
        className="rounded-full border border-brass px-2.5 text-sm text-brass hover:bg-brass hover:text-on-brass"
        title="Set floor and range from what this sound really does; of a live one, from its last 15 seconds"
        onClick={fit}
      >
        Fit
      </button>
      {isSilent && (
        <span role="status" className="text-sm text-alarm">
          only silence
        </span>
      )}
    </>
  );
}

export function Group({ heading, children }: { heading: ReactNode; children: ReactNode }) {
  return (
    <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-1">
      <div className="flex h-6 items-center gap-2">{heading}</div>
      {children}
    </div>
  );
}
