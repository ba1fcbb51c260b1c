import { packSamples, type Samples } from "@bumbrel/core/dsp/samples";
import type { Catch } from "@bumbrel/core/strand/catch";
import { create } from "zustand";
import type { FromCatch, ToCatch } from "../../analysis/catch.worker";

/** Marks nearer than this are one: a key that was hit twice. */
const SAME_S = 0.06;

interface CatchingState {
  strandId: string | undefined;
  /** Rising. */
  marksS: readonly number[];
  /** Share of the sound that has been listened through; 1 when marks can be judged. */
  share: number;
  isSearching: boolean;
  result: Catch | undefined;
  failure: string | undefined;
}

const NOTHING: CatchingState = {
  strandId: undefined,
  marksS: [],
  share: 0,
  isSearching: false,
  result: undefined,
  failure: undefined,
};

/** The catch in progress, if there is one. For this visit; what it finds goes into the document when it is used. */
export const useCatching = create<CatchingState>(() => NOTHING);

let worker: Worker | undefined;

/** Begins a catch for a strand on what it hears. */
export function beginCatch(strandId: string, samples: Samples): void {
  endCatch();
  useCatching.setState({ ...NOTHING, strandId });
  worker = new Worker(new URL("../../analysis/catch.worker.ts", import.meta.url), { type: "module" });
  worker.addEventListener("message", ({ data }: MessageEvent<FromCatch>) => {
    if (data.kind === "progress") useCatching.setState({ share: data.share });
    else if (data.kind === "failed") useCatching.setState({ failure: data.message, isSearching: false });
    else {
      const isNewest = data.marksS.length === useCatching.getState().marksS.length;
      useCatching.setState({ result: data.result, failure: undefined, isSearching: !isNewest });
    }
  });
  tell({ kind: "samples", samples: packSamples(samples) });
}

/** Ends it, and whatever it was still searching for. */
export function endCatch(): void {
  worker?.terminate();
  worker = undefined;
  useCatching.setState(NOTHING);
}

/** Marks a hit, or takes the mark away that stands there. */
export function toggleMark(timeS: number, reachS = SAME_S): void {
  const { marksS } = useCatching.getState();
  const near = marksS.find((mark) => Math.abs(mark - timeS) <= reachS);
  setMarks(
    near === undefined ? [...marksS, timeS].sort((a, b) => a - b) : marksS.filter((mark) => mark !== near),
  );
}

/** Marks a hit unless there is a mark already. */
export function addMark(timeS: number): void {
  const { marksS } = useCatching.getState();
  if (!marksS.some((mark) => Math.abs(mark - timeS) <= SAME_S)) toggleMark(timeS);
}

export const clearMarks = () => setMarks([]);

function setMarks(marksS: readonly number[]): void {
  const isEnough = marksS.length >= 3;
  useCatching.setState({
    marksS,
    failure: undefined,
    isSearching: isEnough,
    ...(!isEnough && { result: undefined }),
  });
  if (isEnough) tell({ kind: "marks", marksS: [...marksS] });
}

function tell(message: ToCatch): void {
  worker?.postMessage(message);
}
