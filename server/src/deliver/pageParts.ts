import { readFileSync } from "node:fs";
import { access, readFile } from "node:fs/promises";
import { join } from "node:path";
import { FINDER_FILES } from "@bumbrel/core/analyse/needed";
import { BumbrelError } from "@bumbrel/core/errors";
import type { PageParts } from "./pageCode";

/**
 * Reads what delivered pages are put together from.
 *
 * @param rootDir  root of the checkout, where the built rooms are
 * @throws BumbrelError when nothing has been built
 */
export async function pageParts(rootDir: string): Promise<PageParts> {
  try {
    const read = (name: string) => readFile(join(rootDir, "player/dist", name));
    const text = async (name: string) => (await read(name)).toString("utf8");
    const codeFile = join(rootDir, "player/dist/page.json");
    await access(codeFile);
    // Twenty megabytes that only those need who make pages.
    let code: PageParts["code"] | undefined;
    return {
      get code() {
        code ??= JSON.parse(readFileSync(codeFile, "utf8")) as PageParts["code"];
        return code;
      },
      notices: JSON.parse(await text("notices.json")) as PageParts["notices"],
      worklet: await text("worklet.js"),
      style: await text("page.css"),
      font: await text("font.css"),
      letters: await read("letters.woff"),
      person: {
        page: await text("person/finder.html"),
        files: Object.fromEntries(
          await Promise.all(FINDER_FILES.map(async (name) => [name, await read(`person/${name}`)] as const)),
        ),
      },
      packed: (name) => packedIn(join(rootDir, "server/dist/packages"), name),
    };
  } catch {
    throw notBuilt("the player", join(rootDir, "player/dist"));
  }
}

async function packedIn(folder: string, name: string): Promise<{ file: string; bytes: Uint8Array }> {
  try {
    const files = JSON.parse(await readFile(join(folder, "packages.json"), "utf8")) as Record<string, string>;
    return { file: files[name], bytes: await readFile(join(folder, files[name])) };
  } catch {
    throw notBuilt(`the package ${name}`, folder);
  }
}

const notBuilt = (what: string, where: string) =>
  new BumbrelError({
    code: "not-built",
    what: `${what} has not been built`,
    where,
    remedy: "Run `npm run build` first, or `npm run demo`, which does it all",
  });
