import type { Blend } from "@bumbrel/core/kinds/shared";
import {
  type Box3,
  DynamicDrawUsage,
  InstancedBufferAttribute,
  InstancedBufferGeometry,
  type Matrix4,
  type Mesh,
  PlaneGeometry,
  type ShaderMaterial,
  Vector3,
} from "three";
import type { DrawnParts } from "../renderedObject";
import { overlaidMesh, sendFirst } from "./overlay";

const point = new Vector3();

/** Soft round dots that face the eye: many at a time, each with a place, a size, a colour and an opacity. */
export class Dots {
  readonly mesh: Mesh<InstancedBufferGeometry, ShaderMaterial>;
  /** x, y, z and width of each. */
  readonly places: Float32Array;
  /** Linear RGB, and opacity, of each. */
  readonly colours: Float32Array;
  private readonly attributes: InstancedBufferAttribute[];
  count = 0;

  /**
   * @param isLit  whether lights fall on them
   * @param softness  metres over which they fade where they touch things; none leaves them sharp
   */
  constructor(most: number, blend: Blend, isLit = false, softness?: { value: number }) {
    this.places = new Float32Array(most * 4);
    this.colours = new Float32Array(most * 4);
    this.attributes = [this.places, this.colours].map((array) =>
      new InstancedBufferAttribute(array, 4).setUsage(DynamicDrawUsage),
    );
    const quad = new PlaneGeometry(1, 1);
    const geometry = new InstancedBufferGeometry();
    geometry.setIndex(quad.index);
    geometry.setAttribute("position", quad.attributes.position);
    geometry.setAttribute("dotPlace", this.attributes[0]);
    geometry.setAttribute("dotColour", this.attributes[1]);
    geometry.instanceCount = 0;
    this.mesh = overlaidMesh(geometry, blend, {
      attributes: "attribute vec4 dotPlace; attribute vec4 dotColour;",
      varyings: "varying vec4 vColour; varying vec2 vPlace;",
      vertex: `
        vColour = dotColour; vPlace = position.xy;
        seen = modelViewMatrix * vec4(dotPlace.xyz, 1.0);
        ${isLit ? "vColour.rgb *= lightAt(seen.xyz);" : ""}
        seen.xy += position.xy * dotPlace.w;`,
      fragment: `
        float away = length(vPlace) * 2.0;
        float cover = smoothstep(1.0, 0.15, away);
        if (cover <= 0.002) discard;
        gl_FragColor = vec4(vColour.rgb, vColour.a * cover);`,
      isLit,
      ...(softness && { softness }),
    });
  }

  clear(): void {
    this.count = 0;
  }

  add(x: number, y: number, z: number, size: number, r: number, g: number, b: number, opacity: number): void {
    const at = this.count++ * 4;
    if (at >= this.places.length) {
      this.count--;
      return;
    }
    this.places[at] = x;
    this.places[at + 1] = y;
    this.places[at + 2] = z;
    this.places[at + 3] = size;
    this.colours[at] = r;
    this.colours[at + 1] = g;
    this.colours[at + 2] = b;
    this.colours[at + 3] = opacity;
  }

  /** Sends what was added to be drawn. */
  send(): void {
    this.mesh.geometry.instanceCount = this.count;
    sendFirst(this.attributes, this.count);
  }

  /** Grows a box by the middles of all dots, at a place. */
  growBox(box: Box3, matrix: Matrix4): void {
    for (let i = 0; i < this.count; i++) {
      box.expandByPoint(point.fromArray(this.places, i * 4).applyMatrix4(matrix));
    }
  }

  drawnParts(): DrawnParts {
    return {
      places: [...this.places.subarray(0, this.count * 4)],
      colours: [...this.colours.subarray(0, this.count * 4)],
    };
  }

  dispose(): void {
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
  }
}
