import type { Program } from "@bumbrel/core/document/scene";
import type { ObjectSource } from "../renderedObject";
import { ProgramTextures } from "./programTextures";
import { type UsedProgram, useOf } from "./programValues";
import { PAINT_LIT, PAINT_UNLIT, type SurfaceCode, surfaceCode } from "./surfaceCode";

/** A surface program as materials take it. */
export interface SurfaceProgram extends SurfaceCode {
  /** Tells programs apart. */
  key: string;
  paintLit: string;
  paintUnlit: string;
  /** What all programs read. */
  uniforms: Record<string, { value: unknown }>;
}

const MOST_KNOWN = 200;

/** What a stage needs of programs; scenes without any do not load it. */
export class StagePrograms {
  readonly textures = new ProgramTextures();
  private readonly keys = new Map<string, string>();
  private made = 0;

  surface(code: string): SurfaceProgram {
    let key = this.keys.get(code);
    if (key === undefined) {
      // Each version that is typed is a program of its own; old ones are forgotten, their numbers never used again.
      if (this.keys.size >= MOST_KNOWN) this.keys.clear();
      key = String(this.made++);
      this.keys.set(code, key);
    }
    return {
      ...surfaceCode(code),
      key,
      paintLit: PAINT_LIT,
      paintUnlit: PAINT_UNLIT,
      uniforms: this.textures.uniforms,
    };
  }

  /** A program as an object uses it. */
  use(program: Program, source: ObjectSource): UsedProgram {
    return useOf(program, this.surface(program.code), this.textures, source);
  }

  dispose(): void {
    this.textures.dispose();
  }
}
