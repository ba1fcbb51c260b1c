import type { ObjectKind } from "../document/scene";
import { settingsOfKind } from "../kinds/table";
import type { SettingValue } from "../setting/descriptor";
import type { ObjectSetting, Property } from "../setting/property";

/** Settings with which a property or setting of a kind has an effect; for tests. */
export function settingsThatUse(
  kind: ObjectKind,
  { when }: Property | ObjectSetting,
): Record<string, SettingValue> {
  if (!when) return {};
  const needed = settingsOfKind(kind)[when.setting];
  return { ...settingsThatUse(kind, needed), [when.setting]: when.is[0] };
}
