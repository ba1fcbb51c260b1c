import type { Program } from "@bumbrel/core/document/scene";
import { largestValue, type ObjectPlan } from "@bumbrel/core/evaluate/plan";
import { isOfGraphics } from "@bumbrel/core/kinds/programKinds";

import { settingOf } from "@bumbrel/core/kinds/table";
import type { SceneState } from "@bumbrel/core/simulate/sceneState";
import {
  CustomToneMapping,
  Matrix4,
  NeutralToneMapping,
  PerspectiveCamera,
  Scene as ThreeScene,
  Vector2,
  WebGLRenderer,
} from "three";
import { type FetchAsset, type OnProgramFailure, StageAssets } from "./assets";
import type { CameraLayers } from "./image/cameraLayers";
import type { FlashLimit } from "./image/flashLimit";
import { FramePipeline } from "./image/framePipeline";
import { AutomaticQuality, type DrawnStep, drawsInSoftware, QUALITY } from "./image/quality";
import { EnvironmentLight } from "./light/environmentLight";
import { Shadows } from "./light/shadows";
import { airLight } from "./objects/overlay";
import type { Frame, StageEntry } from "./renderedObject";
import { hasPinned, placePinned, StageObjects } from "./stageObjects";

/** Cost of the last frame that a stage drew. */
export interface Weight {
  objects: number;
  copies: number;
  particles: number;
  triangles: number;
  drawCalls: number;
}

/** Target of an image. */
export type Presentation = "screen" | "headset" | "overRoom";

/** A program is suspected of what happens to the graphics within this time of its last change. */
const SUSPECT_MS = 30_000;
/** Graphics that are lost again within this time were not lost by chance. */
const LOST_AGAIN_MS = 30_000;

/**
 * Draws the state of a scene on a canvas. It reads the state and never changes it.
 *
 * @example
 * stage.attach(state);
 * state.advanceTo(1.5);
 * stage.update();
 * stage.render();
 */
export class Stage {
  readonly assets: StageAssets;
  readonly renderer: WebGLRenderer;
  /** Everything of the scene, as three.js draws it. */
  readonly three = new ThreeScene();
  /** Marks of whoever edits the scene: drawn over the image, and on no image that is taken of it. */
  readonly overlay = new ThreeScene();
  /** The step of quality it is drawn at. */
  quality: DrawnStep = "desktop";
  private ownStep: DrawnStep | undefined;
  private readonly pipeline: FramePipeline;
  private readonly automatic: AutomaticQuality;
  private readonly shadows: Shadows;
  private readonly environment: EnvironmentLight;
  private readonly objects: StageObjects;
  private state: SceneState | undefined;
  private shownVersion = -1;
  private isDirty = true;
  private lookingEye: PerspectiveCamera | undefined;
  private programs: readonly Program[] | undefined;
  private drawnWith = { drawCalls: 0, triangles: 0 };
  private readonly frame: Frame = {
    values: new Float64Array(0),
    timeS: 0,
    camera: new PerspectiveCamera(),
    isSoft: false,
  };
  private readonly listeners = new Set<() => void>();

