import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { eachCueOf, type Track, trackValueAt } from "@bumbrel/core/strand/track";
import type { Cue, Numbers, Strand } from "./types";

/** One of several by its name or its id. @throws RangeError that names those there are */
export function byName<T extends { id: string; name: string }>(all: readonly T[], name: string): T {
  const found = all.find((one) => one.name === name) ?? all.find((one) => one.id === name);
  if (found) return found;
  const names = all.map((one) => `"${one.name}"`).join(", ");
  throw new RangeError(`There is no strand "${name}". There are: ${names || "none"}.`);
}

class TrackStrand implements Strand {
  readonly id: string;
  readonly name: string;
  readonly width: number;
  private readonly track: Track;

  constructor(id: string, name: string, track: Track) {
    this.id = id;
    this.name = name;
    this.width = track.width;
    this.track = track;
  }

  at(timeS: number, band = 0): number {
    if (Number.isNaN(timeS)) throw new RangeError(`"${this.name}" is asked at a time that is no number.`);
    if (!(band >= 0 && band <= this.width - 1))
      throw new RangeError(
        `"${this.name}" has ${this.width} ${this.width === 1 ? "number" : "bands"}, from 0 to ${this.width - 1}; there is no ${band}.`,
      );
    return trackValueAt(this.track, timeS, band);
  }

  fill(timeS: number, out: Float32Array): void {
    for (let band = 0; band < this.width; band++) out[band] = trackValueAt(this.track, timeS, band);
  }

  eachCue(fromS: number, toS: number, take: (cue: Cue) => void): void {
    eachCueOf(this.track, fromS, toS, ({ strength }, timeS) => take({ timeS, strength }));
  }
}

/** Numbers from tracks. */
export function numbersOf(
  tracks: readonly { id: string; name: string; track: Track }[],
  lengthS = Math.max(
    0,
    ...tracks.map(({ track: { values, width } }) => values.length / width / FRAME_RATE_HZ),
  ),
): Numbers {
  const strands = tracks.map(({ id, name, track }) => new TrackStrand(id, name, track));
  return { strands, lengthS, strand: (name) => byName(strands, name) };
}
