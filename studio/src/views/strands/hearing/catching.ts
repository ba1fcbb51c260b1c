import { packSamples, type Samples } from "@bumbrel/core/dsp/maths/samples";
import type { Catch } from "@bumbrel/core/strand/hits/catch";
import { create } from "zustand";
import type { FromCatch, ToCatch } from "../../../analysis/catch.worker";

/** Marks nearer than this are one: a key that was hit twice. */
const SAME_S = 0.06;

interface CatchingState {
  strandId: string | undefined;
  /** Rising. */
  marksS: readonly number[];
  /** Times of what was caught but is none, anywhere. */
  othersS: readonly number[];
  /** Share of the sound that has been listened through; 1 when marks can be judged. */
  share: number;
  isSearching: boolean;
  result: Catch | undefined;
  failure: string | undefined;
}

const NOTHING: CatchingState = {
  strandId: undefined,
  marksS: [],
  othersS: [],
  share: 0,
  isSearching: false,
  result: undefined,
  failure: undefined,
};

/** The catch in progress, if there is one. For this visit; what it finds goes into the document when it is used. */
export const useCatching = create<CatchingState>(() => NOTHING);

let worker: Worker | undefined;
/** Searches that were asked for, of which the newest counts. */
let searches = 0;

/** Begins a catch for a strand on what it hears. */
export function beginCatch(strandId: string, samples: Samples): void {
  endCatch();
  searches = 0;
  useCatching.setState({ ...NOTHING, strandId });
  worker = new Worker(new URL("../../../analysis/catch.worker.ts", import.meta.url), { type: "module" });
  worker.addEventListener("message", ({ data }: MessageEvent<FromCatch>) => {
    if (data.kind === "progress") useCatching.setState({ share: data.share });
    else if (data.kind === "failed") useCatching.setState({ failure: data.message, isSearching: false });
    else {
      useCatching.setState({
        result: data.result,
        failure: undefined,
        isSearching: data.search !== searches,
      });
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

export const clearMarks = () => setMarks([], []);

/** Says that a cue that was caught is none of the hits. */
export function crossOut(timeS: number): void {
  const { marksS, othersS } = useCatching.getState();
  setMarks(marksS, [...othersS, timeS]);
}

/** Takes back everything that was crossed out. */
export const crossNothingOut = () => setMarks(useCatching.getState().marksS, []);

function setMarks(marksS: readonly number[], othersS = useCatching.getState().othersS): void {
  const isEnough = marksS.length >= 3;
  useCatching.setState({
    marksS,
    othersS,
    failure: undefined,
    isSearching: isEnough,
    ...(!isEnough && { result: undefined }),
  });
  if (!isEnough) return;
  searches++;
  tell({ kind: "marks", marksS: [...marksS], othersS: [...othersS] });
}

function tell(message: ToCatch): void {
  worker?.postMessage(message);
}
