import { mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { SceneAnalysis } from "@bumbrel/core/analyse/sceneAnalysis";
import type { ListensTo } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { type WavEncoding, writeWav } from "@bumbrel/core/format/samples/wav";
import { newScene } from "@bumbrel/core/kinds/create";
import { newPlace, newSoundBasics, type Sound } from "@bumbrel/core/sound/kinds";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { bumbrel } from "./testing/testing";

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "bumbrel-cli-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function wav(name: string, samples: ArrayLike<number>, rate = 48_000, encoding: WavEncoding = "float32") {
  const path = join(folder, name);
  writeFileSync(path, writeWav([Float32Array.from(samples)], rate, encoding));
  return path;
}

function readRows(csv: string): { times: number[]; values: number[] } {
  const [header, ...rows] = csv.trim().split("\n");
  expect(header).toBe("time_s,value");
  const cells = rows.map((row) => row.split(",").map(Number));
  return { times: cells.map(([time]) => time), values: cells.map(([, value]) => value) };
}

/**
 * The band level from its definition, sharing nothing with the core: a plain DFT of only the bins the band
 * touches, a Hann window and its energy written out.
 */
function bandByDefinition(
  samples: ArrayLike<number>,
  frame: number,
  lowHz: number,
  highHz: number,
  size: number,
): number {
  const start = frame * 480 - size / 2;
  let windowEnergy = 0;
  const windowed: number[] = [];
  for (let n = 0; n < size; n++) {
    const weight = 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size);
    windowEnergy += weight * weight;
    windowed.push((samples[start + n] ?? 0) * weight);
  }
  const binHz = 48_000 / size;
  let total = 0;
  for (let k = 0; k <= size / 2; k++) {
    const share =
      Math.max(0, Math.min(highHz, (k + 0.5) * binHz) - Math.max(lowHz, (k - 0.5) * binHz)) / binHz;
    if (share === 0) continue;
    let re = 0;
    let im = 0;
    for (let n = 0; n < size; n++) {
      const angle = (2 * Math.PI * ((k * n) % size)) / size;
      re += windowed[n] * Math.cos(angle);
      im -= windowed[n] * Math.sin(angle);
    }
    total += (share * (k === 0 || k === size / 2 ? 1 : 2) * (re * re + im * im)) / (size * windowEnergy);
  }
  return Math.sqrt(2 * total);
}

const SECONDS = 0.6;
const COUNT = SECONDS * 48_000;
let noiseState = 12_345;
const white = Array.from({ length: COUNT }, () => {
  noiseState = (noiseState * 1_103_515_245 + 12_345) % 2_147_483_648;
  return (noiseState / 1_073_741_824 - 1) * 0.5;
});
let leak = 0;
const brown = white.map((x) => {
  leak = leak * 0.995 + x * 0.05;
  return leak;
});
const tone = (hz: number, level: number) =>
  Array.from({ length: COUNT }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / 48_000));
const SOUNDS: Record<string, number[]> = {
  "tone 110 Hz": tone(110, 0.8),
  "tone 1000 Hz, quiet": tone(1000, 0.004),
  "two tones": tone(440, 0.3).map((x, i) => x + 0.1 * Math.sin((2 * Math.PI * 3000 * i) / 48_000)),
  "white noise": white,
  "brown noise": brown,
  bursts: white.map((x, i) => (i % 9600 < 2400 ? x : 0)),
};

