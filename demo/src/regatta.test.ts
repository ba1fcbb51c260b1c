import { createHash } from "node:crypto";
import { parseScene } from "@bumbrel/core/check/readScene";
import { checkReferences } from "@bumbrel/core/check/references";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { readWav } from "@bumbrel/core/format/samples/wav";
import { itInFull } from "@bumbrel/core/testing/full";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { hitsCsv, REGATTA_SEED, regattaFiles } from "./files";
import { DURATION_S, makeRegattaNight, type Piece, SILENT_BAR, STEM_NAMES } from "./scenes/regattaNight";
import { REGATTA_SOUNDS, regattaScene } from "./scenes/regattaScene";

const sha = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");
const rms = (samples: Float32Array, fromS: number, toS: number) => {
  const part = samples.subarray(fromS * SAMPLE_RATE_HZ, toS * SAMPLE_RATE_HZ);
  return Math.sqrt(part.reduce((sum, x) => sum + x * x, 0) / part.length);
};

describe("Regatta Night", () => {
  let piece: Piece;
  beforeAll(() => {
    piece = makeRegattaNight(REGATTA_SEED);
  });

  itInFull("is the same byte for byte from the same seed, and another from another", () => {
    const first = regattaFiles(7);
    const second = regattaFiles(7);
    const other = regattaFiles(8);
    for (const [name, bytes] of first) {
      expect(sha(second.get(name)!)).toBe(sha(bytes));
    }
    for (const name of ["mix.wav", "drums.wav", "pluck.wav", "hits.csv"]) {
      expect(sha(other.get(name)!)).not.toBe(sha(first.get(name)!));
    }
    expect(readWav(first.get("mix.wav")!).channels).toHaveLength(2);
  });

  it("lasts 48 s with stems of equal length that never clip", () => {
    expect(DURATION_S).toBe(48);
    for (const samples of [...Object.values(piece.stems), ...piece.mix]) {
      expect(samples.length).toBe(48 * SAMPLE_RATE_HZ);
      expect(samples.every((x) => x >= -1 && x < 1)).toBe(true);
    }
  });

  it("has a quiet verse, a loud chorus and a silent bar", () => {
    const [left] = piece.mix;
    expect(rms(left, 24, 33) / rms(left, 0, 9)).toBeGreaterThan(3);
    for (const name of STEM_NAMES) {
      const silence = piece.stems[name].subarray(
        SILENT_BAR * 2.4 * SAMPLE_RATE_HZ,
        (SILENT_BAR + 1) * 2.4 * SAMPLE_RATE_HZ,
      );
      expect(silence.every((x) => x === 0)).toBe(true);
    }
  });

  it("writes down every hit at the very sample where the drum begins", () => {
    expect(new Set(piece.hits.map(({ drum }) => drum))).toEqual(new Set(["kick", "snare", "shaker"]));
    const alone = piece.hits.filter(
      ({ timeS }, i) =>
        (i === 0 || timeS - piece.hits[i - 1].timeS > 0.5) && piece.hits[i + 1]?.timeS !== timeS,
    );
    expect(alone.length).toBeGreaterThan(8);
    for (const { timeS } of alone) {
      const at = Math.round(timeS * SAMPLE_RATE_HZ);
      expect(piece.stems.drums.subarray(at - 2000, at).every((x) => x === 0)).toBe(true);
      expect(piece.stems.drums.subarray(at, at + 200).some((x) => Math.abs(x) > 0.01)).toBe(true);
    }
    const rows = hitsCsv(piece.hits).trim().split("\n");
    expect(rows[0]).toBe("time_s,drum,velocity");
    expect(rows).toHaveLength(piece.hits.length + 1);
    expect(rows[1]).toMatch(/^\d+\.\d{6},\w+,0\.\d+$/);
  });

  it("comes with a scene that is valid and wholly connected", () => {
    const scene = parseScene(
      regattaScene(Object.fromEntries(REGATTA_SOUNDS.map(({ id }) => [id, `stored-${id}`]))),
    );
    expect(checkReferences(scene)).toEqual([]);
    expect(
      scene.bindings.some(({ objectId, property }) => objectId === "lantern" && property === "scale"),
    ).toBe(false);
  });
});
