import { openWav, writeWav } from "@bumbrel/core/format/samples/wav";
import { afterEach, describe, expect, it, jest } from "@jest/globals";
import { storedBytes } from "./storedBytes";

/** A server that gives parts of a file as HTTP has it. */
function serve(bytes: Uint8Array, status = 206): string[] {
  const asked: string[] = [];
  globalThis.fetch = jest.fn(async (_url: unknown, options?: RequestInit) => {
    const range = (options!.headers as Record<string, string>).Range;
    asked.push(range);
    const [, first, last] = /bytes=(\d+)-(\d+)/.exec(range)!.map(Number);
    const part = bytes.slice(first, last + 1);
    const headers = { "Content-Range": `bytes ${first}-${first + part.length - 1}/${bytes.length}` };
    return new Response(status === 206 ? part : null, { status, headers });
  }) as unknown as typeof fetch;
  return asked;
}
const before = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = before;
});

describe("storedBytes", () => {
  it("fetches a small file at once and a large one in the parts that are asked for", async () => {
    const small = writeWav([Float32Array.from({ length: 1000 }, (_, i) => i / 1000)], 48_000);
    let asked = serve(small);
    const wav = await openWav(await storedBytes("/small"));
    expect((await wav.read(0, 1000))[0][500]).toBeCloseTo(0.5, 4);
    expect(asked).toHaveLength(1);

    const large = Uint8Array.from({ length: 700_000 }, (_, i) => i % 251);
    asked = serve(large);
    const source = await storedBytes("/large");
    expect(source.size).toBe(700_000);
    expect(await source.read(500_000, 3)).toEqual(large.slice(500_000, 500_003));
    expect(await source.read(10, 2)).toEqual(large.slice(10, 12));
    expect(await source.read(10, 0)).toHaveLength(0);
    expect(asked).toEqual(["bytes=0-262143", "bytes=500000-500002"]);
  });

  it("says so when the server does not give it", async () => {
    serve(new Uint8Array(10), 404);
    await expect(storedBytes("/gone")).rejects.toThrow("not stored any more");
  });
});