  /**
   * @param fetchAsset  where images and models come from
   * @param fetchFont  where the font of words comes from, as WOFF
   * @throws Error when the browser offers no WebGL
   */
  constructor(canvas: HTMLCanvasElement, fetchAsset?: FetchAsset, fetchFont?: () => Promise<ArrayBuffer>) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, powerPreference: "high-performance" });
    this.renderer.info.autoReset = false;
    this.assets = new StageAssets(
      fetchAsset,
      () => this.remakeAssets(),
      fetchFont,
      () => this.redraw(),
    );
    this.objects = new StageObjects(this.three, this.assets);
    this.pipeline = new FramePipeline(this.renderer, this.three, () => this.passesHaveCome());
    this.automatic = new AutomaticQuality(drawsInSoftware(this.renderer.getContext()));
    this.shadows = new Shadows(this.renderer);
    this.environment = new EnvironmentLight(this.renderer, this.three);
    // A context that was lost comes back with everything on it; until then the last image stays.
    canvas.addEventListener("webglcontextlost", this.contextLost);
    canvas.addEventListener("webglcontextrestored", this.contextRestored);
  }

  /** Remembers which programs have other code than before, and since when; tells whether the list is another one. */
  private noteCode(programs: readonly Program[]): boolean {
    if (programs === this.programs) return false;
    const before = new Map(this.programs?.map(({ id, code }) => [id, code]));
    const changed = programs.filter(({ id, code }) => before.get(id) !== code);
    if (changed.length > 0) {
      this.newPrograms = changed;
      this.newCodeMs = performance.now();
    }
    this.programs = programs;
    return true;
  }

  private readonly contextRestored = (): void => {
    this.assets.programTextures?.sendAgain();
    // Drawings begin once more: what they had drawn is gone.
    this.objects.forgetDrawn();
    this.shownVersion = -1;
    this.redraw();
  };

  /** When the code of programs last changed, and when the graphics were last lost, ms. */
  private newCodeMs = Number.NEGATIVE_INFINITY;
  private lostMs = Number.NEGATIVE_INFINITY;
  private newPrograms: readonly Program[] = [];

  /**
   * The graphics card gave up. What came last is the likely reason: programs that have just been changed are switched
   * off, and if that did not help, all of them; everything else comes back as it was.
   */
  private readonly contextLost = (): void => {
    const now = performance.now();
    const isAgain = now - this.lostMs < LOST_AGAIN_MS;
    this.lostMs = now;
    const all = this.state?.scene.programs.filter(({ kind }) => isOfGraphics(kind)) ?? [];
    const suspects = isAgain ? all : now - this.newCodeMs < SUSPECT_MS ? this.newPrograms : [];
    for (const program of suspects) this.assets.switchOff(program);
    if (suspects.length > 0 && this.state) this.attach(this.state);
  };

  /** Poses of the visitor's eyes and hands, for objects that are pinned to them. */
  readonly pins = { view: new Matrix4(), left: new Matrix4(), right: new Matrix4() };

  /** Hands the state's placing what things are pinned to; without a visitor, the scene's camera. */
  private placePins(): void {
    const { state, pins, camera } = this;
    if (!state || !hasPinned(state)) return;
    if (this.presentation === "screen") {
      camera.updateMatrixWorld();
      pins.view.copy(camera.matrixWorld);
    }
    placePinned(state, pins);
  }

  /** Target of the image: the screen, or a headset, all round or over its camera picture. */
  present(where: Presentation): void {
    if (where === this.presentation) return;
    this.presented = where;
    this.renderer.setClearAlpha(where === "overRoom" ? 0 : 1);
    this.chooseQuality();
    if (this.state) this.attach(this.state);
  }
  /** The present destination of the image. */
  get presentation(): Presentation {
    return this.presented;
  }
  private presented: Presentation = "screen";

  /** A camera's picture that the scene is drawn on, without the passes of the lens; none draws the scene alone. */
  get cameraLayers(): CameraLayers | undefined {
    return this.layersOfCamera;
  }
  set cameraLayers(layers: CameraLayers | undefined) {
    this.layersOfCamera?.dispose();
    this.layersOfCamera = layers;
    this.redraw();
  }
  private layersOfCamera: CameraLayers | undefined;

  /** Looks at the stage instead of its camera; none while it is seen as its audience sees it. */
  get looker(): PerspectiveCamera | undefined {
    return this.lookingEye;
  }
  set looker(eye: PerspectiveCamera | undefined) {
    this.lookingEye = eye;
    this.fitCamera();
    this.shownVersion = -1;
    this.redraw();
  }

  /** The scene's own camera, whether it is looked through or not. */
  get sceneCamera(): PerspectiveCamera {
    return this.objects.eye;
  }

  /** Camera that the stage is seen through now. */
  get camera(): PerspectiveCamera {
    return this.lookingEye ?? this.objects.eye;
  }

  get canvas(): HTMLCanvasElement {
    return this.renderer.domElement;
  }

  get entries(): ReadonlyMap<string, StageEntry> {
    return this.objects.entries;
  }

  /** Share of the pixels along each side that are drawn at its quality. */
  get pixelShare(): number {
    return this.pipeline.spending.pixels;
  }

  /** True once every image and model that is shown has arrived or failed. */
  get isLoaded(): boolean {
    return this.assets.isLoaded && this.pipeline.isLoaded && !this.isLimiterLoading;
  }

  private passesHaveCome(): void {
    this.shownVersion = -1;
    this.redraw();
    for (const listener of this.arrivals) listener();
  }

  /** Tells which images and models cannot be shown, and why: now and later. Returns a function that stops that. */
  onAssetFailure(listener: (message: string) => void): () => void {
    return this.assets.onFailure(listener);
  }

  /** Tells what is wrong with drawing programs, by their ids: now and later. Returns a function that stops that. */
  onProgramFailure(listener: OnProgramFailure): () => void {
    return this.assets.onProgramFailure(listener);
  }

  /** Starts a program that was stopped once more, in everything that uses it. */
  restartProgram(programId: string): void {
    const { state } = this;
    if (!state) return;
    this.assets.forgetFailure(programId);
    this.objects.restartProgram(programId);
    this.attach(state);
  }

  /** Draws the next frame even if nothing moved. */
  readonly redraw = (): void => {
    this.isDirty = true;
  };

  /** Calls `listener` before a frame is drawn; returns a function that stops that. */
  beforeRender(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Puts a state's objects on the stage; those that stay as they were made are kept. */
  attach(state: SceneState): void {
    this.state = state;
    this.shownVersion = -1;
    this.noteCode(state.scene.programs);
    this.chooseQuality();
    this.objects.attach(state, this.pipeline.spending.fineness);
    this.fitCamera();
    this.findNeeds(state);
    this.loadLimiter();
    this.redraw();
  }

  /** Passes that the document asks for. */
  private findNeeds(state: SceneState): void {
    const lens = state.plan.plans.find(({ object }) => object.kind === "lens");
    const canBe = (key: string) => lens !== undefined && largestValue(lens, key) > 0;
    const lutId = lens && settingOf(lens.object, "hasLut") ? settingOf(lens.object, "lutId") : null;
    this.pipeline.setNeeds({
      hasDifference: this.objects.hasDifference,
      hasSoft: state.plan.plans.some(
        (plan) => plan.object.kind === "particles" && largestValue(plan, "softness") > 0,
      ),
      hasOcclusion: canBe("occlusion"),
      hasFocus: canBe("defocus"),
      lut: typeof lutId === "string" ? this.assets.lut(lutId) : undefined,
      layers: this.objects.layers,
    });
    this.pipeline.loadAhead(this.objects.lens);
  }

  /** Draws at a step of its own from now on, whatever the scene asks for. */
  drawAt(step: DrawnStep): void {
    this.ownStep = step;
    if (!this.state) return;
    this.chooseQuality();
    this.attach(this.state);
  }

  private chooseQuality(): void {
    const { state } = this;
    if (!state) return;
    const { quality, budget } = state.scene;
    this.automatic.setBudget(budget);
    this.quality = this.ownStep ?? (quality === "auto" ? this.automatic.step : quality);
    // Passes over the image cost a headset more than it has.
    if (this.presentation !== "screen" && QUALITY[this.quality].effects) this.quality = "headset";
    this.pipeline.setQuality(this.quality);
  }

  /**
   * Takes note of the time between two frames, ms: where the quality is automatic, it goes down while they take long.
   */
  observeInterval(intervalMs: number): void {
    if (this.state?.scene.quality !== "auto") return;
    if (!this.automatic.observe(intervalMs)) return;
    this.chooseQuality();
    if (this.state) this.attach(this.state);
  }

  /** Frames that were late for other reasons than drawing do not count. */
  forgetIntervals(): void {
    this.automatic.forget();
  }

  /**
   * Follows an edit of the scene.
   *
   * @param changed  the plans that changed, as `SceneState.update` returns them
   */
  follow(changed: ReadonlySet<ObjectPlan> | undefined): void {
    const { state } = this;
    if (!state) return;
    if (!changed) {
      this.attach(state);
      return;
    }
    this.assets.setScene(state.scene);
    this.loadLimiter();
    const { quality } = this;
    this.chooseQuality();
    if (this.quality !== quality) {
      this.attach(state);
      return;
    }
    this.redraw();
    const hasNewCode = this.noteCode(state.scene.programs);
    if (changed.size === 0 && !hasNewCode) return;
    // Cameras, lenses and lights are looked up again when they are other ones.
    if (this.objects.follow(state, changed, hasNewCode)) this.attach(state);
    else if ([...changed].some(({ object }) => object.kind === "lens" || object.kind === "particles")) {
      this.findNeeds(state);
    }
  }

  /** Makes objects again that were made before their images, models or fonts arrived. */
  private remakeAssets(): void {
    const { state } = this;
    if (!state) return;
    this.objects.remakeAssets(state);
    this.attach(state);
    this.objects.giveHulls(state);
    for (const listener of this.arrivals) listener();
  }
  private readonly arrivals = new Set<() => void>();

  /** Calls `listener` when an image, model or font has arrived; returns a function that stops that. */
  onArrival(listener: () => void): () => void {
    this.arrivals.add(listener);
    return () => this.arrivals.delete(listener);
  }

  /**
   * Draws the objects as the state is now; `render` shows them.
   *
   * @param isLive  something moves although neither values nor time change: a waveform that is heard live
   */
  update(isLive = false): void {
    const { state, frame } = this;
    if (!state || (!isLive && !this.isDirty && state.version === this.shownVersion)) return;
    this.isDirty = true;
    this.shownVersion = state.version;
    this.placePins();
    frame.values = state.values;
    frame.timeS = state.timeS;
    frame.camera = this.camera;
    frame.isSoft = this.pipeline.hasSoft;
    this.assets.programTextures?.fill(state.scene, {
      timeS: state.timeS,
      trackOf: (id) => state.trackOf(id),
      waves: state.simulation.waves,
    });
    this.objects.update(frame);
  }

  /** Waits until drawings by programs are at the time that the stage shows; `undefined` where they are already. */
  reachImage(): Promise<unknown> | undefined {
    const { renderer, camera: eye } = this;
    const waiting = this.objects.drawingBefore.flatMap((one) => one.reachImage?.(renderer, eye) ?? []);
    return waiting.length > 0 ? Promise.all(waiting) : undefined;
  }

  /** Draws what the image needs beforehand: the light from all round, shadows, reflections. */
  private prepareImage(): void {
    const { renderer } = this;
    // Images that are drawn beforehand are drawn once, not for two eyes.
    const { enabled } = renderer.xr;
    renderer.xr.enabled = false;
    this.prepareParts();
    renderer.xr.enabled = enabled;
  }

  private prepareParts(): void {
    const { pipeline, renderer, three, camera: eye } = this;
    const { surroundings, casting, drawingBefore, hasLitAir } = this.objects;
    const { spending } = pipeline;
    if (surroundings) {
      this.environment.show(surroundings.light, spending.mirrorsEnvironment);
      if (hasLitAir) airLight.value.copy(this.environment.meanLight(surroundings.light));
    }
    // Mirrors show the fog of this very image, not of the one before.
    pipeline.setFog(this.objects.lens);
    this.shadows.prepare(casting, eye, spending);
    for (const rendered of drawingBefore) rendered.beforeImage!(renderer, three, eye, spending);
  }

  /** True if the image remembers earlier ones: then it is stepped at a fixed rate, see {@link FramePipeline}. */
  get hasFeedback(): boolean {
    return (
      this.layersOfCamera === undefined &&
      this.presentation === "screen" &&
      this.pipeline.hasFeedback(this.objects.lens)
    );
  }

  /** How many fixed steps an image has to go back until nothing of it is seen. */
  get feedbackSteps(): number {
    return this.objects.lens ? this.pipeline.stepsToForget(this.objects.lens) : 0;
  }

  /** The last step that the image's memory includes; `undefined` when it is empty. */
  get memoryStep(): number | undefined {
    return this.pipeline.memoryStep;
  }

  /** Empties the image's memory: after a seek nothing is left of what was seen elsewhere. */
  forgetImages(): void {
    this.pipeline.forget();
    this.limit?.forget();
  }

  /**
   * Adds the stage as it is now to the image's memory, without showing it.
   *
   * @param step  number of the fixed step
   */
  remember(step: number): void {
    if (!this.objects.lens) return;
    this.prepareImage();
    this.pipeline.remember(this.camera, this.objects.lens, step);
  }

  /**
   * Draws the image, unless the one on the screen is still right.
   *
   * @param step  number of the fixed step it shows; given while the image has feedback
   */
  render(step?: number): void {
    if (!this.isDirty) return;
    this.isDirty = false;
    for (const listener of this.listeners) listener();
    this.renderer.info.reset();
    this.prepareImage();
    if (this.layersOfCamera) {
      this.layersOfCamera.render(
        this.renderer,
        this.three,
        this.camera,
        this.objects.order,
        this.objects.lens,
      );
    } else if (this.presentation !== "screen") this.renderForHeadset();
    else this.pipeline.render(this.camera, this.objects.lens, step);
    if (this.overlay.children.length > 0 && this.presentation === "screen") {
      this.renderer.setRenderTarget(null);
      this.renderer.autoClear = false;
      this.renderer.clearDepth();
      this.renderer.render(this.overlay, this.camera);
    }
    this.limitFlashes();
    const { calls, triangles } = this.renderer.info.render;
    this.drawnWith = { drawCalls: calls, triangles };
  }

  /** Share of the picture that the limiter of flashes holds back, 0..1; `undefined` where there is none. */
  get limiterStrength(): number | undefined {
    return this.limit?.strength;
  }

  /** When the picture that is drawn next is shown, s; by the clock of the machine without it. */
  shownS: number | undefined;

  /** Bounds how the picture changes, where the scene wants that. In a headset nothing does. */
  private limitFlashes(): void {
    if (!this.state?.scene.limitsFlashes || this.presentation !== "screen") {
      this.limit?.dispose();
      this.limit = undefined;
      return;
    }
    if (!this.limit) {
      if (!this.limiterCode) return;
      this.limit = new this.limiterCode(this.renderer);
    }
    this.limit.apply(this.shownS ?? performance.now() / 1000);
  }
  private limit: FlashLimit | undefined;
  private limiterCode: typeof FlashLimit | undefined;
  private isLimiterLoading = false;

  /** Loads the limiter, which few scenes use. */
  private loadLimiter(): void {
    if (!this.state?.scene.limitsFlashes || this.limiterCode || this.isLimiterLoading) return;
    this.isLimiterLoading = true;
    void import("./image/flashLimit").then(({ FlashLimit }) => {
      this.limiterCode = FlashLimit;
      this.isLimiterLoading = false;
      this.passesHaveCome();
    });
  }

  /** Draws both eyes straight; over the room without what would hide it. */
  private renderForHeadset(): void {
    const { renderer, three } = this;
    const { backdrop, lens } = this.objects;
    const isOverRoom = this.presentation === "overRoom";
    const { fog } = three;
    if (backdrop) backdrop.root.visible &&= !isOverRoom;
    if (isOverRoom) three.fog = null;
    renderer.toneMapping = lens?.toneMapping === "neutral" ? NeutralToneMapping : CustomToneMapping;
    renderer.toneMappingExposure = 2 ** (lens?.exposure ?? 0);
    renderer.setRenderTarget(null);
    renderer.autoClear = true;
    renderer.render(three, this.camera);
    three.fog = fog;
  }

  /** Draws the image that the camera sees, without what is laid over it, for taking it. */
  renderClean(): void {
    const { lookingEye } = this;
    this.lookingEye = undefined;
    this.prepareImage();
    this.pipeline.render(this.objects.eye, this.objects.lens, this.pipeline.memoryStep);
    this.lookingEye = lookingEye;
    this.redraw();
  }

  /** @param width  CSS pixels; @param height  CSS pixels; @param pixelRatio  device pixels in one of them */
  resize(width: number, height: number, pixelRatio: number): void {
    this.pipeline.resize(width, height, pixelRatio);
    this.fitCamera();
    this.redraw();
  }

  /** An object's root transform: 16 numbers, column by column; `undefined` for one without a place. */
  rootOf(objectId: string): Float32Array | undefined {
    return this.objects.rootOf(objectId);
  }

  /** Drawn value of a property, read back from the graphics. */
  read(objectId: string, property: string): number | number[] | undefined {
    return this.objects.entries.get(objectId)?.rendered.read(property);
  }

  /** Every number of an object that is sent to the graphics card. */
  drawnNumbers(objectId: string): number[] {
    return Object.values(this.objects.entries.get(objectId)?.rendered.drawnParts() ?? {}).flat();
  }

  weight(): Weight {
    return { objects: this.objects.order.length, ...this.objects.count(), ...this.drawnWith };
  }

  dispose(): void {
    this.cameraLayers = undefined;
    this.objects.dispose();
    this.canvas.removeEventListener("webglcontextlost", this.contextLost);
    this.canvas.removeEventListener("webglcontextrestored", this.contextRestored);
    this.assets.dispose();
    this.environment.dispose();
    this.limit?.dispose();
    this.pipeline.dispose();
    this.renderer.dispose();
  }

  private fitCamera(): void {
    const size = this.renderer.getSize(new Vector2());
    if (size.y === 0) return;
    for (const eye of [this.objects.eye, this.lookingEye]) {
      if (!eye) continue;
      eye.aspect = size.x / size.y;
      // The field of view is that of the shorter side: an upright image keeps what a square one shows.
      eye.zoom = Math.min(1, eye.aspect);
      eye.updateProjectionMatrix();
    }
  }
}
