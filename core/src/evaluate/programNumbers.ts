import { FRAME_RATE_HZ } from "../constants";
import type { Scene } from "../document/scene";
import { StretchReader } from "../dsp/maths/samples";
import { fanBands } from "../dsp/spectrum/fanBands";
import { PowerSpectrum } from "../dsp/spectrum/spectrum";
import { linkedIn } from "../kinds/programs";
import { bandLevels } from "../program/offers/levels";
import {
  MEMORY_COLUMNS,
  MEMORY_ROWS,
  MOST_SOUNDS,
  REMEMBERED_S,
  SPECTRUM_FFT_SIZE,
  WAVE_SAMPLES,
} from "../program/offers/memory";
import { type Track, trackValueAt } from "../strand/track";
import type { Waves } from "./wave";

/** Columns of a strand's numbers: the first, and how many. */
export interface Columns {
  first: number;
  count: number;
}

/** Time, tracks and waveforms that the numbers are filled from. */
export interface NumberSource {
  timeS: number;
  trackOf(strandId: string): Track | undefined;
  waves: Waves;
}

/** Rows that have changed, as stretches of the ring: `from` up to before `to`. */
export type ChangedRows = readonly (readonly [from: number, to: number])[];

const MEMORY_FRAMES = REMEMBERED_S * FRAME_RATE_HZ;

/**
 * The numbers that programs read: strands and fans, and the spectra and waveforms of sounds, now and back to
 * {@link REMEMBERED_S} seconds ago, a row for each hundredth of a second in a ring of {@link MEMORY_ROWS}. Filled once a
 * frame, however many programs read them.
 */
export class ProgramNumbers {
  /** `MEMORY_ROWS` rows of `MEMORY_COLUMNS` numbers of strands and fans. */
  readonly numbers = new Float32Array(MEMORY_ROWS * MEMORY_COLUMNS);
  /** The middle of each column's band, Hz; 0 for plain strands. */
  readonly bandHz = new Float32Array(MEMORY_COLUMNS);
  /** As many rows of levels, for each sound: bands that lie evenly in octaves. */
  readonly spectra: Float32Array[] = [];
  /** Samples around now, a row for each sound. */
  readonly waves = new Float32Array(MOST_SOUNDS * WAVE_SAMPLES);
  private readonly columns = new Map<string, Columns>();
  private sounds: string[] = [];
  private tracks: (Track | undefined)[] = [];
  private filledTo = -1;
  private readonly spectrum = new PowerSpectrum(SPECTRUM_FFT_SIZE, "hann");
  private readonly powers = new Float32Array(this.spectrum.binCount);
  private readonly reader = new StretchReader();

  /** True if at least one program reads a strand, a fan or a sound. */
  get isRead(): boolean {
    return this.columns.size > 0 || this.sounds.length > 0;
  }

  /** Columns of a strand; `undefined` for one that no program reads, or for which there was no room. */
  columnsOf(strandId: string): Columns | undefined {
    return this.columns.get(strandId);
  }

  /** The number of a sound among those that are read; −1 for one that is not. */
  soundOf(soundId: string): number {
    return this.sounds.indexOf(soundId);
  }

  /**
   * Gives columns to the strands, and rows to the sounds, that programs of a scene read.
   *
   * @param widthOf  numbers of a strand, once they are known
   * @returns whether anything lies elsewhere now
   */
  layOut(scene: Scene, widthOf: (strandId: string) => number): boolean {
    const wanted = linkedIn(scene);
    const columns = new Map<string, Columns>();
    let first = 0;
    for (const id of [...wanted.strand, ...wanted.fan]) {
      if (columns.has(id)) continue;
      const count = Math.min(widthOf(id), MEMORY_COLUMNS - first);
      if (count < 1) continue;
      columns.set(id, { first, count });
      first += count;
    }
    const sounds = [...wanted.sound].slice(0, MOST_SOUNDS);
    const isSame =
      sounds.join() === this.sounds.join() &&
      columns.size === this.columns.size &&
      [...columns].every(([id, one]) => {
        const old = this.columns.get(id);
        return old?.first === one.first && old.count === one.count;
      });
    if (isSame) return false;
    this.columns.clear();
    for (const [id, one] of columns) this.columns.set(id, one);
    this.sounds = sounds;
    while (this.spectra.length < sounds.length) {
      this.spectra.push(new Float32Array(MEMORY_ROWS * MEMORY_COLUMNS));
    }
    this.bandHz.fill(0);
    for (const [id, { first: at, count }] of columns) {
      const measure = scene.strands.find((strand) => strand.id === id)?.measure;
      if (measure?.kind !== "fan") continue;
      const bands = fanBands(measure);
      for (let i = 0; i < count; i++)
        this.bandHz[at + i] = bands[bandOf(i, count, bands.length)]?.centreHz ?? 0;
    }
    this.filledTo = -1;
    return true;
  }

