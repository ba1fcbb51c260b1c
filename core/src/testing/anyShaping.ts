import fc from "fast-check";
import type { Setting } from "../setting/descriptor";
import { type Shaping, STEP_NAMES, stepSettings } from "../strand/shape/shaping";

const settingValue = (setting: Setting) => {
  if (setting.type === "curve") return fc.constant([...setting.default]);
  if (setting.type === "choice") return fc.constantFrom(...setting.values);
  if (setting.type !== "number") throw new RangeError(`No step has a setting that is a ${setting.type}`);
  const { min, max, unit } = setting;
  return unit === "bands" || unit === "frames"
    ? fc.integer({ min, max: 6 })
    : fc.double({ min, max, noNaN: true });
};
const anyStep = (name: (typeof STEP_NAMES)[number]) =>
  fc.record({
    on: fc.boolean(),
    ...Object.fromEntries(
      Object.entries(stepSettings(name)).map(([key, setting]) => [key, settingValue(setting)]),
    ),
  });
/** Any settings that a shaping chain can have; for tests. */
export const anyShaping = fc.record(
  Object.fromEntries(STEP_NAMES.map((name) => [name, anyStep(name)])),
) as unknown as fc.Arbitrary<Shaping>;
