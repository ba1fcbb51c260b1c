import { FRAME_RATE_HZ } from "../../constants";
import { text, whole } from "../../setting/descriptor";
import type { Signal } from "../hearing/signal";
import { measure, precomputed, single } from "./declaration";

const firstFrameAt = (timeS: number) => Math.max(0, Math.ceil(timeS * FRAME_RATE_HZ - 1e-6));

const notesWithin = ({ notes = [] }: Signal, { lowNote, highNote }: { lowNote: number; highNote: number }) =>
  notes.filter(({ note }) => note >= lowNote && note <= highNote);

const NOTES = {
  lowNote: whole("Lowest note", [0, 127], 0, "Lowest MIDI note that counts.", {
    unit: "note",
    chars: 3,
    before: "from",
  }),
  highNote: whole("Highest note", [0, 127], 127, "Highest MIDI note that counts.", {
    unit: "note",
    chars: 3,
    before: "to",
  }),
};

/** Notes, controllers and columns of numbers. */
export const NOTES_AND_NUMBERS = {
  velocity: measure({
    label: "Notes held",
    help: "How hard the newest sounding note was struck, 0 when none sounds.",
    group: "notes",
    unit: "share",
    reads: ["notes"],
    settings: NOTES,
    ahead: () => 0,
    start: (measure, signal) =>
      precomputed(signal, (out) => {
        for (const { timeS, endS, velocity } of notesWithin(signal, measure)) {
          const first = firstFrameAt(timeS);
          out.fill(velocity, first, Math.min(out.length, Math.max(first + 1, firstFrameAt(endS))));
        }
      }),
  }),
  note: measure({
    label: "Note",
    help: "Where the newest note lies between the lowest and the highest, from 0 to 1; stays until the next.",
    group: "notes",
    unit: "share",
    reads: ["notes"],
    settings: NOTES,
    ahead: () => 0,
    start: (measure, signal) =>
      precomputed(signal, (out) => {
        const span = Math.max(1, measure.highNote - measure.lowNote);
        for (const { timeS, note } of notesWithin(signal, measure)) {
          out.fill((note - measure.lowNote) / span, firstFrameAt(timeS));
        }
      }),
  }),
  control: measure({
    label: "Control",
    help: "A controller's last position, from 0 to 1: a knob, a wheel, a pedal.",
    group: "notes",
    unit: "share",
    reads: ["controls"],
    settings: { controller: whole("Controller", [0, 127], 1, "MIDI controller number.", { chars: 3 }) },
    ahead: () => 0,
    start: ({ controller }, signal) =>
      precomputed(signal, (out) => {
        for (const change of signal.controls ?? []) {
          if (change.controller === controller) out.fill(change.value, firstFrameAt(change.timeS));
        }
      }),
  }),
  column: measure({
    label: "Column",
    help: "A column of a table of numbers, as it stands there.",
    group: "notes",
    unit: "share",
    reads: ["columns"],
    settings: {
      column: text("Column", "", "Name of the column; the first if there is none of that name.", 120),
    },
    ahead: () => 0,
    start({ column }, { columns = [] }) {
      const values = (columns.find(({ name }) => name === column) ?? columns[0])?.values;
      return single(({ frame }) => (values ? values[Math.min(frame, values.length - 1)] : 0));
    },
  }),
};
