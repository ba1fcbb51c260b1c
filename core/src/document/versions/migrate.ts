import { type FanRange, withMostBands } from "../../dsp/spectrum/fanBands";
import { SceneFormatError } from "../../errors";
import { defaultsOf } from "../../setting/descriptor";
import { defaultCues } from "../../strand/cues";
import { SHAPING_STEPS, STEP_NAMES, stepSettings } from "../../strand/shape/shaping";
import { newMeeting } from "../scene";
import { SCENE_VERSION } from "../sceneLimits";
import { copyOf } from "./copyOf";

/** Turns a document of one version into one of the next. */
export type Migration = (document: Record<string, unknown>) => Record<string, unknown>;

/** Migrations by the version they start from. */
export const MIGRATIONS: Readonly<Record<number, Migration>> = {
  // Version 1 knew neither buses nor groups, and strands listened to sounds only.
  1: (document) => ({
    ...document,
    stretch: null,
    buses: [],
    groups: [],
    sounds: listOf(document.sounds).map((sound) => ({
      ...sound,
      muted: false,
      pan: 0,
      busId: null,
      groupId: null,
      runs: "tape",
      loops: false,
      place: null,
      ...(sound.kind !== "file" && { on: true }),
    })),
    strands: listOf(document.strands).map(({ soundId, ...strand }) => ({
      ...strand,
      listensTo: soundId === null ? { kind: "nothing" } : { kind: "sound", id: soundId, tap: "before" },
    })),
  }),
  // Version 2 knew four shaping steps, neither cues nor keeps, and phases only of clocks.
  2: (document) => ({
    ...document,
    keeps: [],
    strands: listOf(document.strands).map((strand) => ({
      ...strand,
      muted: false,
      measure: withBeats(strand.measure),
      shaping: withNewSteps(strand.shaping),
      cues: defaultCues(),
    })),
  }),
  3: toFormations,
  4: withWholeFans,
  5: withLight,
  // Version 6 knew no programs; nested boxes were smaller in silence, and stars had six points.
  6: (document) => ({
    ...document,
    programs: [],
    keeps: listOf(document.keeps).map((keep) => ({ ...keep, programs: [] })),
    objects: listOf(document.objects).map((object) => {
      if (object.kind === "nest") return { ...object, rest: { least: 0.1, ...(object.rest as object) } };
      if (object.kind === "extrusion") {
        return { ...object, settings: { sides: 6, ...(object.settings as object) } };
      }
      return object;
    }),
  }),
  // Version 7 knew nothing of visitors.
  7: (document) => ({
    ...document,
    sounds: listOf(document.sounds).map((sound) =>
      sound.place === null || typeof sound.place !== "object"
        ? sound
        : { ...sound, place: { ...sound.place, objectId: null, fromItsSide: false } },
    ),
    answers: [],
    marks: [],
    beginsAtOnce: true,
    meeting: newMeeting(),
    takeId: null,
    takeUse: "none",
  }),
  // Version 8 knew nothing of flashes.
  8: (document) => ({ ...document, limitsFlashes: false, flashing: null }),
  // Version 9 counted beats in one way, and weighted brightness in one; A-weighting was done in spectra.
  9: (document) => ({
    ...document,
    strands: listOf(document.strands).map(withMeasuresOf10),
    keeps: listOf(document.keeps).map((keep) => ({
      ...keep,
      strands: listOf(keep.strands).map(withMeasuresOf10),
    })),
  }),
  // Version 10 faded in decibels alone, took any touch for a strike, and let no sound fall silent with distance.
  10: (document) => ({
    ...document,
    sounds: listOf(document.sounds).map((sound) =>
      sound.place === null || typeof sound.place !== "object"
        ? sound
        : { ...sound, place: { ...sound.place, silentBeyond: false } },
    ),
    answers: listOf(document.answers).map((answer) => ({
      ...answer,
      only: { whileSilentId: null, ...(answer.only as object) },
      cue: withDefaults(answer.cue, "touch", { speed: 0 }),
      actions: haltsAfterFades(listOf(answer.actions)).map((action) =>
        withDefaults(action, "fade", { evenly: "dB" }),
      ),
    })),
  }),
};

/** A pause or stop that was put off until a fade before it was over waits for it by itself since version 11. */
function haltsAfterFades(actions: Record<string, unknown>[]): Record<string, unknown>[] {
  const number = (value: unknown) => (typeof value === "number" ? value : 0);
  return actions.map((action, i) => {
    if (action.kind !== "pause" && action.kind !== "stop") return action;
    const ends = actions
      .slice(0, i)
      .filter(({ kind, soundId }) => kind === "fade" && soundId === action.soundId)
      .map(({ delayMs, overMs }) => number(delayMs) + number(overMs));
    return { ...action, delayMs: Math.max(0, number(action.delayMs) - Math.max(0, ...ends)) };
  });
}

