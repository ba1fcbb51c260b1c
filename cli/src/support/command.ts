import {
  closeSync,
  existsSync,
  fstatSync,
  openSync,
  readFileSync,
  readSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { type ParseArgsConfig, parseArgs } from "node:util";
import { BumbrelError } from "@bumbrel/core/errors";
import { openWavFile, type WavFile } from "@bumbrel/core/format/samples/wav";

/** Output of a command; tests hand in their own. */
export interface Console {
  out(text: string): void;
  error(text: string): void;
}

/** 0: done. 1: done, and what was looked at has problems. 2: the command could not be carried out. */
export type ExitCode = 0 | 1 | 2;

export interface Command {
  help: string;
  run(args: string[], console: Console): ExitCode | Promise<ExitCode>;
}

/** A command was called wrongly, or with something that cannot be used; the message is one line. */
export class UsageError extends Error {}

/**
 * Splits a command's arguments.
 *
 * @throws UsageError for unknown flags, missing values and a wrong number of plain arguments
 */
export function parsed<T extends NonNullable<ParseArgsConfig["options"]>>(
  args: string[],
  options: T,
  files: string[],
) {
  let result: ReturnType<typeof parseArgs<{ options: T; allowPositionals: true; args: string[] }>>;
  try {
    result = parseArgs({ args: joinNegatives(args), options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new UsageError((error as Error).message.split("\n")[0].replace(/\. To specify.*$/, ""));
  }
  if (result.positionals.length !== files.length) {
    throw new UsageError(
      result.positionals.length < files.length
        ? `${files[result.positionals.length]} is missing`
        : `"${result.positionals[files.length]}" is one argument too many`,
    );
  }
  return { values: result.values, positionals: result.positionals };
}

/** Writes `--level -20` as `--level=-20`, so that a negative number is not taken for a flag. */
function joinNegatives(args: string[]): string[] {
  return args.reduce<string[]>((joined, arg) => {
    const before = joined.at(-1);
    if (/^-\d/.test(arg) && before?.startsWith("--") && !before.includes("="))
      joined[joined.length - 1] += `=${arg}`;
    else joined.push(arg);
    return joined;
  }, []);
}

/** @throws UsageError unless `text` is a finite number within the limits */
export function numberFlag(flag: string, text: string | undefined, min: number, max: number): number {
  if (text === undefined) throw new UsageError(`--${flag} is missing`);
  const value = Number(text);
  if (text.trim() === "" || !Number.isFinite(value) || value < min || value > max) {
    throw new UsageError(`--${flag} must be a number from ${min} to ${max}, not "${text}"`);
  }
  return value;
}

/** @throws UsageError unless `text` is one of `choices` */
export function choiceFlag<T extends string>(
  flag: string,
  text: string | undefined,
  choices: readonly T[],
): T {
  const choice = choices.find((one) => one === text);
  if (choice !== undefined) return choice;
  const what = text === undefined ? "is missing" : `"${text}" is not known`;
  throw new UsageError(`--${flag} ${what}; use one of ${choices.join(", ")}`);
}

/** Files that the running command has read, by their real paths: none of them is written over. */
const readPaths = new Set<string>();

/** @throws UsageError saying why, where a file cannot be read */
function reading<T>(path: string, read: () => T): T {
  try {
    return read();
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (error instanceof BumbrelError) throw error;
    const why: Record<string, string> = {
      ENOENT: "there is no such file",
      EISDIR: "this is a folder, not a file",
      EACCES: "it may not be read",
    };
    throw new UsageError(`${path}: ${why[code ?? ""] ?? (error as Error).message}`);
  }
}

/**
 * @param path  `-` reads standard input
 * @throws UsageError when the file cannot be read
 */
export function readBytes(path: string): Uint8Array {
  return reading(path, () => {
    if (path === "-") return readFileSync(0);
    readPaths.add(realpathSync(path));
    return readFileSync(path);
  });
}

/**
 * Opens a WAV file, of which stretches are read as they are needed.
 *
 * @param path  `-` reads standard input
 * @throws UsageError when the file cannot be read; SoundFormatError when it is no WAV file
 */
export function openSound(path: string, console: Console): WavFile {
  const file = reading(path, () => {
    if (path === "-") {
      const bytes = readFileSync(0);
      return openWavFile(bytes.length, (offset, length) => bytes.subarray(offset, offset + length), path);
    }
    readPaths.add(realpathSync(path));
    const disk = openSync(path, "r");
    try {
      const { size } = fstatSync(disk);
      let room = new Uint8Array(0);
      const read = (offset: number, length: number) => {
        if (room.length < length) room = new Uint8Array(length);
        readSync(disk, room, 0, length, offset);
        return room.subarray(0, length);
      };
      return openWavFile(size, read, path);
    } catch (error) {
      closeSync(disk);
      throw error;
    }
  });
  if (file.badSamples > 0)
    console.error(`${path}: ${file.badSamples} samples are no finite numbers and count as 0\n`);
  return file;
}

/**
 * Writes a file aside and moves it into place when it is whole: one that is cut short leaves what was there.
 *
 * @throws UsageError when the file cannot be written, or is one that this command has read
 */
export function writeBytes(path: string, content: string | Uint8Array): void {
  writePieces(path, [content]);
}

/** Writes text in pieces to a file, or to standard output where none or `-` is named; errors as {@link writeBytes}. */
export function writeText(path: string | undefined, pieces: Iterable<string>, console: Console): void {
  if (path !== undefined && path !== "-") writePieces(path, pieces);
  else for (const piece of pieces) console.out(piece);
}

function writePieces(path: string, pieces: Iterable<string | Uint8Array>): void {
  const aside = `${path}.${process.pid}.part`;
  const write = (to: string) => {
    const disk = openSync(to, "w");
    try {
      for (const piece of pieces) writeFileSync(disk, piece);
    } finally {
      closeSync(disk);
    }
  };
  try {
    if (existsSync(path)) {
      if (readPaths.has(realpathSync(path))) {
        throw new UsageError(`${path}: this is read by the same command; write into another file`);
      }
      // A pipe or a device takes what is written; it cannot be replaced.
      if (!statSync(path).isFile()) {
        write(path);
        return;
      }
    }
    write(aside);
    renameSync(aside, path);
  } catch (error) {
    rmSync(aside, { force: true });
    const { code } = error as NodeJS.ErrnoException;
    if (typeof code !== "string" || error instanceof BumbrelError) throw error;
    throw new UsageError(`${path}: cannot be written (${code})`);
  }
}

/**
 * Writes a file aside, and moves it into place once it is whole.
 *
 * @param write  writes to the path that it is given
 * @throws UsageError when the file cannot be written
 */
export async function writtenAside<T>(path: string, write: (aside: string) => Promise<T>): Promise<T> {
  const aside = `${path}.${process.pid}.part`;
  try {
    const result = await write(aside);
    renameSync(aside, path);
    return result;
  } catch (error) {
    rmSync(aside, { force: true });
    const { code } = error as NodeJS.ErrnoException;
    if (code === "ENOENT" || code === "EACCES" || code === "ENOSPC" || code === "EISDIR")
      throw new UsageError(`${path}: cannot be written (${code})`);
    throw error;
  }
}

/** Runs a command; an error that a person can fix ends as one line and exit code 2. */
export async function runCommand(
  name: string,
  command: Command,
  args: string[],
  console: Console,
): Promise<ExitCode> {
  if (args.includes("--help") || args.includes("-h")) {
    console.out(command.help);
    return 0;
  }
  readPaths.clear();
  try {
    return await command.run(args, console);
  } catch (error) {
    if (!(error instanceof UsageError || error instanceof BumbrelError)) throw error;
    console.error(`bumbrel ${name}: ${error.message.replace(/\s*\n\s*/g, " ")}\n`);
    return 2;
  }
}
