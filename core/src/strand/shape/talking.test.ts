import { describe, expect, it } from "@jest/globals";
import { seededRandom } from "../../dsp/maths/random";
import { changeShaping, defaultShaping, shape } from "./shaping";
import { talkingIn } from "./talking";

/** Levels of a room: around a level in dBFS, up and down by 2 dB. */
function room(levelDb: number, seconds: number, seed = 1): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from({ length: seconds * 100 }, () => 10 ** ((levelDb + 4 * random() - 2) / 20));
}

/** A room with words in it: a second of talking at a level, a second of pause, and again. */
function talk(roomDb: number, voiceDb: number): Float32Array {
  const levels = room(roomDb, 6, 2);
  return levels.map((level, i) =>
    Math.floor(i / 100) % 2 === 1 ? Math.max(level, 10 ** (voiceDb / 20)) : level,
  );
}

describe("a talking voice", () => {
  it.each([-70, -55, -40])(
    "is open while somebody talks and closed in pauses, in a room at %d dBFS",
    (roomDb) => {
      const { noiseDb, shaping: change } = talkingIn(room(roomDb, 3));
      expect(Math.abs(noiseDb - roomDb)).toBeLessThan(2.5);
      const shaping = defaultShaping("level");
      changeShaping(shaping, change);
      const shaped = shape(talk(roomDb, -16), shaping);
      const mean = (fromS: number, toS: number) => {
        const part = shaped.subarray(fromS * 100, toS * 100);
        return part.reduce((sum, one) => sum + one, 0) / part.length;
      };
      expect(mean(0.2, 1)).toBe(0);
      expect(mean(1.3, 1.9)).toBeGreaterThan(0.5);
      expect(mean(3.3, 3.9)).toBeGreaterThan(0.5);
      // A pause closes it within the time of its release.
      expect(mean(2.8, 3)).toBeLessThan(0.15);
    },
  );

  it("takes digital silence for a very quiet room", () => {
    const { noiseDb, shaping } = talkingIn(new Float32Array(300));
    expect(noiseDb).toBe(-75);
    expect(shaping.window?.floorDb).toBe(-72);
  });
});
