/** Layers of the stage that are drawn by themselves after everything else. */

/** Objects with difference blending. */
export const DIFFERENCE_LAYER = 1;
/** Particles that fade where they touch things: they read the depth of the image. */
export const SOFT_LAYER = 2;
