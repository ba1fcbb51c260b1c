/** Code that scenes with scripts load: the sandbox with its engine, and numbers by programs. */
export { startNumbers } from "./numberReader";
export { isEngineLoaded, loadEngine, Sandbox } from "./sandbox";
export { ScriptError } from "./scriptError";
