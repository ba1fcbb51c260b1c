import { type ChildProcess, fork } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { itInFull } from "@bumbrel/core/testing/full";
import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { buildSync } from "esbuild";
import { type Holder, lockFolder } from "./folderLock";

let folder: string;
let started: ChildProcess[];
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
  started = [];
});
afterEach(() => {
  for (const child of started) child.kill("SIGKILL");
  rmSync(folder, { recursive: true, force: true });
});

const neverLost = (error: Error) => {
  throw error;
};
const holderFile = () => join(folder, "in-use-by.json");
const lockDir = () => join(folder, "in-use.lock");

/** Leaves a lock behind as a process would that ended without a word. */
function leaveBehind(holder: Partial<Holder>, renewedS = 0): void {
  mkdirSync(lockDir());
  const own = { token: "left", pid: process.pid, startedAt: "1", space: "another" };
  writeFileSync(holderFile(), JSON.stringify({ ...own, ...holder }));
  const then = new Date(Date.now() - renewedS * 1000);
  utimesSync(lockDir(), then, then);
}

/** The space and start of this process, as a lock of its own says. */
async function ownHolder(): Promise<Holder> {
  const { release } = await lockFolder(folder, neverLost);
  const holder = JSON.parse(readFileSync(holderFile(), "utf8"));
  await release();
  return holder;
}

/** Starts processes that all try to take the folder at the same moment; gives how many have it. */
async function startAtOnce(count: number): Promise<{ taken: number; refused: number }> {
  const script = join(folder, "taker.mjs");
  buildSync({
    stdin: {
      contents: `import { lockFolder } from "./folderLock";
        process.on("message", async () => {
          try { await lockFolder(${JSON.stringify(folder)}, () => process.exit(1)); process.send("taken"); }
          catch (error) { process.send(error.code === "data-in-use" ? "refused" : String(error.stack)); }
        });
        process.send("ready");`,
      resolveDir: "server/src/db",
      loader: "ts",
    },
    bundle: true,
    platform: "node",
    format: "esm",
    outfile: script,
    // Some of its libraries ask for Node's own modules by \`require\`.
    banner: {
      js: 'import { createRequire } from "node:module"; const require = createRequire(import.meta.url);',
    },
  });
  const next = (child: ChildProcess) => new Promise<string>((resolve) => child.once("message", resolve));
  const children = Array.from({ length: count }, () => fork(script));
  started.push(...children);
  await Promise.all(children.map(next));
  const answers = children.map(next);
  for (const child of children) child.send("go");
  const said = await Promise.all(answers);
  expect(said.filter((word) => word !== "taken" && word !== "refused")).toEqual([]);
  return {
    taken: said.filter((word) => word === "taken").length,
    refused: said.filter((word) => word === "refused").length,
  };
}

describe("lockFolder", () => {
  it("gives a folder to one of many processes that start at once, also over a lock that was left behind", async () => {
    const { space } = await ownHolder();
    for (const isLeft of [false, true, true]) {
      rmSync(lockDir(), { recursive: true, force: true });
      rmSync(holderFile(), { force: true });
      // No process has this number: Linux gives none above 4 194 304.
      if (isLeft) leaveBehind({ space, pid: 99_999_999 });
      expect(await startAtOnce(5)).toEqual({ taken: 1, refused: 4 });
      for (const child of started.splice(0)) {
        child.kill("SIGKILL");
        await new Promise((resolve) => child.once("exit", resolve));
      }
    }
  });

  it("is free again when it is released, and leaves nothing behind", async () => {
    const first = await lockFolder(folder, neverLost);
    await expect(lockFolder(folder, neverLost)).rejects.toThrow(new RegExp(`process ${process.pid}`));
    await first.release();
    expect([existsSync(lockDir()), existsSync(holderFile())]).toEqual([false, false]);
    await (await lockFolder(folder, neverLost)).release();
  });

  it("is free at once when the process is gone, although a later one has its number", async () => {
    const { space } = await ownHolder();
    leaveBehind({ space, startedAt: "12345" });
    await (await lockFolder(folder, neverLost)).release();
  });

  it("is not taken from a process in another container, whose number says nothing here", async () => {
    leaveBehind({ pid: 1 });
    await expect(lockFolder(folder, neverLost)).rejects.toThrow(/in another container/);
    leaveBehindAgain(59);
    await expect(lockFolder(folder, neverLost)).rejects.toThrow(/try again in a minute/);
    leaveBehindAgain(120);
    await (await lockFolder(folder, neverLost)).release();
  });
  const leaveBehindAgain = (renewedS: number) => {
    rmSync(lockDir(), { recursive: true });
    leaveBehind({ pid: 1 }, renewedS);
  };

  it("waits for a minute where nothing says who holds it", async () => {
    mkdirSync(lockDir());
    await expect(lockFolder(folder, neverLost)).rejects.toThrow(/another Bumbrel is using/);
    const then = new Date(Date.now() - 120_000);
    utimesSync(lockDir(), then, then);
    await (await lockFolder(folder, neverLost)).release();
  });

  itInFull(
    "tells a holder whose lock was taken",
    async () => {
      const lost = new Promise<Error>((resolve) => void lockFolder(folder, resolve));
      while (!existsSync(holderFile())) await new Promise((resolve) => setTimeout(resolve, 10));
      rmSync(lockDir(), { recursive: true });
      mkdirSync(lockDir());
      expect(await lost).toMatchObject({ code: "ECOMPROMISED" });
    },
    30_000,
  );
});
