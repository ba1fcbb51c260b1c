import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { AssetFormatError } from "../errors";
import { readImage, svgSize } from "./image";
import { readModel } from "./model";

const bytes = (...parts: (string | number[])[]) =>
  Uint8Array.from(
    parts.flatMap((part) => (typeof part === "string" ? [...part].map((c) => c.charCodeAt(0)) : part)),
  );
const big = (n: number) => [n >>> 24, (n >>> 16) & 255, (n >>> 8) & 255, n & 255];
const png = (width: number, height: number) =>
  bytes([0x89], "PNG\r\n", [0x1a, 0x0a], big(13), "IHDR", big(width), big(height), [8, 6, 0, 0, 0]);

const bytesOf = (text: string) => new TextEncoder().encode(text);

describe("images", () => {
  it("tell their kind and size", () => {
    expect(readImage(png(640, 480), "a")).toEqual({ format: "png", widthPx: 640, heightPx: 480 });
    const jpeg = bytes([
      0xff, 0xd8, 0xff, 0xe0, 0, 4, 1, 2, 0xff, 0xc4, 0, 3, 9, 0xff, 0xc2, 0, 11, 8, 1, 0x2c, 2, 0x58, 3,
    ]);
    expect(readImage(jpeg, "b")).toEqual({ format: "jpeg", widthPx: 600, heightPx: 300 });
    const extended = bytes("RIFF", [0, 0, 0, 0], "WEBPVP8X", [10, 0, 0, 0, 0, 0, 0, 0, 99, 0, 0, 49, 0, 0]);
    expect(readImage(extended, "c")).toEqual({ format: "webp", widthPx: 100, heightPx: 50 });
    const lossless = bytes("RIFF", [0, 0, 0, 0], "WEBPVP8L", [9, 0, 0, 0, 0x2f, 0x63, 0x40, 0x0c, 0]);
    expect(readImage(lossless, "d")).toEqual({ format: "webp", widthPx: 100, heightPx: 50 });
  });

  it.each([
    ["something else", bytes("GIF89a and more of it"), "image-unknown"],
    ["nothing", new Uint8Array(0), "image-unknown"],
    ["one cut short", png(4, 4).slice(0, 18), "image-cut-short"],
    ["a JPEG without a frame", bytes([0xff, 0xd8, 0xff, 0xe0, 0, 4, 1, 2]), "image-cut-short"],
    ["one far too large", png(20_000, 20_000), "image-too-large"],
    ["one without pixels", png(0, 9), "image-empty"],
  ])("refuse %s with a word of what to do", (_name, file, code) => {
    try {
      readImage(file, "lantern.png");
      throw new Error("it was taken");
    } catch (error) {
      expect(error).toBeInstanceOf(AssetFormatError);
      expect(error).toMatchObject({ code, where: "lantern.png" });
      expect((error as AssetFormatError).remedy.length).toBeGreaterThan(10);
    }
  });

  it("never fail in another way, whatever the bytes", () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 60 }),
        fc.constantFrom(png(3, 3), bytes([0xff, 0xd8, 0xff])),
        (noise, start) => {
          try {
            readImage(Uint8Array.from([...start.slice(0, noise.length % 20), ...noise]), "x");
          } catch (error) {
            expect(error).toBeInstanceOf(AssetFormatError);
          }
        },
      ),
    );
  });

  it("read an SVG's size from its width and height or its view box", () => {
    expect(svgSize(bytesOf('<?xml version="1.0"?><svg width="40px" height="20" viewBox="0 0 4 2">'))).toEqual(
      {
        width: 40,
        height: 20,
      },
    );
    expect(svgSize(bytesOf('<svg viewBox="0 0 300 150">'))).toEqual({ width: 300, height: 150 });
    expect(svgSize(bytesOf("<svg>"))).toBeUndefined();
    expect(
      svgSize(bytesOf(`<!-- <svgs> -->\n<svg  width="7" height="9"><svg width="1" height="1"/>`)),
    ).toEqual({
      width: 7,
      height: 9,
    });
  });

  it("read an SVG's size at once, however many tags are left open in it", () => {
    const before = performance.now();
    expect(svgSize(bytesOf("<svg ".repeat(60_000)))).toBeUndefined();
    expect(svgSize(bytesOf(`<svg viewBox="0 0 3 4">${"<svg ".repeat(60_000)}`))).toEqual({
      width: 3,
      height: 4,
    });
    // A generous bound: it took 39 seconds.
    expect(performance.now() - before).toBeLessThan(2000);
  });
});

