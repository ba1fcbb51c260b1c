import type { Scene } from "../document/scene";
import type { Finding } from "../errors";

/** Cost of drawing a stage and of its script. */
export interface StageWeight {
  copies: number;
  particles: number;
  triangles: number;
  drawCalls: number;
  /** Milliseconds of script a frame. */
  scriptMs: number;
}

/**
 * Limits of each target. A frame is 16.7 ms on a desktop and 13.9 ms in a headset, which draws it twice; script may
 * take a quarter of it, on a phone that is four times as slow.
 */
export const BUDGET_LIMITS: Record<Scene["budget"], StageWeight> = {
  desktop: { copies: 20_000, particles: 50_000, triangles: 3_000_000, drawCalls: 1500, scriptMs: 4 },
  phone: { copies: 4000, particles: 5000, triangles: 400_000, drawCalls: 200, scriptMs: 1 },
  headset: { copies: 4000, particles: 8000, triangles: 500_000, drawCalls: 150, scriptMs: 2 },
};

const REMEDIES: Record<keyof StageWeight, [words: string, remedy: string]> = {
  copies: ["copies", "Take copies out of formations, or shorten wakes"],
  particles: ["particles", "Lower the rate, life or cap of particles and trails"],
  triangles: ["triangles", "Use fewer copies, or boxes where spheres cannot be told from them"],
  drawCalls: ["draw calls", "Make formations of objects that are alike"],
  scriptMs: ["ms of script a frame", "Take out bindings and particles that nobody would miss"],
};

/**
 * Finds the parts of a stage that are heavier than its budget.
 *
 * @returns one finding for each figure that is over; empty when all are within
 */
export function weigh(weight: StageWeight, budget: Scene["budget"]): Finding[] {
  const limits = BUDGET_LIMITS[budget];
  return (Object.keys(REMEDIES) as (keyof StageWeight)[]).flatMap((key) => {
    if (weight[key] <= limits[key]) return [];
    const [words, remedy] = REMEDIES[key];
    const figure = key === "scriptMs" ? weight[key].toFixed(1) : String(Math.round(weight[key]));
    return [
      {
        code: `too-many-${key}`,
        what: `${figure} ${words} are more than the ${limits[key]} a ${budget} has room for`,
        where: "the stage",
        remedy,
      },
    ];
  });
}