describe("bumbrel trace", () => {
  const BANDS: [number, number, number][] = [
    [80, 160, 2048],
    [95.5, 1210, 1024],
    [900, 1100, 4096],
  ];
  for (const [name, samples] of Object.entries(SOUNDS)) {
    it.each(BANDS)(
      `agrees within 0.05 dB with the definition on ${name}, %d to %d Hz, %d points`,
      async (low, high, size) => {
        const path = wav(`${name}.wav`, samples);
        const { code, out } = await bumbrel(
          "trace",
          path,
          "--measure",
          "band",
          "--low",
          String(low),
          "--high",
          String(high),
          "--fft",
          String(size),
        );
        expect(code).toBe(0);
        const { times, values } = readRows(out);
        expect(times).toEqual(Array.from({ length: 60 }, (_, k) => k / 100));
        const stored = Float32Array.from(samples);
        let compared = 0;
        for (let frame = 0; frame < 60; frame += 7) {
          const truth = bandByDefinition(stored, frame, low, high, size);
          if (truth < 0.001) continue;
          compared++;
          expect(Math.abs(20 * Math.log10(values[frame] / truth))).toBeLessThan(0.05);
        }
        if (high > 440 || name.includes("noise") || name.includes("110"))
          expect(compared + (name.includes("quiet") ? 1 : 0)).toBeGreaterThan(0);
      },
    );
  }

  it("reads a full-scale sine as 1", async () => {
    const { out } = await bumbrel(
      "trace",
      wav("full.wav", tone(1000, 1)),
      "--measure",
      "band",
      "--low",
      "500",
      "--high",
      "2000",
    );
    expect(readRows(out).values[30]).toBeCloseTo(1, 4);
  });

  it("gives the peak of each hop-centred 10 ms", async () => {
    const { out } = await bumbrel("trace", wav("bursts.wav", SOUNDS.bursts), "--measure", "peak");
    const { values } = readRows(out);
    const stored = Float32Array.from(SOUNDS.bursts);
    values.forEach((value, k) => {
      let peak = 0;
      for (let i = Math.max(0, k * 480 - 240); i < k * 480 + 240 && i < stored.length; i++)
        peak = Math.max(peak, Math.abs(stored[i]));
      expect(value).toBeCloseTo(peak, 7);
    });
  });

  it("brings other rates to 48 kHz first", async () => {
    const rate = 44_100;
    const path = wav(
      "44k.wav",
      Array.from({ length: rate }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 1000 * i) / rate)),
      rate,
      "pcm24",
    );
    const { out } = await bumbrel("trace", path, "--measure", "band", "--low", "800", "--high", "1200");
    const { values } = readRows(out);
    expect(values).toHaveLength(100);
    expect(Math.abs(20 * Math.log10(values[50] / 0.5))).toBeLessThan(0.02);
  });

  it("writes to a file when asked", async () => {
    const csv = join(folder, "out.csv");
    const path = wav("tone.wav", SOUNDS["tone 110 Hz"]);
    expect(await bumbrel("trace", path, "--measure", "peak", "--csv", csv)).toEqual({
      code: 0,
      out: "",
      error: "",
    });
    expect(readFileSync(csv, "utf8")).toBe(
      (await bumbrel("trace", path, "--measure", "peak", "--csv", "-")).out,
    );
  });

  it("answers every mistake with one clear line and exit code 2", async () => {
    const good = wav("good.wav", tone(440, 0.1));
    const broken = join(folder, "broken.wav");
    writeFileSync(broken, readFileSync(good).subarray(0, 1000));
    const band = ["--measure", "band"];
    const mistakes: [string[], RegExp][] = [
      [[], /FILE\.wav is missing/],
      [[good], /--measure is missing; use one of band, peak/],
      [[good, "--measure", "colour"], /"colour" is not known/],
      [[good, ...band], /--low is missing/],
      [[good, ...band, "--low", "100"], /--high is missing/],
      [[good, ...band, "--low", "abc", "--high", "200"], /--low must be a number/],
      [[good, ...band, "--low", "300", "--high", "200"], /must be lower/],
      [[good, ...band, "--low", "-5", "--high", "200"], /--low must be a number from 0/],
      [[good, ...band, "--low", "300", "--high", "99999"], /from 0 to 24000/],
      [[good, ...band, "--low", "1", "--high", "2", "--fft", "1000"], /--fft must be one of 512/],
      [[good, "--measure", "peak", "--low", "5"], /--low has no meaning/],
      [[good, "--measure", "peak", "--loud"], /Unknown option '--loud'/],
      [[good, good, "--measure", "peak"], /one argument too many/],
      [[join(folder, "none.wav"), "--measure", "peak"], /none\.wav: there is no such file/],
      [[folder, "--measure", "peak"], /this is a folder/],
      [[broken, "--measure", "peak"], /broken\.wav: .*claims .* bytes but/],
      [[good, "--measure", "peak", "--csv", join(folder, "no/such/dir.csv")], /cannot be written \(ENOENT\)/],
    ];
    for (const [args, message] of mistakes) {
      const { code, out, error } = await bumbrel("trace", ...args);
      expect(error).toMatch(message);
      expect(error.trim().split("\n")).toHaveLength(1);
      expect([code, out]).toEqual([2, ""]);
    }
  });
});

