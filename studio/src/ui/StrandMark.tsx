import type { Strand } from "@bumbrel/core/document/scene";
import { SHAPE_PATHS, strandColour } from "./strandLook";

/** A strand's shape in its hue. */
export function StrandMark({ strand, size = 14 }: { strand: Pick<Strand, "hue" | "shape">; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden="true" className="shrink-0">
      <path d={SHAPE_PATHS[strand.shape]} fill={strandColour(strand.hue)} />
    </svg>
  );
}
