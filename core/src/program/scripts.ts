type Scripts = typeof import("./engine");
let scripts: Scripts | undefined;

/** Loads what scripts need: an engine, and what takes the types out of them. Only scenes with scripts do. */
export async function loadScripts(): Promise<Scripts> {
  const come = await import("./engine");
  // Module and engine are kept; an engine that has given up is made again.
  await come.loadEngine();
  scripts = come;
  return come;
}

export const areScriptsLoaded = (): boolean => scripts?.isEngineLoaded() === true;

/** @throws Error while they have not been loaded */
export function theScripts(): Scripts {
  if (!scripts) throw new Error("Programs in TypeScript have not been loaded.");
  return scripts;
}
