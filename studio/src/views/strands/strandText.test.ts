import { fanWidth, partsListenedTo } from "@bumbrel/core/document/strands/listening";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURE_KINDS, MEASURES } from "@bumbrel/core/strand/measures/table";
import { describe, expect, it } from "@jest/globals";
import { drivenBy, formatRaw, MEASURE_GROUPS, measureText, sourceText } from "./strandText";

function quay() {
  const scene = newScene("Quay");
  scene.sounds.push(
    { ...newSoundBasics("song", "Song"), kind: "file", storedId: "s" },
    { ...newSoundBasics("figures", "Figures"), kind: "table", storedId: "t" },
  );
  scene.buses.push({ id: "band", name: "Band", faderDb: 0, pan: 0, muted: false });
  scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "sound", id: "song", tap: "before" }));
  scene.objects.push(newObject("lantern", "sphere", "Lantern"));
  return scene;
}

describe("a strand in words", () => {
  it.each([
    ["level", 0.5, "−6.0 dB"],
    ["level", 0, "−∞ dB"],
    ["loudness", 0.1, "−20.0 LUFS"],
    ["hz", 84.25, "84.3 Hz"],
    ["hz", 0, "none"],
    ["strength", 0.12345, "0.123"],
    ["share", 0.12345, "0.12"],
  ] as const)("has a raw number of unit %s, %d, as %s", (unit, raw, text) => {
    expect(formatRaw(unit, raw)).toBe(text);
  });

  it("names its source, even one that is gone", () => {
    const scene = quay();
    const [kick] = scene.strands;
    const says = (listensTo: typeof kick.listensTo) => sourceText(scene, { ...kick, listensTo });
    expect(says(kick.listensTo)).toBe("Song");
    expect(says({ kind: "sound", id: "x", tap: "before" })).toBe("a sound that is gone");
    expect(says({ kind: "bus", id: "band", tap: "after" })).toBe("Band (bus)");
    expect(says({ kind: "bus", id: "x", tap: "after" })).toBe("gone (bus)");
    expect(says({ kind: "strands", ids: ["kick", "x"] })).toBe("Kick, gone");
    expect(says({ kind: "strands", ids: [] })).toBe("no strands yet");
    expect(says({ kind: "nothing" })).toBe("nothing");
  });

  it("names its measure, with its range or its bands", () => {
    const scene = quay();
    const says = (measure: (typeof scene.strands)[0]["measure"]) =>
      measureText({ ...scene.strands[0], measure });
    expect(says({ ...MEASURES.band.defaults, lowHz: 84, highHz: 1250 })).toBe("Band 84.0 Hz to 1.25 kHz");
    expect(says(MEASURES.rms.defaults)).toBe("RMS");
    const fan = { ...MEASURES.fan.defaults, layout: "mel" as const, bands: 12 };
    expect(says(fan)).toBe("Fan of 12 bands");
    // While a range is typed it may be upside down.
    expect(fanWidth({ ...fan, lowHz: 900, highHz: 90 })).toBe(0);
    expect(says({ ...fan, lowHz: 900, highHz: 90 })).toBe("Fan of 0 bands");
  });

  it("names its targets by their present names", () => {
    const scene = quay();
    const lantern = scene.objects.find(({ id }) => id === "lantern")!;
    scene.bindings.push(
      newBinding("b1", "kick", lantern, "radius"),
      { ...newBinding("b2", "kick", lantern, "colour"), property: "wings" },
      { ...newBinding("b3", "kick", lantern, "radius"), objectId: "gone" },
      { ...newBinding("b4", "other", lantern, "radius") },
    );
    expect(drivenBy(scene, "kick").map(({ text }) => text)).toEqual(["Lantern · Radius"]);
    lantern.name = "Ferry light";
    expect(drivenBy(scene, "kick").map(({ text }) => text)).toEqual(["Ferry light · Radius"]);
  });

  it("can be given each measure there is, in one group each", () => {
    expect(MEASURE_GROUPS.flatMap(([, kinds]) => kinds).sort()).toEqual([...MEASURE_KINDS].sort());
  });

  it("is offered the measures of its sound; a strand without a source, those of files", () => {
    const scene = quay();
    const [kick] = scene.strands;
    const offers = (listensTo: typeof kick.listensTo) => [...partsListenedTo(scene, { ...kick, listensTo })];
    expect(offers({ kind: "sound", id: "figures", tap: "before" })).toEqual(["columns"]);
    expect(offers({ kind: "bus", id: "band", tap: "before" })).toEqual(["samples"]);
    expect(offers({ kind: "strands", ids: [] })).toEqual(["strands"]);
    expect(offers({ kind: "nothing" })).toEqual(["samples"]);
  });
});
