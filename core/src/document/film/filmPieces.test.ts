import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import { unzipSync } from "fflate";
import { framesFile } from "../../format/film/framesFile";
import { readWav, wavData } from "../../format/samples/wav";
import { defaultsOf } from "../../setting/descriptor";
import { FILM_SETTINGS } from "./film";
import {
  assembleFilm,
  FILM_WAV,
  type FilmOrder,
  inOrderOfParts,
  orderOf,
  orderOfPart,
  piecesOf,
  SOUND_PIECE,
  segmentOf,
} from "./filmPieces";

const settings = { ...defaultsOf(FILM_SETTINGS), framesPerSecond: 24 as const };
const SCENE = { marks: [], stretch: null };
const order = (change: Partial<FilmOrder> = {}): FilmOrder => ({
  settings,
  stretch: { fromS: 0, toS: 7 },
  title: "Quay",
  ...change,
});

describe("the order of a film", () => {
  it("is the stretch that is asked for, inside the tape", () => {
    expect(orderOf({ settings, title: "Quay" }, SCENE, 12)).toEqual(
      order({ stretch: { fromS: 0, toS: 12 } }),
    );
    expect(orderOf({ settings, title: "Quay", fromS: 3, toS: 40 }, SCENE, 12)).toEqual(
      order({ stretch: { fromS: 3, toS: 12 } }),
    );
  });

  it("says why there is none", () => {
    expect(orderOf({ settings, title: "", fromS: 13 }, SCENE, 12)).toContain("nothing between 13 and 12 s");
    expect(orderOf({ settings: { ...settings, stretch: "loop" }, title: "" }, SCENE, 12)).toContain("looped");
    expect(orderOf({ settings, title: "", part: { part: 7, parts: 7 } }, SCENE, 12)).toContain(
      "Part 7 of 7 has no frames: this film can be cut into 6 parts at most",
    );
  });
});

describe("the pieces of a film", () => {
  it("are segments of two seconds, and the sound, which goes with the first part", () => {
    expect(piecesOf(order()).names).toEqual(["sound-0", "frames-0", "frames-1", "frames-2", "frames-3"]);
    expect(piecesOf(order({ part: { part: 1, parts: 2 } })).names).toEqual([
      "sound-0",
      "frames-0",
      "frames-1",
    ]);
    expect(piecesOf(order({ part: { part: 2, parts: 2 } })).names).toEqual(["frames-2", "frames-3"]);
    expect(segmentOf("frames-12")).toBe(12);
    expect(segmentOf("sound-0")).toBeUndefined();
  });

  it("hold a WAV file in stretches of ten seconds", () => {
    const { names, plan } = piecesOf(
      order({ settings: { ...settings, format: "png" }, stretch: { fromS: 0, toS: 31 } }),
    );
    expect(names.filter((name) => name.startsWith("sound"))).toEqual([
      "sound-0",
      "sound-1",
      "sound-2",
      "sound-3",
    ]);
    expect(plan.samples).toBe(3 * SOUND_PIECE + 48_000);
  });

  it("are all there once among the parts of any film", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 90, noNaN: true }),
        fc.integer({ min: 1, max: 12 }),
        (toS, parts) => {
          const stretch = { fromS: 0, toS };
          const whole = piecesOf(order({ stretch })).names;
          const shared = Array.from({ length: parts }, (_none, i) =>
            piecesOf(order({ stretch, part: { part: i + 1, parts } })),
          );
          expect(shared.flatMap(({ names }) => names).toSorted()).toEqual(whole.toSorted());
          // The first part carries the sound, so it is never empty.
          expect(shared[0].segments.to).toBeGreaterThan(0);
        },
      ),
    );
  });
});

describe("frames and their sound", () => {
  const frames = order({ settings: { ...settings, format: "png" }, stretch: { fromS: 0, toS: 3 } });
  const pieceOf = (name: string): Uint8Array => {
    const segment = segmentOf(name);
    if (segment === undefined) {
      const ramp = Float32Array.from({ length: 144_000 }, (_none, i) => i / 288_000);
      return wavData([ramp, ramp.map((value) => -value)], FILM_WAV);
    }
    const { from, to } = piecesOf(frames).plan.segment(segment);
    return framesFile(
      Array.from({ length: to - from }, (_none, i) => Uint8Array.of(from + i)),
      from,
      "png",
    );
  };
  const assembled = async (film: FilmOrder) => {
    const written: Uint8Array[] = [];
    let end = 0;
    const lengths = await assembleFilm(
      film,
      async (name) => pieceOf(name),
      async (position, part) => {
        expect(position).toBe(end);
        end += part.length;
        written.push(part.slice());
      },
    );
    return { lengths, files: unzipSync(new Uint8Array(Buffer.concat(written))) };
  };

  it("come as one ZIP file, written from its beginning to its end", async () => {
    const { lengths, files } = await assembled(frames);
    expect(lengths).toEqual({ frames: 72, samples: 144_000 });
    expect(Object.keys(files)).toHaveLength(73);
    expect([...files["frames/000071.png"]]).toEqual([71]);
    const { channels, sampleRateHz } = readWav(files["sound.wav"]);
    expect([sampleRateHz, channels.length, channels[0].length]).toEqual([48_000, 2, 144_000]);
    expect(channels[1][100_000]).toBeCloseTo(-100_000 / 288_000, 5);
  });

  it("name the whole film in each part", async () => {
    const part = { ...frames, part: { part: 2, parts: 2 } };
    const { lengths, files } = await assembled(part);
    expect(lengths).toEqual({ frames: 24, samples: 0 });
    expect(files["sound.wav"]).toBeUndefined();
    expect(orderOfPart(Buffer.from(files["part.json"]).toString())).toEqual(part);
  });
});

describe("parts of a film", () => {
  const part = (one: number, change: Partial<FilmOrder> = {}) => ({
    path: `part-${one}`,
    order: order({ part: { part: one, parts: 3 }, ...change }),
  });

  it("are put in order", () => {
    expect(inOrderOfParts([part(3), part(1), part(2)]).map(({ path }) => path)).toEqual([
      "part-1",
      "part-2",
      "part-3",
    ]);
  });

  it("are refused when one is missing, there twice, or of another film", () => {
    expect(() => inOrderOfParts([part(3), part(1)])).toThrow("Part 2 of 3 is missing.");
    expect(() => inOrderOfParts([part(1), part(2), { ...part(2), path: "again" }, part(3)])).toThrow(
      "part-2 and again are the same part, 2 of 3.",
    );
    expect(() => inOrderOfParts([part(1), part(2, { title: "Other" }), part(3)])).toThrow(
      "part-2 is a part of another film than part-1.",
    );
  });

  it("are told from other files", () => {
    expect(orderOfPart(undefined)).toBeUndefined();
    expect(orderOfPart("A film of the quay")).toBeUndefined();
    expect(orderOfPart('{"made":"elsewhere"}')).toBeUndefined();
  });
});
