import { EXPOSED_TYPES, type ExposedType, type ProgramLanguage } from "./exposedTypes";

interface ProgramKindDeclaration {
  label: string;
  help: string;
  language: ProgramLanguage;
  /** Types of values that it can let its users set. */
  exposes: readonly ExposedType[];
}

const ALL = Object.keys(EXPOSED_TYPES) as ExposedType[];

/** Uses of a program in a scene. */
export const PROGRAM_KINDS = {
  surface: {
    label: "Surface",
    help: "Moves the points of a surface and decides its colour, emission, roughness and opacity.",
    language: "glsl",
    exposes: ALL,
  },
  pass: {
    label: "Picture pass",
    help: "Changes the finished picture, pixel by pixel.",
    language: "glsl",
    exposes: ALL,
  },
  drawing: {
    label: "Drawing",
    help: "Draws a picture in two dimensions, 60 times a second.",
    language: "script",
    exposes: ALL,
  },
  number: {
    label: "Number",
    help: "Gives a strand its numbers, or a fan its rows, 100 times a second.",
    language: "script",
    exposes: ["number", "whole", "choice", "switch"],
  },
} as const satisfies Record<string, ProgramKindDeclaration>;
export type ProgramKind = keyof typeof PROGRAM_KINDS;
export const PROGRAM_KIND_NAMES = Object.keys(PROGRAM_KINDS) as ProgramKind[];

/** Characters of a program at most. */
export const MAX_CODE = 32_768;
