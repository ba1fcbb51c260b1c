import { type MadeWay, WAYS_OUT } from "@bumbrel/api/waysOut";
import { defaultsOf, type Setting, type Settings, type SettingValue } from "@bumbrel/core/setting/descriptor";
import { create } from "zustand";
import { useScene } from "../../session/context";
import { Choice } from "../../ui/fields/Choice";
import { DeclaredField } from "../../ui/fields/DeclaredField";

/** How ways out are to be, as chosen since the page was opened. */
const useChosen = create<Partial<Record<MadeWay, Record<string, SettingValue>>>>(() => ({}));

/** The settings of a way out. */
export function useWayValues(name: MadeWay): Record<string, SettingValue> {
  const chosen = useChosen((all) => all[name]);
  return { ...defaultsOf(WAYS_OUT[name].settings as Settings), ...chosen };
}

/** Everything that can be chosen about a way out. */
export function WaySettings({ name, values }: { name: MadeWay; values: Record<string, SettingValue> }) {
  const strands = useScene((scene) => scene.strands);
  const settings = WAYS_OUT[name].settings as Settings;
  return (
    <>
      {Object.entries(settings).map(([key, setting]) => (
        <WaySetting
          key={key}
          setting={setting}
          value={values[key]}
          offered={strands}
          onChange={(next) => useChosen.setState((all) => ({ [name]: { ...all[name], [key]: next } }))}
        />
      ))}
    </>
  );
}

interface WaySettingProps {
  setting: Setting;
  value: SettingValue;
  /** For a reference: what it may be. */
  offered: readonly { id: string; name: string }[];
  onChange(value: SettingValue): void;
}

/** One setting with its label. */
export function WaySetting({ setting, value, offered, onChange }: WaySettingProps) {
  const { label, help } = setting;
  return (
    <span className="flex items-center gap-2 text-sm">
      <span className="text-mist">{label}</span>
      {setting.type === "reference" ? (
        <Choice
          label={label}
          title={help}
          value={(value as string | null) ?? ""}
          choices={[["", setting.orNone ?? "none"], ...offered.map(({ id, name }) => [id, name] as const)]}
          onChange={(id) => onChange(id || null)}
        />
      ) : setting.type === "number" ||
        setting.type === "choice" ||
        setting.type === "switch" ||
        setting.type === "text" ? (
        <DeclaredField setting={setting} value={value} onChange={onChange} />
      ) : null}
    </span>
  );
}
