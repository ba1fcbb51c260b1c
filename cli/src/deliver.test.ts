import { MADE_WAYS } from "@bumbrel/api/waysOut";
import { describe, expect, it } from "@jest/globals";
import { bumbrel } from "./testing";

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
