/** Frames that have been timed before it is said how long the others will take. */
const FIRST_FRAMES = 10;

/**
 * Tells from how long the frames of a film have taken how long the others will take.
 *
 * @example
 * const clock = new FilmTimeLeft();
 * clock.leftS(0, 100, 1000); // undefined: nothing has been timed
 * clock.leftS(20, 100, 3000); // 8: a tenth of a second a frame
 */
export class FilmTimeLeft {
  private from: { ms: number; frames: number } | undefined;

  /**
   * @param frames  made so far, those of earlier sittings included
   * @param workedMs  a clock that stands still while the work is paused
   * @returns seconds; `undefined` until a few frames have been timed
   */
  leftS(frames: number, ofFrames: number, workedMs: number): number | undefined {
    this.from ??= { ms: workedMs, frames };
    const made = frames - this.from.frames;
    if (made < FIRST_FRAMES) return undefined;
    return ((workedMs - this.from.ms) / made / 1000) * (ofFrames - frames);
  }
}
