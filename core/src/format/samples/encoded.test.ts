import { describe, expect, it } from "@jest/globals";
import { encodedFormatOf } from "./encoded";
import { writeWav } from "./wav";

const bytes = (...parts: (string | number[])[]) =>
  Uint8Array.from(
    parts.flatMap((part) => (typeof part === "string" ? [...part].map((c) => c.charCodeAt(0)) : part)),
  );

describe("the format of an encoded sound", () => {
  it.each([
    ["ogg", bytes("OggS", [0, 2])],
    ["flac", bytes("fLaC", [0])],
    ["mp3", bytes("ID3", [4, 0])],
    // MPEG-1 layer 3, 128 kbit/s, 44.1 kHz, without a tag before it.
    ["mp3", bytes([0xff, 0xfb, 0x90, 0x64])],
    ["mp4", bytes([0, 0, 0, 0x20], "ftypM4A ")],
    ["webm", bytes([0x1a, 0x45, 0xdf, 0xa3])],
  ])("is known by its first bytes: %s", (format, start) => {
    expect(encodedFormatOf(start)).toBe(format);
  });

  it("is none for WAV, MIDI, text and nothing", () => {
    expect(encodedFormatOf(writeWav([new Float32Array(4)], 48_000, "float32"))).toBeUndefined();
    for (const other of [bytes("MThd"), bytes("time_s,a"), new Uint8Array(0)]) {
      expect(encodedFormatOf(other)).toBeUndefined();
    }
  });
});
