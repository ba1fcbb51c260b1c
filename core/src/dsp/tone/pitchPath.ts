import { MOST_CANDIDATES, type PeriodCandidates } from "./pitch";

/** A voice glides by less than this from one frame to the next: an octave in 150 ms. */
const GLIDE_CENTS = 80;
/** Logarithm of how likely a new note begins, against one that is held. */
const NEW_NOTE = Math.log(1e-4);
/** How likely a frame begins or ends a stretch that has a pitch. */
const VOICE_CHANGES = Math.log(0.01);
const VOICE_STAYS = Math.log(1 - 0.01);
/** Nothing that is seen is less likely than this. */
const LEAST = 1e-4;

/** The candidates of a frame, and last the state without a pitch. */
const STATES = MOST_CANDIDATES + 1;
const NONE = MOST_CANDIDATES;
const NEVER = Number.NEGATIVE_INFINITY;

/** A period and how sure it is. */
export interface FramePeriod {
  /** Samples; 0 when there is none. */
  lag: number;
  /** 0..1: one minus the normalised difference at the period. */
  certainty: number;
}

/**
 * The likeliest row of periods, given those that each frame may have: a hidden Markov model over the candidates themselves
 * and "no pitch", decoded by the Viterbi algorithm (probabilistic YIN, Mauch & Dixon 2014). A pitch is held or glides; a new
 * note, an octave away too, has to be much likelier to be taken.
 */
export class PitchPath {
  private readonly lags: Float32Array;
  private readonly depths: Float32Array;
  /** The likeliest candidate of each frame by itself: it is taken where there is no pitch. */
  private readonly likeliest: Uint8Array;
  /** The state before each state of each frame. */
  private readonly before: Uint8Array;
  private frames = 0;
  /** Logarithms of how likely the best way to each state is, and each candidate's pitch in cents: last frame's, this one's. */
  private scores = new Float64Array(STATES);
  private nextScores = new Float64Array(STATES);
  private cents = new Float64Array(MOST_CANDIDATES);
  private nextCents = new Float64Array(MOST_CANDIDATES);

  /** @param room  frames that are remembered: all, or 1 where only the newest is asked for */
  constructor(private readonly room: number) {
    this.lags = new Float32Array(room * MOST_CANDIDATES);
    this.depths = new Float32Array(room * MOST_CANDIDATES);
    this.likeliest = new Uint8Array(room);
    this.before = new Uint8Array(room * STATES);
  }

  /** Adds a frame. */
  push({ count, lags, depths, probabilities }: PeriodCandidates): void {
    const { nextScores, nextCents, room } = this;
    const frame = this.frames % room;
    const first = frame * MOST_CANDIDATES;
    let likeliest = 0;
    let clearest = 1;
    for (let i = 0; i < MOST_CANDIDATES; i++) {
      this.lags[first + i] = i < count ? lags[i] : 0;
      this.depths[first + i] = i < count ? depths[i] : 1;
      if (i >= count) continue;
      nextCents[i] = 1200 * Math.log2(lags[i]);
      clearest = Math.min(clearest, depths[i]);
      if (probabilities[i] > probabilities[likeliest]) likeliest = i;
    }
    this.likeliest[frame] = likeliest;
    let highest = NEVER;
    for (let to = 0; to < STATES; to++) {
      nextScores[to] = NEVER;
      if (to >= count && to !== NONE) continue;
      const seen = to === NONE ? clearest : (1 - clearest) * probabilities[to];
      nextScores[to] = this.bestWay(to, frame) + Math.log(Math.max(LEAST, seen));
      highest = Math.max(highest, nextScores[to]);
    }
    // Only differences count, and sums over hours would blur them.
    for (let to = 0; to < STATES; to++) nextScores[to] -= highest;
    this.frames++;
    [this.scores, this.nextScores] = [nextScores, this.scores];
    [this.cents, this.nextCents] = [nextCents, this.cents];
  }

  /** How likely the best way to a state is; notes where it comes from. */
  private bestWay(to: number, frame: number): number {
    const { scores, cents, nextCents } = this;
    if (this.frames === 0) return 0;
    let best = NEVER;
    for (let from = 0; from < STATES; from++) {
      let way = VOICE_CHANGES;
      if ((from === NONE) === (to === NONE)) {
        const share = to === NONE ? 1 : 1 - Math.abs(cents[from] - nextCents[to]) / GLIDE_CENTS;
        way = VOICE_STAYS + (share > 0 ? Math.max(NEW_NOTE, Math.log(share)) : NEW_NOTE);
      }
      if (!(scores[from] + way > best)) continue;
      best = scores[from] + way;
      this.before[frame * STATES + to] = from;
    }
    return best;
  }

  /** The state that is likeliest now. */
  private newestState(): number {
    let best = NONE;
    for (let state = 0; state < STATES; state++) if (this.scores[state] > this.scores[best]) best = state;
    return best;
  }

  private period(frame: number, state: number): FramePeriod {
    const at = frame * MOST_CANDIDATES + (state === NONE ? this.likeliest[frame] : state);
    return { lag: this.lags[at], certainty: Math.max(0, 1 - this.depths[at]) };
  }

  /** The newest frame's period by all that was heard so far; ask after a frame was added. */
  newest(): FramePeriod {
    return this.period((this.frames - 1) % this.room, this.newestState());
  }

  /** Each frame's period by the whole sound; there has to be room for all frames. */
  whole(): FramePeriod[] {
    const periods: FramePeriod[] = [];
    let state = this.newestState();
    for (let frame = this.frames - 1; frame >= 0; frame--) {
      periods.push(this.period(frame, state));
      state = this.before[frame * STATES + state];
    }
    return periods.reverse();
  }
}
