import { Group, Mesh, Quaternion, Vector3 } from "three";
import type { Source } from "../thing";

/** Copies of a group that a drawing is seen in at most: each is drawn by itself. */
const MOST_SHOWN = 256;

/**
 * Drawn once where its object stands, or once for each copy of the group it is in: all of them show the same.
 */
export class AtRoots {
  readonly root = new Group();
  private readonly first: Mesh;

  constructor(mesh: Mesh) {
    this.first = mesh;
    mesh.matrixAutoUpdate = false;
    this.root.add(mesh);
  }

  stand({ placing, plan }: Source): void {
    const { count, matrices } = placing.rootsOf(plan);
    const shown = Math.min(count, MOST_SHOWN);
    const { children } = this.root;
    while (children.length < shown) {
      const copy = new Mesh(this.first.geometry, this.first.material);
      copy.matrixAutoUpdate = false;
      copy.frustumCulled = false;
      copy.layers.mask = this.first.layers.mask;
      this.root.add(copy);
    }
    while (children.length > shown) this.root.remove(children[children.length - 1]);
    for (let i = 0; i < shown; i++) {
      children[i].matrix.fromArray(matrices, i * 16);
      children[i].matrixWorldNeedsUpdate = true;
    }
  }

  /** Where each of them stands, as it is drawn. */
  drawn(): number[] {
    return this.root.children.flatMap(({ matrix }) => matrix.toArray());
  }

  /** Place and size of the first. */
  read(property: string): number[] | undefined {
    const position = new Vector3();
    const scale = new Vector3();
    this.first.matrix.decompose(position, new Quaternion(), scale);
    return property === "position" ? position.toArray() : property === "scale" ? scale.toArray() : undefined;
  }
}
