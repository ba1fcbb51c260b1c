import { exportCommand, importCommand } from "./archive";
import { catchCommand } from "./catch";
import { check } from "./check";
import { type Command, type Console, type ExitCode, runCommand } from "./command";
import { cues } from "./cues";
import { restore, verify } from "./data";
import { deliver } from "./deliver";
import { facts } from "./facts";
import { joinCommand, render } from "./film";
import { listen } from "./listen";
import { serve } from "./serve";
import { tone } from "./tone";
import { trace } from "./trace";
import { worker } from "./worker";

const COMMANDS: Command[] = [
  trace,
  cues,
  catchCommand,
  facts,
  tone,
  check,
  serve,
  exportCommand,
  importCommand,
  deliver,
  listen,
  render,
  joinCommand,
  worker,
  verify,
  restore,
];

const USAGE = `bumbrel COMMAND …

${COMMANDS.map(({ name, summary }) => `  ${name.padEnd(8)} ${summary}`).join("\n")}

bumbrel COMMAND --help tells more of one.
`;

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
  const command = COMMANDS.find((one) => one.name === name);
  if (!command) {
    console.error(
      `bumbrel: there is no command "${name}"; use ${COMMANDS.map((one) => one.name).join(", ")} or --help\n`,
    );
    return 2;
  }
  return runCommand(command, rest, console);
}
