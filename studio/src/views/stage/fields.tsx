import { ASSET_KINDS, AXES, type RestValue, type StageObject } from "@bumbrel/core/document/scene";
import { settingOf } from "@bumbrel/core/kinds/table";
import type { ColourStop, PathPoint, SettingValue } from "@bumbrel/core/setting/descriptor";
import type { ObjectSetting, Property } from "@bumbrel/core/setting/property";
import { Dices, Link2, Pencil, Plus, Trash2, Unlink2 } from "lucide-react";
import { useRef, useState } from "react";
import { ASSET_TYPES } from "../../library/importAsset";
import { useArrivals, useScene } from "../../session/context";
import { Button, IconButton } from "../../ui/Button";
import { SELECT } from "../../ui/fields/Choice";
import { DeclaredField } from "../../ui/fields/DeclaredField";
import { NumberField } from "../../ui/fields/NumberField";
import { usePathDrawing } from "./pathDrawing";

/** Field for a resting value: a number, a word for one, three numbers, or a colour. */
export function RestField({
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
  if (property.type === "number" && property.words) {
    return (
      <select
        aria-label={label}
        className={SELECT}
        value={rest as number}
        onChange={(event) => {
          onChange(Number(event.target.value));
          onDone();
        }}
      >
        {property.words.map((word, i) => (
          <option key={word} value={i}>
            {word}
          </option>
        ))}
      </select>
    );
  }
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
        <IconButton small label={`Take the axes of ${label} apart`} onClick={() => setApart(true)}>
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
          small
          label={`Keep the axes of ${label} together`}
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

export function ColourField({
  label,
  value,
  hideText = false,
  onChange,
  onDone,
}: {
  label: string;
  value: string;
  /** Leaves the six figures out, where there are many colours. */
  hideText?: boolean;
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
      {!hideText && <span className="figures text-sm text-mist">{value}</span>}
    </label>
  );
}

/** Sets of colours to begin a gradient from. */
const PALETTES: Record<string, readonly string[]> = {
  "Paper lanterns": ["#5a1d2e", "#c9502e", "#ffb347", "#ffe9b8"],
  "Harbour water": ["#04141a", "#0e4a52", "#2f9c8f", "#c9f0dc"],
  "Fog and brass": ["#1c2b30", "#5d7378", "#b9a06a", "#f4ecdc"],
  Buoys: ["#e2452f", "#f3e36b", "#2fb28a", "#3c6fd1"],
  "First light": ["#1d1b3f", "#6d3f7c", "#e0785e", "#ffd9a0"],
};
const evenly = (colours: readonly string[]): ColourStop[] =>
  colours.map((colour, i) => ({ at: colours.length > 1 ? i / (colours.length - 1) : 0, colour }));
const gradientCss = (stops: readonly ColourStop[]) =>
  stops.length > 1
    ? `linear-gradient(to right in oklch, ${[...stops]
        .sort((a, b) => a.at - b.at)
        .map(({ at, colour }) => `${colour} ${at * 100}%`)
        .join(", ")})`
    : (stops[0]?.colour ?? "transparent");

/** Colours along a line: each with its place, as many as are wanted. */
export function StopsField({
  label,
  stops,
  onChange,
  onDone,
}: {
  label: string;
  stops: readonly ColourStop[];
  onChange(stops: ColourStop[]): void;
  onDone(): void;
}) {
  const change = (i: number, part: Partial<ColourStop>) =>
    onChange(stops.map((stop, k) => (k === i ? { ...stop, ...part } : stop)));
  const add = () => {
    const sorted = [...stops].sort((a, b) => a.at - b.at);
    // In the widest gap, in the colour before it.
    let widest = { at: sorted.length > 1 ? 0.5 : 1, gap: -1, colour: sorted[0]?.colour ?? "#ffffff" };
    for (let i = 1; i < sorted.length; i++) {
      const gap = sorted[i].at - sorted[i - 1].at;
      if (gap > widest.gap) widest = { at: sorted[i - 1].at + gap / 2, gap, colour: sorted[i - 1].colour };
    }
    onChange([...stops, { at: Math.round(widest.at * 100) / 100, colour: widest.colour }]);
    onDone();
  };
  return (
    <span className="grid w-full gap-1">
      <span
        aria-hidden
        className="h-2.5 rounded-full border border-rule"
        style={{ background: gradientCss(stops) }}
      />
      <span className="flex flex-wrap items-center gap-x-2 gap-y-1">
        {stops.map((stop, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a stop is nothing but its place in the list
          <span key={i} className="inline-flex items-center gap-0.5">
            <ColourField
              hideText
              label={`${label} ${i + 1}`}
              value={stop.colour}
              onChange={(colour) => change(i, { colour })}
              onDone={onDone}
            />
            <NumberField
              label={`Place of ${label.toLowerCase()} ${i + 1}`}
              value={stop.at}
              min={0}
              max={1}
              step={0.01}
              chars={4}
              onChange={(at) => change(i, { at })}
              onDone={onDone}
            />
            {stops.length > 1 && (
              <IconButton
                small
                label={`Remove ${label.toLowerCase()} ${i + 1}`}
                onClick={() => {
                  onChange(stops.filter((_, k) => k !== i));
                  onDone();
                }}
              >
                <Trash2 size={12} />
              </IconButton>
            )}
          </span>
        ))}
        <IconButton small label={`One more of ${label.toLowerCase()}`} onClick={add}>
          <Plus size={14} />
        </IconButton>
        <select
          aria-label={`Palette for ${label.toLowerCase()}`}
          className="rounded border border-rule bg-sunk text-sm text-paper"
          value=""
          onChange={(event) => {
            onChange(evenly(PALETTES[event.target.value]));
            onDone();
          }}
        >
          <option value="" disabled>
            palette …
          </option>
          {Object.keys(PALETTES).map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </span>
    </span>
  );
}

function PathField({
  points,
  onChange,
  onDone,
}: {
  points: readonly PathPoint[];
  onChange(points: PathPoint[]): void;
  onDone(): void;
}) {
  return (
    <span className="grid w-full gap-0.5">
      {points.map((point, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a point is nothing but its place in the list
        <span key={i} className="flex items-baseline gap-1">
          <span className="w-4 text-right text-xs text-mist">{i + 1}</span>
          {AXES.map((axis, k) => (
            <NumberField
              key={axis}
              label={`Point ${i + 1} ${axis}`}
              value={point[k]}
              min={-1000}
              max={1000}
              step={0.01}
              onDone={onDone}
              onChange={(v) =>
                onChange(
                  points.map((old, n) =>
                    n === i ? (old.map((c, m) => (m === k ? v : c)) as PathPoint) : old,
                  ),
                )
              }
            />
          ))}
          {points.length > 2 && (
            <IconButton
              small
              label={`Remove point ${i + 1}`}
              onClick={() => {
                onChange(points.filter((_, n) => n !== i));
                onDone();
              }}
            >
              <Trash2 size={12} />
            </IconButton>
          )}
        </span>
      ))}
      <IconButton
        small
        label="One more point"
        onClick={() => {
          const [x, y, z] = points[points.length - 1];
          onChange([...points, [x + 1, y, z]]);
          onDone();
        }}
      >
        <Plus size={14} />
      </IconButton>
    </span>
  );
}

/** Brings in a file that only settings refer to. */
function AddFile({ kind, onAdded }: { kind: "panorama" | "lut"; onAdded(id: string): void }) {
  const { arrivals } = useArrivals();
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button className="text-sm" onClick={() => input.current?.click()}>
        <Plus size={13} aria-hidden /> Add a file
      </Button>
      <input
        ref={input}
        type="file"
        className="hidden"
        accept={ASSET_TYPES[kind]}
        aria-label={`File of the ${ASSET_KINDS[kind].label}`}
        onChange={async (event) => {
          const [file] = event.target.files ?? [];
          event.target.value = "";
          const id = file && (await arrivals.bringAsset(file, kind));
          if (id) onAdded(id);
        }}
      />
    </>
  );
}

/** One setting of an object, as its kind of value wants it. */
export function SettingField({
  object,
  settingKey,
  setting,
  onChange,
  onDone,
}: {
  object: StageObject;
  settingKey: string;
  setting: ObjectSetting;
  onChange(value: SettingValue): void;
  onDone(): void;
}) {
  const value = settingOf(object, settingKey);
  const commit = (next: SettingValue) => {
    onChange(next);
    onDone();
  };
  switch (setting.type) {
    case "choice":
    case "switch":
    case "text":
      return (
        <DeclaredField
          {...{ setting, value, onChange, onDone }}
          className={setting.type === "choice" ? "max-w-56" : ""}
        />
      );
    case "number":
      return (
        <>
          <DeclaredField
            {...{ setting, value, onChange, onDone }}
            {...(settingKey === "seed" && { chars: 10 })}
          />
          {settingKey === "seed" && (
            <IconButton
              small
              label="Another random arrangement"
              onClick={() => commit(Math.floor(Math.random() * setting.max))}
            >
              <Dices size={14} />
            </IconButton>
          )}
        </>
      );
    case "vector":
      return (
        <>
          {AXES.map((axis, i) => (
            <NumberField
              key={axis}
              label={`${setting.label} ${axis}`}
              {...{ min: setting.min, max: setting.max, step: setting.step, onDone }}
              chars={5}
              value={(value as number[])[i]}
              onChange={(next) =>
                onChange(
                  (value as number[]).map((old, k) => (k === i ? next : old)) as [number, number, number],
                )
              }
            />
          ))}
          <span className="text-xs text-mist">{setting.unit}</span>
        </>
      );
    case "stops":
      return <StopsField label="Colour" stops={value as ColourStop[]} onChange={onChange} onDone={onDone} />;
    case "path":
      return (
        <>
          <Button className="text-sm" onClick={() => usePathDrawing.setState({ objectId: object.id })}>
            <Pencil size={13} aria-hidden /> Draw it on the stage
          </Button>
          <PathField points={value as PathPoint[]} onChange={onChange} onDone={onDone} />
        </>
      );
    case "reference":
      return <ReferenceField setting={setting} value={value as string | null} onCommit={commit} />;
  }
}

/** Chooses a sound, a material or a file that a setting refers to. */
function ReferenceField({
  setting: { to, label },
  value,
  onCommit,
}: {
  setting: Extract<ObjectSetting, { type: "reference" }>;
  value: string | null;
  onCommit(id: string | null): void;
}) {
  const choices = useScene(({ sounds, objects, assets }) => {
    if (to === "sound") return sounds;
    return to === "material"
      ? objects.filter(({ kind }) => kind === "material")
      : assets.filter(({ kind }) => kind === to);
  });
  return (
    <>
      <select
        aria-label={label}
        className={SELECT}
        value={value ?? ""}
        onChange={(e) => onCommit(e.target.value || null)}
      >
        <option value="">
          {to === "sound" ? "the first that is heard" : to === "material" ? "its own" : "none"}
        </option>
        {choices.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      {(to === "panorama" || to === "lut") && <AddFile kind={to} onAdded={onCommit} />}
    </>
  );
}
