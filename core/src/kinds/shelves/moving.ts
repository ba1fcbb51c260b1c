import { reference, toggle } from "../../setting/descriptor";
import { colour, count, number, vector, within } from "../../setting/property";
import type { ObjectKindDeclaration } from "../declaration";
import { blendSetting, formationSettings, GLOW, glowing, onCamera, placed, SHARE, solid } from "../shared";

const { when: _inFormationsOnly, ...seed } = formationSettings.seed;

/** Objects that move by themselves, in simulated steps. */
export const MOVING = {
  particles: {
    label: "Particles",
    help: "Sparks that rise, spread, fall and fade.",
    shelf: "moving",
    can: { placement: "moved", simulates: "particles", grouped: true },
    properties: {
      ...placed,
      rate: number("Rate", "/s", [0, 2000, 1], 40, 200, "Particles emitted each second."),
      burst: number(
        "Burst",
        "",
        [0, 2000, 1],
        0,
        60,
        "Particles emitted at once at each cue: bind it to kick.",
        {
          atCues: true,
          bindsAs: "kick",
        },
      ),
      direction: vector("Direction", "", [-1, 1, 0.01], [0, 1, 0], 1, "The way they set out.", {
        bindsAxis: "x",
      }),
      speed: number("Speed", "m/s", [0, 100, 0.01], 1.5, 3, "Their speed at the start."),
      spread: number(
        "Spread angle",
        "°",
        [0, 180, 1],
        25,
        60,
        "How far from the direction they may set out.",
      ),
      from: number("Start radius", "m", [0, 100, 0.01], 0.1, 1, "Radius of the ball they start in."),
      life: number("Lifetime", "s", [0.05, 10, 0.05], 2, 2, "How long each of them lasts."),
      gravity: number("Gravity", "m/s²", [-50, 50, 0.1], -0.6, 4, "Downward acceleration; negative rises."),
      size: number("Start size", "m", [0.001, 10, 0.005], 0.06, 0.15, "Diameter at the start."),
      endSize: number("End size", "m", [0, 10, 0.005], 0.02, 0.15, "Diameter at the end."),
      colour: colour("Start colour", "#ffcf6b", "Colour at the start.", { role: "ink" }),
      middleColour: colour("Middle colour", "#ff8a5a", "Colour half-way.", { role: "secondInk" }),
      endColour: colour("End colour", "#5a1d2e", "Colour at the end.", { role: "thirdInk" }),
      glow: number("Emission", "×", GLOW, 1.4, 3, "Strength of their light."),
      opacity: number("Opacity", "", SHARE, 1, 1, "How much they cover; each fades out at its end."),
      softness: number(
        "Soft edge",
        "m",
        [0, 10, 0.01],
        0.2,
        1,
        "Distance over which they fade where they touch things.",
      ),
      cap: count("Limit", [1, 20_000], 2000, 2000, "The oldest go when there would be more."),
    },
    settings: {
      ...onCamera("before"),
      blend: within("main", { ...blendSetting, default: "add" }),
      lit: within(
        "main",
        toggle("Lit", false, "Lights of the stage fall on them: for smoke, mist and dust."),
      ),
      seed,
    },
  },
  orbits: {
    label: "Orbits",
    help: "Bodies that circle, each leaving a trail.",
    shelf: "moving",
    can: { placement: "turned", simulates: "orbits", grouped: true, pointable: true },
    properties: {
      ...solid,
      bodies: count("Bodies", [1, 64], 6, 6, "How many circle."),
      speed: number(
        "Orbit speed",
        "°/s",
        [-1440, 1440, 1],
        60,
        180,
        "Angular speed; negative is the other way.",
        {
          integrates: true,
        },
      ),
      speedSpread: number("Speed variation", "", SHARE, 0, 0.5, "Random difference of each body’s speed."),
      radius: number(
        "Radius",
        "m",
        [-500, 500, 0.01],
        2,
        1.5,
        "From the middle to each; negative is the far side.",
      ),
      climb: number("Height", "m", [-500, 500, 0.01], 0, 1, "Height of the orbit."),
      tilt: number("Tilt", "°", [-180, 180, 1], 0, 45, "Angle of the orbit’s plane.", { wraps: 360 }),
      waveRadius: number(
        "Wave on radius",
        "m",
        [0, 100, 0.01],
        0,
        1,
        "Outward shift at the sound’s full scale.",
      ),
      waveHeight: number(
        "Wave on height",
        "m",
        [0, 100, 0.01],
        0,
        1,
        "Upward shift at the sound’s full scale.",
      ),
      bodySize: number("Body size", "m", [0.005, 50, 0.005], 0.16, 0.3, "Diameter of each body."),
      trail: number("Trail length", "s", [0, 6, 0.05], 1.2, 2, "How long their path stays visible."),
      trailWidth: number(
        "Trail width",
        "×",
        [0, 10, 0.01],
        0.6,
        0.8,
        "Width where it begins, in body sizes.",
      ),
      trailTaper: number("Trail taper", "", SHARE, 1, 0.8, "0 is as wide at its end, 1 runs to a point."),
      ...glowing,
      emissionStrength: { ...glowing.emissionStrength, default: 1 },
    },
    settings: {
      ...onCamera("before"),
      soundId: within(
        "main",
        reference("Sound", "sound", "The sound whose waveform it follows; the first that is heard, if none."),
      ),
      blend: { ...blendSetting, default: "add" },
      seed,
    },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
