/** Reading programs apart from everything else; scenes without programs of numbers do not load it. */
export { ProgramReader } from "./programReader";
export { runScriptsIn } from "./scriptThread";
