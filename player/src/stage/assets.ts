import type { Asset, Program, Scene } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import {
  CanvasTexture,
  type Data3DTexture,
  type Group,
  LinearSRGBColorSpace,
  SRGBColorSpace,
  Texture,
} from "three";
import type { WordShapes } from "./geometry/words";
import type { Drawing } from "./programs/drawing";
import type { ProgramSource } from "./programs/programSource";
import type { StagePrograms } from "./programs/stagePrograms";

/** Told what is wrong with a program, and with which code of it. */
export type OnProgramFailure = (programId: string, code: string, problem: ProgramProblem) => void;

/** Fetches the bytes of a stored image or model. */
export type FetchAsset = (asset: Asset) => Promise<ArrayBuffer>;

/** Text drawn as an image: height of a line in pixels, and its spacing. */
const LINE_PX = 160;
const LINE_SPACING = 1.2;
const MOST_TEXT_PX = 4096;
export const TEXT_FONT =
  '"Atkinson Hyperlegible Next Variable", "Atkinson Hyperlegible Next", system-ui, sans-serif';

/**
 * Images, models and text as the stage draws them, made once and shared. What has not arrived yet is left out, and
 * `onArrival` is called when it has; what cannot be read is not shown, and the scene plays without it.
 */
export class StageAssets {
  private readonly failures = new Map<string, string>();
  private readonly failureListeners = new Set<(message: string) => void>();
  private assets: readonly Asset[] = [];
  private readonly textures = new Map<string, Texture | undefined>();
  private readonly models = new Map<string, Group | undefined>();
  private readonly luts = new Map<string, Data3DTexture | undefined>();
  private readonly fetchAsset: FetchAsset | undefined;
  private readonly fetchFont: (() => Promise<ArrayBuffer>) | undefined;
  private readonly onArrival: () => void;
  private readonly onDrawn: () => void;
  private isGone = false;
  private loading = 0;

  /**
   * @param fetchFont  where the font of words comes from, as WOFF; without it words are drawn by the browser
   * @param onDrawn  called when a drawing by a program has something new to show
   */
  constructor(
    fetchAsset?: FetchAsset,
    onArrival: () => void = () => {},
    fetchFont?: () => Promise<ArrayBuffer>,
    onDrawn: () => void = () => {},
  ) {
    this.onDrawn = onDrawn;
    this.fetchAsset = fetchAsset;
    this.fetchFont = fetchFont;
    this.onArrival = onArrival;
    // Words that were drawn before their face had come are drawn again.
    if (typeof document !== "undefined") {
      this.loading++;
      void document.fonts?.load(`600 16px ${TEXT_FONT}`).then(() => {
        this.loading--;
        if (!this.isGone) onArrival();
      });
    }
  }

  /** True once everything that was asked for has arrived or failed. */
  get isLoaded(): boolean {
    return this.loading === 0;
  }

  setScene(scene: Scene): void {
    this.assets = scene.assets;
  }

  /** An image as a texture with its own filtering; `undefined` until it has arrived. */
  picture(id: string, sharp: boolean): Texture | undefined {
    return this.once(this.textures, `${id} ${sharp}`, id, async (bytes) => {
      const bitmap = await createImageBitmap(new Blob([bytes]), { imageOrientation: "flipY" });
      const texture = new Texture(bitmap);
      // A bitmap is turned over as it is made, not as it is sent.
      texture.flipY = false;
      texture.userData.isTurnedOver = true;
      texture.colorSpace = SRGBColorSpace;
      texture.needsUpdate = true;
      return texture;
    });
  }

  /** A panorama, by whatever its file is, as light from all round; `undefined` until it has arrived. */
  panorama(id: string): Texture | undefined {
    return this.once(this.textures, `panorama ${id}`, id, async (bytes) =>
      (await import("./light/panorama")).readPanorama(bytes),
    );
  }

