import { type RefObject, useEffect, useRef } from "react";

export interface CanvasSize {
  width: number;
  height: number;
}

/**
 * A canvas kept at its own size in device pixels. Its context is scaled so that drawing is in CSS pixels.
 *
 * @param onResize  called after each change of size, when the canvas is blank
 */
export function useCanvas(onResize?: () => void): {
  ref: RefObject<HTMLCanvasElement | null>;
  size: RefObject<CanvasSize>;
  context(): CanvasRenderingContext2D | null;
} {
  const ref = useRef<HTMLCanvasElement>(null);
  const size = useRef<CanvasSize>({ width: 0, height: 0 });
  const resized = useRef(onResize);
  resized.current = onResize;
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas) return;
    const fit = () => {
      const { clientWidth: width, clientHeight: height } = canvas;
      const ratio = Math.min(2, devicePixelRatio);
      canvas.width = Math.max(1, Math.round(width * ratio));
      canvas.height = Math.max(1, Math.round(height * ratio));
      size.current = { width, height };
      canvas.getContext("2d")?.setTransform(ratio, 0, 0, ratio, 0, 0);
      resized.current?.();
    };
    const observer = new ResizeObserver(fit);
    observer.observe(canvas);
    fit();
    return () => observer.disconnect();
  }, []);
  return { ref, size, context: () => ref.current?.getContext("2d") ?? null };
}
