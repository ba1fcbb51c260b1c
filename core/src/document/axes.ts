/** Axes of a vector: right, up, towards the viewer. */
export const AXES = ["x", "y", "z"] as const;
export type Axis = (typeof AXES)[number];
