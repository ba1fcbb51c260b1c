/**
 * `npm run campaign [-- SHARE]`: hostile treatment of the built product, on this machine alone. SHARE takes a part
 * of each count, such as 0.1 for a quick look; the tests take a small one, and say "built" after it.
 */
import { spawn, spawnSync } from "node:child_process";
import { createHash, randomBytes } from "node:crypto";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { createInterface } from "node:readline";
import { buildAll } from "./build/build.mjs";
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
if (process.argv[3] !== "built") await buildAll();
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

/** A PostgreSQL server of its own; `crash` resolves when it is ready again. */
async function startPostgres() {
  const child = spawn(process.execPath, [join(ROOT, "tools/postgres.mjs")], {
    stdio: ["pipe", "pipe", "inherit"],
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const gone = new Promise((resolve) => child.once("exit", resolve));
  const url = (await lines.next()).value;
  return {
    url,
    async crash() {
      child.stdin.write("crash\n");
      await lines.next();
    },
    async stop() {
      child.stdin.end();
      await gone;
    },
  };
}

/** A sound of its own bytes: announced, sent and, once acknowledged, remembered by its checksum. */
async function upload(address, kept) {
  const samples = randomBytes(200_000);
  const bytes = Buffer.concat([WAV_HEAD, samples]);
  bytes.writeUInt32LE(bytes.length - 8, 4);
  bytes.writeUInt32LE(samples.length, 40);
  const id = await sendSound(address, bytes);
  if (id !== undefined) kept.set(id, checksum(bytes));
  return id !== undefined;
}
const checksum = (bytes) => createHash("sha256").update(bytes).digest("hex");
/** One channel of 16 bits at 48 kHz; both lengths are filled in. */
const WAV_HEAD = Buffer.from(
  "524946460000000057415645666d7420100000000100010080bb000000770100020010006461746100000000",
  "hex",
);

/** @returns the id of a sound whose bytes were acknowledged */
async function sendSound(address, body) {
  const facts = {
    originalRateHz: 48_000,
    channels: 1,
    durationS: 2,
    peak: 1,
    integratedLufs: -9,
    bandPrint: [],
  };
  const announced = await fetch(`${address}/api/sounds`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ name: "noise", facts }),
  });
  if (!announced.ok) return undefined;
  const { id } = await announced.json();
  const sent = await fetch(`${address}/api/sounds/${id}/bytes`, { method: "PUT", body });
  return sent.ok ? id : undefined;
}

/** Compares acknowledged sounds with what is there. */
async function compareSounds(address, kept, when) {
  for (const [id, sum] of kept) {
    const answer = await fetch(`${address}/api/sounds/${id}/bytes`);
    const found = answer.ok ? checksum(Buffer.from(await answer.arrayBuffer())) : answer.status;
    if (found !== sum) fault(`a sound that was acknowledged is ${found} ${when}`);
  }
}

/**
 * Saves and uploads without pause until the server is killed, or its database, then looks whether what was acknowledged
 * is there.
 *
 * @param postgres  the database server, if it is not the embedded one; every second time it is that which goes down
 */
async function kills(times, postgres) {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-campaign-"));
  const environment = postgres ? { DATABASE_URL: postgres.url } : {};
  let acknowledged = 0;
  let longestMs = 0;
  let last;
  const sounds = new Map();
  for (let i = 0; i <= times; i++) {
    const server = start(dataDir, environment);
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
    await compareSounds(address, sounds, `after kill ${i}`);
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
    const sending = (async () => {
      while (!isOver && (await upload(address, sounds).catch(() => false)));
    })();
    await new Promise((resolve) => setTimeout(resolve, 50 + Math.random() * 600));
    if (postgres && i % 2 === 1) await postgres.crash();
    await server.kill();
    isOver = true;
    await Promise.allSettled([saving, sending]);
  }
  rmSync(dataDir, { recursive: true, force: true });
  line(
    postgres ? "kills, PostgreSQL" : "kills, embedded",
    `${times}; ${acknowledged} saves and ${sounds.size} uploads acknowledged; longest answer to a save ${longestMs.toFixed(0)} ms`,
  );
}

/** Two servers on one database save the same project against each other, and each hears of the other's saves. */
async function onOneDatabase(times, postgres) {
  const folders = [0, 1].map(() => mkdtempSync(join(tmpdir(), "bumbrel-campaign-")));
  const servers = folders.map((folder) => start(folder, { DATABASE_URL: postgres.url }));
  const answers = await Promise.all(servers.map(({ ready }) => ready));
  for (const { address, said } of answers) if (!address) return fault(`a server did not start: ${said}`);
  const addresses = answers.map(({ address }) => address);
  const [{ id }] = await projectsOf(addresses[0]);
  const { revision: first, scene } = await (await fetch(`${addresses[0]}/api/projects/${id}`)).json();
  const events = await fetch(`${addresses[1]}/api/projects/${id}/events`);
  const heard = new Set();
  void (async () => {
    let text = "";
    for await (const piece of events.body.pipeThrough(new TextDecoderStream())) {
      text += piece;
      for (const [, found] of text.matchAll(/"revision":(\d+)/g)) heard.add(Number(found));
    }
  })().catch(() => undefined);
  let revision = first;
  for (let i = 0; i < times; i++) {
    const outcomes = await Promise.all(
      addresses.map((address, who) =>
        put(`${address}/api/projects/${id}/scene`, { revision, scene: { ...scene, name: `${who} ${i}` } }),
      ),
    );
    const taken = outcomes.filter(({ status }) => status === 200).length;
    if (taken !== 1) fault(`${taken} of two saves onto revision ${revision} were taken`);
    revision++;
  }
  const end = Date.now() + 5000;
  while (!heard.has(revision) && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 20));
  if (!heard.has(revision)) fault(`revision ${revision} was never told to the other server's pages`);
  for (const { kill } of servers) await kill();
  for (const folder of folders) rmSync(folder, { recursive: true, force: true });
  line("two on one PostgreSQL", `${times} pairs of saves, one of each taken; ${heard.size} states told`);
}

