import {
  type ChoiceSetting,
  choice,
  number,
  objectOf,
  reference,
  type Settings,
  text,
} from "../setting/descriptor";

/** Visitors or objects whose coming and going gives a cue. */
export const WHO = {
  anyone: "somebody or something",
  visitor: "the visitor",
  hand: "a hand",
  thing: "a moving thing",
} as const;
export type Who = keyof typeof WHO;
const who = (help: string): ChoiceSetting<Who> => choice("Who", WHO, "visitor", help);

const anything = (help: string) => objectOf("Object", help, undefined, "anything");
const zone = objectOf("Zone", "The zone that knows who is in it.", ["zone"]);
const sound = reference("Sound", "sound", "The sound, or the group it runs in.", { orNone: "the tape" });

export interface CueSourceDeclaration {
  /** Time between two cues that new answers begin with, ms: what knocks against something does so more than once. */
  gapMs?: number;
  label: string;
  help: string;
  /** The cue in words that a sentence can begin with; names of settings in braces are replaced by their values. */
  sentence: string;
  settings: Settings;
}

/**
 * Everything that can give a cue to an answer: the one table that schema, sheet, simulation and docs read.
 */
export const CUE_SOURCES = {
  strand: {
    label: "A strand’s cue",
    help: "Each cue of a strand: a hit, a tick of a clock, a note.",
    sentence: "When {strandId} gives a cue",
    settings: { strandId: reference("Strand", "strand", "The strand whose cues are meant.") },
  },
  tap: {
    label: "A tap",
    help: "A click, a touch, or a press of a controller on an object or anywhere.",
    sentence: "When somebody taps {objectId}",
    settings: { objectId: anything("What has to be tapped.") },
  },
  press: {
    label: "A long press",
    help: "A tap that is held.",
    sentence: "When somebody holds a tap on {objectId} for {holdMs}",
    settings: {
      objectId: anything("What has to be held."),
      holdMs: number("Hold time", "ms", [100, 10_000, 10], 500, "How long it has to be held.", { chars: 5 }),
    },
  },
  key: {
    label: "A key",
    help: "A key of the keyboard.",
    sentence: "When the key {key} is pressed",
    settings: {
      key: text("Key", "Space", "Name of the key, as the browser gives it: a, 1, Space, Enter.", 24),
    },
  },
  enter: {
    label: "A zone is entered",
    help: "Somebody or something comes into a zone.",
    sentence: "When {who} enters {zoneId}",
    settings: { who: who("Who has to come in."), zoneId: zone },
  },
  leave: {
    label: "A zone is left",
    help: "Somebody or something goes out of a zone.",
    sentence: "When {who} leaves {zoneId}",
    settings: { who: who("Who has to go out."), zoneId: zone },
  },
  inside: {
    label: "Being in a zone",
    help: "Actions are done when the first one enters and undone when the last one leaves: sounds pause, changes go back.",
    sentence: "While {who} is in {zoneId}",
    settings: { who: who("Who has to be in it."), zoneId: zone },
  },
  near: {
    label: "Coming near",
    help: "Somebody comes nearer to an object than a distance.",
    sentence: "When {who} comes nearer to {objectId} than {distanceM}",
    settings: {
      who: who("Who has to come near."),
      objectId: objectOf("Object", "What is come near to."),
      distanceM: number("Distance", "m", [0.05, 100, 0.05], 2, "From the middle of the object.", {
        chars: 5,
      }),
    },
  },
  touch: {
    gapMs: 200,
    label: "A touch",
    help: "A hand reaches an object, or the pointer comes over it.",
    sentence: "When a hand or the pointer touches {objectId} at {speed} or faster",
    settings: {
      objectId: objectOf("Object", "What has to be touched."),
      speed: number(
        "Speed",
        "m/s",
        [0, 10, 0.1],
        0.3,
        "A hand that comes slower does not count; one that stays touches once.",
        { chars: 4 },
      ),
    },
  },
  meet: {
    gapMs: 200,
    label: "Two bodies meet",
    help: "A solid body hits another; the cue is as strong as the hit.",
    sentence: "When {objectId} meets {otherId} with at least {impulse}",
    settings: {
      objectId: objectOf("Object", "A solid body."),
      otherId: anything("The body it has to meet."),
      impulse: number("Impulse", "N·s", [0, 1000, 0.1], 0.5, "Weaker hits do not count.", { chars: 5 }),
    },
  },
  soundStarts: {
    label: "A sound starts",
    help: "A sound that runs by itself begins or goes on, or the tape does.",
    sentence: "When {soundId} starts",
    settings: { soundId: sound },
  },
  soundEnds: {
    label: "A sound ends",
    help: "A sound has played to its end, or the tape has.",
    sentence: "When {soundId} ends",
    settings: { soundId: sound },
  },
  mark: {
    label: "A mark on the tape",
    help: "The tape plays past a mark.",
    sentence: "When the tape comes to {markId}",
    settings: { markId: reference("Mark", "mark", "A mark on the tape.") },
  },
  section: {
    label: "A section begins",
    help: "The tape plays past any mark that begins a section.",
    sentence: "When a section begins",
    settings: {},
  },
  start: {
    label: "The scene starts",
    help: "Once, as the scene begins.",
    sentence: "When the scene starts",
    settings: {},
  },
} as const satisfies Record<string, CueSourceDeclaration>;

export type CueSourceKind = keyof typeof CUE_SOURCES;
export const CUE_SOURCE_KINDS = Object.keys(CUE_SOURCES) as CueSourceKind[];
