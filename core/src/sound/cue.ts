/** An instant at which something happens. */
export interface Cue {
  timeS: number;
  /** 0..1 */
  strength: number;
}
