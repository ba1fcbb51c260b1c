import type { Program } from "@bumbrel/core/document/scene";
import type { ObjectSource } from "../renderedObject";
import { ProgramTextures } from "./programTextures";
import { type UsedProgram, useOf } from "./programValues";
import { PAINT_LIT, PAINT_UNLIT, type SurfaceCode, surfaceCode } from "./surfaceCode";

/** A surface program as materials take it. */
export interface SurfaceProgram extends SurfaceCode {
  paintLit: string;
  paintUnlit: string;
  /** What all programs read. */
  uniforms: Record<string, { value: unknown }>;
}

/** What a stage needs of programs; scenes without any do not load it. */
export class StagePrograms {
  readonly textures = new ProgramTextures();

  /** A program as an object uses it. */
  use(program: Program, source: ObjectSource): UsedProgram {
    const { textures } = this;
    const code: SurfaceProgram = {
      ...surfaceCode(program.code),
      paintLit: PAINT_LIT,
      paintUnlit: PAINT_UNLIT,
      uniforms: textures.uniforms,
    };
    return useOf(program, code, textures, source);
  }

  dispose(): void {
    this.textures.dispose();
  }
}
