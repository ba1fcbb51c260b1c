/**
 * Finds the person in pictures, in a sandboxed frame: the library's own script comes before this one in its page. Its
 * files are handed over, so that nothing is fetched.
 */
import type { SelfieSegmentation as Segmentation } from "@mediapipe/selfie_segmentation";
import type { FromFinder, ToFinder } from "./personFinder";

declare const SelfieSegmentation: typeof Segmentation;

const tell = (message: FromFinder, transfer: Transferable[] = []) =>
  parent.postMessage(message, "*", transfer);
const failed = (error: unknown) =>
  tell({
    kind: "failed",
    message: `Nobody can be found in the picture: ${(error as Error).message ?? error}`,
  });

/** 0 finds people near and far in upright pictures. */
const GENERAL_MODEL = 0;

let segmentation: Segmentation | undefined;
let take: ((mask: CanvasImageSource) => void) | undefined;
let canvas: HTMLCanvasElement | undefined;

async function begin(files: Record<string, ArrayBuffer>): Promise<void> {
  const urls = new Map<string, string>();
  for (const [name, bytes] of Object.entries(files)) {
    const type = name.endsWith(".js") ? "text/javascript" : name.endsWith(".wasm") ? "application/wasm" : "";
    urls.set(name, URL.createObjectURL(new Blob([bytes], { type })));
  }
  segmentation = new SelfieSegmentation({
    locateFile: (name) => urls.get(name.split("/").pop() ?? "") ?? name,
  });
  segmentation.setOptions({ modelSelection: GENERAL_MODEL, selfieMode: false });
  segmentation.onResults(({ segmentationMask }) => take?.(segmentationMask as CanvasImageSource));
  await segmentation.initialize();
  tell({ kind: "ready" });
}

async function find(picture: ImageBitmap): Promise<void> {
  if (!segmentation) return;
  const before = performance.now();
  canvas ??= document.createElement("canvas");
  canvas.width = picture.width;
  canvas.height = picture.height;
  canvas.getContext("2d")!.drawImage(picture, 0, 0);
  picture.close();
  const made = new Promise<ImageBitmap>((resolve) => {
    take = (mask) => resolve(createImageBitmap(mask as ImageBitmapSource));
  });
  await segmentation.send({ image: canvas });
  const mask = await made;
  tell({ kind: "mask", mask, tookMs: performance.now() - before }, [mask]);
}

addEventListener("message", ({ source, data }: MessageEvent<ToFinder>) => {
  if (source !== parent) return;
  const work = data.kind === "files" ? begin(data.files) : find(data.picture);
  work.catch(failed);
});
addEventListener("error", ({ message }) => failed(message));
tell({ kind: "waiting" });
