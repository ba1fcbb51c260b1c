import { useRef } from "react";
import { useFrame } from "../../ui/live/frames";

const WIDTH = 84;
const HEIGHT = 12;

/** A short line with the two ends of a range on it, and a mark that goes with a number. */
export function LiveMarks({
  low,
  high,
  from,
  to,
  colour,
  value,
}: {
  /** The ends of the range. */
  low: number;
  high: number;
  /** The ends of the line. */
  from: number;
  to: number;
  colour: string;
  value(timeS: number): number;
}) {
  const mark = useRef<SVGCircleElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const x = (at: number) => {
    const share = to === from ? 0.5 : (at - from) / (to - from);
    return 4 + (WIDTH - 8) * Math.min(1, Math.max(0, share));
  };
  useFrame((timeS) => mark.current?.setAttribute("cx", x(value(timeS)).toFixed(1)), svg);
  return (
    <svg
      ref={svg}
      width={WIDTH}
      height={HEIGHT}
      aria-hidden="true"
      className="inline-block shrink-0 align-middle"
    >
      <line x1={4} x2={WIDTH - 4} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke="var(--rule)" />
      <line x1={x(low)} x2={x(high)} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke="var(--mist)" strokeWidth={3} />
      <circle ref={mark} cx={4} cy={HEIGHT / 2} r={4} fill={colour} />
    </svg>
  );
}
