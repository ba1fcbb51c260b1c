import { useRef } from "react";
import { useFrame } from "./frames";

/** Times a second a figure changes: faster cannot be read. */
const READABLE_HZ = 10;

/** A figure that follows the sound, written past React. */
export function LiveText({ text, className = "" }: { text(timeS: number): string; className?: string }) {
  const ref = useRef<HTMLSpanElement>(null);
  const writtenAt = useRef(0);
  useFrame((timeS) => {
    const now = performance.now();
    if (!ref.current || now - writtenAt.current < 1000 / READABLE_HZ) return;
    writtenAt.current = now;
    const next = text(timeS);
    if (ref.current.textContent !== next) ref.current.textContent = next;
  }, ref);
  return <span ref={ref} className={`figures ${className}`} />;
}
