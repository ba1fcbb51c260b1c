/** Numbers the audio thread keeps for a meter: peak left, peak right, mean weighted square of 3 s. */
export const METER_FIELDS = 3;

export interface MeterOptions {
  /** Shared with the page; `METER_FIELDS` numbers of 4 bytes for each point. */
  memory: SharedArrayBuffer;
  points: number;
}
