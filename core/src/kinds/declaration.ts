import type { ObjectSetting, Property } from "../setting/property";

/** Shelf of a kind in the list of things to add. */
export const SHELVES = {
  shapes: "Shapes",
  drawings: "Drawn by sound",
  moving: "Moving by itself",
  lights: "Lights",
  around: "Surroundings",
  visitors: "For visitors",
  programs: "Your own code",
} as const;
export type Shelf = keyof typeof SHELVES;

/** Parts of an object that are simulated in fixed steps. */
export type Simulated = "particles" | "orbits" | "wake";

/** Abilities of a kind, read by drawing, placing, simulating and editing. */
export interface Capabilities {
  /** It has a position on the stage: alone ("moved"), or with rotation, scale and spin ("turned"). */
  placement?: "moved" | "turned";
  /** It has a surface and is drawn once for each of its copies. */
  surface?: true;
  /** It is made of copies: by its formation setting, or always. */
  copies?: "formation" | "always";
  /** It can leave a wake. */
  wake?: true;
  /** Simulated behaviour, beside a wake. */
  simulates?: "particles" | "orbits";
  /** It can be put into a group. */
  grouped?: true;
  /** Other objects can be put into it. */
  holdsObjects?: true;
  /** It can be chosen by pointing at it; what is everywhere cannot. */
  pointable?: true;
  /** It can be a solid body. */
  solid?: true;
  /** It consists of a surface that others share. */
  shared?: true;
}

/** Reads one number of an object's size properties. */
export type ReadSize = (key: string, axis?: number) => number;

/** Geometry of a body, for placing it: everything is one metre wide about its own middle before it is sized. */
export interface BodySize {
  /** Width, height and depth at scale and growth 1. */
  size(read: ReadSize, aspect: number): readonly [number, number, number];
  /** It has no depth: a sheet. */
  isFlat?: true;
  /** Width over height come from the image it shows, named by this setting. */
  aspectOf?: string;
}

export interface ObjectKindDeclaration {
  label: string;
  help: string;
  /** Exactly one always exists, whether the document mentions it or not; its id is the kind's name. */
  singleton?: true;
  /** `undefined` for kinds that nobody puts on the stage by hand. */
  shelf?: Shelf;
  can: Capabilities;
  body?: BodySize;
  properties: Record<string, Property>;
  settings: Record<string, ObjectSetting>;
}
