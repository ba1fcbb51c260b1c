import { defaultsOf, type Setting, type Settings, type SettingValue, type ValuesOf } from "./descriptor";

const ON = ["true", "yes", "on", "1"];
const OFF = ["false", "no", "off", "0"];

/**
 * A setting's value as an address or a command line has it.
 *
 * @throws RangeError saying what it may be
 */
export function settingFromText(setting: Setting, written: string): SettingValue {
  switch (setting.type) {
    case "switch": {
      if (ON.includes(written)) return true;
      if (OFF.includes(written)) return false;
      throw new RangeError(`must be on or off, not "${written}"`);
    }
    case "choice": {
      const found = setting.values.find((one) => String(one) === written);
      if (found !== undefined) return found;
      throw new RangeError(`must be ${setting.values.join(", ")}, not "${written}"`);
    }
    case "number": {
      const value = Number(written);
      const { min, max, whole } = setting;
      if (written !== "" && value >= min && value <= max && !(whole && !Number.isInteger(value)))
        return value;
      throw new RangeError(
        `must be ${whole ? "a whole number " : ""}from ${min} to ${max}, not "${written}"`,
      );
    }
    case "text":
      if (written.length <= setting.maxLength) return written;
      throw new RangeError(`must have at most ${setting.maxLength} characters`);
    case "reference":
      return written === "" ? null : written;
    default:
      throw new RangeError("cannot be written as a text");
  }
}

/**
 * Settings from texts by their keys; those that are not given have their defaults.
 *
 * @throws RangeError naming the setting and what it may be
 */
export function settingsFromTexts<S extends Settings>(
  settings: S,
  texts: Readonly<Record<string, string | undefined>>,
): ValuesOf<S> {
  const values = defaultsOf(settings) as Record<string, SettingValue>;
  for (const [key, written] of Object.entries(texts)) {
    if (written === undefined) continue;
    if (!Object.hasOwn(settings, key))
      throw new RangeError(`there is no ${key}; there are ${Object.keys(settings).join(", ") || "none"}`);
    try {
      values[key] = settingFromText(settings[key], written);
    } catch (error) {
      throw new RangeError(`${key} ${(error as Error).message}`);
    }
  }
  return values as ValuesOf<S>;
}
