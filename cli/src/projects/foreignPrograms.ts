import type { Scene } from "@bumbrel/core/document/scene";

/** Says which programs do not run, and how to let them. */
export const leftOut = ({ programs }: Scene): string =>
  `WARNING: these programs came from elsewhere and do not run: ${programs.map(({ name }) => `"${name}"`).join(", ")}. Look at their code in the workbench; --allow-programs lets them run here.\n`;
