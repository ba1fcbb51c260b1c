import type { FromAnalysis, ToAnalysis } from "./analysis.worker";
import { readSounds } from "./readSound";

/** Reads the sounds of a page whose numbers are baked: nothing is left to compute. */
const scope = self as unknown as {
  postMessage(message: FromAnalysis): void;
  onmessage: ((event: MessageEvent<Omit<ToAnalysis, "plan">>) => void) | null;
};
scope.onmessage = ({ data: { sounds, bytes, samples } }) => {
  readSounds(sounds, bytes, samples, (message) => scope.postMessage(message)).then(
    () => scope.postMessage({ kind: "tracks", tracks: new Map() }),
    (error: Error) => scope.postMessage({ kind: "failed", message: error.message }),
  );
};
