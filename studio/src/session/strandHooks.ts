import type { Scene, Strand } from "@bumbrel/core/document/scene";
import { happensLive } from "@bumbrel/core/document/strands/strands";
import { useRef } from "react";
import { shallow } from "zustand/shallow";
import { useScene } from "./context";

/** A strand without its tuning: the same object until its source, measure, name or look changes. */
export type StrandFace = Omit<Strand, "shaping" | "cues">;

const faces = new WeakMap<Strand, StrandFace>();

/** A strand without its tuning, made once for each state of the strand. */
function faceOf(strand: Strand): StrandFace {
  let face = faces.get(strand);
  if (!face) {
    const { shaping: _shaping, cues: _cues, ...rest } = strand;
    face = rest;
    faces.set(strand, face);
  }
  return face;
}

/** All strands without their tuning, in order; tuning one renders nothing again. */
export function useStrands(): readonly StrandFace[] {
  const last = useRef<readonly StrandFace[]>([]);
  return useScene(({ strands }) => {
    last.current = strands.map((strand, i) => {
      const face = faceOf(strand);
      const before = last.current[i];
      return before && shallow(before, face) ? before : face;
    });
    return last.current;
  });
}

/** A strand without its tuning; nothing once it has been removed. */
export const useStrandFace = (strandId: string): StrandFace | undefined =>
  useScene(({ strands }) => {
    const strand = strands.find(({ id }) => id === strandId);
    return strand && faceOf(strand);
  });

/** A part of a strand. A component of a strand that has been removed keeps showing its last state until it goes. */
export function useStrand<T>(strandId: string, select: (strand: Strand, scene: Scene) => T): T {
  const last = useRef<T>(undefined);
  return useScene((scene) => {
    const strand = scene.strands.find(({ id }) => id === strandId);
    if (strand) last.current = select(strand, scene);
    return last.current as T;
  });
}

/** True if a strand hears an input or a visitor rather than a sound that is known beforehand. */
export const useHappensLive = (strandId: string): boolean =>
  useStrand(strandId, (strand, scene) => happensLive(scene, strand));
