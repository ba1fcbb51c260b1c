import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { regattaScene } from "@bumbrel/demo/scenes/regattaScene";
import { openDatabase } from "@bumbrel/server/db/open";
import { ProjectStore } from "@bumbrel/server/store/projects";
import { PGlite } from "@electric-sql/pglite";

/** Times saves with the database waiting for the disk, and writes of the same bytes without waiting. */
const SAVES = 400;

async function timesOf(save: (i: number) => Promise<unknown>): Promise<{ medianMs: number; p99Ms: number }> {
  const times: number[] = [];
  for (let i = 0; i < SAVES; i++) {
    const before = performance.now();
    await save(i);
    times.push(performance.now() - before);
  }
  times.sort((a, b) => a - b);
  return { medianMs: times[SAVES / 2], p99Ms: times[Math.floor(SAVES * 0.99)] };
}

const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-bench-"));
const scene = regattaScene({});
const { db, close } = await openDatabase({ dataDir, migrationsDir: "server/migrations" });
const projects = new ProjectStore(db);
const { id } = await projects.create(scene);
const whole = await timesOf((i) => projects.save(id, i + 1, scene));
await close();

const text = JSON.stringify(scene);
const client = await PGlite.create({ dataDir: join(dataDir, "unsafe") });
await client.exec(
  "create table scenes (id int primary key, scene json); insert into scenes values (1, '{}')",
);
const unsafe = await timesOf(() => client.query("update scenes set scene = $1 where id = 1", [text]));
await client.close();
rmSync(dataDir, { recursive: true });

const words = ({ medianMs, p99Ms }: { medianMs: number; p99Ms: number }) =>
  `median ${medianMs.toFixed(1)} ms, 99 of 100 below ${p99Ms.toFixed(1)} ms`;
console.log(`${"a save, waiting for the disk".padEnd(46)} ${words(whole)}`);
console.log(
  `${"the same bytes without waiting".padEnd(46)} ${words(unsafe)}; ${(whole.medianMs / unsafe.medianMs).toFixed(1)} times quicker`,
);
