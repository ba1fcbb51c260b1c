/** Cost of the runtime for games in one thread: 64 strands live, and 64 baked ones, a frame. */
import { planNumbers } from "@bumbrel/core/analyse/numbersPlan";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { writeCurves } from "@bumbrel/core/format/curves";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { openBaked } from "../../runtime/src/index";
import { openFeed } from "../../runtime/src/live";

const line = (what: string, figure: string) => console.log(`${what.padEnd(46)} ${figure}`);
const STRANDS = 64;
const random = seededRandom(3);

const scene = newScene("Cost");
scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s" } as never);
for (let i = 0; i < STRANDS; i++) {
  const strand = newStrand(scene, `s${i}`, `Strand ${i}`, { kind: "sound", id: "song", tap: "before" });
  // Bands one above the other, as people pick them.
  const lowHz = 40 * 1.1 ** i;
  strand.measure = { ...MEASURES.band.defaults, lowHz, highHz: lowHz * 1.3 };
  strand.cues.on = true;
  scene.strands.push(strand);
}
const feed = await openFeed(JSON.parse(JSON.stringify(planNumbers(scene, scene.strands))));
const hop = Float32Array.from({ length: 480 }, () => random() - 0.5);
const FRAMES = 3000;
for (let i = 0; i < 500; i++) feed.feed(hop);
let began = performance.now();
for (let i = 0; i < FRAMES; i++) feed.feed(hop);
const liveMs = (performance.now() - began) / FRAMES;
line("runtime, 64 live strands a frame", `${liveMs.toFixed(3)} ms (at most 0.3)`);

const numbers = openBaked(
  writeCurves(
    Array.from({ length: STRANDS }, (_none, i) => ({
      id: `s${i}`,
      name: `Strand ${i}`,
      width: 1,
      values: Float32Array.from({ length: 18_000 }, () => random()),
      loopS: 0,
      cues: Array.from({ length: 300 }, (_one, cue) => ({ timeS: cue * 0.6, strength: 1 })),
    })),
    180,
  ),
);
const sums = new Float64Array(1);
const frame = (i: number) => {
  const timeS = (i % 10_000) / 60;
  for (let s = 0; s < STRANDS; s++) sums[0] += numbers.strands[s].at(timeS);
};
for (let i = 0; i < 20_000; i++) frame(i);
globalThis.gc?.();
const heapBefore = process.memoryUsage().heapUsed;
began = performance.now();
for (let i = 0; i < 100_000; i++) frame(i);
const bakedUs = ((performance.now() - began) / 100_000) * 1000;
const grownKb = (process.memoryUsage().heapUsed - heapBefore) / 1024;
line(
  "runtime, 64 baked strands a frame",
  `${bakedUs.toFixed(2)} µs (at most 20); heap ${grownKb.toFixed(0)} kB larger after 100 000 frames${sums[0] > 0 ? "" : "!"}`,
);
