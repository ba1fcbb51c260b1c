import { FRAME_RATE_HZ } from "../../constants";
import type { Scene, Strand } from "../../document/scene";
import { inMakingOrder, readsZone, tuningOf } from "../../document/strands/strands";
import type { Cue } from "../../sound/cue";
import { CombinedLive, ZoneLive } from "../../strand/hearing/live";
import { type LiveTrack, liveTrack, type Track } from "../../strand/track";

/** A strand's numbers before and after shaping, and its cues, as far as they have come. */
export interface StrandRecord {
  raw: LiveTrack;
  track: LiveTrack;
  cues: readonly Cue[];
}

interface Reading {
  strand: Strand;
  numbers: ZoneLive | CombinedLive;
  record: StrandRecord & { cues: Cue[] };
  /** Every frame that was read, before shaping. */
  all: Float32Array;
  cueCount: number;
}

/**
 * Strands that read how full a zone is, and strands made of such. Their numbers come as the simulation goes on, 100 times a
 * second; after a seek they are shaped again from all that was read before.
 */
export class ZoneStrands {
  /** Frames that have been read. */
  count = 0;
  private readonly scene: Scene;
  private readonly trackOfOther: (strandId: string) => Track | undefined;
  private readonly readings: Reading[];

  /** @param trackOfOther  tracks of the strands that read no zone */
  constructor(scene: Scene, trackOfOther: (strandId: string) => Track | undefined) {
    this.scene = scene;
    this.trackOfOther = trackOfOther;
    this.readings = inMakingOrder(scene)
      .filter((strand) => readsZone(scene, strand))
      .map((strand) => ({
        strand,
        numbers: this.numbersOf(strand),
        record: emptyRecord(1),
        all: new Float32Array(1024),
        cueCount: 0,
      }));
  }

  get isEmpty(): boolean {
    return this.readings.length === 0;
  }

  private numbersOf(strand: Strand): ZoneLive | CombinedLive {
    const tuning = tuningOf(this.scene, strand);
    return strand.listensTo.kind === "zone" ? new ZoneLive(tuning) : new CombinedLive(tuning);
  }

  /** The track of a strand that reads a zone, or is made of one that does. */
  trackOf(strandId: string): Track | undefined {
    return this.recordOf(strandId)?.track;
  }

  /** The numbers and cues of such a strand so far. */
  recordOf(strandId: string): StrandRecord | undefined {
    const reading = this.readings.find(({ strand }) => strand.id === strandId);
    if (!reading) return undefined;
    this.prepare(reading);
    return reading.record;
  }

  /**
   * Gives a reading room for as many numbers as its sources make.
   *
   * @returns the tracks it is made of, none for one that reads a zone itself; `undefined` while one of them is missing
   */
  private prepare(reading: Reading): Track[] | undefined {
    const { strand, numbers } = reading;
    if (numbers instanceof ZoneLive) return [];
    const ids = strand.listensTo.kind === "strands" ? strand.listensTo.ids : [];
    const sources = ids.flatMap((id) => this.trackOf(id) ?? this.trackOfOther(id) ?? []);
    if (ids.length === 0 || sources.length < ids.length || !numbers.madeOf(sources)) return undefined;
    const { width } = numbers.track;
    if (width !== reading.record.track.width) {
      reading.record = emptyRecord(width);
      reading.all = new Float32Array(1024 * width);
    }
    return sources;
  }

  /**
   * Reads all frames up to a time.
   *
   * @param fullness  of a zone, 0..1
   */
  readUpTo(timeS: number, fullness: (zoneId: string) => number): void {
    while (this.count / FRAME_RATE_HZ <= timeS + 1e-9) {
      for (const reading of this.readings) {
        const sources = this.prepare(reading);
        if (!sources) continue;
        const { numbers, strand } = reading;
        if (numbers instanceof CombinedLive) numbers.readStrands(sources, this.count / FRAME_RATE_HZ);
        else if (strand.listensTo.kind === "zone") numbers.readFullness(fullness(strand.listensTo.id));
        this.keep(reading, this.count);
      }
      this.count++;
    }
  }

  /** Writes down the frame that was read last. */
  private keep(reading: Reading, frame: number): void {
    const { numbers, record } = reading;
    const { width } = record.track;
    if ((frame + 1) * width > reading.all.length) {
      const larger = new Float32Array(reading.all.length * 2);
      larger.set(reading.all);
      reading.all = larger;
    }
    reading.all.set(numbers.raw, frame * width);
    for (const [track, values] of [
      [record.raw, numbers.raw],
      [record.track, numbers.track.values],
    ] as const) {
      const { newest } = track;
      track.values.set(values, (frame * width) % track.values.length);
      newest.count = frame + 1;
      newest.timeS = frame / FRAME_RATE_HZ;
    }
    if (numbers.cueCount === reading.cueCount || !numbers.lastCue) return;
    reading.cueCount = numbers.cueCount;
    record.cues.push(numbers.lastCue);
  }

  /** Goes back to when so many frames had been read. */
  restore(count: number): void {
    for (const reading of this.readings) {
      const { record, all, strand } = reading;
      reading.numbers = this.numbersOf(strand);
      reading.cueCount = 0;
      record.cues.length = 0;
      for (const { newest } of [record.raw, record.track]) Object.assign(newest, { count: 0, timeS: 0 });
      if (!this.prepare(reading)) continue;
      const { width } = record.track;
      for (let frame = 0; frame < count; frame++) {
        reading.numbers.takeAgain(all, frame * width);
        this.keep(reading, frame);
      }
    }
    this.count = count;
  }
}

function emptyRecord(width: number): Reading["record"] {
  const cues: Cue[] = [];
  const track = liveTrack(width);
  track.cues = cues;
  return { raw: liveTrack(width), track, cues };
}
