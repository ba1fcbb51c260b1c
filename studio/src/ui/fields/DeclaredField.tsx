import { noteHz, noteToHz } from "@bumbrel/core/dsp/tone/note";
import type {
  ChoiceSetting,
  NumberSetting,
  SettingValue,
  SwitchSetting,
  TextSetting,
} from "@bumbrel/core/setting/descriptor";
import { noteName } from "../format";
import { Choice } from "./Choice";
import { NumberField } from "./NumberField";

interface Props {
  setting: NumberSetting | ChoiceSetting | SwitchSetting | TextSetting;
  value: SettingValue;
  /** Instead of the setting's own, in a place with little room. */
  chars?: number;
  className?: string;
  /** Called while the value changes, and `onDone` when it stays. */
  onChange(value: SettingValue): void;
  onDone?(): void;
}

/** A number, choice, switch or text, as it is declared: limits, words and help are those of the declaration. */
export function DeclaredField({ setting, value, chars, className = "", onChange, onDone }: Props) {
  const { label, help } = setting;
  const commit = (next: SettingValue) => {
    onChange(next);
    onDone?.();
  };
  switch (setting.type) {
    case "choice":
      return (
        <Choice
          label={label}
          title={help}
          className={className}
          value={String(value)}
          choices={setting.values.map((one) => [String(one), setting.choices[one]] as const)}
          onChange={(next) => commit(setting.values.find((one) => String(one) === next) ?? setting.default)}
        />
      );
    case "switch":
      return (
        <input
          type="checkbox"
          aria-label={label}
          title={help}
          className="size-4 accent-[var(--brass)]"
          checked={value === true}
          onChange={(event) => commit(event.target.checked)}
        />
      );
    case "number":
      return (
        <NumberField
          label={label}
          title={help}
          value={value as number}
          min={setting.min}
          max={setting.max}
          step={setting.step}
          unit={unitText(setting, value as number)}
          chars={chars ?? setting.chars ?? 5}
          read={setting.unit === "Hz" ? noteToHz : undefined}
          onChange={(next) => onChange(setting.whole ? Math.round(next) : next)}
          onDone={onDone}
        />
      );
    case "text":
      return (
        <textarea
          aria-label={label}
          title={help}
          rows={1}
          maxLength={setting.maxLength}
          className="min-w-0 grow rounded border border-rule bg-sunk px-1.5 py-0.5 text-sm text-paper"
          value={value as string}
          onChange={(event) => onChange(event.target.value)}
          onBlur={onDone}
        />
      );
  }
}

/** A frequency also says which note it is, and a note's number its name. */
function unitText({ unit }: NumberSetting, value: number): string {
  if (unit === "Hz") return `Hz ${noteName(Math.max(value, 1))}`;
  if (unit === "note") return noteName(noteHz(value));
  return unit;
}