  /** Has everything read again: a track is another one though it is the same object. */
  forget(): void {
    this.filledTo = -1;
  }

  /** Brings the numbers to a time; what is still right stays. */
  fill(source: NumberSource): ChangedRows {
    const now = Math.floor(source.timeS * FRAME_RATE_HZ + 1e-6);
    // The row after now as well: between rows the numbers are linear.
    const to = now + 1;
    const tracks = [...this.columns.keys()].map((id) => source.trackOf(id));
    const isNew = tracks.some((track, i) => track !== this.tracks[i]);
    this.tracks = tracks;
    const isSeek = isNew || this.filledTo < 0 || to < this.filledTo || to - this.filledTo > MEMORY_FRAMES;
    // The last two rows are filled again: for live strands their numbers had not arrived yet.
    const from = Math.max(0, isSeek ? to - MEMORY_FRAMES - 1 : this.filledTo - 1);
    for (let row = from; row <= to; row++) this.fillRow(row, source);
    this.readWaves(source, this.waves);
    this.filledTo = to;
    return to < from ? [] : stretches(from, to + 1);
  }

  private fillRow(row: number, source: NumberSource): void {
    const start = (row % MEMORY_ROWS) * MEMORY_COLUMNS;
    const timeS = row / FRAME_RATE_HZ;
    let i = 0;
    for (const { first, count } of this.columns.values()) {
      const track = this.tracks[i++];
      for (let k = 0; k < count; k++) {
        this.numbers[start + first + k] = track
          ? trackValueAt(track, timeS, bandOf(k, count, track.width))
          : 0;
      }
    }
    this.sounds.forEach((id, sound) => {
      const wave = source.waves.get(id);
      const levels = this.spectra[sound].subarray(start, start + MEMORY_COLUMNS);
      if (!wave) {
        levels.fill(0);
        return;
      }
      const centre = Math.round(wave.indexAt(timeS));
      const window = this.reader.between(
        wave.samples,
        centre - SPECTRUM_FFT_SIZE / 2,
        centre + SPECTRUM_FFT_SIZE / 2,
      );
      this.spectrum.at(window.samples, centre - window.first, this.powers);
      bandLevels(this.powers, 0, levels);
    });
  }

  /** Samples around a time, {@link WAVE_SAMPLES} for each sound. */
  readWaves({ timeS, waves }: Pick<NumberSource, "timeS" | "waves">, out: Float32Array): void {
    this.sounds.forEach((id, sound) => {
      const wave = waves.get(id);
      const row = out.subarray(sound * WAVE_SAMPLES, (sound + 1) * WAVE_SAMPLES);
      row.fill(0);
      if (!wave) return;
      const from = Math.round(wave.indexAt(timeS)) - WAVE_SAMPLES / 2;
      const { samples, first } = this.reader.between(wave.samples, from, from + WAVE_SAMPLES);
      for (let i = 0; i < WAVE_SAMPLES; i++) row[i] = samples[from + i - first] ?? 0;
    });
  }

  /** How many sounds are read. */
  get soundCount(): number {
    return this.sounds.length;
  }
}

/** The band that a column shows where there are more bands than columns. */
const bandOf = (column: number, columns: number, bands: number): number =>
  columns === bands || columns < 2
    ? Math.min(column, bands - 1)
    : Math.round((column * (bands - 1)) / (columns - 1));

/** Rows of the ring that frames lie in. */
function stretches(from: number, to: number): ChangedRows {
  if (to - from >= MEMORY_ROWS) return [[0, MEMORY_ROWS]];
  const [first, last] = [from % MEMORY_ROWS, ((to - 1) % MEMORY_ROWS) + 1];
  return first < last
    ? [[first, last]]
    : [
        [first, MEMORY_ROWS],
        [0, last],
      ];
}
