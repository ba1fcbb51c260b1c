import type * as Engine from "./engine";
import { haveScripts } from "./scripts";

/** Loads what scripts need: an engine, and what takes the types out of them. Only threads that run scripts do. */
export async function loadScripts(): Promise<typeof Engine> {
  const come = await import("./engine");
  // Module and engine are kept; an engine that has given up is made again.
  await come.loadEngine();
  haveScripts(come);
  return come;
}
