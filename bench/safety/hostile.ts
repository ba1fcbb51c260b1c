import { parseScene } from "@bumbrel/core/check/readScene";
import { checkReferences } from "@bumbrel/core/check/references";
import type { Scene } from "@bumbrel/core/document/scene";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { BumbrelError } from "@bumbrel/core/errors";
import { readImage, svgSize } from "@bumbrel/core/format/image";
import { readModel } from "@bumbrel/core/format/model";
import { readMidi } from "@bumbrel/core/format/samples/midi";
import { readProjectSound } from "@bumbrel/core/format/samples/sound";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { readTable } from "@bumbrel/core/format/table";
import { newObject } from "@bumbrel/core/kinds/create";
import { OBJECT_KIND_NAMES } from "@bumbrel/core/kinds/table";
import { evaluateScene } from "@bumbrel/core/simulate/sceneState";
import { regattaScene } from "@bumbrel/demo/scenes/regattaScene";
import { tuningShedScene } from "@bumbrel/demo/tuningShed";

/**
 * Hands damaged documents and files to the core, and counts what comes of it. Everything has to end as a result or as an
 * error of ours, soon.
 */
const RUNS = Number(process.argv[2] ?? 1000);
const random = seededRandom(20261126);
const below = (end: number) => Math.floor(random() * end);
const oneOf = <T>(list: readonly T[]): T => list[below(list.length)];

interface Tally {
  taken: number;
  refused: number;
  /** Errors that are none of ours: faults. */
  faults: string[];
  longestMs: number;
}

async function tally(name: string, attempt: () => unknown): Promise<void> {
  const found: Tally = { taken: 0, refused: 0, faults: [], longestMs: 0 };
  let mostMb = 0;
  for (let run = 0; run < RUNS; run++) {
    const before = performance.now();
    try {
      await attempt();
      found.taken++;
    } catch (error) {
      if (error instanceof BumbrelError) found.refused++;
      else found.faults.push((error as Error).stack ?? String(error));
    }
    found.longestMs = Math.max(found.longestMs, performance.now() - before);
    mostMb = Math.max(mostMb, process.memoryUsage().rss / 2 ** 20);
  }
  const { taken, refused, faults, longestMs } = found;
  console.log(
    `${name.padEnd(24)} ${RUNS} tried: ${taken} taken, ${refused} refused in our words, ${faults.length} faults; longest ${longestMs.toFixed(0)} ms; memory up to ${mostMb.toFixed(0)} MB`,
  );
  for (const fault of new Set(faults.map((stack) => stack.split("\n").slice(0, 3).join(" | "))))
    console.log(`  ${fault}`);
  if (faults.length > 0) process.exitCode = 1;
}

/** Values that nobody expects. */
const ODD: readonly unknown[] = [
  null,
  true,
  -1,
  0,
  1e308,
  -1e-320,
  2 ** 53,
  "",
  "constructor",
  "__proto__",
  "\u0000",
  "x".repeat(5000),
  [],
  {},
  [[[[[[]]]]]],
  "#12345g",
];

/** Changes a document in a few places: other values, gone, twice, exchanged. */
function bend(document: unknown): unknown {
  const bent = structuredClone(document) as Record<string, unknown>;
  for (let times = 1 + below(4); times > 0; times--) {
    let at: Record<string, unknown> = bent;
    for (let depth = 0; depth < 8; depth++) {
      const keys = Object.keys(at);
      if (keys.length === 0) break;
      const key = oneOf(keys);
      const inside = at[key];
      if (typeof inside === "object" && inside !== null && random() < 0.85) {
        at = inside as Record<string, unknown>;
        continue;
      }
      const way = below(4);
      if (way === 0) delete at[key];
      else if (way === 1) at[key] = structuredClone(oneOf(ODD));
      else if (way === 2) at[key] = at[oneOf(keys)];
      else if (Array.isArray(at)) at.push(structuredClone(inside));
      else at[oneOf(["constructor", "length", "then", "extra"])] = inside;
      break;
    }
  }
  return bent;
}

