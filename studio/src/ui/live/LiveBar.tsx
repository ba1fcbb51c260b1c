import { useRef } from "react";
import { useFrame } from "./frames";

/** A thin bar that follows a number from 0 to 1, drawn past React. */
export function LiveBar({
  value,
  colour,
  className = "",
}: {
  value(timeS: number): number;
  colour: string;
  className?: string;
}) {
  const ref = useRef<HTMLSpanElement>(null);
  useFrame((timeS) => {
    if (ref.current) ref.current.style.transform = `scaleX(${Math.min(1, Math.max(0, value(timeS)))})`;
  });
  return (
    <span className={`block h-1 overflow-hidden rounded-full bg-rule/60 ${className}`} aria-hidden="true">
      <span
        ref={ref}
        className="block h-full origin-left"
        style={{ background: colour, transform: "scaleX(0)" }}
      />
    </span>
  );
}
