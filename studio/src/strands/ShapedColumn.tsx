import type { Strand } from "@bumbrel/core/scene/document";
import { useRef } from "react";
import { useFrame, useSnapshot, useWorkbench } from "../project/context";
import { StrandMark } from "../ui/StrandMark";
import { strandColour } from "../ui/strandLook";

const LANE_PX = 24;

/** Every strand's number now, as a rising bar. */
export function ShapedColumn({
  chosen,
  onChoose,
}: {
  chosen: Strand | undefined;
  onChoose(strand: Strand): void;
}) {
  const { scene } = useSnapshot();
  return (
    <div
      className="grid auto-cols-[24px] grid-flow-col overflow-x-auto overflow-y-hidden border-l border-rule px-2 pb-1"
      style={{ minWidth: Math.max(90, scene.strands.length * LANE_PX + 16) }}
    >
      {scene.strands.map((strand) => (
        <button
          key={strand.id}
          type="button"
          title={strand.name}
          aria-label={`Choose ${strand.name}`}
          className={`grid grid-rows-[minmax(0,1fr)_18px] justify-items-center gap-1 rounded px-1 ${strand.id === chosen?.id ? "bg-raised" : ""}`}
          onClick={() => onChoose(strand)}
        >
          <ShapedBar strand={strand} />
          <StrandMark strand={strand} />
        </button>
      ))}
    </div>
  );
}

function ShapedBar({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  const bar = useRef<HTMLSpanElement>(null);
  useFrame((timeS) => {
    const value = workbench.shapedNow(strand.id, timeS);
    if (bar.current) bar.current.style.transform = `scaleY(${Math.min(1, Math.max(0, value))})`;
  });
  return (
    <span className="relative block h-full w-2.5 overflow-hidden rounded-sm bg-rule/50">
      <span
        ref={bar}
        className="absolute inset-0 origin-bottom"
        style={{ background: strandColour(strand.hue), transform: "scaleY(0)" }}
      />
    </span>
  );
}
