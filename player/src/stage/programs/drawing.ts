import type { DrawnStep, SandboxFill } from "@bumbrel/core/analyse/scripts/scriptMessages";
import type { Program } from "@bumbrel/core/document/scene";
import { exposedBy } from "@bumbrel/core/kinds/programs";
import { settingOf } from "@bumbrel/core/kinds/table";
import { type Exposed, exposedKey, type ProgramProblem, valuesInLayout } from "@bumbrel/core/program/exposed";
import {
  MEMORY_COLUMNS,
  MEMORY_ROWS,
  VALUE_NUMBERS,
  WAVE_SAMPLES,
} from "@bumbrel/core/program/offers/memory";
import { SCRIPT_LIMITS } from "@bumbrel/core/program/scripts/scriptLimits";
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
import { SCREEN_VERTEX } from "../image/screenVertex";
import type { HeldThread } from "./drawingThreads";
import type { ProgramSource } from "./programSource";
import type { ProgramTextures } from "./programTextures";
import { replay } from "./replay";

/** Pictures a second, however often the screen draws. */
export const DRAWING_HZ = 60;
/** A remainder of a picture below this share is not seen. */
const UNSEEN = 1 / 255;
/** More pictures than these between two frames count as a seek. */
const MOST_STEPS_ON = 30;
/** The number of a picture that does not exist, which no picture follows. */
const NONE = -2;
/** Pictures that a script is asked for at once. */
const STEPS_A_CALL = 32;

/** Pictures that are drawn before one, so that it is as if there had been no seek. */
export function stepsBefore(fade: number, hasMemory: boolean): number {
  const faded = fade > 0 ? Math.ceil(Math.log(UNSEEN) / Math.log(fade)) : 0;
  return Math.max(faded, hasMemory ? SCRIPT_LIMITS.memorySteps : 0);
}

/** Called with the problem of a drawing. */
export type OnProblem = (problem: ProgramProblem) => void;

/** A picture that has been asked for: what it is drawn with once the script has recorded it. */
interface Asked {
  fade: number;
  pictures: (CanvasImageSource | undefined)[];
}

/**
 * A drawing program at work: its canvas, and what has been drawn as a texture, with the past that fades. Picture n is that
 * of the instant `n / 60 s`, whenever it is seen. The script runs in a thread apart and records what it draws; it is drawn
 * here when that has come, a frame later while the scene plays. Films wait for it, see `reach`.
 */
export class Drawing {
  /** The drawing so far: linear, and not multiplied by its opacity. */
  readonly texture: Texture;
  /** Milliseconds that the program and its canvas took for the last picture. */
  lastMs = 0;
  private readonly source: ProgramSource;
  private readonly textures: ProgramTextures;
  private readonly onProblem: OnProblem;
  private readonly values: readonly Exposed[];
  private readonly thread: HeldThread;
  private readonly sandbox: number;
  private readonly soundCount: number;
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
  /** The picture that is drawn. */
  private step = NONE;
  private edits = -1;
  private mirrored = { fills: -1, layouts: -1 };
  /** Rows of the numbers that the script has not been given yet; all of them after a seek or another layout. */
  private readonly newRows = new Uint8Array(MEMORY_ROWS);
  private isWholeNew = true;
  /** The call that is under way. */
  private pending: Promise<void> | undefined;
  private arrived: { drawn: DrawnStep[]; asked: Map<number, Asked> } | undefined;
  /** Until where pictures are made up for after a seek. */
  private seeksTo = -1;
  private forgets = false;

  /** @param thread  where the script runs, shared by all drawings of the program */
  constructor(
    program: Program,
    source: ProgramSource,
    textures: ProgramTextures,
    thread: HeldThread,
    onProblem: OnProblem,
  ) {
    this.source = source;
    this.textures = textures;
    this.thread = thread;
    this.onProblem = onProblem;
    this.texture = this.shown.texture;
    this.drawn.colorSpace = SRGBColorSpace;
    this.drawn.generateMipmaps = false;
    this.drawn.minFilter = LinearFilter;
    this.values = exposedBy(program);
    this.hasMemory = /\bmemory\b/.test(program.code);
    this.soundCount = this.values.some(({ type }) => type === "sound")
      ? Math.max(1, textures.numbers.soundCount)
      : 0;
    this.sandbox = thread.newSandbox();
    this.pending = this.asking(
      thread.ask<"open">({
        kind: "open",
        sandbox: this.sandbox,
        code: program.code,
        layout: {
          kind: "drawing",
          columns: MEMORY_COLUMNS,
          sounds: this.soundCount,
          bands: 1,
          values: valuesInLayout(this.values),
          strands: [],
        },
      }),
      () => {},
    );
  }

  private hasFailed = false;
  private isGone = false;
  private fail(error: unknown): void {
    if (this.isGone) return;
    this.hasFailed = true;
    const { problem } = error as { problem?: ProgramProblem };
    this.onProblem(problem ?? { line: 1, message: (error as Error).message });
  }

  private asking<T>({ answer }: { answer: Promise<T> }, take: (answer: T) => void): Promise<void> {
    return answer
      .then(take, (error: unknown) => this.fail(error))
      .finally(() => {
        this.pending = undefined;
        if (!this.isGone) this.thread.onArrival();
      });
  }

