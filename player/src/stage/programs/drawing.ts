import type { Program } from "@bumbrel/core/document/scene";
import { exposedBy } from "@bumbrel/core/kinds/programs";
import { settingOf } from "@bumbrel/core/kinds/table";
import { type Exposed, exposedKey, type ProgramProblem, valuesInLayout } from "@bumbrel/core/program/exposed";
import { MEMORY_COLUMNS, MEMORY_ROWS, VALUE_NUMBERS } from "@bumbrel/core/program/memory";

import type { Sandbox } from "@bumbrel/core/program/sandbox";
import { SCRIPT_LIMITS } from "@bumbrel/core/program/scriptLimits";

import { theScripts } from "@bumbrel/core/program/scripts";
import {
  CanvasTexture,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  ShaderMaterial,
  SRGBColorSpace,
  type Texture,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { FullScreenQuad } from "three/examples/jsm/postprocessing/Pass.js";
import type { ObjectSource } from "../renderedObject";
import { SCREEN_VERTEX } from "../screenVertex";
import type { ProgramTextures } from "./programTextures";
import { replay } from "./replay";

/** Pictures a second, however often the screen draws. */
export const DRAWING_HZ = 60;
/** What remains of a picture is not seen below this share. */
const UNSEEN = 1 / 255;
/** More pictures than these between two frames count as a seek. */
const MOST_STEPS_ON = 30;

/** Pictures that are drawn before one, so that it is as if there had been no seek. */
export function stepsBefore(fade: number, hasMemory: boolean): number {
  const faded = fade > 0 ? Math.ceil(Math.log(UNSEEN) / Math.log(fade)) : 0;
  return Math.max(faded, hasMemory ? SCRIPT_LIMITS.memorySteps : 0);
}

/** Who is told what is wrong with a drawing. */
export type OnProblem = (problem: ProgramProblem) => void;

/**
 * A drawing program at work: its canvas, and what has been drawn as a texture, with the past that fades. Picture n is that
 * of the instant `n / 60 s`, whenever it is seen.
 */
export class Drawing {
  /** What has been drawn: linear, and not multiplied by its opacity. */
  readonly texture: Texture;
  /** Milliseconds that the program and its canvas took for the last picture. */
  lastMs = 0;
  private readonly source: ObjectSource;
  private readonly textures: ProgramTextures;
  private readonly onProblem: OnProblem;
  private readonly values: readonly Exposed[];
  private readonly sandbox: Sandbox | undefined;
  private readonly hasMemory: boolean;
  private readonly words: string[] = [];
  private readonly canvas = new OffscreenCanvas(1, 1);
  private readonly context = this.canvas.getContext("2d")!;
  private readonly drawn = new CanvasTexture(this.canvas);
  private targets = [0, 1].map(
    () => new WebGLRenderTarget(1, 1, { type: HalfFloatType, depthBuffer: false }),
  );
  private readonly shown = new WebGLRenderTarget(1, 1, {
    type: HalfFloatType,
    depthBuffer: false,
    generateMipmaps: true,
    minFilter: LinearMipmapLinearFilter,
    magFilter: LinearFilter,
    anisotropy: 4,
  });
  private readonly adding = material(
    `uniform sampler2D drawn; uniform sampler2D past; uniform float remains;
    void main() {
      vec4 now = texture2D(drawn, vUv);
      vec4 before = remains > 0.0 ? texture2D(past, vUv) * remains * (1.0 - now.a) : vec4(0.0);
      vec4 sum = vec4(now.rgb * now.a, now.a) + before;
      gl_FragColor = sum.a < 0.002 ? vec4(0.0) : sum;
    }`,
    { drawn: { value: this.drawn }, past: { value: null }, remains: { value: 0 } },
  );
  private readonly showing = material(
    `uniform sampler2D sum;
    void main() {
      vec4 all = texture2D(sum, vUv);
      gl_FragColor = all.a > 0.0 ? vec4(all.rgb / all.a, all.a) : vec4(0.0);
    }`,
    { sum: { value: null } },
  );
  private readonly quad = new FullScreenQuad(this.adding);
  private evaluated = new Float64Array(0);
  private evaluatedFor = -1;
  private step = -1;
  private edits = -1;
  private mirrored = { fills: -1, layouts: -1 };

  constructor(program: Program, source: ObjectSource, textures: ProgramTextures, onProblem: OnProblem) {
    this.source = source;
    this.textures = textures;
    this.onProblem = onProblem;
    this.texture = this.shown.texture;
    this.drawn.colorSpace = SRGBColorSpace;
    this.drawn.generateMipmaps = false;
    this.drawn.minFilter = LinearFilter;
    this.values = exposedBy(program);
    this.hasMemory = /\bmemory\b/.test(program.code);
    const sounds = this.values.some(({ type }) => type === "sound")
      ? Math.max(1, textures.numbers.soundCount)
      : 0;
    try {
      this.sandbox = new (theScripts().Sandbox)(program.code, {
        kind: "drawing",
        columns: MEMORY_COLUMNS,
        sounds,
        bands: 1,
        values: valuesInLayout(this.values),
        strands: [],
      });
    } catch (error) {
      this.fail(error);
    }
  }

  private hasFailed = false;
  private fail(error: unknown): void {
    this.hasFailed = true;
    const { problem } = error as { problem?: ProgramProblem };
    this.onProblem(problem ?? { line: 1, message: (error as Error).message });
  }

  /**
   * Brings what is seen to a time.
   *
   * @param aspect  width over height
   */
  show(renderer: WebGLRenderer, timeS: number, aspect: number): void {
    if (!this.sandbox || this.hasFailed) return;
    const { source } = this;
    if (this.resize(aspect) || source.edits !== this.edits) this.step = -1;
    this.edits = source.edits;
    const step = Math.max(0, Math.floor(timeS * DRAWING_HZ + 1e-6));
    if (step === this.step) return;
    const target = renderer.getRenderTarget();
    try {
      this.mirror(this.sandbox);
      this.goTo(renderer, this.sandbox, step);
    } catch (error) {
      this.fail(error);
    }
    renderer.setRenderTarget(target);
  }

  private goTo(renderer: WebGLRenderer, sandbox: Sandbox, step: number): void {
    const fade = this.at("fade", step);
    const before = stepsBefore(fade, this.hasMemory);
    const isSeek = this.step < 0 || step < this.step || step - this.step > MOST_STEPS_ON;
    if (isSeek) {
      sandbox.forget();
      this.step = -1;
    }
    const first = before === 0 ? step : isSeek ? Math.max(0, step - before) : this.step + 1;
    for (let one = first; one <= step; one++) this.draw(renderer, sandbox, one);
    this.quad.material = this.showing;
    this.showing.uniforms.sum.value = this.targets[0].texture;
    renderer.setRenderTarget(this.shown);
    this.quad.render(renderer);
  }

  private draw(renderer: WebGLRenderer, sandbox: Sandbox, step: number): void {
    const { canvas, context, adding, targets, textures, source } = this;
    const began = performance.now();
    const timeS = step / DRAWING_HZ;
    const pictures = this.passValues(sandbox, step);
    if (sandbox.layout.sounds > 0) {
      textures.numbers.readWaves({ timeS, waves: source.state.simulation.waves }, sandbox.floats("waves"));
    }
    sandbox.run(step, timeS, canvas.width, canvas.height);
    const tape = sandbox.floats("tape");
    if (tape[1] > this.words.length) this.words.push(...sandbox.wordsFrom(this.words.length));
    context.reset();
    replay(context, tape, this.words, pictures);
    this.lastMs = performance.now() - began;
    this.drawn.needsUpdate = true;
    const fade = step - 1 === this.step ? this.at("fade", step) : 0;
    adding.uniforms.past.value = targets[0].texture;
    adding.uniforms.remains.value = fade;
    this.quad.material = adding;
    renderer.setRenderTarget(targets[1]);
    this.quad.render(renderer);
    targets.reverse();
    this.step = step;
  }

  /** Sets what the program exposes to the values at a step; gives its images. */
  private passValues(sandbox: Sandbox, step: number): (CanvasImageSource | undefined)[] {
    const pictures: (CanvasImageSource | undefined)[] = [];
    const out = sandbox.floats("values");
    const { links } = this.source.object;
    const { numbers } = this.textures;
    this.values.forEach(({ name, type, property }, i) => {
      const key = exposedKey(name);
      const at = i * VALUE_NUMBERS;
      if (property) {
        for (let axis = 0; axis < VALUE_NUMBERS; axis++) out[at + axis] = this.at(key, step, axis);
        return;
      }
      const link = links?.[key];
      if (type === "sound") out[at] = link === undefined ? -1 : numbers.soundOf(link);
      else if (type === "picture") {
        const image = link === undefined ? undefined : this.imageOf(link);
        out[at] = image ? pictures.push(image) - 1 : -1;
        out[at + 1] = image?.width ?? 0;
        out[at + 2] = image?.height ?? 0;
      } else {
        const columns = link === undefined ? undefined : numbers.columnsOf(link);
        out[at] = columns?.first ?? 0;
        out[at + 1] = columns?.count ?? 0;
      }
    });
    return pictures;
  }

  private readonly images = new Map<string, OffscreenCanvas>();
  /** An image the right way up: textures have theirs turned over. */
  private imageOf(id: string): OffscreenCanvas | undefined {
    let image = this.images.get(id);
    const bitmap = image
      ? undefined
      : (this.source.assets.picture(id, false)?.image as ImageBitmap | undefined);
    if (bitmap) {
      image = new OffscreenCanvas(bitmap.width, bitmap.height);
      const context = image.getContext("2d")!;
      context.setTransform(1, 0, 0, -1, 0, bitmap.height);
      context.drawImage(bitmap, 0, 0);
      this.images.set(id, image);
    }
    return image;
  }

  /** A value of the object as it is at a step. */
  private at(key: string, step: number, axis = 0): number {
    const { plan, state } = this.source;
    if (this.evaluated.length !== state.plan.rest.length || this.evaluatedEdit !== this.source.edits) {
      this.evaluated = Float64Array.from(state.plan.rest);
      this.evaluatedEdit = this.source.edits;
      this.evaluatedFor = -1;
    }
    if (this.evaluatedFor !== step) {
      state.simulation.values.evaluatePlan(plan, step / DRAWING_HZ, this.evaluated);
      this.evaluatedFor = step;
    }
    const slot = plan.at[key];
    return slot ? this.evaluated[slot.offset + axis] : 0;
  }
  private evaluatedEdit = -1;

  /** Gives the program the numbers that have changed. */
  private mirror(sandbox: Sandbox): void {
    const { textures, mirrored } = this;
    const { numbers, changed, fills, layouts } = textures;
    if (fills === mirrored.fills) return;
    const isWhole = fills !== mirrored.fills + 1 || layouts !== mirrored.layouts;
    const rows = isWhole ? [[0, MEMORY_ROWS] as const] : changed;
    const copy = (to: Float32Array, from: Float32Array) => {
      for (const [first, last] of rows) {
        to.set(from.subarray(first * MEMORY_COLUMNS, last * MEMORY_COLUMNS), first * MEMORY_COLUMNS);
      }
    };
    copy(sandbox.floats("numbers"), numbers.numbers);
    if (isWhole) sandbox.floats("bandHz").set(numbers.bandHz);
    for (let i = 0; i < Math.min(sandbox.layout.sounds, numbers.soundCount); i++) {
      copy(sandbox.floats(`spectrum${i}`), numbers.spectra[i]);
    }
    // What it remembers of other numbers is as old as they are.
    if (isWhole) this.step = -1;
    mirrored.fills = fills;
    mirrored.layouts = layouts;
  }

  /** @returns whether the canvas has another size */
  private resize(aspect: number): boolean {
    const longer = settingOf(this.source.object, "pixels") as number;
    const side = (share: number) => Math.max(1, Math.round(longer * Math.min(1, share)));
    const [width, height] = [side(aspect), side(1 / aspect)];
    const { canvas } = this;
    if (canvas.width === width && canvas.height === height) return false;
    canvas.width = width;
    canvas.height = height;
    // A texture of another size is another texture.
    this.drawn.dispose();
    for (const target of [...this.targets, this.shown]) target.setSize(width, height);
    return true;
  }

  dispose(): void {
    this.sandbox?.dispose();
    this.drawn.dispose();
    for (const target of [...this.targets, this.shown]) target.dispose();
    this.adding.dispose();
    this.showing.dispose();
    this.quad.dispose();
  }
}

const material = (fragment: string, uniforms: ShaderMaterial["uniforms"]) =>
  new ShaderMaterial({
    uniforms,
    vertexShader: SCREEN_VERTEX,
    fragmentShader: `varying vec2 vUv; ${fragment}`,
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
  });
