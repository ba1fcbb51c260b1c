import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { plainFileName } from "@bumbrel/core/format/bytes/fileName";
import type { Cue } from "@bumbrel/core/sound/cue";
import { eachCueOf, type Track, trackValueAt } from "@bumbrel/core/strand/track";

/** A strand that is fed. */
export interface FedStrand {
  id: string;
  name: string;
  /** Its name as addresses have it; no two are alike. */
  slug: string;
  /** Numbers a frame. */
  width: number;
}

/** Source of a feed's numbers. */
export interface FeedSource {
  readonly strands: readonly FedStrand[];
  /** Writes the numbers of all strands at a time, one after the other. */
  read(timeS: number, out: Float32Array): void;
  /** Calls `take` with each cue after `fromS` and up to `toS`. */
  eachCue(fromS: number, toS: number, take: (strand: FedStrand, cue: Cue) => void): void;
}

/** Receiver of a feed. One that fails or is slow loses frames, and harms nothing. */
export interface Receiver {
  /** Name in lists. */
  readonly name: string;
  /** Messages it was sent, and those it could not take. */
  readonly sent: number;
  readonly dropped: number;
  /** The last of them, as text. */
  readonly last: string;
  frame(timeS: number, numbers: Float32Array, strands: readonly FedStrand[]): void;
  cue(strand: FedStrand, cue: Cue): void;
  /** Called when the strands have become others. */
  strandsChanged?(strands: readonly FedStrand[]): void;
  close(): void;
}

/** Strands with names that addresses can have. */
export function fedStrands(strands: readonly { id: string; name: string; width: number }[]): FedStrand[] {
  const used = new Set<string>();
  return strands.map(({ id, name, width }) => {
    const plain = plainFileName(name, "strand");
    let slug = plain;
    for (let n = 2; used.has(slug); n++) slug = `${plain}-${n}`;
    used.add(slug);
    return { id, name, slug, width };
  });
}

/** Numbers that are known over a whole tape. */
export class TrackSource implements FeedSource {
  readonly strands: readonly FedStrand[];
  private readonly tracks: readonly Track[];

  constructor(tracks: readonly { id: string; name: string; track: Track }[]) {
    this.strands = fedStrands(tracks.map(({ id, name, track: { width } }) => ({ id, name, width })));
    this.tracks = tracks.map(({ track }) => track);
  }

  read(timeS: number, out: Float32Array): void {
    let at = 0;
    for (const track of this.tracks) {
      for (let band = 0; band < track.width; band++) out[at++] = trackValueAt(track, timeS, band);
    }
  }

  eachCue(fromS: number, toS: number, take: (strand: FedStrand, cue: Cue) => void): void {
    for (const [i, track] of this.tracks.entries())
      eachCueOf(track, fromS, toS, ({ strength }, timeS) => take(this.strands[i], { timeS, strength }));
  }
}

/** Cues that wait until somebody takes them, at most. */
const MOST_CUES = 256;

/** Numbers that somebody else tells as they come: each stays until the next. */
export class ToldSource implements FeedSource {
  readonly strands: readonly FedStrand[];
  private readonly numbers: Float32Array;
  private cues: { strand: FedStrand; cue: Cue }[] = [];

  constructor(strands: readonly { id: string; name: string; width: number }[]) {
    this.strands = fedStrands(strands);
    this.numbers = new Float32Array(strands.reduce((sum, { width }) => sum + width, 0));
  }

  /** Takes the newest numbers of a strand. */
  tell(id: string, numbers: ArrayLike<number>): void {
    let at = 0;
    for (const strand of this.strands) {
      if (strand.id === id) {
        for (let i = 0; i < strand.width; i++) this.numbers[at + i] = Number(numbers[i]) || 0;
      }
      at += strand.width;
    }
  }

  /** Takes a cue that happens now. */
  tellCue(id: string, strength: number): void {
    const strand = this.strands.find((one) => one.id === id);
    if (!strand) return;
    this.cues.push({ strand, cue: { timeS: 0, strength } });
    // While nothing plays nobody takes them.
    if (this.cues.length > MOST_CUES) this.cues.shift();
  }

  read(_timeS: number, out: Float32Array): void {
    out.set(this.numbers);
  }

  eachCue(_fromS: number, toS: number, take: (strand: FedStrand, cue: Cue) => void): void {
    for (const { strand, cue } of this.cues.splice(0)) take(strand, { ...cue, timeS: toS });
  }
}

