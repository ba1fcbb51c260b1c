import type { NotesNow } from "@bumbrel/core/strand/hearing/live";

/** A keyboard or knob box, real or on the screen: what is held, struck and turned. */
export class LiveNotes implements NotesNow {
  readonly held: { note: number; velocity: number }[] = [];
  readonly controls = new Map<number, number>();
  last: number | undefined;
  struck = 0;
  private readonly listeners = new Set<() => void>();

  /** Calls `listener` after each note and turn; gives a way to stop that. */
  onEvent(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** @param velocity  0..1; 0 lets go */
  strike(note: number, velocity: number): void {
    this.release(note);
    if (velocity <= 0) return;
    this.held.push({ note, velocity });
    this.last = note;
    this.struck = Math.max(this.struck, velocity);
    this.tell();
  }

  release(note: number): void {
    const at = this.held.findIndex((one) => one.note === note);
    if (at < 0) return;
    this.held.splice(at, 1);
    this.tell();
  }

  /** @param value  0..1 */
  turn(controller: number, value: number): void {
    this.controls.set(controller, value);
    this.tell();
  }

  /** Takes a MIDI 1.0 channel message; others are passed over. */
  receive([status, first, second]: Uint8Array): void {
    switch (status & 0xf0) {
      case 0x80:
        this.release(first);
        break;
      case 0x90:
        this.strike(first, second / 127);
        break;
      case 0xb0:
        this.turn(first, second / 127);
        break;
    }
  }

  /** Called once a frame after strands have read it. */
  settle(): void {
    this.struck = 0;
  }

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}
