import type { Strand } from "@bumbrel/core/document/scene";
import { drawnCurve } from "@bumbrel/core/dsp/maths/curve";
import type { Setting } from "@bumbrel/core/setting/descriptor";
import { declarationOf } from "@bumbrel/core/strand/measures/table";
import { SHAPING_STEPS, type StepName, stepSettings } from "@bumbrel/core/strand/shape/shaping";
import { type ReactNode, useState } from "react";
import { useAnalysis, useEditing, useNumbers, usePlayer } from "../../../session/context";
import { editStrand, fitStrand } from "../../../session/edits/strands";
import { LIVE_S } from "../../../session/numbersNow";
import { type StrandFace, useStrand } from "../../../session/strandHooks";
import { Choice } from "../../../ui/fields/Choice";
import { CurveEditor } from "../../../ui/fields/CurveEditor";
import { SliderField } from "../../../ui/fields/SliderField";
import { SwitchDot } from "./SwitchDot";

/** One shaping step with its switch and settings, as the core declares it. */
export function StepGroup({
  strand,
  name,
  columns = 1,
}: {
  strand: StrandFace;
  name: StepName;
  columns?: number;
}) {
  const change = useStepChange(strand, name);
  const { label, help } = SHAPING_STEPS[name];
  const on = useStrand(strand.id, ({ shaping }) => shaping[name].on);
  const settings = stepSettings(name);
  const shown = useStrand(strand.id, (whole) =>
    Object.keys(settings).filter((key) => isShown(whole, name, key, settings[key])),
  );
  const ofType = (type: Setting["type"]) => shown.filter((key) => settings[key].type === type);
  const [sliders, [points]] = [ofType("number"), ofType("curve")];
  return (
    <section aria-label={label} className="grid min-w-0 content-start gap-1">
      <div className="flex h-6 items-center gap-2">
        <span className="truncate" title={help}>
          {label}
        </span>
        {name === "window" && <FitButton strandId={strand.id} />}
        {ofType("choice").map((key) => (
          <StepChoice key={key} {...{ strand, name, setting: key }} />
        ))}
        <SwitchDot label={`${label} on`} on={on} onChange={(isOn) => change("on", isOn)} />
      </div>
      {sliders.length > 0 && (
        <div className="grid gap-x-4" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
          {sliders.map((key) => (
            <StepSlider key={key} {...{ strand, name, setting: key }} chars={columns > 1 ? 4 : 6} />
          ))}
        </div>
      )}
      {points && <StepCurve strand={strand} name={name} setting={points} />}
      {(sliders.length <= 1 || name === "gate") && !points && (
        <p className="text-sm leading-snug text-mist">{help}</p>
      )}
    </section>
  );
}

/** Changes a setting of a step. */
function useStepChange({ id, name: strandName }: StrandFace, name: StepName) {
  const editing = useEditing();
  return (key: string, value: unknown, gesture?: string) =>
    editStrand(
      editing,
      id,
      `change ${SHAPING_STEPS[name].label.toLowerCase()} of ${strandName}`,
      ({ shaping }) => Object.assign(shaping[name], { [key]: value }),
      gesture,
    );
}

interface StepSettingProps {
  strand: StrandFace;
  name: StepName;
  /** Name of the setting in the step. */
  setting: string;
}

const settingOf = ({ shaping }: Strand, name: StepName, key: string): unknown =>
  (shaping[name] as unknown as Record<string, unknown>)[key];

function StepChoice({ strand, name, setting: key }: StepSettingProps) {
  const change = useStepChange(strand, name);
  const value = useStrand(strand.id, (whole) => String(settingOf(whole, name, key)));
  const setting = stepSettings(name)[key];
  if (setting.type !== "choice") return null;
  return (
    <Choice
      label={`${SHAPING_STEPS[name].label} ${setting.label.toLowerCase()}`}
      value={value}
      choices={Object.entries(setting.choices)}
      onChange={(next) => change(key, next)}
    />
  );
}

function StepSlider({ strand, name, setting: key, chars }: StepSettingProps & { chars: number }) {
  const editing = useEditing();
  const change = useStepChange(strand, name);
  const value = useStrand(strand.id, (whole) => settingOf(whole, name, key) as number);
  const on = useStrand(strand.id, ({ shaping }) => shaping[name].on);
  const setting = stepSettings(name)[key];
  if (setting.type !== "number") return null;
  const { label, unit, min, default: resetTo } = setting;
  const max = name === "window" && (key === "low" || key === "high") ? linearTop(strand) : setting.max;
  const stepSize = max > 100 && unit === "" ? 1 : setting.step;
  return (
    <SliderField
      {...{ label, unit, min, max, resetTo, chars, value }}
      step={stepSize}
      curve={setting.travel ?? "linear"}
      disabled={!on}
      onChange={(next) => change(key, next, `${strand.id} ${name} ${key}`)}
      onDone={() => editing.endGesture()}
    />
  );
}

function StepCurve({ strand, name, setting: key }: StepSettingProps) {
  const editing = useEditing();
  const numbers = useNumbers();
  const player = usePlayer();
  const change = useStepChange(strand, name);
  const points = useStrand(strand.id, ({ shaping }) => shaping.curve.points);
  return (
    <CurveEditor
      label={`${SHAPING_STEPS[name].label} of ${strand.name}`}
      points={points}
      phase={() => inputOfCurve(points, numbers.shapedNow(strand.id, player.transport.positionS()))}
      onChange={(next, gesture) => change(key, next, `${strand.id} ${gesture}`)}
      onDone={() => editing.endGesture()}
    />
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
function linearTop({ measure }: StrandFace): number {
  const { unit } = declarationOf(measure.kind);
  return unit === "hz" ? ("highHz" in measure ? Math.max(200, measure.highHz) : 16_000) : 1;
}

/** Input of the drawn curve for an output, near enough to point at it. */
function inputOfCurve(points: Strand["shaping"]["curve"]["points"], value: number): number {
  const curve = drawnCurve(points);
  let nearest = 0;
  for (let at = 0; at <= 1; at += 0.01)
    if (Math.abs(curve(at) - value) < Math.abs(curve(nearest) - value)) nearest = at;
  return nearest;
}

function FitButton({ strandId }: { strandId: string }) {
  const numbers = useNumbers();
  const analysis = useAnalysis();
  const editing = useEditing();
  const [isSilent, setIsSilent] = useState(false);
  const fit = () =>
    // Right after a change the numbers may still be on their way: fitting waits for them.
    analysis.afterTraces(() => {
      const strand = editing.scene.strands.find(({ id }) => id === strandId);
      const traces = analysis.traces.get(strandId) ?? numbers.recent(strandId, LIVE_S);
      setIsSilent(!strand || !traces || !fitStrand(editing, strand, traces));
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
