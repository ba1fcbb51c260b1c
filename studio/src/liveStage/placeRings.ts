import type { Place } from "@bumbrel/core/sound/kinds";
import { BufferGeometry, Group, LineBasicMaterial, LineLoop, Vector3 } from "three";

const SEGMENTS = 96;
/** Full level within the inner ring, no further fall beyond the outer one. */
const INNER = new LineBasicMaterial({ color: 0xe3b563, toneMapped: false });
const OUTER = new LineBasicMaterial({ color: 0xa3b8ba, toneMapped: false });
const CIRCLE = new BufferGeometry().setFromPoints(
  Array.from({ length: SEGMENTS }, (_, i) => {
    const angle = (2 * Math.PI * i) / SEGMENTS;
    return new Vector3(Math.cos(angle), 0, Math.sin(angle));
  }),
);

/** Rings around the positions of sounds. */
export class PlaceRings {
  readonly root = new Group();
  private shown = "";

  /** @returns whether that changed anything */
  show(places: readonly Place[]): boolean {
    const key = JSON.stringify(places);
    if (key === this.shown) return false;
    this.shown = key;
    this.root.clear();
    for (const { position, referenceM, maximumM } of places) {
      for (const [radius, material] of [
        [referenceM, INNER],
        [Math.max(referenceM, maximumM), OUTER],
      ] as const) {
        const ring = new LineLoop(CIRCLE, material);
        ring.position.fromArray(position);
        ring.scale.setScalar(radius);
        this.root.add(ring);
      }
    }
    return true;
  }

  /** Radii of the rings that are drawn, place after place, the inner one first. */
  radii(): number[] {
    return this.root.children.map(({ scale }) => scale.x);
  }

  dispose(): void {
    this.root.clear();
  }
}