/** Adds settings to a thing of one kind; any other stays as it is. */
function withDefaults(value: unknown, kind: string, added: object): unknown {
  if (typeof value !== "object" || value === null || (value as { kind?: unknown }).kind !== kind)
    return value;
  return { ...added, ...value };
}

/** Steps of quality by the names they had up to version 5. */
const QUALITY_BEFORE_6: Record<string, string> = { full: "desktop", lighter: "phone", lightest: "plain" };
/** Settings and resting values that turn off what version 6 draws by default: older scenes look as they did. */
const LOOK_BEFORE_6: Record<string, { settings?: object; rest?: object }> = {
  environment: { settings: { scenery: "none" } },
  backdrop: { settings: { fixedTo: "image" } },
  lens: { settings: { toneMapping: "neutral", fogOfBackdrop: false }, rest: { occlusion: 0 } },
  particles: { rest: { softness: 0 } },
  water: { rest: { reflection: 0, edgeFade: 0 } },
  ground: { rest: { reflection: 0, edgeFade: 0, contactShadow: 0 } },
  box: { rest: { rounding: 0 } },
  cylinder: { rest: { rounding: 0 } },
  text: { rest: { depth: 0.002 } },
  pointLight: { settings: { castsShadows: false } },
  spotLight: { settings: { castsShadows: false } },
  sunLight: { settings: { castsShadows: false } },
};
const SURFACES_BEFORE_6 = [
  "box",
  "sphere",
  "cylinder",
  "cone",
  "torus",
  "plane",
  "icosphere",
  "text",
  "picture",
  "model",
  "material",
];
const EVEN_EMISSION = { emissionFalloff: 0 };

/** Version 5 had neither environment light nor shadows, reflections, exposure or palettes. */
function withLight(document: Record<string, unknown>): Record<string, unknown> {
  const objects = listOf(document.objects);
  for (const kind of ["environment", "backdrop", "lens"]) {
    if (objects.some((object) => object.kind === kind)) continue;
    objects.push({
      id: kind,
      name: kind === "lens" ? "Air and lens" : kind === "backdrop" ? "Backdrop" : "Environment light",
      kind,
      parentId: null,
      hidden: false,
      locked: false,
      settings: {},
      rest: {},
    });
  }
  return {
    ...document,
    quality: QUALITY_BEFORE_6[document.quality as string] ?? "desktop",
    palette: { id: "slackwater", seed: 1 },
    about: "",
    objects: objects.map((object) => {
      const kind = object.kind as string;
      const look = LOOK_BEFORE_6[kind];
      const surface = SURFACES_BEFORE_6.includes(kind) ? EVEN_EMISSION : {};
      const tint = kind === "picture" || kind === "model" ? { colour: "#d8cdb8" } : {};
      return {
        ...object,
        settings: { ...look?.settings, ...(object.settings as object) },
        rest: { ...surface, ...tint, ...look?.rest, ...(object.rest as object) },
      };
    }),
  };
}

/** Version 4 kept at most `bands` bands of octave and constant-Q fans; since then they have all bands of their range. */
function withWholeFans(document: Record<string, unknown>): Record<string, unknown> {
  const whole = (strands: unknown) =>
    listOf(strands).map((strand) => ({ ...strand, measure: withoutHiddenBands(strand.measure) }));
  return {
    ...document,
    strands: whole(document.strands),
    keeps: listOf(document.keeps).map((keep) => ({ ...keep, strands: whole(keep.strands) })),
  };
}

/** A fan that was cut short ends at the last band it had, so that its numbers stay what they were. */
function withoutHiddenBands(measure: unknown): unknown {
  const fan = (measure ?? {}) as FanRange & { kind?: unknown };
  if (fan.kind !== "fan" || (fan.layout !== "octave" && fan.layout !== "constantQ")) return measure;
  try {
    return withMostBands(fan, fan.bands);
  } catch {
    // A range that cannot be read is left for the checks to report.
    return measure;
  }
}

