import { type ObjectKind, settingsOf } from "../scene/objectKinds";
import type { ObjectSetting, Property, SettingValue } from "../scene/properties";

/** Settings with which a property or setting of a kind has an effect; for tests. */
export function settingsThatUse(
  kind: ObjectKind,
  { when }: Property | ObjectSetting,
): Record<string, SettingValue> {
  if (!when) return {};
  const needed = settingsOf(kind)[when.setting];
  return { ...settingsThatUse(kind, needed), [when.setting]: when.is[0] };
}