describe("bumbrel check", () => {
  const file = (name: string, content: string) => {
    const path = join(folder, name);
    writeFileSync(path, content);
    return path;
  };

  it("passes a good scene and names the problems of a bad one", async () => {
    const scene = newScene("Quay");
    expect(await bumbrel("check", file("good.json", JSON.stringify(scene)))).toMatchObject({
      code: 0,
      out: expect.stringMatching(/no problems/),
    });
    scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "sound", id: "lost", tap: "before" }));
    const lost = await bumbrel("check", file("lost.json", JSON.stringify(scene)));
    expect(lost.code).toBe(1);
    expect(lost.out).toMatch(/^\/strands\/0\/listensTo\/id: .*"Kick".* gone/);
    const broken = await bumbrel("check", file("broken.json", JSON.stringify({ ...scene, loop: "yes" })));
    expect(broken.code).toBe(1);
    expect(broken.out).toMatch(/^\/loop: this must be boolean, but is "yes"/);
  });

  it("exits with 2 for broken JSON or a missing file", async () => {
    expect(await bumbrel("check", file("text.json", "{"))).toMatchObject({
      code: 2,
      error: expect.stringMatching(/not JSON/),
    });
    expect(await bumbrel("check", join(folder, "none.json"))).toMatchObject({ code: 2 });
    expect(await bumbrel("check", "a", "b")).toMatchObject({ code: 2 });
  });
});

describe("bumbrel tone and facts", () => {
  const make = async (...args: string[]) => {
    const path = join(folder, "tone.wav");
    const result = await bumbrel("tone", ...args, "--out", path);
    expect(result).toMatchObject({ code: 0, error: "" });
    return path;
  };
  const factsOf = async (path: string) => JSON.parse((await bumbrel("facts", path)).out);

  it("make a tone and print its facts", async () => {
    const path = await make("--kind", "sine", "--hz", "A5", "--seconds", "2.5", "--level", "-20");
    expect(await factsOf(path)).toEqual({
      sampleRateHz: 48_000,
      channels: 1,
      durationS: 2.5,
      peakDbfs: -20,
      // One channel at −20 dBFS peak: −23.01, a little more at 880 Hz than K-weighting's reference.
      integratedLufs: expect.closeTo(-23.05, 0),
    });
  });

  it("make the same noise from the same seed", async () => {
    const bytes = async (seed: string) =>
      readFileSync(await make("--kind", "pink", "--seconds", "1", "--seed", seed));
    expect((await bytes("1")).equals(await bytes("1"))).toBe(true);
    expect((await bytes("1")).equals(await bytes("2"))).toBe(false);
  });

  it("sweep from one frequency to another", async () => {
    const path = await make("--kind", "sine", "--hz", "100", "--to", "10000", "--seconds", "1");
    const early = readRows(
      (await bumbrel("trace", path, "--measure", "band", "--low", "80", "--high", "300")).out,
    ).values;
    const late = readRows(
      (await bumbrel("trace", path, "--measure", "band", "--low", "5000", "--high", "12000")).out,
    ).values;
    expect(early[10]).toBeGreaterThan(0.9);
    expect(late[10]).toBeLessThan(0.01);
    expect(late[92]).toBeGreaterThan(0.9);
  });

  it("print null for figures that silence does not have", async () => {
    expect(await factsOf(wav("silence.wav", new Float32Array(48_000)))).toMatchObject({
      peakDbfs: null,
      integratedLufs: null,
    });
  });

  it("answer mistakes with one line", async () => {
    const out = join(folder, "x.wav");
    const mistakes: [string[], RegExp][] = [
      [["--seconds", "1", "--out", out], /--kind is missing/],
      [["--kind", "buzz", "--seconds", "1", "--out", out], /"buzz" is not known/],
      [["--kind", "sine", "--seconds", "1"], /--out is missing/],
      [["--kind", "sine", "--seconds", "1e9", "--out", out], /--seconds must be/],
      [["--kind", "sine", "--seconds", "1", "--hz", "30000", "--out", out], /below 24000/],
      [["--kind", "sine", "--seconds", "1", "--sweep", "linear", "--out", out], /--sweep needs --to/],
      [
        ["--kind", "sine", "--seconds", "1", "--to", "50", "--sweep", "wild", "--out", out],
        /linear or logarithmic/,
      ],
      [["--kind", "sine", "--seconds", "1", "--seed", "4", "--out", out], /--seed has no meaning/],
      [["--kind", "pink", "--seconds", "1", "--hz", "4", "--out", out], /--hz has no meaning/],
      [["--kind", "sine", "--seconds", "1", "--out", join(folder, "no/where.wav")], /cannot be written/],
    ];
    for (const [args, message] of mistakes) {
      const { code, error } = await bumbrel("tone", ...args);
      expect(error).toMatch(message);
      expect(error.trim().split("\n")).toHaveLength(1);
      expect(code).toBe(2);
    }
    expect(await bumbrel("facts", join(folder, "none.wav"))).toMatchObject({ code: 2 });
  });
});

