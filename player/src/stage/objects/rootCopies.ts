import { Group, Mesh, Quaternion, Vector3 } from "three";
import type { ObjectSource } from "../renderedObject";

/** A drawing is drawn once for each copy of its group, up to this many. */
const MAX_SHOWN = 256;

/**
 * Draws the same meshes at their object's root, or at each copy of the group the object is in.
 */
export class RootCopies {
  readonly root = new Group();
  private readonly first: readonly Mesh[];

  constructor(...meshes: Mesh[]) {
    this.first = meshes;
    for (const mesh of meshes) mesh.matrixAutoUpdate = false;
    this.root.add(...meshes);
  }

  place({ state: { placing }, plan }: ObjectSource): void {
    const { count, matrices } = placing.rootsOf(plan);
    const { first } = this;
    const shown = Math.min(count, MAX_SHOWN) * first.length;
    const { children } = this.root;
    while (children.length < shown) {
      const original = first[children.length % first.length];
      const copy = new Mesh(original.geometry, original.material);
      copy.matrixAutoUpdate = false;
      copy.frustumCulled = false;
      copy.layers.mask = original.layers.mask;
      copy.onBeforeRender = original.onBeforeRender;
      this.root.add(copy);
    }
    while (children.length > shown) this.root.remove(children[children.length - 1]);
    for (let i = 0; i < shown; i++) {
      children[i].matrix.fromArray(matrices, Math.floor(i / first.length) * 16);
      children[i].matrixWorldNeedsUpdate = true;
    }
  }

  /** The matrix of each, as it is drawn. */
  matrices(): number[] {
    return this.root.children
      .filter((_, i) => i % this.first.length === 0)
      .flatMap(({ matrix }) => matrix.toArray());
  }

  /** Position and scale of the first. */
  read(property: string): number[] | undefined {
    const position = new Vector3();
    const scale = new Vector3();
    this.first[0].matrix.decompose(position, new Quaternion(), scale);
    return property === "position" ? position.toArray() : property === "scale" ? scale.toArray() : undefined;
  }
}
