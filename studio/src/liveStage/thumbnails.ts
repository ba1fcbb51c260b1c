import { can } from "@bumbrel/core/kinds/table";
import { DIFFERENCE_LAYER } from "@bumbrel/player/stage/image/layers";
import type { Stage } from "@bumbrel/player/stage/stage";
import { type Object3D, PerspectiveCamera, Sphere, Vector3, WebGLRenderTarget } from "three";
import { boundsOf } from "./bounds";

/** Size of the pictures on the Shelf, pixels. */
const ON_SHELF = { width: 480, height: 288 };

/**
 * The stage as it is now, for lists of projects. The browser scales and encodes it apart from the page, so that nothing
 * is read back from the graphics card on the page's own thread.
 */
export async function stageThumbnail(stage: Stage, { width, height } = ON_SHELF): Promise<Blob | undefined> {
  stage.renderClean();
  const { canvas } = stage;
  const scale = Math.max(width / canvas.width, height / canvas.height);
  const [w, h] = [width / scale, height / scale];
  const image = await createImageBitmap(canvas, (canvas.width - w) / 2, (canvas.height - h) / 2, w, h, {
    resizeWidth: width,
    resizeHeight: height,
    resizeQuality: "medium",
  }).catch(() => undefined);
  if (!image) return undefined;
  const worker = new Worker(new URL("./encodeImage.worker.ts", import.meta.url), { type: "module" });
  try {
    return await new Promise<Blob | undefined>((resolve) => {
      worker.onmessage = ({ data }: MessageEvent<Blob>) => resolve(data);
      worker.onerror = () => resolve(undefined);
      worker.postMessage(image, [image]);
    });
  } finally {
    worker.terminate();
  }
}

/**
 * A small image of an object by itself, one of its copies, in the light of the stage; `undefined` for what has no
 * surface, or is too dark or thin to show anything. Nothing waits for it: what is drawn meanwhile comes first.
 */
export async function objectThumbnail(
  stage: Stage,
  objectId: string,
  width: number,
  height: number,
): Promise<string | undefined> {
  const entry = stage.entries.get(objectId);
  if (!entry || !can(entry.source.object.kind).surface) return undefined;
  const { three, renderer } = stage;
  const { root } = entry.rendered;
  const restore = entry.rendered.limitCopies?.(1);
  const box = boundsOf(root);
  if (box.isEmpty()) {
    restore?.();
    return undefined;
  }
  const hidden: Object3D[] = [];
  for (const child of three.children) {
    const isLight = child.getObjectsByProperty("isLight", true).length > 0;
    if (child === root || isLight || !child.visible) continue;
    child.visible = false;
    hidden.push(child);
  }
  const sphere = box.getBoundingSphere(new Sphere());
  const camera = new PerspectiveCamera(30, width / height, 0.01, 5000);
  camera.layers.enable(DIFFERENCE_LAYER);
  const distance = Math.max(0.05, sphere.radius) / Math.sin((camera.fov * Math.PI) / 360);
  camera.position.copy(sphere.center).add(new Vector3(0.45, 0.4, 1).normalize().multiplyScalar(distance));
  camera.lookAt(sphere.center);
  const target = new WebGLRenderTarget(width, height, { samples: 4 });
  const { fog } = three;
  three.fog = null;
  renderer.setRenderTarget(target);
  renderer.setClearColor(0, 0);
  renderer.clear();
  renderer.render(three, camera);
  renderer.setRenderTarget(null);
  three.fog = fog;
  for (const child of hidden) child.visible = true;
  restore?.();
  const pixels = new Uint8Array(width * height * 4);
  try {
    await renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, pixels);
  } catch {
    // The graphics card was taken away meanwhile.
    return undefined;
  } finally {
    target.dispose();
  }
  return isAnythingSeen(pixels) ? asImage(pixels, width, height) : undefined;
}

/** Light of a pixel, 0..255, from which it is seen on a dark ground, and how many of them make an image. */
const SEEN_FROM = 10;
const SEEN_PIXELS = 40;

/** True if enough of an image is bright enough to be seen. */
export function isAnythingSeen(pixels: Uint8Array): boolean {
  let seen = 0;
  for (let i = 0; i < pixels.length; i += 4) {
    if (Math.max(pixels[i], pixels[i + 1], pixels[i + 2]) * pixels[i + 3] > SEEN_FROM * 255) seen++;
  }
  return seen >= SEEN_PIXELS;
}

/** Pixels of linear light, from bottom to top, as an image with transparency. */
function asImage(pixels: Uint8Array, width: number, height: number): string {
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  // Kept off the graphics card, which would have to finish all its work before it is read back.
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) return "";
  const image = context.createImageData(width, height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width * 4; x++) {
      const value = pixels[(height - 1 - y) * width * 4 + x];
      image.data[y * width * 4 + x] = x % 4 === 3 ? value : 255 * (value / 255) ** (1 / 2.2);
    }
  }
  context.putImageData(image, 0, 0);
  return canvas.toDataURL("image/png");
}