/** Several sources as one, with the strands of all. */
export class JoinedSource implements FeedSource {
  readonly strands: readonly FedStrand[];
  private readonly sources: readonly { source: FeedSource; out: Float32Array }[];

  constructor(sources: readonly FeedSource[]) {
    this.strands = fedStrands(sources.flatMap(({ strands }) => strands));
    this.sources = sources.map((source) => ({ source, out: numbersOf(source) }));
  }

  read(timeS: number, out: Float32Array): void {
    let at = 0;
    for (const { source, out: own } of this.sources) {
      source.read(timeS, own);
      out.set(own, at);
      at += own.length;
    }
  }

  eachCue(fromS: number, toS: number, take: (strand: FedStrand, cue: Cue) => void): void {
    for (const { source } of this.sources) {
      source.eachCue(fromS, toS, ({ id }, cue) => take(this.strands.find((one) => one.id === id)!, cue));
    }
  }
}

/** How often it looks whether a frame or a cue is due, ms: finer than a frame, so that cues are not late. */
const LOOK_MS = 3;
/** Frames that are this late are left out: nobody wants them any more. */
const LATE_S = 0.25;
/** A clock that is told to be this far from where it runs has jumped. */
const JUMP_S = 0.015;

/** Sends numbers and cues to receivers, 100 times a second while the tape plays, by a clock of its own. */
export class Feed {
  readonly receivers = new Set<Receiver>();
  private source: FeedSource;
  private numbers: Float32Array;
  private timer: NodeJS.Timeout | undefined;
  private isPlaying = false;
  private positionS = 0;
  private atMs = 0;
  private cuesToS = 0;
  private nextFrame = 0;
  private readonly now: () => number;

  /** @param now  milliseconds */
  constructor(source: FeedSource, now: () => number = () => performance.now()) {
    this.now = now;
    this.source = source;
    this.numbers = numbersOf(source);
  }

  get strands(): readonly FedStrand[] {
    return this.source.strands;
  }

  get playing(): boolean {
    return this.isPlaying;
  }

  /** Position of the tape, in seconds. */
  get timeS(): number {
    return this.isPlaying ? this.positionS + (this.now() - this.atMs) / 1000 : this.positionS;
  }

  /** Takes numbers from somewhere else from now on. */
  setSource(source: FeedSource): void {
    this.source = source;
    this.numbers = numbersOf(source);
    for (const receiver of this.receivers) receiver.strandsChanged?.(source.strands);
  }

  /** Follows a clock: small differences are drift and are made up for, larger ones are jumps. */
  setClock(isPlaying: boolean, positionS: number): void {
    const wasS = this.timeS;
    const isJump = isPlaying !== this.isPlaying || Math.abs(positionS - wasS) > JUMP_S;
    this.isPlaying = isPlaying;
    this.positionS = isJump ? positionS : wasS + (positionS - wasS) / 2;
    this.atMs = this.now();
    if (isJump) {
      this.cuesToS = positionS;
      this.nextFrame = Math.ceil(positionS * FRAME_RATE_HZ);
    }
    if (isPlaying && !this.timer) this.timer = setInterval(() => this.look(), LOOK_MS);
    if (!isPlaying) this.stop();
  }

  /** Sends whatever is due. */
  look(): void {
    if (!this.isPlaying) return;
    const nowS = this.timeS;
    if (nowS > this.cuesToS) {
      this.source.eachCue(this.cuesToS, nowS, (strand, cue) => {
        for (const receiver of this.receivers) receiver.cue(strand, cue);
      });
      this.cuesToS = nowS;
    }
    this.nextFrame = Math.max(this.nextFrame, Math.ceil((nowS - LATE_S) * FRAME_RATE_HZ));
    for (; this.nextFrame / FRAME_RATE_HZ <= nowS; this.nextFrame++) {
      const timeS = this.nextFrame / FRAME_RATE_HZ;
      this.source.read(timeS, this.numbers);
      for (const receiver of this.receivers) receiver.frame(timeS, this.numbers, this.source.strands);
    }
  }

  private stop(): void {
    clearInterval(this.timer);
    this.timer = undefined;
  }

  /** Lets go of all receivers; nothing is sent any more. */
  close(): void {
    this.isPlaying = false;
    this.stop();
    for (const receiver of this.receivers) receiver.close();
    this.receivers.clear();
  }
}

const numbersOf = ({ strands }: FeedSource) =>
  new Float32Array(strands.reduce((sum, { width }) => sum + width, 0));
