import { linearToHex } from "@bumbrel/core/scene/colour";
import {
  AXES,
  type Axis,
  BINDING_MODES,
  type Binding,
  type RestValue,
  type StageObject,
} from "@bumbrel/core/scene/document";
import { type Property, propertiesOf } from "@bumbrel/core/scene/objectKinds";
import { Link2, Trash2, Unlink2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { useScene, useWorkbench } from "../project/context";
import { IconButton } from "../ui/Button";
import { LiveText } from "../ui/LiveText";
import { NumberField } from "../ui/NumberField";
import { StrandMark } from "../ui/StrandMark";
import { bind, editBinding, removeBinding, setRest } from "./edits";

/** One property as a sentence: where it rests, where it goes, and with what. */
export function PropertyRow({ object, propertyKey }: { object: StageObject; propertyKey: string }) {
  const workbench = useWorkbench();
  const scene = useScene();
  const property = propertiesOf(object.kind)[propertyKey];
  const rest = (object.rest[propertyKey] ?? property.default) as RestValue;
  const bindings = scene.bindings.filter((one) => one.objectId === object.id && one.property === propertyKey);
  const gesture = `rest ${object.id} ${propertyKey}`;
  const change = (value: RestValue) => setRest(workbench, object, propertyKey, value, gesture);
  return (
    <section aria-label={property.label} className="border-t border-rule py-1.5">
      <div className="flex flex-wrap items-baseline gap-x-2 gap-y-1">
        <span className="font-semibold" title={property.help}>
          {property.label}
        </span>
        <span className="text-sm text-mist">rests at</span>
        <RestField property={property} rest={rest} onChange={change} onDone={() => workbench.endGesture()} />
        <span className="ml-auto flex items-baseline gap-2">
          {bindings.length > 0 && (
            <NowValue objectId={object.id} propertyKey={propertyKey} property={property} />
          )}
          <BindMenu object={object} propertyKey={propertyKey} label={property.label} />
        </span>
      </div>
      {bindings.map((binding) => (
        <BindingLine key={binding.id} binding={binding} property={property} />
      ))}
    </section>
  );
}

function RestField({
  property,
  rest,
  onChange,
  onDone,
}: {
  property: Property;
  rest: RestValue;
  onChange(value: RestValue): void;
  onDone(): void;
}) {
  const isEven = property.type === "vector" && property.uniform && new Set(rest as number[]).size === 1;
  const [apart, setApart] = useState(!isEven);
  if (property.type === "colour") {
    return (
      <ColourField
        label={`${property.label} at rest`}
        value={rest as string}
        onChange={onChange}
        onDone={onDone}
      />
    );
  }
  const { min, max, step, unit, label } = property;
  if (property.type === "number") {
    return (
      <NumberField {...{ label, unit, min, max, step, onDone }} value={rest as number} onChange={onChange} />
    );
  }
  const values = rest as [number, number, number];
  if (property.uniform && !apart) {
    return (
      <>
        <NumberField
          {...{ label, unit, min, max, step, onDone }}
          value={values[0]}
          onChange={(v) => onChange([v, v, v])}
        />
        <IconButton
          label={`Take the axes of ${label} apart`}
          className="size-6"
          onClick={() => setApart(true)}
        >
          <Unlink2 size={14} />
        </IconButton>
      </>
    );
  }
  return (
    <>
      {AXES.map((axis, i) => (
        <NumberField
          key={axis}
          {...{ min, max, step, onDone }}
          label={`${label} ${axis}`}
          chars={5}
          value={values[i]}
          onChange={(v) => onChange(values.map((old, k) => (k === i ? v : old)) as [number, number, number])}
        />
      ))}
      <span className="text-xs text-mist">{unit}</span>
      {property.uniform && (
        <IconButton
          label={`Keep the axes of ${label} together`}
          className="size-6"
          onClick={() => {
            setApart(false);
            onChange([values[0], values[0], values[0]]);
            onDone();
          }}
        >
          <Link2 size={14} />
        </IconButton>
      )}
    </>
  );
}

function ColourField({
  label,
  value,
  onChange,
  onDone,
}: {
  label: string;
  value: string;
  onChange(value: string): void;
  onDone(): void;
}) {
  return (
    <label className="inline-flex items-center gap-1.5">
      <input
        type="color"
        aria-label={label}
        className="h-5 w-8 cursor-pointer rounded border border-rule bg-transparent"
        value={value}
        onChange={(event) => onChange(event.target.value)}
        onBlur={onDone}
      />
      <span className="figures text-sm text-mist">{value}</span>
    </label>
  );
}

/** What the property is at this instant. */
function NowValue({
  objectId,
  propertyKey,
  property,
}: {
  objectId: string;
  propertyKey: string;
  property: Property;
}) {
  const { player } = useWorkbench();
  const axis = property.type === "vector" && !property.uniform ? 1 : 0;
  return (
    <span className="text-sm text-mist">
      now{" "}
      <LiveText
        className="inline-block min-w-14 text-right text-brass"
        text={() =>
          property.type === "colour"
            ? linearToHex([0, 1, 2].map((i) => player.valueOf(objectId, propertyKey, i)))
            : player.valueOf(objectId, propertyKey, axis).toFixed(2).replace("-", "−")
        }
      />
    </span>
  );
}

function BindMenu({
  object,
  propertyKey,
  label,
}: {
  object: StageObject;
  propertyKey: string;
  label: string;
}) {
  const workbench = useWorkbench();
  const { strands } = useScene();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        disabled={strands.length === 0}
        aria-label={`Bind ${label}`}
        title={strands.length === 0 ? "Make a strand first" : `Bind a strand to ${label}`}
        className="rounded-full border border-rule px-2 text-sm text-mist hover:border-brass hover:text-brass disabled:opacity-40"
      >
        bind
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 min-w-44 rounded-lg border border-rule bg-ground p-1 shadow-2xl"
        >
          <DropdownMenu.Label className="px-3 py-1 text-xs text-mist">{label} goes with</DropdownMenu.Label>
          {strands.map((strand) => (
            <DropdownMenu.Item
              key={strand.id}
              onSelect={() => bind(workbench, object, propertyKey, strand.id)}
              className="flex cursor-pointer items-center gap-2 rounded px-3 py-1 outline-none data-[highlighted]:bg-raised"
            >
              <StrandMark strand={strand} />
              {strand.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

const MODE_WORDS = { set: "goes", add: "is raised", multiply: "is multiplied" } as const;

function BindingLine({ binding, property }: { binding: Binding; property: Property }) {
  const workbench = useWorkbench();
  const scene = useScene();
  const strand = scene.strands.find(({ id }) => id === binding.strandId);
  const { output, input } = binding;
  const done = () => workbench.endGesture();
  const change = (what: string, apply: (draft: Binding) => void) =>
    editBinding(workbench, binding.id, `change ${what} of a binding`, apply, `${binding.id} ${what}`);
  const strandValue = (timeS: number) => {
    const known = workbench.player.trackOf(binding.strandId);
    return known ? workbench.shapedNow(binding.strandId, timeS).toFixed(2) : "–";
  };
  return (
    <div className="mt-1 flex items-start gap-2 border-l-2 border-rule pl-2 text-sm">
      <div className="flex grow flex-wrap items-baseline gap-x-1.5 gap-y-1 text-mist">
        {property.type === "colour" ? (
          <span>goes</span>
        ) : (
          <select
            aria-label="How it moves"
            className="rounded border border-rule bg-sunk text-paper"
            value={binding.mode}
            onChange={(event) => {
              change("the mode", (draft) => {
                draft.mode = event.target.value as Binding["mode"];
              });
              done();
            }}
          >
            {BINDING_MODES.map((mode) => (
              <option key={mode} value={mode}>
                {MODE_WORDS[mode]}
              </option>
            ))}
          </select>
        )}
        {output.kind === "range" && property.type !== "colour" && (
          <>
            from
            <NumberField
              label="Output at the low end"
              value={output.low}
              min={-1e6}
              max={1e6}
              step={property.step}
              onDone={done}
              onChange={(low) => change("the low end", (draft) => Object.assign(draft.output, { low }))}
            />
            to
            <NumberField
              label="Output at the high end"
              value={output.high}
              min={-1e6}
              max={1e6}
              step={property.step}
              onDone={done}
              onChange={(high) => change("the high end", (draft) => Object.assign(draft.output, { high }))}
            />
            {property.unit}
          </>
        )}
        {output.kind === "colours" && (
          <>
            from
            <ColourField
              label="Colour at the low end"
              value={output.from}
              onDone={done}
              onChange={(from) =>
                change("the first colour", (draft) => Object.assign(draft.output, { from }))
              }
            />
            to
            <ColourField
              label="Colour at the high end"
              value={output.to}
              onDone={done}
              onChange={(to) => change("the last colour", (draft) => Object.assign(draft.output, { to }))}
            />
          </>
        )}
        {property.type === "vector" && (
          <AxisChoice
            binding={binding}
            onChange={(axes) => {
              change("the axes", (draft) => {
                draft.axes = axes;
              });
              done();
            }}
          />
        )}
        <span className="inline-flex items-center gap-1 whitespace-nowrap">
          with {strand ? <StrandMark strand={strand} size={11} /> : null}
          <span className="text-paper italic">{strand?.name ?? "a strand that is gone"}</span>
        </span>
        <span className="inline-flex items-baseline gap-1 whitespace-nowrap">
          between
          <NumberField
            label="Strand value at the low end"
            value={input.low}
            min={-1e6}
            max={1e6}
            step={0.01}
            chars={4}
            onDone={done}
            onChange={(low) => change("the input", (draft) => Object.assign(draft.input, { low }))}
          />
          and
          <NumberField
            label="Strand value at the high end"
            value={input.high}
            min={-1e6}
            max={1e6}
            step={0.01}
            chars={4}
            onDone={done}
            onChange={(high) => change("the input", (draft) => Object.assign(draft.input, { high }))}
          />
          · now <LiveText text={strandValue} className="text-paper" />
        </span>
      </div>
      <IconButton
        label="Remove this binding"
        className="size-6"
        onClick={() => removeBinding(workbench, binding.id)}
      >
        <Trash2 size={14} />
      </IconButton>
    </div>
  );
}

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