/** A binary glTF of a description and some bytes. */
function glb(json: object | string, binary = new Uint8Array(36)): Uint8Array {
  const text = (typeof json === "string" ? json : JSON.stringify(json)).padEnd(
    Math.ceil(JSON.stringify(json).length / 4) * 4,
  );
  const little = (n: number) => [...big(n)].reverse();
  const chunks = [
    ...little(text.length),
    ...bytes("JSON"),
    ...bytes(text),
    ...little(binary.length),
    ...bytes("BIN\0"),
    ...binary,
  ];
  return Uint8Array.from([...bytes("glTF"), ...little(2), ...little(12 + chunks.length), ...chunks]);
}
const TRIANGLE = {
  asset: { version: "2.0" },
  nodes: [{ name: "Hull", mesh: 0 }, { mesh: 0 }, { name: "Empty" }],
  meshes: [{ name: "Sail", primitives: [{ attributes: { POSITION: 0 } }] }],
  accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: "VEC3" }],
  bufferViews: [{ buffer: 0, byteLength: 36 }],
  buffers: [{ byteLength: 36 }],
};

describe("models", () => {
  it("tell their parts and triangles", async () => {
    expect(await readModel(glb(TRIANGLE), "boat.glb")).toEqual({ parts: ["Hull", "Sail"], triangles: 2 });
  });

  it.each<[string, Uint8Array, string]>([
    ["something else", bytes("PK and a good deal more than twenty bytes"), "model-unknown"],
    ["a description by itself", bytes('{"asset":{"version":"2.0"},"nodes":[]}   '), "model-not-binary"],
    ["one cut short", glb(TRIANGLE).slice(0, -20), "model-cut-short"],
    ["an older version", Uint8Array.from(glb(TRIANGLE), (b, i) => (i === 4 ? 1 : b)), "model-version"],
    ["broken JSON", glb('{"nodes": [}'), "model-not-json"],
    [
      "links to elsewhere",
      glb({ ...TRIANGLE, images: [{ uri: "https://example.invalid/a.png" }] }),
      "model-fetches",
    ],
    [
      "data past its end",
      glb({ ...TRIANGLE, bufferViews: [{ buffer: 0, byteOffset: 8, byteLength: 36 }] }),
      "model-out-of-bounds",
    ],
    [
      "a part in itself",
      glb({ ...TRIANGLE, nodes: [{ mesh: 0, children: [1] }, { children: [0] }] }),
      "model-loops",
    ],
    [
      "compression",
      glb({ ...TRIANGLE, extensionsRequired: ["KHR_draco_mesh_compression"] }),
      "model-extension",
    ],
    ["nothing to see", glb({ ...TRIANGLE, nodes: [{ name: "Empty" }] }), "model-empty"],
    [
      "more numbers than it has bytes for",
      glb({ ...TRIANGLE, accessors: [{ ...TRIANGLE.accessors[0], count: 4e6 }] }),
      "model-out-of-bounds",
    ],
    [
      "billions of zeros that take no bytes in the file",
      glb({ ...TRIANGLE, accessors: [{ componentType: 5126, count: 4e8, type: "MAT4" }] }),
      "model-out-of-bounds",
    ],
    [
      "numbers of a kind that there is none of",
      glb({ ...TRIANGLE, accessors: [{ ...TRIANGLE.accessors[0], componentType: 7 }] }),
      "model-out-of-bounds",
    ],
    [
      "a list that begins within its part of the data and ends behind it",
      glb({ ...TRIANGLE, accessors: [{ ...TRIANGLE.accessors[0], byteOffset: 4 }] }),
      "model-out-of-bounds",
    ],
  ])("refuse %s", async (_name, file, code) => {
    await expect(readModel(file, "boat.glb")).rejects.toMatchObject({ code, where: "boat.glb" });
  });

  it("never fail in another way when bytes are damaged", async () => {
    const whole = glb(TRIANGLE);
    await fc.assert(
      fc.asyncProperty(
        fc.nat(whole.length - 1),
        fc.nat(255),
        fc.nat(whole.length),
        async (at, value, length) => {
          const damaged = whole.slice(0, Math.max(length, 1));
          if (at < damaged.length) damaged[at] = value;
          try {
            await readModel(damaged, "x");
          } catch (error) {
            expect(error).toBeInstanceOf(AssetFormatError);
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});
