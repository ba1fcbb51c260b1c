import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { makeClicks } from "@bumbrel/core/dsp/rhythm/click";
import { type Track, trackTimeAt } from "@bumbrel/core/strand/track";
import type { Transport } from "./transport";

/** Clicks are handed to the audio thread this long before they are heard: longer than a slow frame. */
const AHEAD_S = 0.4;
const CLICK_HZ = 2000;
const CLICK_LEVEL = 0.5;
/** A position that jumps by more than a few slow frames was moved. */
const JUMP_S = 0.6;

/** Lets cues be heard: a click at each while the tape plays, on the sample where it belongs. */
export class CueClicks {
  private readonly transport: Transport;
  private context: AudioContext | undefined;
  private click: AudioBuffer | undefined;
  /** Cues up to here have been handed over. */
  private doneS = 0;
  private readonly waiting = new Set<AudioBufferSourceNode>();
  private readonly forget: () => void;

  constructor(transport: Transport) {
    this.transport = transport;
    this.forget = transport.onContext((context) => {
      this.context = context;
      this.click = context.createBuffer(1, Math.round(0.12 * SAMPLE_RATE_HZ), SAMPLE_RATE_HZ);
      const samples = makeClicks([{ timeS: 0, hz: CLICK_HZ, level: CLICK_LEVEL }], this.click.length);
      this.click.copyToChannel(samples as Float32Array<ArrayBuffer>, 0);
    });
  }

  /**
   * Hands over what is heard next. Call it once a frame.
   *
   * @param timeS  where the tape is
   * @param tracks  those of the strands whose cues are heard
   */
  update(timeS: number, tracks: readonly Track[]): void {
    const isPlaying = this.transport.state === "playing";
    if (
      !isPlaying ||
      tracks.length === 0 ||
      timeS < this.doneS - AHEAD_S - JUMP_S ||
      timeS > this.doneS + JUMP_S
    ) {
      this.silence();
      this.doneS = timeS;
      if (!isPlaying || tracks.length === 0) return;
    }
    const toS = timeS + AHEAD_S;
    for (const track of tracks) {
      for (const { atS, strength } of cuesBetween(track, timeS, this.doneS, toS)) {
        this.strike(atS - timeS, strength);
      }
    }
    this.doneS = Math.max(this.doneS, toS);
  }

  /** A click now: for what nobody knew of before it happened. */
  clickNow(strength: number): void {
    this.strike(0, strength);
  }

  stop(): void {
    this.silence();
    this.forget();
  }

  private strike(inS: number, strength: number): void {
    const { context, click } = this;
    if (!context || !click) return;
    const source = context.createBufferSource();
    source.buffer = click;
    const gain = context.createGain();
    gain.gain.value = 0.3 + 0.7 * strength;
    source.connect(gain).connect(context.destination);
    this.waiting.add(source);
    source.onended = () => this.waiting.delete(source);
    // The samples heard at a position were handed over earlier, by the output's latency.
    source.start(Math.max(context.currentTime, context.currentTime + inS - (context.outputLatency || 0)));
  }

  private silence(): void {
    for (const source of this.waiting) source.stop();
    this.waiting.clear();
  }
}

/**
 * Cues that are heard while the tape goes from one time to another, with when that is on the tape: a sound that loops or
 * runs by itself has a time of its own.
 *
 * @param timeS  where the tape is now
 */
export function cuesBetween(
  track: Track,
  timeS: number,
  fromS: number,
  toS: number,
): { atS: number; strength: number }[] {
  const { cues = [], loopS = 0 } = track;
  const ownAheadS = trackTimeAt(track, timeS) - timeS;
  const found: { atS: number; strength: number }[] = [];
  for (const { timeS: cueS, strength } of cues) {
    let atS = cueS - ownAheadS;
    if (loopS > 0) atS += Math.ceil((fromS - atS) / loopS) * loopS;
    for (; atS < toS && atS >= fromS; atS += loopS) {
      found.push({ atS, strength });
      if (loopS <= 0) break;
    }
  }
  return found;
}
