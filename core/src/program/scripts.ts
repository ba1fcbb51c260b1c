type Scripts = typeof import("./engine");
let scripts: Scripts | undefined;
let loading: Promise<Scripts> | undefined;

/** Loads what scripts need: an engine, and what takes the types out of them. Only scenes with scripts do. */
export function loadScripts(): Promise<Scripts> {
  loading ??= import("./engine")
    .then(async (come) => {
      await come.loadEngine();
      scripts = come;
      return come;
    })
    .catch((error: unknown) => {
      // Another try may find it.
      loading = undefined;
      throw error;
    });
  return loading;
}

export const areScriptsLoaded = (): boolean => scripts?.isEngineLoaded() === true;

/** @throws Error while they have not been loaded */
export function theScripts(): Scripts {
  if (!scripts) throw new Error("Programs in TypeScript have not been loaded.");
  return scripts;
}