/** One of each kind, so that every kind's settings and properties are bent too. */
function everything(): Scene {
  const scene = regattaScene({});
  for (const kind of OBJECT_KIND_NAMES) scene.objects.push(newObject(`one-${kind}`, kind, kind));
  return scene;
}
const documents = [everything(), tuningShedScene()];
await tally("documents", () => {
  const scene = parseScene(bend(oneOf(documents)));
  checkReferences(scene);
  const values = evaluateScene(scene, new Map(), 1);
  const bad = JSON.stringify(values, (_, value) =>
    typeof value === "number" && !Number.isFinite(value) ? "NOT FINITE" : value,
  );
  if (bad.includes("NOT FINITE")) throw new Error("a value that is no number came out");
});

/** Changes bytes: some others, cut short, stretches repeated or filled. */
function damage(bytes: Uint8Array): Uint8Array {
  let out = bytes.slice();
  for (let times = 1 + below(6); times > 0; times--) {
    const at = below(Math.max(1, out.length));
    const way = below(5);
    if (way === 0) out[at] = below(256);
    else if (way === 1) out = out.slice(0, at);
    else if (way === 2) out.fill(oneOf([0, 255, 127]), at, at + 1 + below(8));
    else if (way === 3) out = Uint8Array.from([...out, ...out.subarray(at, at + 64)]);
    else if (out.length > at + 4)
      new DataView(out.buffer).setUint32(at, oneOf([0, 1, 0xffffffff, 0x7fffffff]), true);
  }
  return out;
}
const text = (words: string) => new TextEncoder().encode(words);
const glb = (json: object, binary: Uint8Array) => {
  const described = text(JSON.stringify(json).padEnd(Math.ceil(JSON.stringify(json).length / 4) * 4));
  const out = new Uint8Array(28 + described.length + binary.length);
  const view = new DataView(out.buffer);
  const head = [0x46546c67, 2, out.length, described.length, 0x4e4f534a];
  for (const [i, word] of head.entries()) view.setUint32(i * 4, word, true);
  out.set(described, 20);
  view.setUint32(20 + described.length, binary.length, true);
  view.setUint32(24 + described.length, 0x004e4942, true);
  out.set(binary, 28 + described.length);
  return out;
};
const PNG = Uint8Array.from(
  Buffer.from(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
    "base64",
  ),
);
const MIDI = Uint8Array.from([
  ...text("MThd"),
  0,
  0,
  0,
  6,
  0,
  0,
  0,
  1,
  0,
  96,
  ...text("MTrk"),
  0,
  0,
  0,
  19,
  0,
  0xff,
  0x51,
  3,
  7,
  0xa1,
  0x20,
  0,
  0x90,
  60,
  64,
  96,
  0x80,
  60,
  0,
  0,
  0xff,
  0x2f,
  0,
]);
const MODEL = glb(
  {
    asset: { version: "2.0" },
    nodes: [{ name: "Hull", mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: "VEC3" }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    buffers: [{ byteLength: 36 }],
  },
  new Uint8Array(36),
);
const sound = writeWav([Float32Array.from({ length: 500 }, (_, i) => Math.sin(i / 9))], 44_100, "pcm16");

await tally("WAV", () => readProjectSound(damage(sound)));
await tally("MIDI", () => readMidi(damage(MIDI)));
await tally("CSV", () =>
  readTable(damage(text('time_s,"a, b",c\n0,1,2\n0.01,3,"4"\n0.02,5,6\n')), "table.csv"),
);
await tally("GLB", () => readModel(damage(MODEL), "boat.glb"));
await tally("SVG", () =>
  svgSize(damage(text('<svg xmlns="http://www.w3.org/2000/svg" width="40" viewBox="0 0 4 2"><rect/></svg>'))),
);
await tally("PNG", () => readImage(damage(PNG), "sail.png"));