describe("bumbrel", () => {
  it("prints its commands, and refuses unknown ones", async () => {
    expect(await bumbrel("--help")).toMatchObject({
      code: 0,
      out: expect.stringMatching(/trace [\s\S]*check/),
    });
    expect((await bumbrel("trace", "--help")).out).toContain("--measure band");
    expect(await bumbrel()).toMatchObject({ code: 2 });
    expect(await bumbrel("dance")).toMatchObject({
      code: 2,
      error: expect.stringMatching(/no command "dance"/),
    });
  });
});

describe("files that are written", () => {
  it("are never those that are read, by whatever name", async () => {
    const path = wav("precious.wav", [0.5, -0.5, 0.25]);
    const before = readFileSync(path);
    symlinkSync(path, join(folder, "also.wav"));
    for (const out of [path, join(folder, "also.wav"), join(folder, ".", "precious.wav")]) {
      expect(await bumbrel("trace", path, "--measure", "peak", "--csv", out)).toMatchObject({
        code: 2,
        error: expect.stringContaining("read by the same command"),
      });
    }
    expect(readFileSync(path).equals(before)).toBe(true);
  });

  it("are in place whole or not at all, and leave nothing beside them", async () => {
    const out = join(folder, "kept.csv");
    writeFileSync(out, "as it was");
    const path = wav("short.wav", [0.5, -0.5, 0.25]);
    expect((await bumbrel("trace", path, "--measure", "peak", "--csv", out)).code).toBe(0);
    expect(readFileSync(out, "utf8")).toMatch(/^time_s,value/);
    expect(readdirSync(folder).filter((name) => name.endsWith(".part"))).toEqual([]);
    const nowhere = join(folder, "no such folder", "out.csv");
    expect(await bumbrel("trace", path, "--measure", "peak", "--csv", nowhere)).toMatchObject({
      code: 2,
      error: expect.stringContaining("cannot be written (ENOENT)"),
    });
  });
});