  /** Code that programs need; `undefined` until it has arrived. */
  programs(): StagePrograms | undefined {
    if (this.stagePrograms === undefined) {
      this.stagePrograms = null;
      // Without their code surfaces are shown as they are.
      void this.arriving(async () => {
        const { StagePrograms } = await import("./programs/stagePrograms");
        if (!this.isGone) this.stagePrograms = new StagePrograms(this.onDrawn);
      });
    }
    return this.stagePrograms ?? undefined;
  }
  /** A drawing program at work for an object; `undefined` until what it needs has arrived. */
  drawing(program: Program, source: ProgramSource): Drawing | undefined {
    const { id, code } = program;
    return this.programs()?.drawing(program, source, (problem) => this.programFailed(id, code, problem));
  }

  private programFailed(id: string, code: string, problem: ProgramProblem): void {
    this.programFailures.set(id, { code, problem });
    for (const listener of this.programListeners) listener(id, code, problem);
  }

  private readonly off = new Map<string, string>();
  /** True if this version of a program is switched off. */
  isOff({ id, code }: Program): boolean {
    return this.off.get(id) === code;
  }
  /** Switches a program off that the graphics card gave up on. */
  switchOff({ id, code }: Program): void {
    this.off.set(id, code);
    this.programFailed(id, code, {
      line: 1,
      message:
        "It is switched off: the graphics card gave up while it was drawn. Is it too much work for each pixel?",
    });
  }
  private readonly programFailures = new Map<string, { code: string; problem: ProgramProblem }>();
  private readonly programListeners = new Set<OnProgramFailure>();
  forgetFailure(programId: string): void {
    this.programFailures.delete(programId);
    this.off.delete(programId);
  }

  /** Tells what is wrong with drawing programs: now and later. Returns a function that stops that. */
  onProgramFailure(listener: OnProgramFailure): () => void {
    for (const [id, { code, problem }] of this.programFailures) listener(id, code, problem);
    this.programListeners.add(listener);
    return () => this.programListeners.delete(listener);
  }

  /** Waits for something that objects are drawn without until it is there, and where it cannot be had. */
  private async arriving(bring: () => Promise<unknown>): Promise<void> {
    this.loading++;
    await bring().catch(() => undefined);
    this.loading--;
    if (!this.isGone) this.onArrival();
  }

  /** `null` while it is on its way, and where it cannot be had. */
  private stagePrograms: StagePrograms | null | undefined;

  /** Inputs of programs, if there are any. */
  get programTextures(): StagePrograms["textures"] | undefined {
    return this.stagePrograms?.textures;
  }

  /** A table that maps colours; `undefined` until it has arrived. */
  lut(id: string): Data3DTexture | undefined {
    return this.once(this.luts, id, id, async (bytes) => (await import("./image/lut")).readLut(bytes));
  }

  /** Loads a file when it is asked for first; `undefined` until it has arrived. */
  private once<T>(
    all: Map<string, T | undefined>,
    key: string,
    id: string,
    read: (bytes: ArrayBuffer) => Promise<T>,
  ): T | undefined {
    if (!all.has(key)) {
      all.set(key, undefined);
      void this.load(id, async (bytes) => {
        all.set(key, await read(bytes));
      });
    }
    return all.get(key);
  }

  /** A model's whole, or nothing until it has come. It is shared: copy what is drawn of it. */
  model(id: string): Group | undefined {
    return this.once(this.models, id, id, async (bytes) => {
      const scene = await (await import("./gltf")).readGltf(bytes);
      scene.updateMatrixWorld(true);
      return scene;
    });
  }

