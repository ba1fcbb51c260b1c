import { FRAME_RATE_HZ } from "../constants";
import type { Scene, Strand } from "../document/scene";
import { CuePicker } from "../strand/cues";
import { type FrameStep, shaper } from "../strand/shaping";
import { liveTrack, type Track } from "../strand/track";

interface Reading {
  strand: Strand;
  track: ReturnType<typeof liveTrack> & Track;
  /** Everything it has read, before shaping. */
  raw: Float32Array;
  shape: FrameStep;
  picker: CuePicker | undefined;
  cues: { timeS: number; strength: number }[];
}

/**
 * Strands that read how full a zone is. Their numbers come as the simulation goes on, 100 times a second; after a seek they
 * are shaped again from all that was read before.
 */
export class ZoneStrands {
  /** Frames that have been read. */
  count = 0;
  private readonly readings: Reading[];
  private readonly one = new Float32Array(1);

  constructor(scene: Scene) {
    this.readings = scene.strands
      .filter(({ listensTo }) => listensTo.kind === "zone")
      .map((strand) => ({ strand, raw: new Float32Array(1024), ...fresh(strand) }));
  }

  get isEmpty(): boolean {
    return this.readings.length === 0;
  }

  /** The track of a strand that reads a zone. */
  trackOf(strandId: string): Track | undefined {
    return this.readings.find(({ strand }) => strand.id === strandId)?.track;
  }

  /**
   * Reads all frames up to a time.
   *
   * @param fullness  of a zone, 0..1
   */
  readUpTo(timeS: number, fullness: (zoneId: string) => number): void {
    while (this.count / FRAME_RATE_HZ <= timeS + 1e-9) {
      for (const reading of this.readings) {
        const { listensTo } = reading.strand;
        const value = listensTo.kind === "zone" ? fullness(listensTo.id) : 0;
        if (this.count >= reading.raw.length) {
          const larger = new Float32Array(reading.raw.length * 2);
          larger.set(reading.raw);
          reading.raw = larger;
        }
        reading.raw[this.count] = value;
        this.take(reading, value, this.count);
      }
      this.count++;
    }
  }

  private take(reading: Reading, value: number, frame: number): void {
    const { track, shape, picker, cues } = reading;
    this.one[0] = value;
    shape(this.one, 0);
    const { newest, values } = track;
    values[frame % values.length] = this.one[0];
    newest.count = frame + 1;
    newest.timeS = frame / FRAME_RATE_HZ;
    const cue = picker?.push(this.one[0]);
    if (cue) cues.push(cue);
  }

  /** Goes back to when so many frames had been read. */
  restore(count: number): void {
    for (const reading of this.readings) {
      Object.assign(reading, fresh(reading.strand, reading.track));
      for (let frame = 0; frame < count; frame++) this.take(reading, reading.raw[frame], frame);
    }
    this.count = count;
  }
}

function fresh(strand: Strand, track = liveTrack(1) as Reading["track"]): Omit<Reading, "strand" | "raw"> {
  const cues: Reading["cues"] = [];
  track.newest.count = 0;
  track.newest.timeS = 0;
  track.cues = cues;
  const picker = strand.cues.on ? new CuePicker(strand.cues) : undefined;
  return { track, shape: shaper(strand.shaping), picker, cues };
}