describe("trace of every measure", () => {
  const tone = Array.from({ length: 48_000 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 440 * i) / 48_000));
  const at = (out: string, frame: number) => out.trim().split("\n")[frame + 1].split(",").map(Number);

  it("gives one column a band of a fan, octaves from 63 Hz up", async () => {
    const path = wav("fan.wav", tone);
    const { out } = await bumbrel("trace", path, "--measure", "fan", "--layout", "octave", "--bands", "8");
    expect(out.split("\n")[0].split(",")).toHaveLength(9);
    const [, ...levels] = at(out, 50);
    // 440 Hz lies in the octave around 501 Hz, the fourth.
    expect(levels.indexOf(Math.max(...levels))).toBe(3);
    expect(levels[3]).toBeCloseTo(0.5, 2);
    for (const [layout, bands] of [
      ["equal", 1024],
      ["mel", 3],
      ["doubling", 7],
    ] as const) {
      const made = await bumbrel(
        "trace",
        path,
        "--measure",
        "fan",
        "--layout",
        layout,
        "--bands",
        String(bands),
      );
      expect(made.out.split("\n")[0].split(",")).toHaveLength(bands + 1);
    }
  });

  it("gives pitch with its certainty, loudness in LUFS and everything else", async () => {
    const path = wav("tone.wav", tone);
    const value = async (...flags: string[]) =>
      at((await bumbrel("trace", path, "--measure", ...flags)).out, 50);
    const [, hz, certainty] = await value("pitch", "--low", "100", "--high", "1000");
    expect(hz).toBeCloseTo(440, 1);
    expect(certainty).toBeGreaterThan(0.98);
    expect((await value("momentary"))[1]).toBeCloseTo(-9.7, 0);
    expect((await value("rms"))[1]).toBeCloseTo(0.354, 1);
    expect((await value("brightness"))[1]).toBeCloseTo(440, -1);
    expect((await value("position"))[1]).toBeCloseTo(0.5, 6);
    expect((await bumbrel("trace", path, "--measure", "onset")).out.startsWith("time_s,value\n0.00,")).toBe(
      true,
    );
    const silence = wav("silence.wav", new Array(9600).fill(0));
    expect(at((await bumbrel("trace", silence, "--measure", "shortTerm")).out, 3)).toEqual([0.03, -200]);
  });

  it.each([
    [["--measure", "fan", "--bands", "0"], /--bands must be a number from 1 to 1024/],
    [["--measure", "fan", "--bands", "2.5"], /--bands must be a whole number/],
    [["--measure", "fan", "--per-octave", "5"], /--per-octave must be one of/],
    [["--measure", "rms", "--fft", "512"], /--fft has no meaning for --measure rms/],
    [["--measure", "pitch", "--low", "5"], /--low must be a number from 30/],
    [["--measure", "onset", "--low", "500", "--high", "100"], /must be lower than/],
    [["--measure", "product"], /"product" is not known/],
    [["--scene", "s.json", "--measure", "rms"], /--measure has no meaning beside --scene/],
  ])("says what is wrong with %j", async (flags, words) => {
    const { code, error } = await bumbrel("trace", wav("flags.wav", tone), ...flags);
    expect([code, error.split("\n").length]).toEqual([2, 2]);
    expect(error).toMatch(words);
  });

  it("traces a scene's strands, raw and shaped, those made of others with them", async () => {
    const scene = newScene("Quay");
    scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s", busId: "all" });
    scene.buses.push({ id: "all", name: "All", muted: false, faderDb: 0, pan: 0 });
    scene.strands.push(
      newStrand(scene, "a", "Low, end", { kind: "sound", id: "song", tap: "before" }),
      newStrand(scene, "b", "Both", { kind: "strands", ids: ["a", "c"] }, { kind: "maximum" }),
      newStrand(scene, "c", "Level", { kind: "bus", id: "all", tap: "after" }, { kind: "peak" }),
      newStrand(scene, "d", "Keys", { kind: "nothing" }, { kind: "control", controller: 1 }),
    );
    const path = join(folder, "quay.json");
    writeFileSync(path, JSON.stringify(scene));
    const { out, error, code } = await bumbrel("trace", wav("scene.wav", tone), "--scene", path);
    expect(code).toBe(0);
    expect(error).toMatch(/"Keys" is left out/);
    expect(out.split("\n")[0]).toBe(
      'time_s,"Low, end raw","Low, end shaped",Both raw,Both shaped,Level raw,Level shaped',
    );
    const row = at(out, 60);
    expect(row[3]).toBeCloseTo(Math.max(row[2], row[6]), 5);
    expect(row[5]).toBeCloseTo(0.5, 4);
  });

  it("hears faders, buses and distances exactly as the workbench's analysis does", async () => {
    const scene = newScene("Quay");
    const sound = (id: string, change: object): Sound => ({
      ...newSoundBasics(id, id),
      kind: "file",
      storedId: id,
      ...change,
    });
    const place = newPlace({ position: [0, 0, -40], referenceM: 2, maximumM: 100, analysedFollows: true });
    scene.sounds.push(
      sound("kick", { busId: "drums", faderDb: -9 }),
      sound("hat", { busId: "drums", faderDb: 3 }),
      sound("horn", { place }),
    );
    scene.buses.push({ id: "drums", name: "Drums", muted: false, faderDb: -6, pan: -0.4 });
    const strand = (id: string, listensTo: ListensTo) => newStrand(scene, id, id, listensTo, { kind: "rms" });
    scene.strands.push(
      strand("before", { kind: "sound", id: "kick", tap: "before" }),
      strand("after", { kind: "sound", id: "kick", tap: "after" }),
      strand("bus", { kind: "bus", id: "drums", tap: "after" }),
      strand("far", { kind: "sound", id: "horn", tap: "before" }),
    );
    const files = { kick: tone, hat: tone.map((x) => -0.3 * x), horn: tone.map((x, i) => x * (i % 3)) };
    const path = join(folder, "mix.json");
    writeFileSync(path, JSON.stringify(scene));
    const flags = Object.entries(files).flatMap(([name, samples]) => [
      "--sound",
      `${name}=${wav(`${name}.wav`, samples)}`,
    ]);
    const { out, error } = await bumbrel("trace", wav("rest.wav", tone), "--scene", path, ...flags);
    expect(error).toBe("");
    // The workbench's way: sounds come one by one, work is done in slices.
    const numbers = new Map<string, Float32Array>();
    let now = 0;
    const analysis = new SceneAnalysis({
      onNumbers: (one) => one.cues && numbers.set(one.strandId, one.raw),
      now: () => now++,
    });
    analysis.setScene(scene);
    for (const one of scene.sounds) {
      const mono = Float32Array.from(files[one.id as keyof typeof files]);
      analysis.setSound(one, { channels: [mono], mono });
    }
    while (analysis.work());
    for (const timeS of [0.1, 0.33, 0.5]) {
      const row = at(out, Math.round(timeS * 100));
      for (const [i, id] of ["before", "after", "bus", "far"].entries()) {
        expect(row[1 + 2 * i]).toBeCloseTo(numbers.get(id)![Math.round(timeS * 100)], 6);
      }
    }
    const [before, after] = ["before", "after"].map((id) => numbers.get(id)![50]);
    expect(after / before).toBeCloseTo(10 ** (-9 / 20), 3);
  });
});

