import { once } from "node:events";
import { readFileSync } from "node:fs";
import { Worker } from "node:worker_threads";
import { FILM_SETTINGS } from "@bumbrel/core/document/film/film";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { newProject } from "@bumbrel/core/kinds/create";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { newSound } from "@bumbrel/core/sound/create";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { HOSTILE_SCRIPTS } from "@bumbrel/core/testing/hostileScripts";
import { breakConnections } from "@bumbrel/server/testing/brokenConnections";
import { unzipSync, zipSync } from "fflate";

/**
 * Treats a running server as an attacker would, and asks every 100 ms whether it is well: programs that never end, broken
 * connections on each of its ports, damaged archives, and many orders at once.
 *
 * Arguments: its address, its process, and the share of each count that is wanted.
 */
const [address, pid, share] = [process.argv[2], process.argv[3], Number(process.argv[4] ?? 1)];
const count = (whole: number) => Math.max(2, Math.round(whole * share));
const LONGEST_SILENCE_MS = 1000;
const MOST_LEFT_MB = 200;
/** Memory is looked at again and again for so long, until it is back. */
const SETTLES_S = 60;
const random = seededRandom(20261201);
const below = (end: number) => Math.floor(random() * end);
const faults: string[] = [];

const megabytes = () =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1] ?? 0) / 1024;
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Asks after the server's health in a thread of its own: what an attack takes to prepare must not count as silence. */
const ASKING = `
const { parentPort, workerData } = require("node:worker_threads");
let isOver = false;
parentPort.once("message", () => { isOver = true; });
(async () => {
  let longestMs = 0;
  const failures = [];
  while (!isOver) {
    const asked = performance.now();
    const answer = await fetch(workerData + "/api/health").catch((error) => error);
    longestMs = Math.max(longestMs, performance.now() - asked);
    if (answer.ok !== true) failures.push(String(answer.status ?? answer));
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  parentPort.postMessage({ longestMs, failures });
})();`;

/** Runs one kind of attack beside questions after the server's health. */
async function under(name: string, attack: () => Promise<string>): Promise<void> {
  const before = megabytes();
  let mostMb = before;
  const watching = setInterval(() => {
    mostMb = Math.max(mostMb, megabytes());
  }, 100);
  const asking = new Worker(ASKING, { eval: true, workerData: address });
  const health = once(asking, "message");
  const said = await attack().catch((error: Error) => {
    faults.push(`${name}: ${error.message}`);
    return "";
  });
  asking.postMessage("over");
  const [{ longestMs, failures }] = (await health) as [{ longestMs: number; failures: string[] }];
  clearInterval(watching);
  for (const failure of failures) faults.push(`${name}: health was answered by ${failure}`);
  let left = megabytes() - before;
  for (let s = 0; s < SETTLES_S && left > MOST_LEFT_MB; s++) {
    await wait(1000);
    left = megabytes() - before;
  }
  console.log(
    `${name.padEnd(24)} ${said}; health after ${longestMs.toFixed(0)} ms at most; memory ${before.toFixed(0)} MB, at most ${mostMb.toFixed(0)}, then ${(before + left).toFixed(0)}`,
  );
  if (longestMs > LONGEST_SILENCE_MS) faults.push(`${name}: silent for ${longestMs.toFixed(0)} ms`);
  if (left > MOST_LEFT_MB) faults.push(`${name}: ${left.toFixed(0)} MB are not given back`);
}

const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { "Content-Type": "application/json" },
  body: JSON.stringify(body),
});

/** Stores a project whose one strand is a program; gives its id. */
async function storeProgram(name: string, body: string): Promise<string> {
  const scene = newProject(name);
  scene.sounds.push(newSound("tone", "tone", "Tone"));
  scene.programs.push({
    id: "p",
    name: "Numbers",
    kind: "number",
    code: `function next(moment: Moment, set: Exposed): number { ${body} }`,
    draft: null,
  });
  scene.strands.push(
    newStrand(scene, "n", "Numbers", { kind: "sound", id: "tone", tap: "before" }, {
      ...MEASURES.program.defaults,
      programId: "p",
    } as never),
  );
  const answer = await fetch(`${address}/api/projects`, json("POST", { scene }));
  if (answer.status !== 201)
    throw new Error(`a project was answered by ${answer.status} ${await answer.text()}`);
  return (await answer.json()).id;
}

