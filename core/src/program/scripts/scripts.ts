import type * as Engine from "./engine";

/**
 * The engine of scripts in a thread that runs them, once it has been loaded by `loadScripts`: measures find it here without
 * bringing it along to where no script runs.
 */
let scripts: typeof Engine | undefined;

export function haveScripts(come: typeof Engine): void {
  scripts = come;
}

export const areScriptsLoaded = (): boolean => scripts?.isEngineLoaded() === true;

/** @throws Error while they have not been loaded */
export function theScripts(): typeof Engine {
  if (!scripts) throw new Error("Programs in TypeScript have not been loaded.");
  return scripts;
}
