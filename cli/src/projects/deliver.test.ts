import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { EXAMPLE_LIST } from "@bumbrel/api/exampleList";
import { MADE_WAYS } from "@bumbrel/api/waysOut";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSound } from "@bumbrel/core/sound/create";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { describe, expect, it } from "@jest/globals";
import { bumbrel } from "../testing/testing";
import { exampleNamed } from "./stores";

describe("deliver on the command line", () => {
  it("offers every way out that the server makes, with its settings", async () => {
    const { out } = await bumbrel("deliver", "--help");
    for (const name of MADE_WAYS) expect(out).toMatch(new RegExp(`^ +${name} `, "m"));
    expect(out).toMatch(/--strand +One strand, or all of them; for baked, csv, json, midi, labels/);
    expect(out).toMatch(/--numbers .*\(computed, baked\); for page, folder/);
  });

  it.each([
    [["x.zip", "--as", "page"], /--out is missing/],
    [["x.zip", "--out", "x"], /--as is missing; it is one of page, folder/],
    [["x.zip", "--as", "boat", "--out", "x"], /--as "boat" is not known; use one of page/],
    [
      ["x.zip", "--as", "csv", "--out", "x", "--kiosk", "on"],
      /--kiosk has no meaning for csv; it goes with page, folder/,
    ],
    [["--project", "a", "--example", "slipway", "--as", "csv", "--out", "x"], /do not go together/],
    [["nowhere.zip", "--as", "csv", "--out", "x"], /nowhere\.zip/],
  ])("says what is wrong: %j", async (args, message) => {
    const { code, error } = await bumbrel("deliver", ...args);
    expect(code).toBe(2);
    expect(error).toMatch(message);
    expect(error.trim().split("\n")).toHaveLength(1);
  });
});

describe("worked examples on the command line", () => {
  it("are known by their short names and by their titles", () => {
    for (const { id, name } of EXAMPLE_LIST) {
      expect(exampleNamed(id)).toBe(id);
      expect(exampleNamed(name)).toBe(id);
      expect(exampleNamed(` ${name.toUpperCase()} `)).toBe(id);
    }
    expect(() => exampleNamed("Rowing Day")).toThrow(
      /--example "Rowing Day" is not known; use one of regatta/,
    );
  });
});

describe("programs from elsewhere on the command line", () => {
  it("do not run unasked: their strands are left out, and it is said how they would", async () => {
    const folder = mkdtempSync(join(tmpdir(), "bumbrel-"));
    const scene = newScene("Flotsam");
    const code = "function next() { throw new Error('it ran'); }";
    scene.programs.push({ id: "p", name: "Wind", kind: "number", code, draft: null });
    scene.sounds = [newSound("tone", "t", "Tone")];
    const strand = newStrand(scene, "s", "Gusts", { kind: "sound", id: "t", tap: "before" });
    strand.measure = { ...MEASURES.program.defaults, programId: "p" };
    scene.strands.push(strand);
    writeFileSync(join(folder, "scene.json"), JSON.stringify(scene));
    writeFileSync(join(folder, "a.wav"), writeWav([new Float32Array(4800)], 48_000, "pcm16"));
    const { error } = await bumbrel("trace", join(folder, "a.wav"), "--scene", join(folder, "scene.json"));
    expect(error).toContain('these programs came from elsewhere and do not run: "Wind"');
    expect(error).toContain("--allow-programs");
    expect(error).toContain('the strand "Gusts" is left out: It has no program');
    expect(error).not.toContain("it ran");
    rmSync(folder, { recursive: true });
  });
});

describe("listen on the command line", () => {
  it.each([
    [["x.zip", "--osc", "somewhere"], /HOST:PORT/],
    [["x.zip", "--osc", "192.0.2.1:9000"], /--feed-to 192\.0\.2\.1/],
    [["x.zip", "--port", "99999"], /--port/],
    [["x.zip", "--from", "-1"], /--from/],
    [["nowhere.zip"], /nowhere\.zip/],
  ])("says what is wrong: %j", async (args, message) => {
    const { code, error } = await bumbrel("listen", ...args);
    expect(code).toBe(2);
    expect(error).toMatch(message);
  });
});
