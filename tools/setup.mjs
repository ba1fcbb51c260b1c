/** Installs what is missing. Uses nothing but Node itself, since it runs before anything is installed. */
import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));
export const CHROMIUM = "/usr/bin/chromium";

/** Runs a command with its output on screen; gives its exit code. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: ROOT, stdio: ["ignore", "inherit", "inherit"], ...options });
  if (result.error) throw result.error;
  return result.status ?? 1;
}

/** Installs npm packages unless those of this very lock file are there. */
export function ensureInstalled() {
  const lock = createHash("sha256")
    .update(readFileSync(join(ROOT, "package-lock.json")))
    .digest("hex");
  const stamp = join(ROOT, "node_modules", ".bumbrel-lock");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === lock) return;
  console.log("Installing packages …");
  if (run("npm", ["install", "--no-save", "--no-audit", "--no-fund", "--loglevel=error"]) !== 0) {
    console.error("Packages could not be installed. Check the network and run the command again.");
    process.exit(1);
  }
  writeFileSync(stamp, lock);
}

/** Installs packages of Debian's, where that is allowed; tells whether `path` is there. */
function ensureDebian(path, ...names) {
  if (existsSync(path) || process.getuid?.() !== 0) return existsSync(path);
  console.log(`Installing ${names[0]} …`);
  const quiet = { env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" } };
  return (
    run("apt-get", ["update", "-qq"], quiet) === 0 &&
    run("apt-get", ["install", "-y", "-qq", "--no-install-recommends", ...names], quiet) === 0 &&
    existsSync(path)
  );
}

/** Makes sure of Debian's Chromium for the browser tests; says in one line what to do when it cannot. */
export function ensureChromium() {
  if (ensureDebian(CHROMIUM, "chromium")) return;
  console.error(
    "The browser tests need Chromium: install it with `sudo apt-get install chromium`, then run again.",
  );
  process.exit(1);
}

/** Decoder that looks at films in the tests; nobody here wrote it. */
export const FFPROBE = "/usr/bin/ffprobe";

/** Makes sure of ffmpeg; without it the tests of films are skipped, and it is said. */
export function ensureFfmpeg() {
  if (ensureDebian(FFPROBE, "ffmpeg")) return;
  console.error(
    "Films are not looked at: ffmpeg is not installed. Install it with `sudo apt-get install ffmpeg`.",
  );
}

/** Compilers and interpreters for the readers of curves in other languages, in the tests. */
export const CC = "/usr/bin/cc";
export const PYTHON = "/usr/bin/python3";

/** Makes sure of a C compiler and Python; without them the readers in those languages are not tested, and it is said. */
export function ensureReaders() {
  const hasCompiler = ensureDebian(CC, "gcc", "libc6-dev");
  if (ensureDebian(PYTHON, "python3-minimal") && hasCompiler) return;
  console.error("Readers of curves in C and Python are not tested: install gcc and python3.");
}