  /**
   * Shows what has come, and asks for the picture at a time.
   *
   * @param aspect  width over height
   * @returns whether the picture at that time is shown, or never will be
   */
  show(renderer: WebGLRenderer, timeS: number, aspect: number): boolean {
    if (this.hasFailed) return true;
    this.noteNumbers();
    const target = renderer.getRenderTarget();
    this.takeArrived(renderer);
    renderer.setRenderTarget(target);
    if (this.pending) return false;
    const { source } = this;
    // Its memory of other numbers is as old as they are.
    if (this.resize(aspect) || source.edits !== this.edits || this.isWholeNew) this.step = NONE;
    this.edits = source.edits;
    const step = Math.max(0, Math.floor(timeS * DRAWING_HZ + 1e-6));
    if (step === this.step) return true;
    this.ask(step);
    return false;
  }

  /** Waits until the picture at a time is shown, or the program has failed; `undefined` where it is already. */
  reach(renderer: WebGLRenderer, timeS: number, aspect: number): Promise<void> | undefined {
    if (this.show(renderer, timeS, aspect)) return undefined;
    const wait = async () => {
      do await this.pending;
      while (!this.show(renderer, timeS, aspect));
    };
    return wait();
  }

  /** Asks for the pictures up to a step, or for the first of them. */
  private ask(goal: number): void {
    const { canvas, textures, source, soundCount } = this;
    const fade = this.at("fade", goal);
    const before = stepsBefore(fade, this.hasMemory);
    const reach = this.step <= this.seeksTo ? before + MOST_STEPS_ON : MOST_STEPS_ON;
    const isSeek = this.step === NONE || goal < this.step || goal - this.step > reach;
    if (isSeek) {
      this.forgets = true;
      this.step = NONE;
      this.seeksTo = goal;
    }
    const first = before === 0 ? goal : isSeek ? Math.max(0, goal - before) : this.step + 1;
    const asked = new Map<number, Asked>();
    const steps = [];
    for (let step = first; step <= goal && steps.length < STEPS_A_CALL; step++) {
      const timeS = step / DRAWING_HZ;
      const values = new Float64Array(Math.max(1, this.values.length) * VALUE_NUMBERS);
      const pictures = this.passValues(values, step);
      const waves = soundCount > 0 ? new Float32Array(soundCount * WAVE_SAMPLES) : undefined;
      if (waves) textures.numbers.readWaves({ timeS, waves: source.state.simulation.waves }, waves);
      steps.push({ step, timeS, values, waves });
      asked.set(step, { fade: this.at("fade", step), pictures });
    }
    const { width, height } = canvas;
    const { sandbox, forgets } = this;
    this.forgets = false;
    const call = { kind: "draw", sandbox, forgets, width, height, fills: this.fills(), steps } as const;
    this.pending = this.asking(this.thread.ask<"draw">(call), ({ drawn, words }) => {
      this.words.push(...words);
      this.arrived = { drawn, asked };
    });
  }

  /** Draws what the script has recorded. */
  private takeArrived(renderer: WebGLRenderer): void {
    const { arrived, context, adding, targets } = this;
    if (!arrived) return;
    this.arrived = undefined;
    for (const { step, tape, costMs } of arrived.drawn) {
      const { fade, pictures } = arrived.asked.get(step)!;
      const began = performance.now();
      context.reset();
      replay(context, tape, this.words, pictures);
      this.lastMs = costMs + performance.now() - began;
      this.drawn.needsUpdate = true;
      adding.uniforms.past.value = targets[0].texture;
      adding.uniforms.remains.value = step - 1 === this.step ? fade : 0;
      this.quad.material = adding;
      renderer.setRenderTarget(targets[1]);
      this.quad.render(renderer);
      targets.reverse();
      this.step = step;
    }
    this.quad.material = this.showing;
    this.showing.uniforms.sum.value = targets[0].texture;
    renderer.setRenderTarget(this.shown);
    this.quad.render(renderer);
  }

  /** Sets what the program exposes to the values at a step; gives its images. */
  private passValues(out: Float64Array, step: number): (CanvasImageSource | undefined)[] {
    const pictures: (CanvasImageSource | undefined)[] = [];
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
    const bitmap = image ? undefined : (this.source.picture(id, false)?.image as ImageBitmap | undefined);
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

  /** Notes which numbers have changed since the last frame. */
  private noteNumbers(): void {
    const { textures, mirrored, newRows } = this;
    const { changed, fills, layouts } = textures;
    if (fills === mirrored.fills) return;
    if (fills !== mirrored.fills + 1 || layouts !== mirrored.layouts) this.isWholeNew = true;
    for (const [first, last] of changed) newRows.fill(1, first, last);
    mirrored.fills = fills;
    mirrored.layouts = layouts;
  }

  /** The numbers that the script has not been given yet. */
  private fills(): SandboxFill[] {
    const { textures, newRows, isWholeNew, soundCount } = this;
    const { numbers } = textures;
    if (isWholeNew) newRows.fill(1);
    const given: SandboxFill[] = [];
    const copy = (name: SandboxFill["name"], from: Float32Array) => {
      for (let first = newRows.indexOf(1); first >= 0; ) {
        const end = newRows.indexOf(0, first);
        const last = end < 0 ? MEMORY_ROWS : end;
        const at = first * MEMORY_COLUMNS;
        given.push({ name, at, data: from.slice(at, last * MEMORY_COLUMNS) });
        first = newRows.indexOf(1, last);
      }
    };
    copy("numbers", numbers.numbers);
    if (isWholeNew) given.push({ name: "bandHz", at: 0, data: numbers.bandHz.slice() });
    for (let i = 0; i < Math.min(soundCount, numbers.soundCount); i++)
      copy(`spectrum${i}`, numbers.spectra[i]);
    newRows.fill(0);
    this.isWholeNew = false;
    return given;
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
    this.isGone = true;
    this.thread.close(this.sandbox);
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
