import {
  choice,
  number,
  objectOf,
  reference,
  type Settings,
  type StopsSetting,
  toggle,
  vector,
  whole,
} from "../setting/descriptor";
import { EASINGS } from "./easing";

const sound = reference("Sound", "sound", "The sound, or the group it runs in.", { orNone: "the tape" });
const thing = objectOf("Object", "The object that is meant.");
const body = { ...objectOf("Body", "A moving body."), which: "moving" } as const;
const over = number("Over", "ms", [0, 600_000, 10], 400, "Time it takes.", { chars: 6 });
const easing = choice("Easing", EASINGS, "smooth", "How it starts and ends.");
const property = (types?: readonly ("number" | "vector" | "colour")[]) =>
  ({
    type: "property",
    label: "Property",
    help: "The property that changes.",
    of: "objectId",
    default: "",
    ...(types && { types }),
  }) as const;
const colours: StopsSetting = {
  type: "stops",
  label: "Colours",
  help: "The colours, in the order of their places.",
  default: [
    { at: 0, colour: "#e3b563" },
    { at: 0.5, colour: "#1d5c63" },
    { at: 1, colour: "#f4ecdc" },
  ],
};

export interface ActionDeclaration {
  label: string;
  help: string;
  /** The action in words that a sentence can end with; names of settings in braces are replaced by their values. */
  sentence: string;
  settings: Settings;
}

/** Of every action: how long after the cue it comes. */
export const ACTION_TIMING = {
  delayMs: number("Delay", "ms", [0, 600_000, 10], 0, "Time after the cue.", { chars: 6 }),
} satisfies Settings;

/**
 * Everything an answer can do: the one table that schema, sheet, simulation and docs read.
 */
