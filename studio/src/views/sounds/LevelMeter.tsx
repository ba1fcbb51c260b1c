import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { useRef } from "react";
import { useSession } from "../../session/context";
import { formatLufs } from "../../ui/format";
import { useFrame } from "../../ui/live/frames";
import { LiveText } from "../../ui/live/LiveText";

const FLOOR_DB = -60;
const TOP_DB = 6;
const share = (level: number) =>
  Math.min(1, Math.max(0, (levelToDb(level) - FLOOR_DB) / (TOP_DB - FLOOR_DB)));
const FULL_SHARE = -FLOOR_DB / (TOP_DB - FLOOR_DB);

/**
 * Level of what a strip gives on: a line that moves, a mark where it was loudest of late, and a word once full
 * scale was reached.
 */
export function LevelMeter({ id, name }: { id: string; name: string }) {
  const { meters } = useSession();
  const bar = useRef<HTMLSpanElement>(null);
  const hold = useRef<HTMLSpanElement>(null);
  const over = useRef<HTMLButtonElement>(null);
  const meter = useRef<HTMLDivElement>(null);
  useFrame(() => {
    const { level, hold: held, clipped } = meters.read(id);
    if (bar.current) bar.current.style.transform = `scaleX(${share(level)})`;
    if (hold.current) {
      // A part of its own width, which is the meter's: asking for that in pixels would cost a layout a frame.
      hold.current.style.transform = `translateX(${share(held) * 100}%)`;
      hold.current.style.opacity = held > 0 ? "1" : "0";
    }
    if (over.current && over.current.hidden === clipped) over.current.hidden = !clipped;
  }, meter);
  return (
    <div className="flex min-w-0 items-center gap-2">
      <div
        ref={meter}
        role="img"
        aria-label={`Level of ${name}`}
        className="relative h-2 min-w-0 grow overflow-hidden rounded-sm bg-sunk"
      >
        <span
          ref={bar}
          className="absolute inset-0 origin-left bg-brass will-change-transform"
          style={{ transform: "scaleX(0)" }}
        />
        <span className="absolute inset-y-0 w-px bg-rule" style={{ left: `${FULL_SHARE * 100}%` }} />
        <span
          ref={hold}
          className="absolute inset-0 border-l-2 border-paper will-change-transform"
          style={{ opacity: 0 }}
        />
      </div>
      <button
        ref={over}
        type="button"
        hidden
        title="Full scale was reached. Click to put this mark out."
        className="rounded-sm bg-alarm px-1 text-xs text-ground"
        onClick={() => meters.forgetClip(id)}
      >
        over
      </button>
      <LiveText
        className="w-[10.5ch] shrink-0 text-right text-xs whitespace-nowrap text-mist"
        text={() => formatLufs(meters.read(id).lufs)}
      />
    </div>
  );
}