describe("cues and catch", () => {
  /** A low thump every half second, a hiss every second between them. */
  const piece = () => {
    const samples = new Float32Array(48_000 * 8);
    let noise = 1;
    const thumps: number[] = [];
    for (let at = 12_000; at < samples.length - 9600; at += 24_000) {
      thumps.push(at / 48_000);
      for (let i = 0; i < 7200; i++)
        samples[at + i] += 0.6 * Math.exp(-i / 2400) * Math.sin((2 * Math.PI * 60 * i) / 48_000);
    }
    for (let at = 24_000; at < samples.length - 9600; at += 48_000) {
      for (let i = 0; i < 4800; i++) {
        noise = (noise * 16_807) % 2_147_483_647;
        samples[at + i] += 0.3 * Math.exp(-i / 1200) * (noise / 1_073_741_823 - 1);
      }
    }
    return { samples, thumps };
  };
  const times = (csv: string) =>
    csv
      .trim()
      .split("\n")
      .slice(1)
      .map((row) => Number(row.split(",")[0]));

  it("finds the thumps from four marks, and the same cues again from its band and mark", async () => {
    const { samples, thumps } = piece();
    const path = wav("piece.wav", samples);
    const marks = join(folder, "marks.csv");
    writeFileSync(
      marks,
      `name,time_s\n${thumps
        .slice(3, 7)
        .map((timeS) => `x,${timeS + 0.02}`)
        .join("\n")}\n`,
    );
    const { out, code } = await bumbrel("catch", path, "--marks", marks);
    expect(code).toBe(0);
    const found = JSON.parse(out);
    expect(Object.keys(found)).toEqual(["way", "lowHz", "highHz", "mark", "precision", "recall", "cues"]);
    expect([found.precision, found.recall, found.cues.length]).toEqual([1, 1, thumps.length]);
    found.cues.forEach(({ timeS }: { timeS: number }, i: number) => {
      expect(Math.abs(timeS - thumps[i])).toBeLessThan(0.05);
    });
    const range = ["--low", String(found.lowHz), "--high", String(found.highHz)];
    const again = await bumbrel("cues", path, ...range, "--mark", String(found.mark));
    expect(again.out.startsWith("time_s,strength\n")).toBe(true);
    expect(times(again.out)).toEqual(found.cues.map(({ timeS }: { timeS: number }) => timeS));
    expect(times((await bumbrel("cues", path, ...range)).out)).toHaveLength(thumps.length);
    expect(
      times((await bumbrel("cues", path, ...range, "--mark", "-40", "--gap", "900")).out).length,
    ).toBeLessThan(thumps.length);
    expect((await bumbrel("cues", path, ...range, "--mark", "3")).out).toBe("time_s,strength\n");
  });

  it.each([
    ["time_s\n1\n2\n", /at least 3 different times, not 2/],
    ["time_s\n1\n2\nsoon\n", /line 4: "soon" is not a time/],
    ["when\n1\n", /no column "time_s"/],
    ["time_s\n1\n2\n99\n", /99 s lies outside/],
  ])("says what is wrong with the marks %j", async (text, words) => {
    const marks = join(folder, "bad.csv");
    writeFileSync(marks, text);
    const { code, error } = await bumbrel("catch", wav("piece2.wav", piece().samples), "--marks", marks);
    expect([code, error.trim().split("\n").length]).toEqual([2, 1]);
    expect(error).toMatch(words);
  });

  it("refuses a range that is upside down, and finds nothing in silence", async () => {
    const path = wav("quiet.wav", new Array(48_000).fill(0));
    expect((await bumbrel("cues", path, "--low", "500", "--high", "100")).error).toMatch(/must be lower/);
    expect((await bumbrel("cues", path, "--low", "50", "--high", "100")).out).toBe("time_s,strength\n");
    expect((await bumbrel("catch", path)).error).toMatch(/--marks is missing/);
  });
});

