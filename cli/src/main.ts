import { fileURLToPath } from "node:url";
import { runScriptsInThreads } from "@bumbrel/server/scripts/nodeScripts";
import { type Command, type Console, type ExitCode, runCommand } from "./support/command";

/** A command as the list of them shows it; its code is loaded when it is called. */
interface ListedCommand {
  /** One line for the list of commands. */
  summary: string;
  load(): Promise<Command>;
}

const COMMANDS: Record<string, ListedCommand> = {
  trace: {
    summary: "prints a measure of a sound, or a scene's strands on it, 100 rows a second",
    load: async () => (await import("./sounds/trace")).trace,
  },
  cues: {
    summary: "prints the hits in a range of frequencies",
    load: async () => (await import("./sounds/cues")).cues,
  },
  catch: {
    summary: "finds the band and mark that best pick out marked hits",
    load: async () => (await import("./sounds/catch")).catchCommand,
  },
  sections: {
    summary: "prints where the sections of a sound begin",
    load: async () => (await import("./sounds/sections")).sections,
  },
  facts: {
    summary: "prints what is known of a sound file, as JSON",
    load: async () => (await import("./projects/facts")).facts,
  },
  tone: {
    summary: "writes a tone, a sweep or noise as a WAV file",
    load: async () => (await import("./sounds/tone")).tone,
  },
  check: {
    summary: "validates a scene document",
    load: async () => (await import("./projects/check")).check,
  },
  edit: {
    summary: "carries out named edits on a scene or a project",
    load: async () => (await import("./projects/edit")).edit,
  },
  serve: {
    summary: "runs the workbench",
    load: async () => (await import("./serve")).serve,
  },
  export: {
    summary: "writes a project with all it is made of",
    load: async () => (await import("./projects/archive")).exportCommand,
  },
  import: {
    summary: "brings the projects of an archive in",
    load: async () => (await import("./projects/archive")).importCommand,
  },
  deliver: {
    summary: "delivers a project: page, curves, tables and the like",
    load: async () => (await import("./projects/deliver")).deliver,
  },
  listen: {
    summary: "feeds a project's numbers to games and other programs",
    load: async () => (await import("./sounds/listen")).listen,
  },
  render: {
    summary: "renders a film, or a part of one",
    load: async () => (await import("./projects/film")).render,
  },
  join: {
    summary: "puts the parts of a film together",
    load: async () => (await import("./projects/film")).joinCommand,
  },
  worker: {
    summary: "makes films that others have ordered",
    load: async () => (await import("./worker")).worker,
  },
  verify: {
    summary: "checks that everything stored is whole",
    load: async () => (await import("./data")).verify,
  },
  restore: {
    summary: "puts back the newest copy of the data",
    load: async () => (await import("./data")).restore,
  },
};

const USAGE = `bumbrel COMMAND …

${Object.entries(COMMANDS)
  .map(([name, { summary }]) => `  ${name.padEnd(8)} ${summary}`)
  .join("\n")}

bumbrel COMMAND --help tells more of one.
`;

/** The thread that programs run in, as it is built beside this. */
const SCRIPT_WORKER = fileURLToPath(new URL("scriptWorker.mjs", import.meta.url));

/**
 * The command line.
 *
 * @param args  what follows `bumbrel`
 * @returns the exit code
 */
export async function main(args: string[], console: Console): Promise<ExitCode> {
  const [name, ...rest] = args;
  if (name === undefined || name === "--help" || name === "-h" || name === "help") {
    console.out(USAGE);
    return name === undefined ? 2 : 0;
  }
  if (!Object.hasOwn(COMMANDS, name)) {
    console.error(
      `bumbrel: there is no command "${name}"; use ${Object.keys(COMMANDS).join(", ")} or --help\n`,
    );
    return 2;
  }
  runScriptsInThreads(SCRIPT_WORKER);
  return runCommand(name, await COMMANDS[name].load(), rest, console);
}
