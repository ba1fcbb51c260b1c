/** Stands in for the engine of programs in pages without any. */
export const loadEngine = (): Promise<never> =>
  Promise.reject(new Error("This page carries no engine for programs."));
export const isEngineLoaded = (): boolean => false;
