/**
 * `npm run campaign [-- SHARE]`: hostile treatment of the built product, on this machine alone. Not part of the tests.
 * SHARE takes a part of each count, such as 0.1 for a quick look.
 */
import { spawn } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { buildAll } from "./build.mjs";
import { ensureInstalled, ROOT, run } from "./setup.mjs";

const share = Number(process.argv[2] ?? 1);
const count = (whole) => Math.max(2, Math.round(whole * share));
const line = (what, figures) => console.log(`${what.padEnd(24)} ${figures}`);
const faults = [];
const fault = (words) => {
  faults.push(words);
  console.log(`  FAULT: ${words}`);
};

ensureInstalled();
await buildAll();
const { build } = await import("esbuild");
const out = join(ROOT, "test-results/campaign");
mkdirSync(out, { recursive: true });

/** Starts a server; resolves with its address, or with what it said when it ended before it was ready. */
function start(dataDir, environment = {}) {
  const child = spawn(
    process.execPath,
    [join(ROOT, "cli/bin/bumbrel.mjs"), "serve", "--port", "0", "--data", dataDir],
    { stdio: ["ignore", "pipe", "pipe"], env: { ...process.env, ...environment } },
  );
  const gone = new Promise((resolve) => child.once("exit", resolve));
  let said = "";
  const ready = new Promise((resolve) => {
    const read = (chunk) => {
      said += chunk;
      const match = /ready at (\S+)/.exec(said);
      if (match) resolve({ address: match[1] });
    };
    child.stdout.on("data", read);
    child.stderr.on("data", read);
    gone.then((code) => resolve({ code, said }));
  });
  const kill = async (signal = "SIGKILL") => {
    child.kill(signal);
    await gone;
  };
  return { ready, kill, pid: child.pid };
}

const put = (url, data) =>
  fetch(url, { method: "PUT", headers: { "Content-Type": "application/json" }, body: JSON.stringify(data) });
const projectsOf = async (address) => (await (await fetch(`${address}/api/projects`)).json()).projects;

/** Saves without pause until the server is killed, then looks whether what was acknowledged is there. */
async function kills(times) {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-campaign-"));
  let acknowledged = 0;
  let longestMs = 0;
  let last;
  for (let i = 0; i <= times; i++) {
    const server = start(dataDir);
    const { address, said } = await server.ready;
    if (!address) {
      fault(`the server did not start again after kill ${i}: ${said}`);
      break;
    }
    const [{ id }] = await projectsOf(address);
    const url = `${address}/api/projects/${id}`;
    let { revision, scene } = await (await fetch(url)).json();
    if (last && (revision < last.revision || (revision === last.revision && scene.name !== last.name))) {
      fault(
        `revision ${last.revision} "${last.name}" was acknowledged; after kill ${i} there is ${revision} "${scene.name}"`,
      );
    }
    if (i === times) {
      await server.kill("SIGTERM");
      break;
    }
    let isOver = false;
    const saving = (async () => {
      while (!isOver) {
        const name = `Save ${acknowledged}`;
        const before = performance.now();
        const answer = await put(`${url}/scene`, { revision, scene: { ...scene, name } }).catch(
          () => undefined,
        );
        if (!answer?.ok) return;
        revision = (await answer.json()).revision;
        longestMs = Math.max(longestMs, performance.now() - before);
        last = { revision, name };
        acknowledged++;
      }
    })();
    await new Promise((resolve) => setTimeout(resolve, 50 + Math.random() * 600));
    await server.kill();
    isOver = true;
    await saving.catch(() => undefined);
  }
  rmSync(dataDir, { recursive: true, force: true });
  line("kills", `${times}; ${acknowledged} saves acknowledged; longest answer ${longestMs.toFixed(0)} ms`);
}

