import { Group, Mesh, Quaternion, Vector3 } from "three";
import type { ObjectSource } from "../renderedObject";

/** A drawing is drawn once for each copy of its group, up to this many. */
const MAX_SHOWN = 256;

/**
 * Draws the same mesh at its object's root, or at each copy of the group the object is in.
 */
export class RootCopies {
  readonly root = new Group();
  private readonly first: Mesh;

  constructor(mesh: Mesh) {
    this.first = mesh;
    mesh.matrixAutoUpdate = false;
    this.root.add(mesh);
  }

  place({ state: { placing }, plan }: ObjectSource): void {
    const { count, matrices } = placing.rootsOf(plan);
    const shown = Math.min(count, MAX_SHOWN);
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

  /** The matrix of each, as it is drawn. */
  matrices(): number[] {
    return this.root.children.flatMap(({ matrix }) => matrix.toArray());
  }

  /** Position and scale of the first. */
  read(property: string): number[] | undefined {
    const position = new Vector3();
    const scale = new Vector3();
    this.first.matrix.decompose(position, new Quaternion(), scale);
    return property === "position" ? position.toArray() : property === "scale" ? scale.toArray() : undefined;
  }
}
