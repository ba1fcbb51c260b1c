import type { InTake } from "@bumbrel/core/document/take/compareTakes";
import { create } from "zustand";

/** A difference between two takes that are compared: when, on the tape, and which of them has it. */
export interface TakeTick {
  tapeS: number;
  in: InTake;
}

/** Differences between the takes that are compared now, for the tape to show. */
export const useTakeTicks = create<{ ticks: readonly TakeTick[]; show(ticks: readonly TakeTick[]): void }>(
  (set) => ({ ticks: [], show: (ticks) => set({ ticks }) }),
);