export const ACTIONS = {
  play: {
    label: "Play a sound",
    help: "Starts a sound that runs by itself, or the tape.",
    sentence: "play {soundId} {from}, {when}",
    settings: {
      soundId: sound,
      from: choice(
        "From",
        { where: "from where it was", start: "from its start", mark: "from a mark" },
        "where",
        "Where in the sound it begins.",
      ),
      markId: reference("Mark", "mark", "The mark it begins at.", {
        when: { setting: "from", is: ["mark"] },
      }),
      when: choice(
        "When",
        { now: "at once", beat: "on the next beat", bar: "on the next bar" },
        "now",
        "Beats and bars are those of the project’s clock, while the tape plays.",
      ),
    },
  },
  playTurns: {
    label: "Play or pause by turns",
    help: "Starts a sound that does not play, and pauses one that does.",
    sentence: "play {soundId} {from}, or {halts} it, by turns",
    settings: {
      soundId: sound,
      from: choice(
        "From",
        { where: "from where it was", start: "from its start" },
        "where",
        "Where in the sound it begins.",
      ),
      halts: choice(
        "Halts",
        { pause: "pause", stop: "stop" },
        "pause",
        "A sound that is stopped goes back to its start.",
      ),
    },
  },
  pause: {
    label: "Pause a sound",
    help: "Stops it where it is; playing continues from there.",
    sentence: "pause {soundId}",
    settings: { soundId: sound },
  },
  stop: {
    label: "Stop a sound",
    help: "Stops it and goes back to its start.",
    sentence: "stop {soundId}",
    settings: { soundId: sound },
  },
  fade: {
    label: "Fade a sound",
    help: "Takes a sound to a level over a time.",
    sentence: "fade {soundId} to {levelDb} over {overMs}, evenly in {evenly}",
    settings: {
      soundId: sound,
      levelDb: number("Level", "dB", [-60, 6, 0.5], -60, "Level on top of its fader; −60 dB is silence.", {
        chars: 5,
      }),
      overMs: over,
      evenly: choice(
        "Evenly in",
        { loudness: "loudness", dB: "decibels" },
        "loudness",
        "What changes by the same amount at each moment: how loud it seems, or its level in dB.",
      ),
    },
  },
  show: {
    label: "Show or hide",
    help: "Makes a thing visible or invisible.",
    sentence: "{does} {objectId} {lasts}",
    settings: {
      does: choice(
        "Does",
        { show: "show", hide: "hide", turns: "show or hide by turns" },
        "show",
        "What happens.",
      ),
      objectId: thing,
      lasts: choice(
        "Lasts",
        { stays: "from then on", time: "for a time", sound: "for as long as a sound plays" },
        "stays",
        "When it is as before again.",
      ),
      forMs: number("For", "ms", [10, 600_000, 10], 1000, "How long.", {
        chars: 6,
        when: { setting: "lasts", is: ["time"] },
      }),
      whileId: reference("While it plays", "sound", "The sound.", {
        orNone: "the tape",
        when: { setting: "lasts", is: ["sound"] },
      }),
    },
  },
  glide: {
    label: "Glide a property",
    help: "Takes a property to a value over a time, and back if wanted.",
    sentence: "take {property} of {objectId} to {to} over {overMs}, {easing}",
    settings: {
      objectId: thing,
      property: property(),
      to: {
        type: "rest",
        label: "Value",
        help: "The value it goes to.",
        of: "property",
        default: 0,
      } as const,
      overMs: over,
      easing,
      back: toggle("And back", false, "It returns to where it rests."),
      holdMs: number("After", "ms", [0, 600_000, 10], 0, "How long it stays before it returns.", {
        chars: 6,
        when: { setting: "back", is: [true] },
      }),
      backMs: number("Back over", "ms", [0, 600_000, 10], 400, "Time the return takes.", {
        chars: 6,
        when: { setting: "back", is: [true] },
      }),
    },
  },
  stepColours: {
    label: "Step through colours",
    help: "Each time the next colour of a list.",
    sentence: "take {property} of {objectId} to the next of {stops} over {overMs}",
    settings: { objectId: thing, property: property(["colour"]), stops: colours, overMs: over },
  },
  stepThings: {
    label: "Step through things",
    help: "Each time the next of several things is visible, and the others are not.",
    sentence: "show the next of {objectIds}",
    settings: {
      objectIds: {
        type: "references",
        label: "Things",
        help: "Things that are shown one after the other.",
        to: "object",
        default: [],
      } as const,
    },
  },
  stepViews: {
    label: "Step through viewpoints",
    help: "Each time the camera goes to the next viewpoint.",
    sentence: "look from the next of {viewIds} over {overMs}",
    settings: {
      viewIds: {
        type: "references",
        label: "Viewpoints",
        help: "Viewpoints that the camera goes to one after the other.",
        to: "object",
        kinds: ["viewpoint"],
        default: [],
      } as const,
      overMs: over,
      easing,
    },
  },
  kick: {
    label: "Kick a property",
    help: "Adds to a property; what was added dies away. A stronger cue kicks harder.",
    sentence: "kick {property} of {objectId} by {amount}, dying away in {decayMs}",
    settings: {
      objectId: thing,
      property: property(["number", "vector"]),
      amount: number("Amount", "", [-1e6, 1e6, 0.01], 1, "What a cue at full strength adds.", { chars: 6 }),
      decayMs: number("Decay", "ms", [1, 60_000, 1], 250, "Time in which it falls to 37 %.", { chars: 5 }),
    },
  },
  burst: {
    label: "Burst of particles",
    help: "An emitter gives off so many particles at once.",
    sentence: "{objectId} bursts with {count} particles",
    settings: {
      objectId: objectOf("Emitter", "Particles.", ["particles"]),
      count: whole("Count", [1, 20_000], 60, "Particles given off.", { chars: 5 }),
    },
  },
  push: {
    label: "Push a body",
    help: "Changes the speed of a moving body. A stronger cue pushes harder.",
    sentence: "push {objectId} by {velocity}",
    settings: {
      objectId: body,
      velocity: vector("Speed", "m/s", [-100, 100, 0.1], [0, 0, -3], "Right, up, towards the viewer."),
    },
  },
  jump: {
    label: "Make a body jump",
    help: "Throws a moving body up so far, whatever its mass.",
    sentence: "{objectId} jumps {heightM} high",
    settings: {
      objectId: body,
      heightM: number("Height", "m", [0.01, 50, 0.01], 0.5, "Height of a jump at full strength.", {
        chars: 5,
      }),
    },
  },
  copy: {
    label: "Put a copy there",
    help: "A copy of an object whose formation is “placed by cues” appears; its lifetime and limit are the object’s.",
    sentence: "put a copy of {objectId} {where}",
    settings: {
      objectId: {
        ...objectOf("Object", "An object whose copies are placed by cues."),
        which: "placedByCues",
      } as const,
      where: choice(
        "Where",
        { there: "where it happened", place: "at its own place", visitor: "before the visitor" },
        "there",
        "Where the copy appears.",
      ),
      velocity: vector("Speed", "m/s", [-100, 100, 0.1], [0, 0, 0], "Speed a moving body begins with."),
    },
  },
  goTo: {
    label: "Go to a mark",
    help: "The tape goes to a mark and plays on from there.",
    sentence: "go to {markId}",
    settings: { markId: reference("Mark", "mark", "A mark on the tape.", { orNone: "the start" }) },
  },
  pulse: {
    label: "Haptic pulse",
    help: "Controllers and phones that can do so vibrate shortly.",
    sentence: "give a haptic pulse of {strength} for {forMs}",
    settings: {
      strength: number("Strength", "", [0, 1, 0.05], 0.6, "How strong.", { chars: 4 }),
      forMs: number("Length", "ms", [5, 2000, 5], 40, "How long.", { chars: 5 }),
    },
  },
} as const satisfies Record<string, ActionDeclaration>;

export type ActionKind = keyof typeof ACTIONS;
export const ACTION_KINDS = Object.keys(ACTIONS) as ActionKind[];
