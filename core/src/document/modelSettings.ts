import { choice, number, numberChoice, type ValuesOf } from "../setting/descriptor";

/** How a model with baked motion is made. */
export const MODEL_SETTINGS = {
  copies: choice(
    "Copies",
    { nodes: "a node each", instanced: "as instances where they keep together" },
    "nodes",
    "A node each moves by itself in every reader. Instances (EXT_mesh_gpu_instancing) are small, and can only move together.",
  ),
  withinMm: number(
    "Exact to",
    "mm",
    [0.1, 100, 0.1],
    0.5,
    "Frames are left out where what their neighbours give is as near as this.",
  ),
  rate: numberChoice("Frames a second", [25, 50, 100, 200], 100, "How often the scene is read."),
} as const;
export type ModelSettings = ValuesOf<typeof MODEL_SETTINGS>;
