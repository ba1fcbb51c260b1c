import type { Program } from "@bumbrel/core/document/scene";
import type { ImageLayer } from "../image/imageLayer";
import { Drawing, type OnProblem } from "./drawing";
import { drawingOverFragment } from "./drawingOver";
import { DrawingThreads } from "./drawingThreads";
import { passFragment } from "./passCode";
import type { ProgramSource } from "./programSource";
import { ProgramTextures } from "./programTextures";
import { type UsedProgram, useOf } from "./programValues";
import { PAINT_LIT, PAINT_UNLIT, type SurfaceProgram, surfaceCode } from "./surfaceCode";

/** Programs of a stage; scenes without any do not load this code. */
export class StagePrograms {
  readonly textures = new ProgramTextures();
  private readonly threads: DrawingThreads;

  /** @param onDrawn  called when a drawing has something new to show */
  constructor(onDrawn: () => void) {
    this.threads = new DrawingThreads(onDrawn);
  }

  /** A surface program as an object uses it. */
  use(program: Program, source: ProgramSource): UsedProgram {
    const { textures } = this;
    const code: SurfaceProgram = {
      ...surfaceCode(program.code),
      paintLit: PAINT_LIT,
      paintUnlit: PAINT_UNLIT,
      uniforms: textures.uniforms,
    };
    return useOf(program, code, textures, source);
  }

  /** A picture pass as an object uses it. */
  pass(program: Program, source: ProgramSource): UsedProgram<ImageLayer> {
    const { textures } = this;
    const used = useOf(program, undefined, textures, source);
    const layer: ImageLayer = {
      fragment: passFragment(program.code),
      uniforms: { ...textures.uniforms, ...used.uniforms },
      readsDepth: true,
      amount: { value: 0 },
    };
    return { ...used, code: layer };
  }

  /** A drawing program as an object uses it. */
  drawing(program: Program, source: ProgramSource, onProblem: OnProblem): Drawing {
    return new Drawing(program, source, this.textures, this.threads.hold(program.code), onProblem);
  }

  /** Lays a drawing over the picture. */
  over({ texture }: Drawing, blend: Parameters<typeof drawingOverFragment>[0]): ImageLayer {
    return {
      fragment: drawingOverFragment(blend),
      uniforms: { drawn: { value: texture } },
      readsDepth: false,
      amount: { value: 0 },
    };
  }

  dispose(): void {
    this.textures.dispose();
  }
}
