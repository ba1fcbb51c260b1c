import {
  AXES,
  type Axis,
  BINDING_MODES,
  type Binding,
  DEALS,
  type DealKind,
  type StageObject,
} from "@bumbrel/core/document/scene";
import { COUNTED_LAYOUTS } from "@bumbrel/core/dsp/spectrum/fanBands";
import { dealWords } from "@bumbrel/core/evaluate/deal";
import { rangeForMode } from "@bumbrel/core/kinds/create";
import { hasCopies, propertiesInUse, propertiesOf } from "@bumbrel/core/kinds/table";
import type { NumberProperty, Property } from "@bumbrel/core/setting/property";
import { measureWidth } from "@bumbrel/core/strand/measures/table";
import { ArrowDown, ArrowUp, CopyPlus, Dices, Spline, Trash2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { sameButRest, useEditing, useNumbers, usePlayer, useResult, useScene } from "../../session/context";
import { copyBinding, editBindings, moveBinding, removeBindings, setRest } from "../../session/edits/stage";
import { editStrand } from "../../session/edits/strands";
import { useStrandFace } from "../../session/strandHooks";
import { IconButton } from "../../ui/Button";
import { CurveEditor } from "../../ui/fields/CurveEditor";
import { NumberField } from "../../ui/fields/NumberField";
import { LiveText } from "../../ui/live/LiveText";
import { StrandMark } from "../../ui/StrandMark";
import { strandColour } from "../../ui/strandLook";
import { StopsField } from "./fields";
import { LiveMarks } from "./LiveMarks";

const MODE_WORDS = {
  set: "goes",
  add: "is raised",
  multiply: "is multiplied",
  rate: "adds up, per second,",
  kick: "is kicked at each cue",
} as const;
const select = "rounded border border-rule bg-sunk text-paper";

/** One binding as a sentence; with several objects chosen it stands for the like bindings of all of them. */
export function BindingLine({
  bindings,
  object,
  property,
  place,
}: {
  /** The first is shown; all are changed. */
  bindings: readonly Binding[];
  object: StageObject;
  property: Property;
  /** Position among the bindings of its property. */
  place: { first: boolean; last: boolean };
}) {
  const editing = useEditing();
  const numbers = useNumbers();
  const player = usePlayer();
  const [curveOpen, setCurveOpen] = useState(false);
  const [binding] = bindings;
  const strand = useStrandFace(binding.strandId);
  const { output, input, curve, mode } = binding;
  const ids = bindings.map(({ id }) => id);
  const done = () => editing.endGesture();
  const change = (what: string, apply: (draft: Binding) => void) =>
    editBindings(editing, ids, `change ${what} of a binding`, apply, `${binding.id} ${what}`);
  const commit = (what: string, apply: (draft: Binding) => void) => {
    change(what, apply);
    done();
  };
  const strandNow = (timeS: number) => numbers.shapedNow(binding.strandId, timeS);
  const axis = property.type === "vector" ? AXES.indexOf(binding.axes[0]) : 0;
  const outNow = () => player.valueOf(object.id, binding.property, axis);
  const colour = strand ? strandColour(strand.hue) : "var(--mist)";
  const { min, max, step, unit } = property.type === "colour" ? FREE : property;
  const modes = BINDING_MODES.filter((one) => property.type !== "colour" || one === "set");
  return (
    <div className="mt-1 grid gap-1 border-l-2 pl-2 text-sm" style={{ borderColor: colour }}>
      <div className="flex items-start gap-1">
        <div className="flex grow flex-wrap items-baseline gap-x-1.5 gap-y-1 text-mist">
          {modes.length === 1 ? (
            <span>goes</span>
          ) : (
            <select
              aria-label="How it moves"
              className={select}
              value={mode}
              onChange={(event) =>
                commit("the mode", (draft) => {
                  draft.mode = event.target.value as Binding["mode"];
                  draft.output =
                    rangeForMode(
                      editing.scene.objects.find(({ id }) => id === object.id) ?? object,
                      draft.property,
                      draft.mode,
                    ) ?? draft.output;
                })
              }
            >
              {modes.map((one) => (
                <option key={one} value={one}>
                  {MODE_WORDS[one]}
                </option>
              ))}
            </select>
          )}
          {output.kind === "range" && (
            <EndFields
              label="Output"
              words={["from", "to"]}
              ends={output}
              step={step}
              unit={unit}
              onDone={done}
              onChange={(ends) => change("the output", (draft) => Object.assign(draft.output, ends))}
            />
          )}
          {property.type === "vector" && (
            <AxisChoice
              binding={binding}
              onChange={(axes) =>
                commit("the axes", (draft) => {
                  draft.axes = axes;
                })
              }
            />
          )}
          <span className="inline-flex items-center gap-1 whitespace-nowrap">
            with {strand ? <StrandMark strand={strand} size={11} /> : null}
            <span className="text-paper italic">{strand?.name ?? "a strand that is gone"}</span>
          </span>
          <EndFields
            label="Strand value"
            words={["between", "and"]}
            ends={input}
            step={0.01}
            chars={4}
            onDone={done}
            onChange={(ends) => change("the input", (draft) => Object.assign(draft.input, ends))}
          />
          {mode === "kick" && (
            <span className="inline-flex items-baseline gap-1.5 whitespace-nowrap">
              {!(property.type === "number" && property.atCues) && (
                <>
                  dying away in
                  <NumberField
                    label="Decay"
                    unit="ms"
                    value={binding.decayMs}
                    min={1}
                    max={60_000}
                    step={1}
                    chars={5}
                    onDone={done}
                    onChange={(decayMs) => change("the decay", (draft) => Object.assign(draft, { decayMs }))}
                  />
                  <label className="inline-flex items-center gap-1">
                    <input
                      type="checkbox"
                      className="accent-[var(--brass)]"
                      checked={binding.alternate}
                      onChange={(event) =>
                        commit("the side", (draft) =>
                          Object.assign(draft, { alternate: event.target.checked }),
                        )
                      }
                    />
                    to and fro
                  </label>
                </>
              )}
            </span>
          )}
        </div>
        <span className="flex shrink-0">
          <IconButton
            small
            label={curveOpen ? "Put the curve away" : "Curve between input and output"}
            aria-pressed={curveOpen}
            className={curve.kind === "drawn" || curve.power !== 1 ? "text-brass" : ""}
            onClick={() => setCurveOpen(!curveOpen)}
          >
            <Spline size={14} />
          </IconButton>
          <AlsoOn binding={binding} property={property} />
          {!(place.first && place.last) && (
            <>
              <IconButton
                small
                label="Earlier"
                disabled={place.first}
                onClick={() => moveBinding(editing, binding, -1)}
              >
                <ArrowUp size={14} />
              </IconButton>
              <IconButton
                small
                label="Later"
                disabled={place.last}
                onClick={() => moveBinding(editing, binding, 1)}
              >
                <ArrowDown size={14} />
              </IconButton>
            </>
          )}
          <IconButton small label="Remove this binding" onClick={() => removeBindings(editing, ids)}>
            <Trash2 size={14} />
          </IconButton>
        </span>
      </div>
      {output.kind === "colours" && (
        <div className="flex items-start gap-2">
          <StopsField
            label="Colour"
            stops={output.stops}
            onDone={done}
            onChange={(stops) => change("the colours", (draft) => Object.assign(draft.output, { stops }))}
          />
          <select
            aria-label="How colours are mixed"
            className={select}
            value={output.mix}
            onChange={(event) =>
              commit("the mix", (draft) => Object.assign(draft.output, { mix: event.target.value }))
            }
          >
            <option value="oklch">even to the eye</option>
            <option value="linear">as light</option>
          </select>
        </div>
      )}
      {curveOpen && (
        <div className="flex flex-wrap items-center gap-2 text-mist">
          <select
            aria-label="Kind of curve"
            className={select}
            value={curve.kind}
            onChange={(event) =>
              commit("the curve", (draft) => {
                draft.curve =
                  event.target.value === "power"
                    ? { kind: "power", power: 1 }
                    : {
                        kind: "drawn",
                        points: [
                          { at: 0, value: 0 },
                          { at: 0.5, value: 0.5 },
                          { at: 1, value: 1 },
                        ],
                      };
              })
            }
          >
            <option value="power">a power</option>
            <option value="drawn">drawn</option>
          </select>
          {curve.kind === "power" ? (
            <NumberField
              label="Power"
              value={curve.power}
              min={0.05}
              max={20}
              step={0.05}
              onDone={done}
              onChange={(power) => change("the curve", (draft) => Object.assign(draft.curve, { power }))}
            />
          ) : (
            <CurveEditor
              label="Curve of the binding"
              points={curve.points}
              phase={() => {
                const timeS = player.transport.positionS();
                const span = input.high - input.low;
                return span === 0 ? 0 : Math.min(1, Math.max(0, (strandNow(timeS) - input.low) / span));
              }}
              onChange={(points) => change("the curve", (draft) => Object.assign(draft.curve, { points }))}
              onDone={done}
            />
          )}
        </div>
      )}
      <Dealing binding={binding} object={object} property={property} commit={commit} />
      <div className="flex items-center gap-1.5 text-xs text-mist">
        in
        <LiveMarks
          low={input.low}
          high={input.high}
          from={Math.min(0, input.low, input.high)}
          to={Math.max(1, input.low, input.high)}
          colour={colour}
          value={strandNow}
        />
        <LiveText
          text={(timeS) => strandNow(timeS).toFixed(2)}
          className="inline-block w-9 text-right text-paper"
        />
        {output.kind === "range" && (
          <>
            <span className="ml-1">out</span>
            <LiveMarks
              low={output.low}
              high={output.high}
              from={Math.max(min, Math.min(output.low, output.high, 0))}
              to={Math.min(max, Math.max(output.low, output.high, 0))}
              colour="var(--brass)"
              value={outNow}
            />
            <LiveText
              text={() => outNow().toFixed(2).replace("-", "−")}
              className="inline-block w-14 text-right text-paper"
            />
          </>
        )}
      </div>
    </div>
  );
}

const FREE = { min: -1e6, max: 1e6, step: 0.01, unit: "" };

/** Both ends of a range, between the words that lead to them. */
function EndFields({
  label,
  words: [before, between],
  ends,
  step,
  chars,
  unit,
  onDone,
  onChange,
}: {
  label: string;
  words: readonly [string, string];
  ends: { low: number; high: number };
  step: number;
  chars?: number;
  unit?: string;
  onDone(): void;
  onChange(change: { low: number } | { high: number }): void;
}) {
  const field = { min: -1e6, max: 1e6, step, chars, onDone };
  return (
    <span className="inline-flex items-baseline gap-1.5 whitespace-nowrap">
      {before}
      <NumberField
        {...field}
        label={`${label} at the low end`}
        value={ends.low}
        onChange={(low) => onChange({ low })}
      />
      {between}
      <NumberField
        {...field}
        label={`${label} at the high end`}
        value={ends.high}
        onChange={(high) => onChange({ high })}
      />
      {unit}
    </span>
  );
}

/** How a fan is handed to copies, and what became of numbers that differ. */
function Dealing({
  binding,
  object,
  property,
  commit,
}: {
  binding: Binding;
  object: StageObject;
  property: Property;
  commit(what: string, apply: (draft: Binding) => void): void;
}) {
  const player = usePlayer();
  const editing = useEditing();
  const strand = useStrandFace(binding.strandId);
  const resting = useScene(({ objects }) => objects.find(({ id }) => id === object.id)?.rest.copies);
  const heard = useResult(() => player.trackOf(binding.strandId)?.width);
  if (!strand) return null;
  const bands = heard ?? measureWidth(strand.measure);
  if (bands < 2) return null;
  const isEach = hasCopies(object) && property.perCopy;
  if (!isEach) {
    return (
      <p className="text-xs text-mist">
        {binding.deal.kind === "place" ? (
          <>Reads the band its place stands for, of {bands}. </>
        ) : (
          <>Reads the mean of {bands} bands. </>
        )}
        <button
          type="button"
          className="underline"
          onClick={() =>
            commit("the deal", (draft) => {
              draft.deal.kind = draft.deal.kind === "place" ? "order" : "place";
            })
          }
        >
          {binding.deal.kind === "place" ? "Read the mean" : "Read a band by its place"}
        </button>
      </p>
    );
  }
  const declared = propertiesOf(object).copies as NumberProperty;
  const copies = (resting as number | undefined) ?? declared.default;
  const { kind } = binding.deal;
  const isMatched = copies === bands || kind === "one" || kind === "place";
  const isFan = measureWidth(strand.measure) > 1;
  return (
    <p className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-xs text-mist">
      dealt
      <select
        aria-label="How the fan is dealt"
        className={select}
        value={kind}
        onChange={(event) =>
          commit("the deal", (draft) => {
            draft.deal.kind = event.target.value as DealKind;
          })
        }
      >
        {Object.entries(DEALS).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      {(kind === "shuffled" || kind === "place") && (
        <IconButton
          small
          label="Another random order"
          onClick={() =>
            commit("the deal", (draft) => {
              draft.deal.seed = Math.floor(Math.random() * 1e9);
            })
          }
        >
          <Dices size={13} />
        </IconButton>
      )}
      <span>{dealWords(binding.deal, copies, bands)}</span>
      {!isMatched && (
        <>
          <button
            type="button"
            className="underline"
            onClick={() => {
              setRest(editing, [object], "copies", Math.min(declared.max, bands));
            }}
          >
            Make {Math.min(declared.max, bands)} copies
          </button>
          {isFan && copies > 1 && copies <= 1024 && (
            <button
              type="button"
              className="underline"
              onClick={() =>
                editStrand(editing, strand.id, `make ${copies} bands of ${strand.name}`, (draft) => {
                  if (draft.measure.kind !== "fan") return;
                  if (!COUNTED_LAYOUTS.includes(draft.measure.layout)) draft.measure.layout = "mel";
                  draft.measure.bands = copies;
                })
              }
            >
              Make {copies} bands
            </button>
          )}
        </>
      )}
    </p>
  );
}

/** Gives other objects that have this property the same binding. */
function AlsoOn({ binding, property }: { binding: Binding; property: Property }) {
  const editing = useEditing();
  const objects = useScene((scene) => scene.objects, sameButRest);
  const others = objects.filter(
    (one) => one.id !== binding.objectId && propertiesInUse(one)[binding.property]?.type === property.type,
  );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild disabled={others.length === 0}>
        <IconButton small label="The same on other objects" disabled={others.length === 0}>
          <CopyPlus size={14} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="floating z-30 max-h-72 min-w-44 overflow-y-auto p-1">
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => copyBinding(editing, binding, others)}>
            All {others.length} that have {property.label.toLowerCase()}
          </DropdownMenu.Item>
          {others.map((one) => (
            <DropdownMenu.Item
              key={one.id}
              className={MENU_ITEM}
              onSelect={() => copyBinding(editing, binding, [one])}
            >
              {one.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export const MENU_ITEM =
  "flex cursor-pointer items-center gap-2 rounded px-3 py-1 outline-none data-[highlighted]:bg-raised";

function AxisChoice({ binding, onChange }: { binding: Binding; onChange(axes: Axis[]): void }) {
  return (
    <span className="inline-flex items-baseline gap-1">
      on
      {AXES.map((axis) => {
        const isOn = binding.axes.includes(axis);
        return (
          <button
            key={axis}
            type="button"
            aria-pressed={isOn}
            aria-label={`Axis ${axis}`}
            className={`figures size-6 rounded border ${isOn ? "border-brass text-brass" : "border-rule"}`}
            onClick={() => {
              const next = AXES.filter((one) => (one === axis ? !isOn : binding.axes.includes(one)));
              if (next.length > 0) onChange(next);
            }}
          >
            {axis}
          </button>
        );
      })}
    </span>
  );
}
