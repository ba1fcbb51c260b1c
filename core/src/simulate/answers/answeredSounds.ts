import type { ActionOf } from "../../action/answer";
import type { Scene } from "../../document/scene";
import { runningOf } from "../../document/strands/running";
import type { Take } from "../../document/take/take";
import { TAPE_UNIT, type UnitEvent, UnitTimes } from "../../document/take/units";
import { bpmOf } from "../../evaluate/plan";
import { platform } from "../../platform";
import { clockBeats } from "../../sound/clock";

/** How long a unit is and whether it goes round. */
export interface UnitLength {
  lengthS: number;
  loops: boolean;
  fromS?: number;
}

interface Fade {
  fromDb: number;
  toDb: number;
  evenly: ActionOf<"fade">["evenly"];
  startS: number;
  overS: number;
}

/** State that is carried from step to step: plain data. */
export interface SoundsState {
  pending: UnitEvent[];
  fades: Record<string, Fade>;
  /** Which units ran at the end of the last step. */
  running: Record<string, boolean>;
}

/** The lowest level of a fade is silence. */
export const SILENT_DB = -60;

/** Sounds as answers play, stop and fade them: where the tape and the units are, and how far sounds are faded. */
export class AnsweredSounds {
  /** Positions of the tape and the units, from the take and from answers. */
  readonly units = new UnitTimes();
  private state: SoundsState = { pending: [], fades: {}, running: {} };
  private readonly sentUnits: readonly string[];
  private nextUnit = 0;
  private toS = 0;

  constructor(
    private readonly scene: Scene,
    private readonly take: () => Take | undefined,
    readonly lengths: () => ReadonlyMap<string, UnitLength>,
  ) {
    const alone = scene.sounds.flatMap((sound) => {
      const { runs, unitId } = runningOf(scene, sound);
      return runs === "alone" ? [unitId] : [];
    });
    this.sentUnits = [TAPE_UNIT, ...new Set(alone)];
  }

  /** Goes back to before the first step. */
  begin(): void {
    this.state = { pending: [], fades: {}, running: {} };
    for (const unit of this.sentUnits) this.state.running[unit] = false;
    this.units.dropAfter(Number.NEGATIVE_INFINITY);
    this.nextUnit = 0;
    this.toS = 0;
    this.takeUpTo(0);
  }

  save(): SoundsState {
    return platform.structuredClone(this.state);
  }

  restore(state: SoundsState, timeS: number): void {
    this.state = platform.structuredClone(state);
    this.continueAfter(timeS);
  }

  /** Looks again at what the take says from a time on. */
  continueAfter(timeS: number): void {
    this.toS = timeS;
    this.units.dropAfter(timeS);
    this.nextUnit = 0;
    const events = this.take()?.units.events ?? [];
    while (this.nextUnit < events.length && events[this.nextUnit].timeS <= timeS) this.nextUnit++;
  }

  /** Enters the step that ends at a time. */
  moveTo(timeS: number): void {
    this.toS = timeS;
    this.takeUpTo(timeS);
  }

  /** Remembers what runs at the end of the step. */
  endStep(): void {
    for (const unit of this.sentUnits) this.state.running[unit] = this.units.isRunning(unit, this.toS);
  }

  /** True when a unit ran at the end of the last step. */
  ranBefore(unitId: string): boolean {
    return this.state.running[unitId] ?? false;
  }

  /** Level of a sound on top of its fader, as a factor: what fades have come to. */
  gainOf(soundId: string, timeS: number): number {
    let gain = 1;
    for (const id of [soundId, TAPE_UNIT]) {
      const fade = this.state.fades[id];
      if (!fade || (id === TAPE_UNIT && !this.isOnTape(soundId))) continue;
      const db = levelOf(fade, timeS);
      gain *= db <= SILENT_DB ? 0 : 10 ** (db / 20);
    }
    return gain;
  }

  /** True if answers have changed a level. */
  get hasFades(): boolean {
    return Object.keys(this.state.fades).length > 0;
  }

  private isOnTape(soundId: string): boolean {
    const sound = this.scene.sounds.find(({ id }) => id === soundId);
    return sound !== undefined && runningOf(this.scene, sound).runs === "tape";
  }

  /** Takes over what the take says of units up to a time, and what answers have put off until then. */
  takeUpTo(timeS: number): void {
    const { pending } = this.state;
    const events = this.take()?.units.events ?? [];
    for (;;) {
      const taken = events[this.nextUnit]?.timeS <= timeS ? events[this.nextUnit] : undefined;
      const due = pending[0]?.timeS <= timeS ? pending[0] : undefined;
      if (!taken && !due) return;
      if (taken && (!due || taken.timeS < due.timeS)) {
        this.nextUnit++;
        this.units.record(taken);
      } else if (due) {
        pending.shift();
        this.units.record(due);
      }
    }
  }

