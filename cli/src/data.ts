import { existsSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { restoreData } from "@bumbrel/server/restore";
import { verifyData } from "@bumbrel/server/verify";
import { type Command, parsed, UsageError } from "./support/command";

/** Root of the checkout. */
export const ROOT = dirname(dirname(dirname(fileURLToPath(import.meta.url))));

/** The folder of the data: the one that is given, or the usual one. */
export const dataFolder = (given: string | undefined): string => resolve(given ?? join(ROOT, ".bumbrel"));

/** @throws UsageError when there is no data in it: looking for it must not make any */
export function existingData(given: string | undefined): string {
  const folder = dataFolder(given);
  if (existsSync(join(folder, "postgres"))) return folder;
  throw new UsageError(`${folder}: there is no Bumbrel data in this folder; give another with --data`);
}

export const verify: Command = {
  help: `bumbrel verify [--data DIR]

Reads every stored sound, image and model and compares it with the checksum that was taken when it came; reads every
scene and looks whether what it refers to is there. Nothing is changed. Stop Bumbrel first.

  --data DIR    where projects and sounds are kept: .bumbrel in the checkout unless said

With DATABASE_URL set, that PostgreSQL server is looked at instead.

Exit code: 0 when all is well, 1 when something is not, 2 when the data cannot be opened.
`,
  async run(args, console) {
    const { values } = parsed(args, { data: { type: "string" } }, []);
    const databaseUrl = process.env.DATABASE_URL || undefined;
    const dataDir = databaseUrl ? dataFolder(values.data) : existingData(values.data);
    const { flaws, bytes, scenes } = await verifyData({ dataDir, databaseUrl, rootDir: ROOT });
    for (const flaw of flaws) console.out(`${flaw}\n`);
    const what = `${scenes} scenes and ${(bytes / 1e6).toFixed(1)} MB of sounds, images and models`;
    console.out(`${what}: ${flaws.length === 0 ? "no problems" : `${flaws.length} problems`}\n`);
    return flaws.length === 0 ? 0 : 1;
  },
};

export const restore: Command = {
  help: `bumbrel restore [--data DIR]

Puts the newest copy of the database in its place. Bumbrel takes one a week and before each update of its tables, as far
as the disk has room. What was there is moved aside, not deleted. Stop Bumbrel first.

  --data DIR    where projects and sounds are kept: .bumbrel in the checkout unless said
`,
  async run(args, console) {
    const { values } = parsed(args, { data: { type: "string" } }, []);
    const { movedTo, takenAt } = await restoreData(existingData(values.data));
    console.out(`The copy of ${takenAt.toISOString()} is in place. What was there is in ${movedTo}\n`);
    return 0 as const;
  },
};
