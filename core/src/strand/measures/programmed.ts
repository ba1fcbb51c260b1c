import { SPECTRUM_FFT_SIZE } from "../../program/offers/memory";
import { MOST_SCRIPT_BANDS } from "../../program/scripts/scriptLimits";
import { theScripts } from "../../program/scripts/scripts";
import { reference, type ValuesSetting, whole } from "../../setting/descriptor";
import { trackValueAt } from "../track";
import { measure } from "./declaration";

const VALUES: ValuesSetting = {
  type: "values",
  label: "Values",
  help: "What the program lets you set.",
  default: {},
};

/** Numbers of a program of the user's own. */
export const PROGRAMMED = {
  program: measure({
    label: "Program",
    help: "Code of your own that gives the numbers, from a sound or from other strands.",
    group: "programs",
    unit: "share",
    reads: ["samples", "strands"],
    settings: {
      programId: reference("Program", "program", "Code of your own that gives the numbers."),
      bands: whole("Numbers", [1, MOST_SCRIPT_BANDS], 1, "Numbers each time: more than one make a fan."),
      values: VALUES,
    },
    ahead: () => SPECTRUM_FFT_SIZE / 2,
    start({ bands, values }, { code, strands }) {
      if (code === undefined) throw new RangeError("It has no program. Choose one, or write one");
      const sources = strands?.map((track) => ({
        width: track.width,
        valueAt: (timeS: number, band: number) => trackValueAt(track, timeS, band),
      }));
      return theScripts().startNumbers(code, bands, values, sources);
    },
  }),
};