  /** The unit that a sound, or null for the tape, runs with. */
  unitOf(soundId: string | null): string {
    const { scene } = this;
    const sound = scene.sounds.find(({ id }) => id === soundId);
    if (!sound) return TAPE_UNIT;
    const { runs, unitId } = runningOf(scene, sound);
    return runs === "alone" ? unitId : TAPE_UNIT;
  }

  /** Says that a unit goes on, or stops, at a place of its own. */
  record(unitId: string, timeS: number, positionS: number, running: boolean): void {
    const { lengthS, loops, fromS } = this.lengths().get(unitId) ?? { lengthS: 0, loops: false };
    const event: UnitEvent = { kind: "unit", timeS, unitId, positionS, running, lengthS, loops };
    if (fromS) event.fromS = fromS;
    if (timeS <= this.toS) {
      // Keep events that are known of this step in order.
      this.units.record({ ...event, timeS: Math.max(timeS, this.units.events.at(-1)?.timeS ?? timeS) });
      return;
    }
    const { pending } = this.state;
    let at = pending.length;
    while (at > 0 && pending[at - 1].timeS > timeS) at--;
    pending.splice(at, 0, event);
  }

  /** Plays a sound from a time on. */
  play({ soundId, from, markId, when }: Omit<ActionOf<"play">, "kind" | "delayMs">, atS: number): void {
    const unit = this.unitOf(soundId);
    const isRunning = this.units.isRunning(unit, atS);
    const mark = this.scene.marks.find(({ id }) => id === markId);
    const { lengthS = 0 } = this.lengths().get(unit) ?? {};
    const at = this.units.positionS(unit, atS);
    // From where it was; from the start again once it has come to its end.
    const where = lengthS > 0 && at >= lengthS - 1e-6 ? 0 : at;
    // Cancel the later stop.
    this.state.pending = this.state.pending.filter((one) => one.unitId !== unit || one.running);
    if (from === "where" && isRunning) return;
    const positionS = from === "start" ? 0 : from === "mark" ? (mark?.timeS ?? 0) : where;
    const delayS = this.take()?.soundDelayS ?? 0;
    this.record(unit, Math.max(atS + delayS, atS + this.untilBeatS(when, atS)), positionS, true);
  }

  /** Seconds until the tape's next beat or bar; 0 when nothing can be waited for. */
  private untilBeatS(when: "now" | "beat" | "bar", atS: number): number {
    if (when === "now" || !this.units.isRunning(TAPE_UNIT, atS)) return 0;
    const { scene } = this;
    const clock = scene.sounds.find(({ kind }) => kind === "clock");
    const tapeS = this.units.positionS(TAPE_UNIT, atS);
    const beatS = 60 / bpmOf(scene);
    if (clock?.kind !== "clock") return 0;
    const beat = clockBeats(clock).beatAt(tapeS);
    const every = when === "bar" ? clock.beatsPerBar : 1;
    const next = Math.ceil(beat / every - 1e-9) * every;
    return Math.max(0, (next - beat) * beatS);
  }

  /** Stops a unit where it is, or at another place. */
  halt(unit: string, atS: number, positionS = this.units.positionS(unit, atS)): void {
    this.state.pending = this.state.pending.filter(({ unitId }) => unitId !== unit);
    this.record(unit, atS, positionS, false);
  }

  /** Plays a sound that does not run, and halts one that does. */
  playTurns({ soundId, from, halts }: ActionOf<"playTurns">, atS: number): void {
    const unit = this.unitOf(soundId);
    if (this.units.isRunning(unit, atS)) this.halt(unit, atS, halts === "stop" ? 0 : undefined);
    else this.play({ soundId, from, markId: null, when: "now" }, atS);
  }

  /** Brings a sound to a level. */
  fade({ soundId, levelDb, overMs, evenly }: Omit<ActionOf<"fade">, "kind" | "delayMs">, atS: number): void {
    const { fades } = this.state;
    const key = soundId ?? TAPE_UNIT;
    const fromDb = fades[key] ? levelOf(fades[key], atS) : 0;
    fades[key] = { fromDb, toDb: levelDb, evenly, startS: atS, overS: overMs / 1000 };
  }
}

function levelOf({ fromDb, toDb, evenly, startS, overS }: Fade, timeS: number): number {
  const share = overS > 0 ? Math.min(1, Math.max(0, (timeS - startS) / overS)) : 1;
  if (evenly === "dB") return fromDb + (toDb - fromDb) * share;
  return dbOfLoudness(loudnessOf(fromDb) * (1 - share) + loudnessOf(toDb) * share);
}

/** How loud a level seems, against that of 0 dB: half for every 10 dB less (Stevens 1957), nothing at silence. */
const loudnessOf = (db: number) => (db <= SILENT_DB ? 0 : 2 ** (db / 10));
const dbOfLoudness = (loudness: number) =>
  loudness <= 0 ? SILENT_DB : Math.max(SILENT_DB, 10 * Math.log2(loudness));
