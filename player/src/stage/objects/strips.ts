import type { Blend } from "@bumbrel/core/kinds/shared";
import {
  type Box3,
  BufferAttribute,
  BufferGeometry,
  DynamicDrawUsage,
  type Matrix4,
  type Mesh,
  type ShaderMaterial,
  Vector3,
} from "three";
import type { DrawnParts } from "../renderedObject";
import { overlaidMesh, sendFirst } from "./overlay";

const point = new Vector3();

/** Flat coloured triangles that are written each frame: lines with a thickness, filled shapes, bands. */
export class Strips {
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>;
  private readonly positions: Float32Array;
  private readonly colours: Float32Array;
  private readonly attributes: BufferAttribute[];
  private readonly most: number;
  private vertices = 0;

  /** @param most  triangles it holds */
  constructor(most: number, blend: Blend) {
    this.most = most * 3;
    this.positions = new Float32Array(this.most * 3);
    this.colours = new Float32Array(this.most * 4);
    this.attributes = [new BufferAttribute(this.positions, 3), new BufferAttribute(this.colours, 4)];
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", this.attributes[0].setUsage(DynamicDrawUsage));
    geometry.setAttribute("stripColour", this.attributes[1].setUsage(DynamicDrawUsage));
    this.mesh = overlaidMesh(geometry, blend, {
      attributes: "attribute vec4 stripColour;",
      varyings: "varying vec4 vColour;",
      vertex: "vColour = stripColour; seen = modelViewMatrix * vec4(position, 1.0);",
      fragment: "gl_FragColor = vColour;",
    });
  }

  clear(): void {
    this.vertices = 0;
  }

  vertex(x: number, y: number, z: number, r: number, g: number, b: number, opacity: number): void {
    if (this.vertices === this.most) return;
    const n = this.vertices++;
    this.positions[n * 3] = x;
    this.positions[n * 3 + 1] = y;
    this.positions[n * 3 + 2] = z;
    this.colours[n * 4] = r;
    this.colours[n * 4 + 1] = g;
    this.colours[n * 4 + 2] = b;
    this.colours[n * 4 + 3] = opacity;
  }

  /** Triangles between two edges of points: from `a` to `b`, and from the next of each. */
  between(points: Points, i: number, next: number): void {
    const { ax, ay, az, bx, by, bz } = points;
    this.corner(points, ax, ay, az, i);
    this.corner(points, bx, by, bz, i);
    this.corner(points, ax, ay, az, next);
    this.corner(points, ax, ay, az, next);
    this.corner(points, bx, by, bz, i);
    this.corner(points, bx, by, bz, next);
  }

  private corner({ look }: Points, x: Float64Array, y: Float64Array, z: Float64Array, i: number): void {
    this.vertex(x[i], y[i], z[i], look[i * 4], look[i * 4 + 1], look[i * 4 + 2], look[i * 4 + 3]);
  }

  send(): void {
    this.mesh.geometry.setDrawRange(0, this.vertices);
    sendFirst(this.attributes, this.vertices);
  }

  /** Grows a box by all that is drawn, at a place. */
  growBox(box: Box3, matrix: Matrix4): void {
    for (let i = 0; i < this.vertices; i++) {
      box.expandByPoint(point.fromArray(this.positions, i * 3).applyMatrix4(matrix));
    }
  }

  drawnParts(): DrawnParts {
    return {
      positions: [...this.positions.subarray(0, this.vertices * 3)],
      colours: [...this.colours.subarray(0, this.vertices * 4)],
    };
  }

  dispose(): void {
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
  }
}

/** Points with two edges each, and a look. */
export interface Points {
  ax: Float64Array;
  ay: Float64Array;
  az: Float64Array;
  bx: Float64Array;
  by: Float64Array;
  bz: Float64Array;
  /** r, g, b and opacity of each. */
  look: Float64Array;
}

export function makePoints(count: number): Points {
  const row = () => new Float64Array(count);
  return {
    ax: row(),
    ay: row(),
    az: row(),
    bx: row(),
    by: row(),
    bz: row(),
    look: new Float64Array(count * 4),
  };
}