/** Megabytes of the small disk: a little more than an empty database and what is kept free. */
const SMALL_DISK_MB = 320;

/** Fills a small disk with uploads and saves, then to the last byte, and looks whether anything was lost. */
async function fullDisk() {
  const disk = mkdtempSync(join(tmpdir(), "bumbrel-campaign-"));
  if (spawnSync("mount", ["-t", "tmpfs", "-o", `size=${SMALL_DISK_MB}m`, "tmpfs", disk]).status !== 0) {
    rmSync(disk, { recursive: true });
    line("full disk", "not tried: making a small disk takes rights that this user has not");
    return;
  }
  const dataDir = join(disk, "data");
  const sounds = new Map();
  let server = start(dataDir);
  let { address, said } = await server.ready;
  try {
    const filler = join(disk, "filler");
    if (!address) return fault(`the server did not start on the small disk: ${said}`);
    const [{ id }] = await projectsOf(address);
    const before = await (await fetch(`${address}/api/projects/${id}`)).json();
    let { revision } = before;
    const save = async () => {
      const answer = await put(`${address}/api/projects/${id}/scene`, {
        revision,
        scene: { ...before.scene, name: `Save ${revision}` },
      });
      const body = await answer.json();
      if (answer.ok) revision = body.revision;
      return { status: answer.status, detail: body.detail };
    };
    let refused;
    for (let i = 0; i < 3000 && !refused; i++) {
      await upload(address, sounds);
      const { status, detail } = await save();
      if (status !== 200) refused = { status, detail };
    }
    if (refused?.status !== 507) fault(`the full disk was answered with ${JSON.stringify(refused)}`);
    // Another program takes the rest.
    spawnSync("dd", ["if=/dev/zero", `of=${filler}`, "bs=1M"]);
    const last = await save();
    if (last.status < 500) fault(`a save onto a disk without a byte left was answered with ${last.status}`);
    await server.kill();
    server = start(dataDir);
    const again = await server.ready;
    if (!again.address && !/disk is full/.test(again.said)) fault(`on a full disk it said: ${again.said}`);
    await server.kill();
    // A first start has no room at all there.
    server = start(join(disk, "another"));
    const first = await server.ready;
    if (first.address || !/Free some space/.test(first.said))
      fault(`a first start on a full disk said: ${first.said}`);
    rmSync(filler);
    server = start(dataDir);
    ({ address, said } = await server.ready);
    if (!address) return fault(`with room again it did not start: ${said}`);
    const after = await (await fetch(`${address}/api/projects/${id}`)).json();
    if (after.revision !== revision)
      fault(`revision ${revision} was acknowledged, ${after.revision} is there`);
    await compareSounds(address, sounds, "after a full disk");
    line(
      "full disk",
      `${sounds.size} uploads and ${revision - before.revision} saves acknowledged, then ${refused?.status}: "${refused?.detail}"`,
    );
  } finally {
    await server.kill();
    spawnSync("umount", [disk]);
    rmSync(disk, { recursive: true, force: true });
  }
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

/** Runs a program of `bench/` with arguments; its faults are counted here. */
async function runBuilt(path, ...args) {
  const name = basename(path);
  await build({
    entryPoints: [join(ROOT, `bench/${path}.ts`)],
    outfile: join(out, `${name}.mjs`),
    bundle: true,
    platform: "node",
    format: "esm",
    banner: {
      js: 'import { createRequire as requireFrom } from "node:module"; const require = requireFrom(import.meta.url);',
    },
  });
  if (run(process.execPath, [join(out, `${name}.mjs`), ...args]) !== 0) faults.push("see above");
}

/** Attacks a server of its own on each of its doors. */
async function doors() {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-campaign-"));
  const server = start(dataDir);
  const { address, said } = await server.ready;
  if (address) await runBuilt("safety/doors", address, String(server.pid), String(share));
  else fault(`the server did not start: ${said}`);
  await server.kill("SIGTERM");
  rmSync(dataDir, { recursive: true, force: true });
}

await kills(count(50));
const postgres = await startPostgres();
await kills(count(50), postgres);
await onOneDatabase(count(200), postgres);
await postgres.stop();
await together(count(10));
await fullDisk();
await requests(count(1000));
await runBuilt("safety/hostile", String(count(1000)));
await doors();
await runBuilt("pages/walks", String(10 * share));
console.log(faults.length === 0 ? "\nno faults" : `\n${faults.length} faults`);
process.exitCode = faults.length > 0 ? 1 : 0;
