import type { Blend } from "@bumbrel/core/kinds/shared";
import { BufferAttribute, BufferGeometry, DynamicDrawUsage, type Mesh, type ShaderMaterial } from "three";
import type { DrawnParts } from "../renderedObject";
import { overlaidMesh, sendFirst } from "./overlay";

/** Lines with a width of their own at each point, which always face the eye. */
export class Trails {
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>;
  /** x, y, z at each vertex, with a gap after them: two for each point, one to either side. */
  private readonly places: Float32Array;
  /** The way the line goes; then 1 and the opacity, with the sign of the side of the line the vertex is on. */
  private readonly ways: Float32Array;
  /** Linear RGB, and half the width. */
  private readonly colours: Float32Array;
  private readonly indices: Uint32Array;
  private readonly attributes: BufferAttribute[];
  private readonly index: BufferAttribute;
  private readonly most: number;
  private points = 0;
  private pieces = 0;
  private isBegun = false;

  /** @param most  points of all lines together */
  constructor(most: number, blend: Blend) {
    this.most = most;
    [this.places, this.ways, this.colours] = [0, 1, 2].map(() => new Float32Array(most * 8));
    this.indices = new Uint32Array(most * 6);
    this.attributes = [this.places, this.ways, this.colours].map((array) =>
      new BufferAttribute(array, 4).setUsage(DynamicDrawUsage),
    );
    this.index = new BufferAttribute(this.indices, 1).setUsage(DynamicDrawUsage);
    const geometry = new BufferGeometry();
    const [places, ways, colours] = this.attributes;
    geometry.setAttribute("position", places);
    geometry.setAttribute("way", ways);
    geometry.setAttribute("trailColour", colours);
    geometry.setIndex(this.index);
    this.mesh = overlaidMesh(geometry, blend, {
      attributes: "attribute vec4 way; attribute vec4 trailColour;",
      varyings: "varying vec4 vColour; varying float vSide;",
      vertex: `
        vColour = vec4(trailColour.rgb, abs(way.w) - 1.0); vSide = sign(way.w);
        seen = modelViewMatrix * vec4(position, 1.0);
        vec3 along = (modelViewMatrix * vec4(way.xyz, 0.0)).xyz;
        vec3 across = cross(along, seen.xyz);
        float wide = length(across);
        if (wide > 1e-7) seen.xyz += across / wide * trailColour.w * sign(way.w);`,
      fragment: `
        float edge = 1.0 - abs(vSide);
        float cover = smoothstep(0.0, max(0.35, fwidth(edge) * 1.5), edge);
        gl_FragColor = vec4(vColour.rgb, vColour.a * cover);`,
    });
  }

  clear(): void {
    this.points = 0;
    this.pieces = 0;
    this.isBegun = false;
  }

  /** Begins another line. */
  begin(): void {
    this.isBegun = false;
  }

  /** Adds a point to the line that was begun last. */
  add(x: number, y: number, z: number, half: number, r: number, g: number, b: number, opacity: number): void {
    if (this.points === this.most) return;
    const n = this.points++;
    for (let side = 0; side < 2; side++) {
      const at = (n * 2 + side) * 4;
      this.places[at] = x;
      this.places[at + 1] = y;
      this.places[at + 2] = z;
      this.ways[at + 3] = (1 + opacity) * (side === 0 ? -1 : 1);
      this.colours[at] = r;
      this.colours[at + 1] = g;
      this.colours[at + 2] = b;
      this.colours[at + 3] = half;
    }
    if (this.isBegun) {
      const at = this.pieces++ * 6;
      const [a, c] = [n * 2 - 2, n * 2];
      this.indices.set([a, a + 1, c, a + 1, c + 1, c], at);
      this.turn(n - 1, n);
    } else this.turn(n, n);
    this.isBegun = true;
  }

  /** Turns a point, and the one before it, the way from one to the other. */
  private turn(before: number, now: number): void {
    const { places, ways } = this;
    for (let axis = 0; axis < 3; axis++) {
      const step = places[now * 8 + axis] - places[before * 8 + axis];
      ways[now * 8 + axis] = step;
      ways[now * 8 + 4 + axis] = step;
      if (before === now) continue;
      // In the middle of a line a point goes half the way it came and half the way it goes on.
      ways[before * 8 + axis] += step;
      ways[before * 8 + 4 + axis] += step;
    }
  }

  send(): void {
    this.mesh.geometry.setDrawRange(0, this.pieces * 6);
    sendFirst(this.attributes, this.points * 2);
    sendFirst([this.index], this.pieces * 6);
  }

  drawnParts(): DrawnParts {
    const count = this.points * 8;
    return {
      trailPlaces: [...this.places.subarray(0, count)],
      trailColours: Array.from(this.colours.subarray(0, count)),
      trailOpacities: Array.from({ length: this.points }, (_, i) => Math.abs(this.ways[i * 8 + 3]) - 1),
    };
  }

  dispose(): void {
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
  }
}
