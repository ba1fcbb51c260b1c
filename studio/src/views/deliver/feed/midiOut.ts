import type { Strand } from "@bumbrel/core/document/scene";
import { eachCueOf, type Track, trackMeanAt } from "@bumbrel/core/strand/track";

/** Strands go out as controllers from this one on, and their cues as notes from C2 on, on the first channel. */
export const FIRST_CONTROLLER = 20;
export const FIRST_NOTE = 36;
/** Controllers that a channel has from there on. */
export const MOST_MIDI_STRANDS = 100;
const NOTE_MS = 50;
const [NOTE_ON, NOTE_OFF, CONTROL] = [0x90, 0x80, 0xb0];

/** Anything that takes MIDI messages. */
export interface MidiPort {
  send(data: number[], atMs?: number): void;
}

/** Sends strands as control changes and their cues as notes. */
export class MidiOut {
  sent = 0;
  private readonly port: MidiPort;
  private readonly values: number[] = [];
  private lastS: number | undefined;

  constructor(port: MidiPort) {
    this.port = port;
  }

  /**
   * Sends what has changed.
   *
   * @param timeS  where the tape is
   * @param nowMs  the browser's clock
   */
  update(
    strands: readonly Pick<Strand, "id">[],
    trackOf: (id: string) => Track | undefined,
    timeS: number,
    nowMs: number,
  ): void {
    const fromS = this.lastS;
    this.lastS = timeS;
    for (const [i, { id }] of strands.slice(0, MOST_MIDI_STRANDS).entries()) {
      const track = trackOf(id);
      if (!track) continue;
      const value = Math.round(127 * Math.min(1, Math.max(0, trackMeanAt(track, timeS))));
      if (value !== this.values[i]) {
        this.values[i] = value;
        this.send([CONTROL, FIRST_CONTROLLER + i, value]);
      }
      // A jump of the tape strikes nothing.
      if (fromS === undefined || timeS <= fromS || timeS - fromS > 0.5) continue;
      const ownS = track.positionS?.(timeS) ?? timeS;
      eachCueOf(track, ownS - (timeS - fromS), ownS, ({ strength }) => {
        const note = FIRST_NOTE + i;
        this.send([NOTE_ON, note, Math.max(1, Math.round(127 * strength))]);
        this.send([NOTE_OFF, note, 0], nowMs + NOTE_MS);
      });
    }
  }

  private send(data: number[], atMs?: number): void {
    this.port.send(data, atMs);
    this.sent++;
  }
}