  /** Heights of an image's pixels, 0..1, at places of 0..1 across and down; `undefined` until it has arrived. */
  heights(id: string): ((x: number, y: number) => number) | undefined {
    const image = this.picture(id, false)?.image as ImageBitmap | undefined;
    if (!image || typeof OffscreenCanvas === "undefined") return undefined;
    const side = 256;
    const context = new OffscreenCanvas(side, side).getContext("2d", { willReadFrequently: true });
    if (!context) return undefined;
    context.drawImage(image, 0, 0, side, side);
    const { data } = context.getImageData(0, 0, side, side);
    const at = (x: number, y: number) => {
      const i = (Math.min(side - 1, y) * side + Math.min(side - 1, x)) * 4;
      return (0.2126 * data[i] + 0.7152 * data[i + 1] + 0.0722 * data[i + 2]) / 255;
    };
    return (x, y) => {
      // The image was turned over as it was read: its first row is its lowest.
      const [px, py] = [x * (side - 1), (1 - y) * (side - 1)];
      const [left, top] = [Math.floor(px), Math.floor(py)];
      const [u, v] = [px - left, py - top];
      const row = (j: number) => at(left, top + j) * (1 - u) + at(left + 1, top + j) * u;
      return row(0) * (1 - v) + row(1) * v;
    };
  }

  /** Letters as bodies, if the font has all of a text; `undefined` also until the font has arrived. */
  letters(text: string): WordShapes | undefined {
    if (this.wordShapes === "unasked") {
      // Without the font words are drawn by the browser.
      this.wordShapes = "none";
      const { fetchFont } = this;
      if (fetchFont) void this.arriving(() => this.loadFont(fetchFont));
    }
    return this.wordShapes instanceof Object && this.wordShapes.has(text) ? this.wordShapes : undefined;
  }
  private wordShapes: "unasked" | "none" | WordShapes = "unasked";

  private async loadFont(fetchFont: () => Promise<ArrayBuffer>): Promise<void> {
    const [{ WordShapes }, bytes] = await Promise.all([import("./geometry/words"), fetchFont()]);
    this.wordShapes = new WordShapes(bytes);
  }

  /** Text as a white image on transparent ground, and its width for a height of one line. */
  words(text: string): { texture: Texture; aspect: number; lines: number } | undefined {
    if (typeof document === "undefined") return undefined;
    const canvas = document.createElement("canvas");
    const context = canvas.getContext("2d");
    if (!context) return undefined;
    const lines = text.split("\n");
    const font = (px: number) => `600 ${px}px ${TEXT_FONT}`;
    context.font = font(LINE_PX);
    const widest = Math.max(1, ...lines.map((line) => context.measureText(line).width));
    const px = Math.min(LINE_PX, (LINE_PX * MOST_TEXT_PX) / (widest + LINE_PX / 2));
    canvas.width = Math.ceil((widest * px) / LINE_PX + px / 4);
    canvas.height = Math.ceil(lines.length * px * LINE_SPACING);
    context.font = font(px);
    context.textAlign = "center";
    context.textBaseline = "middle";
    context.fillStyle = "#ffffff";
    lines.forEach((line, i) => {
      context.fillText(line, canvas.width / 2, (i + 0.5) * px * LINE_SPACING);
    });
    const texture = new CanvasTexture(canvas);
    texture.colorSpace = LinearSRGBColorSpace;
    return { texture, aspect: canvas.width / canvas.height, lines: lines.length * LINE_SPACING };
  }

  /** Tells what cannot be shown, and why: now and later. Returns a function that stops that. */
  onFailure(listener: (message: string) => void): () => void {
    for (const message of this.failures.values()) listener(message);
    this.failureListeners.add(listener);
    return () => this.failureListeners.delete(listener);
  }

  private async load(id: string, read: (bytes: ArrayBuffer) => Promise<void>): Promise<void> {
    const asset = this.assets.find((one) => one.id === id);
    if (!asset || !this.fetchAsset) return;
    this.loading++;
    try {
      await read(await this.fetchAsset(asset));
    } catch (error) {
      const why =
        error instanceof BumbrelError ? error.message : "Its file is broken or too large: add another one";
      const message = `${asset.name} cannot be shown. ${why}.`;
      this.failures.set(id, message);
      for (const listener of this.failureListeners) listener(message);
    }
    this.loading--;
    if (!this.isGone) this.onArrival();
  }

  dispose(): void {
    this.isGone = true;
    for (const texture of this.textures.values()) texture?.dispose();
    this.stagePrograms?.dispose();
  }
}
