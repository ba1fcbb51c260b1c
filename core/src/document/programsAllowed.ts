import type { Scene } from "./scene";

/** A document, and whether its programs may run here: those that came from elsewhere wait until somebody allows them. */
export interface Permitted {
  scene: Scene;
  programsAllowed: boolean;
}

/** The scene as far as it may run: without programs that nobody has allowed. The one gate that every use of it passes. */
export const runnableScene = ({ scene, programsAllowed }: Permitted): Scene =>
  programsAllowed || scene.programs.length === 0 ? scene : { ...scene, programs: [] };