/** Version 3 had rings as objects of their own, bindings without curves, and colours of two ends. */
function toFormations(document: Record<string, unknown>): Record<string, unknown> {
  const objects = listOf(document.objects);
  const rings = new Set(objects.filter(({ kind }) => kind === "ring").map(({ id }) => id));
  const renamed: Record<string, string> = { count: "copies", radius: "reach" };
  const ranges = (binding: Record<string, unknown>) => ({
    ...binding,
    curve: { kind: "power", power: 1 },
    output: withStops(binding.output),
    deal: { kind: "order", seed: 1 },
    decayMs: 250,
    alternate: false,
  });
  return {
    ...document,
    assets: [],
    budget: "desktop",
    quality: "full",
    objects: objects.map((object) => {
      const isRing = rings.has(object.id);
      const rest = (object.rest ?? {}) as Record<string, unknown>;
      return {
        ...object,
        parentId: null,
        hidden: false,
        locked: false,
        settings: isRing ? { formation: "ring" } : {},
        ...(isRing && {
          kind: "box",
          rest: {
            size: [0.2, 1, 0.2],
            ...Object.fromEntries(Object.entries(rest).map(([key, value]) => [renamed[key] ?? key, value])),
          },
        }),
      };
    }),
    bindings: listOf(document.bindings).map((binding) => ({
      ...ranges(binding),
      property: (rings.has(binding.objectId) && renamed[binding.property as string]) || binding.property,
    })),
    keeps: listOf(document.keeps).map((keep) => ({ ...keep, bindings: listOf(keep.bindings).map(ranges) })),
  };
}

function withStops(output: unknown): unknown {
  const { kind, from, to, mix } = (output ?? {}) as Record<string, unknown>;
  if (kind !== "colours") return output;
  return {
    kind,
    stops: [
      { at: 0, colour: from },
      { at: 1, colour: to },
    ],
    mix,
  };
}

function withBeats(measure: unknown): unknown {
  const { kind } = (measure ?? {}) as { kind?: unknown };
  return kind === "barPhase" ? { kind, beatsPerBar: 4 } : measure;
}

/** Settings of measures that version 9 did not know, as they change nothing. */
const MEASURES_OF_10: Record<string, object> = {
  fan: { narrowBands: "same" },
  brightness: { weights: "magnitude", floorDb: -160 },
  beatPhase: { beatsPerBar: 4, tempo: "heard", oneAtS: 0, leastCertainty: 0 },
  barPhase: { beatsPerBar: 4, tempo: "heard", oneAtS: 0, leastCertainty: 0 },
};

function withMeasuresOf10(strand: Record<string, unknown>): Record<string, unknown> {
  const { measure } = strand;
  if (typeof measure !== "object" || measure === null) return strand;
  // It was weighted in spectra, whose length says how long it was averaged over.
  if ((measure as { kind?: string }).kind === "aWeighted") {
    const { fftSize = 2048 } = measure as { fftSize?: number };
    return {
      ...strand,
      measure: { kind: "aWeighted", averageMs: fftSize <= 1024 ? 20 : fftSize <= 4096 ? 40 : 120 },
    };
  }
  const added = MEASURES_OF_10[(measure as { kind?: string }).kind ?? ""];
  return added ? { ...strand, measure: { ...added, ...measure } } : strand;
}

/** Steps and settings that came later, as they change nothing. */
function withNewSteps(shaping: unknown): unknown {
  if (typeof shaping !== "object" || shaping === null) return shaping;
  const known = shaping as Record<string, object>;
  return Object.fromEntries(
    STEP_NAMES.map((name) => {
      const on = name in known ? SHAPING_STEPS[name].onByDefault : false;
      return [name, { on, ...defaultsOf(stepSettings(name)), ...known[name] }];
    }),
  );
}

/** The objects in a list of them; the schema reports anything else. */
function listOf(value: unknown): Record<string, unknown>[] {
  if (!Array.isArray(value)) return [];
  return value.filter((one) => typeof one === "object" && one !== null);
}

/**
 * Brings a document of any known version up to `target`.
 *
 * @param document  parsed JSON; read, not changed
 * @throws SceneFormatError when the document has no version or one from the future
 */
export function migrate(
  document: unknown,
  target: number = SCENE_VERSION,
  migrations: Readonly<Record<number, Migration>> = MIGRATIONS,
): unknown {
  if (typeof document !== "object" || document === null || Array.isArray(document)) {
    throw problem("scene-not-object", "a scene must be a JSON object", "", "Choose a Bumbrel scene file");
  }
  let current = copyOf(document as Record<string, unknown>);
  const version = current.version;
  if (typeof version !== "number" || !Number.isInteger(version) || version < 1) {
    throw problem(
      "scene-no-version",
      "the scene does not say which version it is",
      "/version",
      "Choose a Bumbrel scene file",
    );
  }
  if (version > target) {
    throw problem(
      "scene-too-new",
      `the scene is of version ${version}, made by a newer Bumbrel; this one reads up to ${target}`,
      "/version",
      "Update Bumbrel and open it again",
    );
  }
  for (let from = version; from < target; from++) {
    const step = migrations[from];
    if (!step) {
      throw problem(
        "scene-too-old",
        `there is no migration from version ${from} to ${from + 1}`,
        "/version",
        "Open it in the Bumbrel that made it",
      );
    }
    current = { ...step(current), version: from + 1 };
  }
  return current;
}

function problem(code: string, what: string, where: string, remedy: string): SceneFormatError {
  return new SceneFormatError([{ code, what, where, remedy }]);
}
