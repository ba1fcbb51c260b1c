import { FRAME_RATE_HZ } from "../constants";
import { CombinedLive, LiveListening, LiveStrand as Reader } from "../strand/hearing/live";
import { windowLatencyS } from "../strand/measures/table";
import type { NumbersPlan, PlannedStrand } from "./planned";

/** A strand that is heard as it happens. */
export class HeardStrand {
  readonly id: string;
  readonly name: string;
  readonly latencyS: number;
  readonly reader: Reader | CombinedLive;

  constructor({ id, name, measure, part }: PlannedStrand, reader: Reader | CombinedLive) {
    this.id = id;
    this.name = name;
    this.latencyS = windowLatencyS(measure, part);
    this.reader = reader;
  }

  get width(): number {
    return this.reader.track.width;
  }

  get cueCount(): number {
    return this.reader.cueCount;
  }

  get lastStrength(): number {
    return this.reader.lastCue?.strength ?? 0;
  }

  now(band = 0): number {
    return this.reader.track.values[band];
  }

  fill(out: Float32Array): void {
    out.set(this.reader.track.values);
  }
}

/** The strands of a plan, fed with samples as they come. */
export class LiveFeed {
  readonly strands: readonly HeardStrand[];
  /** Ids of sounds that are summed, with their gains, and the strands that hear that sum. */
  readonly mixes: readonly { gains: ReadonlyMap<string, number>; feed(block: Float32Array): void }[];
  private readonly listeners = new Set<(strand: HeardStrand, strength: number) => void>();
  /** By strand: how many of its cues have been told. */
  private readonly toldCues = new Map<HeardStrand, number>();
  private hops = 0;

  constructor({ strands }: Pick<NumbersPlan, "strands">) {
    this.strands = strands.map(
      (strand) =>
        new HeardStrand(
          strand,
          strand.from.kind === "strands" ? new CombinedLive(strand) : new Reader(strand),
        ),
    );
    const sources = new Map(this.strands.map(({ id, reader }) => [id, reader]));
    const combined = strands.flatMap(({ id, from }) =>
      from.kind === "strands"
        ? [{ reader: sources.get(id) as CombinedLive, made: from.ids.map((one) => sources.get(one)!) }]
        : [],
    );
    // A combined strand knows what it is made of by these very tracks.
    const tracksOf = (made: readonly (Reader | CombinedLive)[]) => made.map(({ track }) => track);
    const mixes = new Map<string, { gains: Map<string, number>; readers: Reader[] }>();
    for (const { id, from } of strands) {
      if (from.kind === "strands") continue;
      const gains = gainsOf(from);
      const key = JSON.stringify([...gains]);
      const mix = mixes.get(key) ?? { gains, readers: [] };
      mixes.set(key, mix);
      mix.readers.push(sources.get(id) as Reader);
    }
    const all = [...mixes.values()];
    this.mixes = all.map(({ gains, readers }, i) => {
      const listening = new LiveListening();
      // Strands made of others are read once a hop, after those of the last mix.
      const onHop = () => {
        if (i === all.length - 1) {
          this.hops++;
          for (const { reader, made } of combined)
            reader.readStrands(tracksOf(made), this.hops / FRAME_RATE_HZ);
        }
        this.tellCues();
      };
      return {
        gains,
        feed: (block) => {
          listening.take(block, readers, onHop);
        },
      };
    });
  }

  onCue(take: (strand: HeardStrand, strength: number) => void): () => void {
    this.listeners.add(take);
    return () => this.listeners.delete(take);
  }

  /** Gives the same samples to every strand that hears some. */
  feed(block: Float32Array): void {
    for (const mix of this.mixes) mix.feed(block);
  }

  stop(): void {
    this.listeners.clear();
    for (const { reader } of this.strands) reader.dispose();
  }

  private tellCues(): void {
    for (let i = 0; i < this.strands.length; i++) {
      const strand = this.strands[i];
      const count = strand.cueCount;
      if (count === (this.toldCues.get(strand) ?? 0)) continue;
      this.toldCues.set(strand, count);
      for (const take of this.listeners) take(strand, strand.lastStrength);
    }
  }
}

function gainsOf(from: PlannedStrand["from"]): Map<string, number> {
  if (from.kind === "sounds")
    return new Map(from.listening.sounds.map(({ soundId, gain }) => [soundId, gain]));
  return new Map(from.kind === "live" ? [[from.soundId, 1]] : []);
}
