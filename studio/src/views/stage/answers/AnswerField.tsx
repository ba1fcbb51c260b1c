import type { RestValue } from "@bumbrel/core/document/scene";
import { propertyOf } from "@bumbrel/core/kinds/table";
import type { ColourStop, ReferenceSetting, Setting, SettingValue } from "@bumbrel/core/setting/descriptor";
import isEqual from "fast-deep-equal";
import { Plus, X } from "lucide-react";
import { useScene } from "../../../session/context";
import { changeable, choicesFor, objectNamed, type Values, valueFor } from "../../../session/edits/answers";
import { Choice, SELECT_LOOK } from "../../../ui/fields/Choice";
import { DeclaredField } from "../../../ui/fields/DeclaredField";
import { NumberField } from "../../../ui/fields/NumberField";
import { RestField, StopsField } from "../fields";

/** One setting in a sentence about an answer, as its kind of value wants it. */
export function AnswerField({
  settingKey,
  setting,
  values,
  onChange,
  onDone,
}: {
  settingKey: string;
  setting: Setting;
  values: Values;
  /** Changed values, with those that have to change with them. */
  onChange(values: Values): void;
  onDone(): void;
}) {
  const value = values[settingKey];
  const commit = (next: unknown, also: Values = {}) => {
    onChange({ [settingKey]: next, ...also });
    onDone();
  };
  switch (setting.type) {
    case "number":
    case "choice":
    case "switch":
      return (
        <DeclaredField
          setting={setting}
          value={value as SettingValue}
          onChange={(next) => onChange({ [settingKey]: next })}
          onDone={onDone}
        />
      );
    case "text":
      return (
        <input
          aria-label={setting.label}
          title={setting.help}
          maxLength={setting.maxLength}
          className={`${SELECT_LOOK} w-20`}
          value={value as string}
          onChange={(event) => onChange({ [settingKey]: event.target.value })}
          onBlur={onDone}
        />
      );
    case "vector":
      return (
        <>
          {(value as number[]).map((one, axis) => (
            <NumberField
              // biome-ignore lint/suspicious/noArrayIndexKey: an axis is nothing but its place
              key={axis}
              label={`${setting.label} ${"xyz"[axis]}`}
              {...{ min: setting.min, max: setting.max, step: setting.step, onDone }}
              chars={5}
              value={one}
              onChange={(next) =>
                onChange({ [settingKey]: (value as number[]).map((old, k) => (k === axis ? next : old)) })
              }
            />
          ))}
          <span className="text-xs text-mist">{setting.unit}</span>
        </>
      );
    case "reference":
      return <ReferenceChoice {...{ setting, value: value as string | null, commit }} />;
    case "references":
      return <ReferencesChoice {...{ setting, values: value as string[], commit }} />;
    case "property":
      return <PropertyChoice {...{ setting, value: value as string, values, commit }} />;
    case "rest":
      return (
        <TargetField
          {...{ setting, value, values, onDone }}
          onChange={(next) => onChange({ [settingKey]: next })}
        />
      );
    case "stops":
      return (
        <StopsField
          label="Colour"
          stops={value as ColourStop[]}
          onChange={(next) => onChange({ [settingKey]: next })}
          onDone={onDone}
        />
      );
    default:
      return null;
  }
}

/** The names and ids that a reference can be chosen from. */
const useChoices = (setting: Parameters<typeof choicesFor>[1]) =>
  useScene((scene) => choicesFor(scene, setting).map(({ id, name }) => ({ id, name })), isEqual);

/** Chooses a property of the object that another setting names. */
function PropertyChoice({
  setting,
  value,
  values,
  commit,
}: {
  setting: Extract<Setting, { type: "property" }>;
  value: string;
  values: Values;
  commit(next: string, also?: Values): void;
}) {
  const object = useScene((scene) => objectNamed(scene, values, setting.of));
  const choices = object ? changeable(object, setting.types) : [];
  return (
    <Choice
      label={setting.label}
      title={setting.help}
      className="max-w-40"
      value={value}
      choices={choices.length > 0 ? choices : [["", "nothing"]]}
      onChange={(next) => commit(next, object && "to" in values ? { to: valueFor(object, next) } : {})}
    />
  );
}

/** The value that a property of the object is to have. */
function TargetField({
  setting,
  value,
  values,
  onChange,
  onDone,
}: {
  setting: Extract<Setting, { type: "rest" }>;
  value: unknown;
  values: Values;
  onChange(next: RestValue): void;
  onDone(): void;
}) {
  const object = useScene((scene) => objectNamed(scene, values, "objectId"));
  const property = object && propertyOf(object, values[setting.of] as string);
  if (!property) return <span className="text-mist">nothing</span>;
  const fits =
    property.type === "colour"
      ? typeof value === "string"
      : property.type === "vector"
        ? Array.isArray(value)
        : typeof value === "number";
  return (
    <RestField
      property={property}
      rest={(fits ? value : valueFor(object, values[setting.of] as string)) as RestValue}
      onChange={onChange}
      onDone={onDone}
    />
  );
}

/** Says that there is nothing of the kind to choose. */
const noneYet = ({ which, kinds, to }: ReferenceSetting): string => {
  if (which === "moving") return "no moving body yet";
  if (which === "placedByCues") return "nothing placed by cues yet";
  return `no ${kinds?.[0] ?? to} yet`;
};

function ReferenceChoice({
  setting,
  value,
  commit,
}: {
  setting: ReferenceSetting;
  value: string | null;
  commit(next: string | null, also?: Values): void;
}) {
  const choices = useChoices(setting);
  const isLost = value !== null && !choices.some(({ id }) => id === value) && value !== "camera";
  return (
    <Choice
      label={setting.label}
      title={setting.help}
      className="max-w-40"
      value={value ?? ""}
      choices={[
        ["", setting.orNone ?? (choices.length > 0 ? "choose …" : noneYet(setting))],
        ...(isLost ? [[value, "gone"] as const] : []),
        ...choices.map(({ id, name }) => [id, name] as const),
      ]}
      onChange={(next) => {
        if (setting.to !== "object" || next === "") {
          commit(next || null);
          return;
        }
        commit(next);
      }}
    />
  );
}

function ReferencesChoice({
  setting,
  values,
  commit,
}: {
  setting: Extract<Setting, { type: "references" }>;
  values: readonly string[];
  commit(next: string[]): void;
}) {
  const choices = useChoices(setting);
  const rest = choices.filter(({ id }) => !values.includes(id));
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      {values.map((id) => (
        <span
          key={id}
          className="inline-flex items-center gap-0.5 rounded-full border border-rule px-1.5 text-paper"
        >
          {choices.find((one) => one.id === id)?.name ?? "gone"}
          <button
            type="button"
            aria-label={`Take ${choices.find((one) => one.id === id)?.name ?? "it"} out`}
            className="text-mist hover:text-paper"
            onClick={() => commit(values.filter((one) => one !== id))}
          >
            <X size={12} />
          </button>
        </span>
      ))}
      {rest.length > 0 && (
        <span className="inline-flex items-center">
          <Plus size={12} aria-hidden />
          <Choice
            label={`One more of ${setting.label.toLowerCase()}`}
            value=""
            choices={[["", "add …"], ...rest.map(({ id, name }) => [id, name] as const)]}
            className="max-w-28"
            onChange={(id) => id !== "" && commit([...values, id])}
          />
        </span>
      )}
    </span>
  );
}