describe("sounds of several channels and of bad samples", () => {
  const sine = Float32Array.from({ length: 96_000 }, (_, i) => Math.sin((2 * Math.PI * 997 * i) / 48_000));
  const silence = new Float32Array(sine.length);

  it("have loudness by the speakers: a side channel 1.5 dB more, the low-frequency one nothing", async () => {
    const momentary = async (channel: number) => {
      const path = join(folder, "surround.wav");
      const channels = Array.from({ length: 6 }, (_, i) => (i === channel ? sine : silence));
      writeFileSync(path, writeWav(channels, 48_000, "float32"));
      return readRows((await bumbrel("trace", path, "--measure", "momentary")).out).values[100];
    };
    expect(await momentary(0)).toBeCloseTo(-3.01, 1);
    expect(await momentary(4)).toBeCloseTo(-1.52, 1);
    expect(await momentary(3)).toBe(-200);
  });

  it("count bad samples as 0 and say how many there are", async () => {
    const broken = sine.slice();
    broken[100] = Number.NaN;
    broken[200] = Number.POSITIVE_INFINITY;
    const path = join(folder, "bad.wav");
    const bytes = writeWav([sine], 48_000, "float32");
    new Float32Array(bytes.buffer, 44).set(broken);
    writeFileSync(path, bytes);
    const { out, error, code } = await bumbrel("trace", path, "--measure", "peak");
    expect(code).toBe(0);
    expect(error).toContain("2 samples are no finite numbers and count as 0");
    expect(Math.max(...readRows(out).values)).toBeLessThanOrEqual(1);
    new Float32Array(bytes.buffer, 44).fill(Number.NaN);
    writeFileSync(path, bytes);
    expect((await bumbrel("trace", path, "--measure", "peak")).error).toMatch(/none of its samples/);
  });
});

describe("bumbrel sections", () => {
  it("prints where a sound changes for good, and once more where it is as before", async () => {
    const part = (hz: number, level: number) =>
      Float32Array.from({ length: 12 * 48_000 }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / 48_000));
    const [low, high] = [part(220, 0.1), part(1864.66, 0.4)];
    const path = wav("parts.wav", [...low, ...high, ...low]);
    const { out, code } = await bumbrel("sections", path);
    expect(code).toBe(0);
    const rows = out
      .trim()
      .split("\n")
      .map((row) => row.split(","));
    expect(rows.map(([, letter]) => letter)).toEqual(["letter", "A", "B", "A"]);
    [0, 12, 24].forEach((timeS, i) => {
      expect(Math.abs(Number(rows[i + 1][0]) - timeS)).toBeLessThanOrEqual(0.5);
    });
    expect((await bumbrel("sections", wav("short.wav", part(220, 0.1).slice(0, 48_000)))).out).toBe(
      "time_s,letter\n",
    );
    expect((await bumbrel("sections", path, "--beats-per-bar", "2.5")).error).toMatch(/whole number/);
  });
});
