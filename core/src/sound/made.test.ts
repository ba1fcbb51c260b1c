import { describe, expect, it } from "@jest/globals";
import { parseScene } from "../check/readScene";
import { newScene } from "../kinds/create";
import { DirectSpectra } from "../strand/hearing/spectra";
import { measureSound } from "../strand/measures/table";
import { isMadeKey, samplesKey } from "./key";
import { type MadeSound, newSoundBasics } from "./kinds";
import { makeSound } from "./made";

const basics = { ...newSoundBasics("tone", "Horn"), on: true, seconds: 1, levelDb: -6 };
const tone: Extract<MadeSound, { kind: "tone" }> = {
  ...basics,
  kind: "tone",
  waveform: "sine",
  hz: 500,
  toHz: null,
  sweep: "logarithmic",
};
const noise: Extract<MadeSound, { kind: "noise" }> = {
  ...basics,
  id: "noise",
  kind: "noise",
  colour: "pink",
  seed: 4,
};

describe("made sounds", () => {
  it("belong in a scene", () => {
    const scene = { ...newScene("Quay"), sounds: [tone, noise] };
    expect(parseScene(scene).sounds).toEqual([tone, noise]);
    expect(() => parseScene({ ...scene, sounds: [{ ...tone, hz: 30_000 }] })).toThrow(
      /<= 23000, but is 30000/,
    );
    expect(() => parseScene({ ...scene, sounds: [{ ...noise, colour: "beige" }] })).toThrow(
      /one of white, pink, brown/,
    );
  });

  it("read at the level they say", () => {
    const samples = makeSound(tone);
    expect(samples).toHaveLength(48_000);
    const band = { kind: "band", lowHz: 300, highHz: 800, fftSize: 2048, window: "hann" } as const;
    expect(20 * Math.log10(measureSound({ samples }, band, new DirectSpectra())[50])).toBeCloseTo(-6, 2);
    const sweep = makeSound({ ...tone, toHz: 8000 });
    const levels = measureSound({ samples: sweep }, band, new DirectSpectra());
    expect(levels[5]).toBeGreaterThan(0.4);
    expect(levels[80]).toBeLessThan(0.01);
  });

  it("have one key for the same samples and another for others", () => {
    expect(samplesKey({ ...tone, id: "other", name: "Other", faderDb: -9, heard: false })).toBe(
      samplesKey(tone),
    );
    const changes: Partial<typeof tone>[] = [
      { hz: 501 },
      { seconds: 2 },
      { levelDb: 0 },
      { toHz: 900 },
      { waveform: "square" },
      { on: false },
    ];
    expect(
      new Set([tone, ...changes.map((change) => ({ ...tone, ...change }) as MadeSound)].map(samplesKey)).size,
    ).toBe(7);
    expect(samplesKey({ ...noise, seed: 5 })).not.toBe(samplesKey(noise));
    const file = { ...newSoundBasics("f", "F"), kind: "file", storedId: "abc" } as const;
    expect(samplesKey(file)).toBe("abc");
    expect([isMadeKey("abc"), isMadeKey(samplesKey(tone)!), isMadeKey(samplesKey(noise)!)]).toEqual([
      false,
      true,
      true,
    ]);
    expect(makeSound(noise)).toEqual(makeSound({ ...noise, id: "other" }));
  });
});
