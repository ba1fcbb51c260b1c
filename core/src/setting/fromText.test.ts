import { describe, expect, it } from "@jest/globals";
import { choice, number, numberChoice, reference, text, toggle, vector, whole } from "./descriptor";
import { settingFromText, settingsFromTexts } from "./fromText";

const SETTINGS = {
  on: toggle("On", false, "Switch."),
  kind: choice("Kind", { round: "round", square: "square" }, "round", "Shape."),
  fps: numberChoice("Rate", [24, 60], 24, "Rate."),
  share: number("Share", "", [0, 1, 0.1], 0.5, "Share."),
  count: whole("Count", [1, 8], 2, "Count."),
  title: text("Title", "", "Title.", 5),
  strandId: reference("Strand", "strand", "Strand."),
};

describe("settings from texts", () => {
  it("are values of their types; the others have their defaults", () => {
    expect(
      settingsFromTexts(SETTINGS, {
        on: "yes",
        kind: "square",
        fps: "60",
        share: "0.25",
        title: "Quay",
        strandId: "s1",
      }),
    ).toEqual({ on: true, kind: "square", fps: 60, share: 0.25, count: 2, title: "Quay", strandId: "s1" });
    expect(settingsFromTexts(SETTINGS, { on: undefined, strandId: "" }).strandId).toBeNull();
  });

  it.each([
    ["on", "perhaps", /on must be on or off/],
    ["kind", "long", /kind must be round, square, not "long"/],
    ["fps", "25", /fps must be 24, 60/],
    ["share", "2", /share must be from 0 to 1/],
    ["share", "", /share must be/],
    ["share", "NaN", /share must be/],
    ["count", "1.5", /a whole number from 1 to 8/],
    ["title", "Harbour", /at most 5 characters/],
    ["colour", "red", /there is no colour; there are on, kind/],
    ["toString", "x", /there is no toString/],
  ])("say what they may be: %s = %s", (key, written, message) => {
    expect(() => settingsFromTexts(SETTINGS, { [key]: written })).toThrow(message);
  });

  it("are not read where a text cannot say them", () => {
    expect(() => settingFromText(vector("Place", "m", [-1, 1, 0.1], [0, 0, 0], "Place."), "1")).toThrow(
      /text/,
    );
  });
});
