export type Physics = typeof import("@dimforge/rapier3d-deterministic-compat").default;
let physics: Physics | undefined;

/** Loads what rigid bodies are computed with. Only scenes with moving bodies do. */
export async function loadPhysics(): Promise<Physics> {
  const come = await import("@dimforge/rapier3d-deterministic-compat");
  await come.default.init();
  physics = come.default;
  return physics;
}

/** `undefined` while it has not been loaded. */
export const thePhysics = (): Physics | undefined => physics;
