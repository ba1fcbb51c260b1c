import type { ModelFacts } from "@bumbrel/core/format/model";
import { askWorker } from "./askWorker";
import type { AssetRequest } from "./asset.worker";

/** Reading a model or drawing an SVG ends after so long, ms: what takes longer would be too heavy to show. */
const LIMIT_MS = 20_000;

/** Reads what a hostile or broken file could hang with: away from the page, and for a limited time. */
export interface AssetReader {
  /** @throws AssetFormatError naming what is wrong */
  model(bytes: Uint8Array, name: string, signal?: AbortSignal): Promise<ModelFacts>;
  /**
   * Draws an SVG, where neither its scripts nor its links do anything.
   *
   * @returns a PNG
   */
  svg(text: string, name: string, signal?: AbortSignal): Promise<Uint8Array>;
}

function ask<T>(request: AssetRequest, name: string, signal?: AbortSignal): Promise<T> {
  const worker = new Worker(new URL("./asset.worker.ts", import.meta.url), { type: "module" });
  return askWorker<T>(worker, request, { name, signal, limitMs: LIMIT_MS });
}

export const workerReader: AssetReader = {
  model: (bytes, name, signal) => ask({ kind: "model", bytes, name }, name, signal),
  svg: (text, name, signal) => ask({ kind: "svg", text, name }, name, signal),
};
