import type { ProgramLanguage } from "./exposed";

/** What a program can do for a scene. */
export const PROGRAM_KINDS = {
  surface: {
    label: "Surface",
    help: "Moves the points of a surface and decides its colour, emission, roughness and opacity.",
    language: "glsl",
  },
} as const satisfies Record<string, { label: string; help: string; language: ProgramLanguage }>;
export type ProgramKind = keyof typeof PROGRAM_KINDS;
export const PROGRAM_KIND_NAMES = Object.keys(PROGRAM_KINDS) as ProgramKind[];

/** Characters of a program at most. */
export const MAX_CODE = 32_768;
