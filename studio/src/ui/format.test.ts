import { describe, expect, it } from "@jest/globals";
import { formatBytes, formatDb, formatHz, formatLength, formatTime, noteName } from "./format";

describe("figures as people read them", () => {
  it.each([
    [0, "0 bytes"],
    [999, "999 bytes"],
    [1000, "1.0 kB"],
    [1_536_000, "1.5 MB"],
    [123_456_789, "123 MB"],
    [5e15, "5000 TB"],
  ])("writes %d bytes as %s", (bytes, text) => expect(formatBytes(bytes)).toBe(text));

  it.each([
    [27.5, "27.5 Hz"],
    [99.96, "100.0 Hz"],
    [440, "440 Hz"],
    [1250, "1.25 kHz"],
    [12_345, "12.3 kHz"],
  ])("writes %d Hz as %s", (hz, text) => expect(formatHz(hz)).toBe(text));

  it.each([
    [27.5, "A0"],
    [261.6256, "C4"],
    [440, "A4"],
    [466.1638, "A♯4"],
    [4186.009, "C8"],
    [8.1758, "C-1"],
  ])("names %d Hz %s", (hz, note) => expect(noteName(hz)).toBe(note));

  it.each([
    [1, "0.0 dB"],
    [0.1, "−20.0 dB"],
    [2, "6.0 dB"],
    [0, "−∞ dB"],
    [Number.NaN, "−∞ dB"],
  ])("writes a level of %d as %s", (level, text) => expect(formatDb(level)).toBe(text));

  it("writes times that go on without jumping", () => {
    expect([0, 0.05, 9.96, 59.99, 60, 3599.9].map(formatTime)).toEqual([
      "0:00.0",
      "0:00.0",
      "0:09.9",
      "0:59.9",
      "1:00.0",
      "59:59.9",
    ]);
    expect([0, 48, 59.6, 3600].map(formatLength)).toEqual(["0:00", "0:48", "1:00", "60:00"]);
  });
});
