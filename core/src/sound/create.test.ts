import { describe, expect, it } from "@jest/globals";
import { parseScene } from "../check/readScene";
import { newScene } from "../kinds/create";
import { ADDED_KINDS, acceptedFiles, newSound } from "./create";
import { SOUND_KIND_NAMES, soundKind } from "./kinds";

describe("a new sound", () => {
  it.each(ADDED_KINDS)("of each kind is a valid part of a scene, as its table says: %s", (kind) => {
    const scene = newScene("Quay");
    scene.sounds.push(newSound(kind, "it", "It"));
    const [sound] = parseScene(scene).sounds;
    expect(sound.heard).toBe(soundKind(kind).heardAtFirst);
    expect(Object.keys(sound)).toEqual(expect.arrayContaining(Object.keys(soundKind(kind).settings)));
  });
});

describe("the file chooser", () => {
  it("accepts the files of every stored kind, and names each format once", () => {
    const { accept, words } = acceptedFiles();
    for (const kind of SOUND_KIND_NAMES) {
      const { origin, files } = soundKind(kind);
      expect(files !== undefined).toBe(origin === "stored");
      for (const extension of files?.extensions ?? []) expect(accept.split(",")).toContain(extension);
    }
    expect(words).toMatch(/^WAV, .*MIDI or CSV$/);
  });
});
