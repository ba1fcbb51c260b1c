import { planNumbers } from "@bumbrel/core/analyse/numbersPlan";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { writeCurves } from "@bumbrel/core/format/curves";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { LiveListening, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import { MEASURES, windowLatencyS } from "@bumbrel/core/strand/measures/table";
import { describe, expect, it } from "@jest/globals";
import { computeNumbers } from "./compute";
import { openBaked } from "./index";
import { openFeed } from "./live";
import type { NumbersPlan } from "./types";

/** A second of drum: a hit every quarter of a second. */
const drum = Float32Array.from({ length: 48_000 }, (_none, i) => {
  const sinceHit = i % 12_000;
  return Math.exp(-sinceHit / 1200) * Math.sin((2 * Math.PI * 180 * sinceHit) / 48_000);
});

function drumScene(): Scene {
  const scene = newScene("Drum");
  scene.sounds.push({
    ...newSoundBasics("drum", "Drum"),
    kind: "file",
    storedId: "s",
  } as Scene["sounds"][number]);
  const heard = { kind: "sound", id: "drum", tap: "before" } as const;
  const hit = newStrand(scene, "hit", "Hit", heard, { ...MEASURES.peak.defaults });
  hit.cues = { ...hit.cues, on: true, mark: 0.6, slack: 0.2 };
  scene.strands.push(hit);
  scene.strands.push(newStrand(scene, "row", "Row", heard, { ...MEASURES.fan.defaults }));
  scene.strands.push(
    newStrand(
      scene,
      "both",
      "Both",
      { kind: "strands", ids: ["hit", "row"] },
      { ...MEASURES.product.defaults },
    ),
  );
  return scene;
}
const planOf = (scene: Scene): NumbersPlan =>
  JSON.parse(JSON.stringify(planNumbers(scene, scene.strands))) as NumbersPlan;

describe("numbers from samples", () => {
  it("are there for every strand, with cues at the hits", async () => {
    const shares: number[] = [];
    const numbers = await computeNumbers(
      planOf(drumScene()),
      { Drum: drum },
      { onProgress: (s) => shares.push(s) },
    );
    expect(numbers.strands.map(({ name }) => name)).toEqual(["Hit", "Row", "Both"]);
    expect(numbers.lengthS).toBe(1);
    const hits: number[] = [];
    numbers.strand("Hit").eachCue(-1, 2, ({ timeS }) => hits.push(timeS));
    expect(hits).toHaveLength(4);
    hits.forEach((timeS, i) => {
      expect(Math.abs(timeS - i * 0.25)).toBeLessThan(0.02);
    });
    expect(shares.at(-1)).toBe(1);
    const row = numbers.strand("row");
    const out = new Float32Array(row.width);
    row.fill(0.26, out);
    expect(out[2]).toBe(Math.fround(row.at(0.26, 2)));
    expect(() => row.at(0.26, row.width)).toThrow(/bands, from 0 to \d+; there is no/);
    expect(() => row.at(0.26, -1)).toThrow("there is no -1");
    expect(() => row.at(0.26, Number.NaN)).toThrow("there is no NaN");
    expect(() => row.at(Number.NaN)).toThrow('"Row" is asked at a time that is no number');
    expect(row.at(1e9)).toBe(row.at(0.99));
  });

  it("are the same from samples that a browser decoded, by the sound's id or its name", async () => {
    const decoded = { numberOfChannels: 2, sampleRate: 48_000, getChannelData: () => drum };
    const [one, other] = await Promise.all([
      computeNumbers(planOf(drumScene()), { drum: [drum] }),
      computeNumbers(planOf(drumScene()), { Drum: decoded }),
    ]);
    for (const timeS of [0, 0.123, 0.5, 0.99])
      expect(other.strand("Hit").at(timeS)).toBe(one.strand("Hit").at(timeS));
  });

  it("report missing and invalid input", async () => {
    const plan = planOf(drumScene());
    await expect(computeNumbers(plan, {})).rejects.toThrow(/no samples of the sound "Drum"/);
    const slow = { numberOfChannels: 1, sampleRate: 44_100, getChannelData: () => drum };
    await expect(computeNumbers(plan, { Drum: slow })).rejects.toThrow(/44100.*sampleRate: 48000/);
    await expect(computeNumbers({} as NumbersPlan, {})).rejects.toThrow(/numbers\.json/);
    await expect(computeNumbers({ ...plan, version: 2 as 1 }, {})).rejects.toThrow(/version 2/);
    const numbers = await computeNumbers(plan, { Drum: drum });
    expect(() => numbers.strand("Glow")).toThrow(
      'There is no strand "Glow". There are: "Hit", "Row", "Both".',
    );
  });

  it("are left when somebody stops them", async () => {
    const long = new Float32Array(48_000 * 120).fill(0.1);
    const stop = new AbortController();
    const work = computeNumbers(planOf(drumScene()), { Drum: long }, { signal: stop.signal });
    setTimeout(() => stop.abort(new Error("enough")), 5);
    await expect(work).rejects.toThrow("enough");
  });
});

describe("baked numbers", () => {
  it("give cues once, and again in each round of a loop", () => {
    const cues = [
      { timeS: 0.1, strength: 0.5 },
      { timeS: 0.9, strength: 1 },
    ];
    const curve = { id: "a", name: "A", width: 1, values: new Float32Array(100), cues };
    const numbers = openBaked(
      writeCurves(
        [
          { ...curve, loopS: 1 },
          { ...curve, id: "b", name: "B", loopS: 0 },
        ],
        1,
      ).buffer as ArrayBuffer,
    );
    const between = (name: string, fromS: number, toS: number) => {
      const times: number[] = [];
      numbers.strand(name).eachCue(fromS, toS, ({ timeS }) => times.push(Number(timeS.toFixed(3))));
      return times;
    };
    expect(between("A", 0, 1)).toEqual([0.1, 0.9]);
    expect(between("A", 0.1, 0.9)).toEqual([0.9]);
    expect(between("A", 2.5, 4.2)).toEqual([2.9, 3.1, 3.9, 4.1]);
    expect(between("B", 2.5, 4.2)).toEqual([]);
    // Frame by frame nothing is missed, and nothing comes twice.
    let count = 0;
    for (let frame = 0; frame < 300; frame++) count += between("A", frame / 60, (frame + 1) / 60).length;
    expect(count).toBe(10);
  });
});

describe("live numbers", () => {
  it("are those of the workbench's live strands, whatever the blocks", async () => {
    const scene = drumScene();
    const plan = planOf(scene);
    const feed = await openFeed(plan);
    const struck: string[] = [];
    feed.onCue(({ name }) => struck.push(name));
    const truth = new LiveStrand(scene.strands[0]);
    const row = new LiveStrand(scene.strands[1]);
    const listening = new LiveListening();
    for (let at = 0, size = 1; at < drum.length; at += size, size = ((size * 7) % 977) + 1) {
      const block = drum.subarray(at, at + size);
      feed.feed(block);
      listening.take(block, [truth, row]);
      expect(feed.strand("Hit").now()).toBe(truth.track.values[0]);
    }
    const out = new Float32Array(row.track.width);
    feed.strand("Row").fill(out);
    expect([...out]).toEqual([...row.track.values]);
    expect(feed.strand("Both").width).toBe(row.track.width);
    expect(struck.filter((name) => name === "Hit")).toHaveLength(truth.cueCount);
    expect(truth.cueCount).toBeGreaterThanOrEqual(3);
    expect(feed.strand("Row").latencyS).toBe(windowLatencyS(scene.strands[1].measure));
    feed.stop();
  });

  it("tell each cue once, also where strands hear different sounds", async () => {
    const scene = drumScene();
    scene.sounds.push({ ...scene.sounds[0], id: "bell", name: "Bell" } as Scene["sounds"][number]);
    scene.strands.push({
      ...structuredClone(scene.strands[0]),
      id: "ring",
      name: "Ring",
      listensTo: { kind: "sound", id: "bell", tap: "before" },
    });
    const feed = await openFeed(planOf(scene));
    const counts: Record<string, number> = { Hit: 0, Ring: 0 };
    feed.onCue(({ name }) => counts[name]++);
    feed.feed(drum);
    expect(counts.Hit).toBe(feed.strand("Hit").cueCount);
    expect(counts.Ring).toBe(counts.Hit);
    expect(counts.Hit).toBeGreaterThan(0);
  });
});
