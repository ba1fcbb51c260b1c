import { createWriteStream, mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { dirname, join, resolve, sep } from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { MADE_WAYS, type MadeWay, WAYS_OUT } from "@bumbrel/api/waysOut";
import type { Setting, Settings } from "@bumbrel/core/setting/descriptor";
import { ZipFile } from "@bumbrel/server/archive/zipFile";
import { pageParts } from "@bumbrel/server/deliver/pageParts";
import { makeWay } from "@bumbrel/server/deliver/ways";
import { ROOT } from "../data";
import { type Command, type Console, choiceFlag, parsed, UsageError, writtenAside } from "../support/command";
import { archiveUnlessNamed, type OpenedProject, PROJECT_FLAGS, RUN_HELP, withProject } from "./stores";

/** The flag of a setting: `--strand` for `strandId`. */
const flagOf = (key: string): string =>
  key.replace(/Id$/, "").replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);

/** Every setting of every way out, by its flag. */
const FLAGS = new Map<string, { key: string; setting: Setting; ways: MadeWay[] }>();
for (const name of MADE_WAYS) {
  for (const [key, setting] of Object.entries(WAYS_OUT[name].settings as Settings)) {
    const known = FLAGS.get(flagOf(key));
    if (known) known.ways.push(name);
    else FLAGS.set(flagOf(key), { key, setting, ways: [name] });
  }
}

const choicesOf = (setting: Setting): string =>
  setting.type === "choice" ? setting.values.join(", ") : setting.type === "switch" ? "on, off" : "";

const settingsHelp = [...FLAGS]
  .map(([flag, { setting, ways }]) => {
    const choices = choicesOf(setting);
    return `  --${flag.padEnd(14)} ${setting.help.replace(/\.$/, "")}${choices && ` (${choices})`}; for ${ways.join(", ")}`;
  })
  .join("\n");

export const deliver: Command = {
  help: `bumbrel deliver ARCHIVE.zip --as WAY --out FILE|DIR [options]
bumbrel deliver --project PROJECT --as WAY --out FILE|DIR [options]
bumbrel deliver --example NAME --as WAY --out FILE|DIR [options]

Makes what the Deliver view makes. The model, and sounds that are kept or written as MP3, Ogg, Opus, M4A, AAC or FLAC need the
installed Chromium; nothing else needs a browser. Films are made by "bumbrel render".

  --as WAY         one of:
${MADE_WAYS.map((name) => `                     ${name.padEnd(9)} ${WAYS_OUT[name].label}`).join("\n")}
  --out FILE       where it goes; a ZIP file is unpacked into a folder when this does not end in .zip
${settingsHelp}
${RUN_HELP}
Example: bumbrel deliver regatta.zip --as baked --out regatta.curves
         bumbrel deliver regatta.zip --as numbers --out game/music
`,
  async run(args, console) {
    const options = {
      as: { type: "string" },
      out: { type: "string" },
      ...PROJECT_FLAGS,
      ...(Object.fromEntries([...FLAGS.keys()].map((flag) => [flag, { type: "string" }])) as Record<
        string,
        { type: "string" }
      >),
    } as const;
    const { values, positionals } = parsed(args, options, archiveUnlessNamed(args));
    const { out } = values;
    if (out === undefined) throw new UsageError("--out is missing");
    if (values.as === undefined)
      throw new UsageError(`--as is missing; it is one of ${MADE_WAYS.join(", ")}`);
    const name = choiceFlag("as", values.as, MADE_WAYS);
    const texts: Record<string, string> = {};
    for (const [flag, { key, ways }] of FLAGS) {
      const written = (values as Record<string, string | undefined>)[flag];
      if (written === undefined) continue;
      if (!ways.includes(name))
        throw new UsageError(`--${flag} has no meaning for ${name}; it goes with ${ways.join(", ")}`);
      texts[key] = written;
    }
    return withProject(values, positionals[0], console, (project) =>
      makeTo(out, name, project, texts, console),
    );
  },
};

async function makeTo(
  out: string,
  name: MadeWay,
  { id: projectId, scene, programsAllowed, stores }: OpenedProject,
  texts: Record<string, string>,
  console: Console,
): Promise<0> {
  const asked = { projectId, document: scene, programsAllowed, stores, parts: await pageParts(ROOT) };
  const pieces = await makeWay(name, asked, texts).catch((error: Error) => {
    throw error instanceof RangeError ? new UsageError(flagged(error.message)) : error;
  });
  const write = (path: string) => pipeline(Readable.from(pieces), createWriteStream(path));
  if (WAYS_OUT[name].file.extension === "zip" && !/\.zip$/i.test(out)) {
    console.out(`${out}: ${await unpackTo(out, write)} files\n`);
    return 0;
  }
  await writtenAside(out, write);
  console.out(`${out}: ${WAYS_OUT[name].label} of ${scene.name}\n`);
  return 0;
}

/** A message that begins with a setting's key, with its flag instead; any other as it is. */
const flagged = (message: string): string =>
  message.replace(/^\w+/, (key) =>
    [...FLAGS.values()].some((one) => one.key === key) ? `--${flagOf(key)}` : key,
  );

/** Files and bytes that a folder has at most. */
const MOST_ENTRIES = 100_000;
const MOST_BYTES = 4 * 2 ** 30;

/** Writes a ZIP file aside and unpacks it into a folder. @returns the number of its files */
async function unpackTo(folder: string, write: (path: string) => Promise<void>): Promise<number> {
  mkdirSync(folder, { recursive: true });
  const aside = mkdtempSync(join(folder, ".part-"));
  try {
    await write(join(aside, "all.zip"));
    const zip = await ZipFile.open(join(aside, "all.zip"), MOST_ENTRIES);
    try {
      for (const [name, entry] of zip.entries) {
        const path = resolve(folder, name);
        if (!path.startsWith(resolve(folder) + sep)) throw new UsageError(`${name}: leads out of the folder`);
        mkdirSync(dirname(path), { recursive: true });
        await pipeline(Readable.from(zip.read(entry, MOST_BYTES)), createWriteStream(path));
      }
      return zip.entries.size;
    } finally {
      await zip.close();
    }
  } finally {
    rmSync(aside, { recursive: true, force: true });
  }
}