/** How often each status came. */
class Answers {
  private readonly counts: Record<string, number> = {};

  async add(answer: Response): Promise<void> {
    await answer.arrayBuffer();
    this.counts[answer.status] = (this.counts[answer.status] ?? 0) + 1;
    if (answer.status >= 500) faults.push(`${answer.url} answered ${answer.status}`);
  }

  toString(): string {
    return JSON.stringify(this.counts);
  }
}

await under("hostile programs", async () => {
  const answers = new Answers();
  const wanted = count(HOSTILE_SCRIPTS.length);
  for (let i = 0; i < wanted; i++) {
    const id = await storeProgram(`Program ${i}`, HOSTILE_SCRIPTS[i]);
    await answers.add(await fetch(`${address}/api/deliver/${id}/csv`));
    await answers.add(await fetch(`${address}/api/projects/${id}`, { method: "DELETE" }));
  }
  return `${wanted}; answers ${answers}`;
});

const calm = await storeProgram("Calm", "return moment.step / 1e6;");

await under("broken connections", async () => {
  const feed = await fetch(`${address}/api/feed/${calm}`, json("PUT", { on: true, osc: [], live: [] }));
  const { address: fed } = await feed.json();
  const wanted = count(500);
  const ports = [address, fed].map((one: string) => Number(new URL(one).port));
  for (const port of ports) await breakConnections(port, wanted);
  const after = await fetch(`${address}/api/feed/${calm}`, json("PUT", { on: false, osc: [], live: [] }));
  if (!after.ok) faults.push(`the feed was switched off with ${after.status}`);
  return `${wanted} on each of the ports ${ports.join(", ")}`;
});

/** An archive that somebody has meddled with. */
function damaged(good: Uint8Array, i: number): Uint8Array {
  const bytes = good.slice();
  if (i % 4 === 0) return bytes.subarray(0, below(bytes.length));
  if (i % 4 === 1) {
    for (let k = 0; k < 20; k++) bytes[below(bytes.length)] = below(256);
    return bytes;
  }
  const files = unzipSync(good);
  const manifest = JSON.parse(new TextDecoder().decode(files["archive.json"]));
  const [project] = manifest.projects;
  if (i % 4 === 2) manifest.projects = Array.from({ length: 300 }, () => project);
  else {
    files[project.scene.path] = new Uint8Array(50_000_000).fill(0x20);
    project.scene.bytes = below(60_000_000);
  }
  files["archive.json"] = new TextEncoder().encode(JSON.stringify(manifest));
  return zipSync(files, { level: 9 });
}

await under("hostile archives", async () => {
  const good = new Uint8Array(await (await fetch(`${address}/api/deliver/${calm}/archive`)).arrayBuffer());
  const answers = new Answers();
  const wanted = count(100);
  for (let i = 0; i < wanted; i++) {
    const body = damaged(good, i) as Uint8Array<ArrayBuffer>;
    const headers = { "Content-Type": "application/zip" };
    await answers.add(await fetch(`${address}/api/archives`, { method: "POST", headers, body }));
  }
  return `${wanted}; answers ${answers}`;
});

await under("orders at once", async () => {
  const answers = new Answers();
  const wanted = count(50);
  const order = {
    settings: { ...defaultsOf(FILM_SETTINGS), size: "own", width: 64, height: 48, framesPerSecond: 24 },
    stretch: { fromS: 0, toS: 1 },
  };
  const ordered = await Promise.all(
    Array.from({ length: wanted }, () => fetch(`${address}/api/projects/${calm}/films`, json("POST", order))),
  );
  const taken: string[] = [];
  for (const answer of ordered) {
    if (answer.ok) taken.push((await answer.clone().json()).id);
    await answers.add(answer);
  }
  for (const id of taken) await fetch(`${address}/api/films/${id}/cancel`, { method: "POST" });
  return `${wanted}; answers ${answers}`;
});

for (const fault of faults) console.log(`  FAULT: ${fault}`);
process.exitCode = faults.length > 0 ? 1 : 0;