/** Starts several servers on one folder at the same moment: one may run. */
async function together(times) {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-campaign-"));
  let refused = 0;
  for (let i = 0; i < times; i++) {
    const servers = [start(dataDir), start(dataDir), start(dataDir)];
    const answers = await Promise.all(servers.map(({ ready }) => ready));
    const running = answers.filter(({ address }) => address).length;
    refused += answers.length - running;
    if (running !== 1)
      fault(`${running} of 3 servers ran on one folder: ${answers.map(({ said }) => said).join(" / ")}`);
    for (const { said } of answers) if (said?.includes("    at ")) fault(`a stack trace: ${said}`);
    // By force, so that each round finds the lock of the one before.
    await Promise.all(servers.map(({ kill }) => kill()));
  }
  rmSync(dataDir, { recursive: true, force: true });
  line("three starts at once", `${times} times; one ran each time but for the faults; ${refused} refused`);
}

const pick = (list) => list[Math.floor(Math.random() * list.length)];
const ODD = [
  null,
  0,
  -1,
  1e99,
  "",
  "x".repeat(3000),
  [],
  {},
  "constructor",
  "__proto__",
  "\u0000",
  "../../etc",
  "%00",
  "\ud800",
];

/** Sends requests that nobody would, and asks whether the server is still well. */
async function requests(times) {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-campaign-"));
  const server = start(dataDir);
  const { address } = await server.ready;
  const [{ id }] = await projectsOf(address);
  const before = await (await fetch(`${address}/api/projects/${id}`)).json();
  const parts = [
    "projects",
    "sounds",
    "assets",
    "analyses",
    "deliver",
    id,
    "scene",
    "bytes",
    "restore",
    "thumbnail",
    "page",
    "x",
    "%E0%A4%A",
    "..",
    "a".repeat(500),
    encodeURIComponent(String(pick(ODD)).toWellFormed()),
  ];
  const statuses = {};
  let longestMs = 0;
  for (let i = 0; i < times; i++) {
    const method = pick(["GET", "PUT", "POST", "PATCH", "OPTIONS"]);
    const path = Array.from({ length: 1 + Math.floor(Math.random() * 4) }, () => pick(parts)).join("/");
    const query =
      Math.random() < 0.3
        ? `?kind=${encodeURIComponent(String(pick(ODD)).toWellFormed())}&name=${"n".repeat(Math.random() * 300)}`
        : "";
    const body = Object.fromEntries(
      Array.from({ length: 3 }, () => [
        pick(["scene", "revision", "name", "facts", "saveId", "copyOf", "example"]),
        pick(ODD),
      ]),
    );
    const began = performance.now();
    try {
      const answer = await fetch(`${address}/api/${path}${query}`, {
        method,
        headers: {
          "Content-Type": pick(["application/json", "text/plain", "image/jpeg", "application/octet-stream"]),
          ...(Math.random() < 0.2 && {
            Range: pick(["bytes=9-1", "bytes=-", "bytes=0-99999999999", "bytes=1e9-"]),
          }),
        },
        ...(method !== "GET" &&
          method !== "OPTIONS" && { body: Math.random() < 0.2 ? '{"scene":[[[' : JSON.stringify(body) }),
      });
      await answer.arrayBuffer();
      statuses[answer.status] = (statuses[answer.status] ?? 0) + 1;
      if (answer.status >= 500) fault(`${method} /api/${path}${query} answered ${answer.status}`);
    } catch (error) {
      fault(`${method} /api/${path}: ${error.message}`);
    }
    longestMs = Math.max(longestMs, performance.now() - began);
  }
  const after = await (await fetch(`${address}/api/projects/${id}`)).json();
  if (JSON.stringify(after.scene) !== JSON.stringify(before.scene)) fault("a project was changed");
  await server.kill("SIGTERM");
  rmSync(dataDir, { recursive: true, force: true });
  line("requests", `${times}; answers ${JSON.stringify(statuses)}; longest ${longestMs.toFixed(0)} ms`);
}

await kills(count(50));
await together(count(10));
await requests(count(1000));
await build({
  entryPoints: [join(ROOT, "bench/hostile.ts")],
  outfile: join(out, "hostile.mjs"),
  bundle: true,
  platform: "node",
  format: "esm",
  banner: {
    js: 'import { createRequire } from "node:module"; const require = createRequire(import.meta.url);',
  },
});
if (run(process.execPath, [join(out, "hostile.mjs"), String(count(1000))]) !== 0) faults.push("see above");
console.log(faults.length === 0 ? "\nno faults" : `\n${faults.length} faults`);
process.exitCode = faults.length > 0 ? 1 : 0;
