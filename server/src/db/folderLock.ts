import { randomUUID } from "node:crypto";
import { existsSync, readFileSync, readlinkSync, renameSync, rmSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { BumbrelError } from "@bumbrel/core/errors";
import { lock } from "proper-lockfile";

/** How often a holder renews its lock, */
const RENEW_MS = 5000;
/** and how long a lock must not have been renewed before it counts as left behind by a holder that nobody can ask for. */
const STALE_MS = 60_000;
/** How long taking over a lock that was left behind may take before somebody else may try. */
const TAKEOVER_MS = 10_000;
/** The library never takes a lock over by itself: it could take one that somebody else has just taken over. */
const NEVER_MS = 1e15;

/** Holder of a folder: enough to tell whether that very process still runs, if the system can tell. */
export interface Holder {
  /** Of this one start. */
  token: string;
  pid: number;
  /** When the process began, in the system's own count; a later process with the same number has another. */
  startedAt: string;
  /** Names the system's start and the space that process numbers count in: a container has its own. */
  space: string;
}

export interface FolderLock {
  release(): Promise<void>;
}

/**
 * Takes a folder for this process alone. The lock is a directory beside the data, made in one step and renewed every
 * 5 s. One that was left behind is taken over at once when its process is gone for certain, and after a minute without
 * renewal when that cannot be told, as in another container. Only one process at a time looks at who holds it.
 *
 * @param onLost  called when somebody else has taken the lock, for instance while this machine stood still
 * @throws BumbrelError when another process holds it
 */
export async function lockFolder(dataDir: string, onLost: (error: Error) => void): Promise<FolderLock> {
  const lockPath = join(dataDir, "in-use.lock");
  const holderPath = join(dataDir, "in-use-by.json");
  const own = thisProcess();
  const take = () =>
    lock(dataDir, { lockfilePath: lockPath, stale: NEVER_MS, update: RENEW_MS, onCompromised: onLost });

  const takeover = join(dataDir, "in-use.takeover");
  const releaseTakeover = await lock(takeover, {
    realpath: false,
    lockfilePath: takeover,
    stale: TAKEOVER_MS,
    retries: { retries: 20, minTimeout: 50, maxTimeout: 500 },
    onCompromised: () => {},
  });
  try {
    const release = await take().catch((error: NodeJS.ErrnoException) => {
      if (error.code !== "ELOCKED") throw error;
      const holder = readHolder(holderPath);
      if (!isLeftBehind(lockPath, holder, own.space)) throw inUse(dataDir, holder, own.space);
      // Remove the holder first: a lock without a holder is never taken over at once.
      rmSync(holderPath, { force: true });
      rmSync(lockPath, { recursive: true, force: true });
      return take();
    });
    writeFileSync(`${holderPath}.new`, JSON.stringify(own));
    renameSync(`${holderPath}.new`, holderPath);
    return {
      async release() {
        if (readHolder(holderPath)?.token === own.token) rmSync(holderPath, { force: true });
        await release().catch(() => undefined);
      },
    };
  } finally {
    await releaseTakeover().catch(() => undefined);
  }
}

function isLeftBehind(lockPath: string, holder: Holder | undefined, ownSpace: string): boolean {
  if (holder && holder.space === ownSpace) return startOf(holder.pid) !== holder.startedAt;
  if (!existsSync(lockPath)) return true;
  return Date.now() - statSync(lockPath).mtimeMs > STALE_MS;
}

function inUse(dataDir: string, holder: Holder | undefined, ownSpace: string): BumbrelError {
  const isNear = holder?.space === ownSpace;
  return new BumbrelError({
    code: "data-in-use",
    what: `another Bumbrel${isNear ? ` (process ${holder?.pid})` : holder ? " (on another system or in another container)" : ""} is using this data`,
    where: dataDir,
    remedy: isNear
      ? "Use the one that runs, stop it, or choose another folder with --data"
      : "Use the one that runs or stop it; if it ended without a chance to say so, try again in a minute",
  });
}

function readHolder(path: string): Holder | undefined {
  try {
    const { token, pid, startedAt, space } = JSON.parse(readFileSync(path, "utf8")) as Partial<Holder>;
    if (typeof token !== "string" || typeof pid !== "number") return undefined;
    return { token, pid, startedAt: String(startedAt), space: String(space) };
  } catch {
    return undefined;
  }
}

function thisProcess(): Holder {
  const { pid } = process;
  return { token: randomUUID(), pid, startedAt: startOf(pid) ?? "", space: processSpace() };
}

/** Names what process numbers count in: this start of the system, and on Linux the container. */
function processSpace(): string {
  try {
    const boot = readFileSync("/proc/sys/kernel/random/boot_id", "utf8").trim();
    return `${boot} ${readlinkSync("/proc/self/ns/pid")}`;
  } catch {
    // Elsewhere there are no containers that share a folder; a restart shows in the processes that are gone.
    return process.platform;
  }
}

/** When a process began; `undefined` when there is none of that number. */
function startOf(pid: number): string | undefined {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, "utf8");
    // The name, in brackets, may hold anything; the 22nd field is the 20th after it.
    return fields.slice(fields.lastIndexOf(")") + 2).split(" ")[19];
  } catch {
    if (process.platform === "linux") return undefined;
    return isRunning(pid) ? "" : undefined;
  }
}

function isRunning(pid: number): boolean {
  try {
    return pid > 0 && process.kill(pid, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}
