import { ACTION_KINDS, ACTIONS } from "../action/actions";
import { CONDITION_SETTINGS } from "../action/conditions";
import { CUE_SOURCE_KINDS, CUE_SOURCES } from "../action/cueSources";
import { FAN_LAYOUTS } from "../dsp/spectrum/fanBands";
import { type ObjectKindDeclaration, SHELVES } from "../kinds/declaration";
import { kindOf, OBJECT_KIND_NAMES } from "../kinds/table";
import type { ReferenceSetting, Setting, Settings } from "../setting/descriptor";
import { CLOCK_CURVE_SETTINGS } from "../sound/clock";
import { SOUND_KIND_NAMES, soundKind } from "../sound/kinds";
import { CUE_SETTINGS } from "../strand/cues";
import { MEASURE_GROUPS } from "../strand/measures/declaration";
import { declarationOf, MEASURE_KINDS } from "../strand/measures/table";
import { SHAPING_STEPS, STEP_NAMES, stepSettings } from "../strand/shape/shaping";

/** Words for the thing that a reference names. */
const WORDS_OF: Record<ReferenceSetting["to"], string> = {
  sound: "a sound",
  picture: "an image",
  model: "a model",
  material: "a material",
  panorama: "a panorama",
  lut: "a LUT",
  program: "a program",
  object: "an object",
  strand: "a strand",
  mark: "a mark",
};

/** A setting's limits and default in words. */
function valuesOf(setting: Setting): string {
  switch (setting.type) {
    case "number": {
      const { min, max, unit, default: value, orNone } = setting;
      return `${min} to ${max}${unit && ` ${unit}`}, ${value}${orNone ? `; or none: ${orNone}` : ""}`;
    }
    case "vector":
      return `three of ${setting.min} to ${setting.max}${setting.unit && ` ${setting.unit}`}, ${setting.default.join(" ")}`;
    case "choice":
      return `${setting.values.map(String).join(", ")}; ${setting.default}`;
    case "switch":
      return setting.default ? "on" : "off";
    case "colour":
      return setting.default;
    case "text":
      return `text of up to ${setting.maxLength} letters`;
    case "reference":
      return `id of ${WORDS_OF[setting.to]}`;
    case "references":
      return `ids, each of ${WORDS_OF[setting.to]}`;
    case "property":
      return `key of a property of the object in \`${setting.of}\``;
    case "rest":
      return `value for the property in \`${setting.of}\``;
    case "values":
      return "numbers by name";
    case "stops":
      return "colours along a line";
    case "path":
      return "points in metres";
    case "curve":
      return "points from 0 to 1";
  }
}

const cell = (text: string) => text.replaceAll("|", "\\|").replaceAll("\n", " ");

function tableOf(settings: Settings): string {
  const rows = Object.entries(settings).map(
    ([key, setting]) =>
      `| \`${key}\` | ${cell(setting.label)} | ${cell(valuesOf(setting))} | ${cell(setting.help)} |`,
  );
  if (rows.length === 0) return "";
  return ["| key | label | values, default | what it does |", "|---|---|---|---|", ...rows, ""].join("\n");
}

function objectText(
  kind: string,
  { label, help, properties, settings, shelf }: ObjectKindDeclaration,
): string {
  const where = shelf ? ` (${SHELVES[shelf]})` : "";
  return [
    `### ${label}`,
    "",
    `\`${kind}\`${where}. ${help}`,
    "",
    ...(Object.keys(properties).length > 0
      ? ["Properties that bindings can move:", "", tableOf(properties)]
      : []),
    ...(Object.keys(settings).length > 0 ? ["Settings:", "", tableOf(settings)] : []),
  ].join("\n");
}

function declaredText(
  kind: string,
  { label, help, sentence, settings }: { label: string; help: string; sentence: string; settings: Settings },
): string[] {
  return [`### ${label}`, "", `\`${kind}\`. ${help}`, "", `*${sentence}*`, "", tableOf(settings)];
}

/** Everything that is declared in tables, as Markdown: sounds, measures, shaping, cues, objects and answers. */
export function reference(): string {
  const sounds = SOUND_KIND_NAMES.flatMap((kind) => {
    const { label, help, origin, offers, settings } = soundKind(kind);
    return [
      `### ${label}`,
      "",
      `\`${kind}\`, ${origin}. ${help} Strands can read: ${offers.join(", ")}.`,
      "",
      tableOf({ ...settings, ...(kind === "clock" && CLOCK_CURVE_SETTINGS) }),
    ];
  });
  const measures = MEASURE_KINDS.flatMap((kind) => {
    const { label, help, group, reads, settings } = declarationOf(kind);
    return [
      `### ${label}`,
      "",
      `\`${kind}\`, ${MEASURE_GROUPS[group]}. ${help} Reads: ${reads.join(", ")}.`,
      "",
      tableOf(settings),
    ];
  });
  const steps = STEP_NAMES.flatMap((name) => {
    const { label, help } = SHAPING_STEPS[name];
    return [`### ${label}`, "", `\`${name}\`. ${help}`, "", tableOf(stepSettings(name))];
  });
  const objects = OBJECT_KIND_NAMES.map((kind) => objectText(kind, kindOf(kind)));
  return `${[
    "# Reference",
    "",
    "Made by `npm run schema` from the tables that the code reads: change those, not this file.",
    "",
    "## Kinds of sound",
    "",
    ...sounds,
    "## Measures",
    "",
    `Fan layouts: ${FAN_LAYOUTS.join(", ")}.`,
    "",
    ...measures,
    "## Shaping steps",
    "",
    ...steps,
    "## Cues",
    "",
    tableOf(CUE_SETTINGS),
    "## Kinds of object",
    "",
    ...objects,
    "## What gives answers their cues",
    "",
    ...CUE_SOURCE_KINDS.flatMap((kind) => declaredText(kind, CUE_SOURCES[kind])),
    "## What holds answers back",
    "",
    tableOf(CONDITION_SETTINGS),
    "## What answers do",
    "",
    "Each also has a delay, in ms after the cue.",
    "",
    ...ACTION_KINDS.flatMap((kind) => declaredText(kind, ACTIONS[kind])),
  ]
    .join("\n")
    .replace(/\n{3,}/g, "\n\n")
    .trimEnd()}\n`;
}
