import { runningOf, startedByAnswers } from "@bumbrel/core/document/running";
import type { QualityStep, Scene } from "@bumbrel/core/document/scene";
import { Take } from "@bumbrel/core/document/take";
import { TAPE_UNIT } from "@bumbrel/core/document/units";
import { wavesOf } from "@bumbrel/core/evaluate/wave";
import { readCurves } from "@bumbrel/core/format/curves";
import type { UnitLength } from "@bumbrel/core/simulate/answeredSounds";
import { loadPartsFor } from "@bumbrel/core/simulate/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import {
  FogExp2,
  Group,
  Matrix4,
  PerspectiveCamera,
  type Scene as ThreeScene,
  type WebGLRenderer,
} from "three";
import { StageAssets } from "../stage/assets";
import { EnvironmentLight } from "../stage/environmentLight";
import { airLight } from "../stage/objects/overlay";
import { QUALITY } from "../stage/quality";
import type { Frame } from "../stage/renderedObject";
import { Shadows } from "../stage/shadows";
import { hasPinned, placePinned, StageObjects } from "../stage/stageObjects";

/** The file `staged.json`: a scene, and what of its sounds is known without them. */
export interface StagedDocument {
  /** The scene document. */
  scene: object;
  /** Seconds of each sound that has an end, by its id. */
  soundsS: Readonly<Record<string, number>>;
}

export interface StagedOptions {
  /** The file `numbers.curves`: what its strands are at each time. */
  curves: ArrayBuffer | Uint8Array;
  /** Gives the bytes of an image, model or panorama of the scene, by its id. */
  asset?(id: string): Promise<ArrayBuffer>;
  /** Gives the font of the scene's words; without it the browser draws them. */
  letters?(): Promise<ArrayBuffer>;
  /** Mono samples at 48 000 Hz by the ids of sounds, for drawings of waveforms. */
  samples?: Readonly<Record<string, Float32Array>>;
  /** How finely round shapes are made, and what `prepare` spends; "desktop" without it. */
  quality?: "film" | "desktop" | "headset" | "phone" | "plain";
  /** Whether its backdrop, its light from all round and its fog come along; they do not without it. */
  surroundings?: boolean;
}

/** What belongs to the whole image rather than to things in it. */
const SURROUNDINGS: ReadonlySet<string> = new Set(["backdrop", "environment", "lens"]);

/**
 * A scene inside somebody's own three.js scene, moved by somebody's own loop: at a time it stands as it does in Bumbrel at
 * that time of the tape, whatever was shown before.
 *
 * @example
 * const staged = await StagedScene.load(await (await fetch("staged.json")).json(), {
 *   curves: await (await fetch("numbers.curves")).arrayBuffer(),
 * });
 * scene.add(staged.root);
 * renderer.setAnimationLoop(() => {
 *   staged.update(music.currentTime, camera);
 *   renderer.render(scene, camera);
 * });
 */
export class StagedScene {
  /** Everything of the scene; add it to your own, and place it where you like. */
  readonly root = new Group();
  /** Seconds that its numbers last. */
  readonly lengthS: number;
  private readonly state: SceneState;
  private readonly assets: StageAssets;
  private readonly objects: StageObjects;
  private readonly quality: QualityStep;
  private readonly ready: Promise<void>;
  private readonly frame: Frame;
  private readonly pins = { view: new Matrix4(), left: new Matrix4(), right: new Matrix4() };
  private readonly fog = new FogExp2(0);
  private lighting:
    | { renderer: WebGLRenderer; scene: ThreeScene; environment: EnvironmentLight; shadows: Shadows }
    | undefined;
  private whenArrived: () => void = () => {};

  private constructor({ scene, soundsS }: StagedDocument, options: StagedOptions) {
    const whole = scene as Scene;
    const staged: Scene = options.surroundings
      ? whole
      : { ...whole, objects: whole.objects.filter(({ kind }) => !SURROUNDINGS.has(kind)) };
    const { curves, lengthS } = readCurves(
      options.curves instanceof Uint8Array ? options.curves : new Uint8Array(options.curves),
    );
    this.lengthS = lengthS;
    this.quality = options.quality ?? "desktop";
    this.state = new SceneState(staged);
    this.state.setTracks(new Map(curves.map((curve) => [curve.id, curve])));
    const take = this.startSounds(staged, soundsS);
    const { asset, letters, samples } = options;
    if (samples) this.state.setWaves(wavesOf(staged, ({ id }) => samples[id], take.units));
    this.ready = new Promise((resolve) => {
      this.whenArrived = resolve;
    });
    this.assets = new StageAssets(asset && (({ id }) => asset(id)), () => this.remakeAssets(), letters);
    this.objects = new StageObjects(this.root, this.assets);
    this.frame = {
      values: this.state.values,
      timeS: 0,
      camera: new PerspectiveCamera(),
      isSoft: false,
    };
  }

  /**
   * Reads a scene, and waits until all its images, models and words are there.
   *
   * @throws Error saying what is wrong with the curves, or which image cannot be read
   */
  static async load(document: StagedDocument, options: StagedOptions): Promise<StagedScene> {
    const staged = new StagedScene(document, options);
    const { state, assets, objects } = staged;
    await loadPartsFor(state.scene);
    state.setHulls();
    const failures: string[] = [];
    assets.onFailure((message) => failures.push(message));
    objects.attach(state, staged.fineness);
    // What is drawn first tells which images are needed.
    staged.update(0);
    if (!assets.isLoaded) await staged.ready;
    if (failures.length > 0) throw new Error(failures.join(" "));
    return staged;
  }

  /** The scene's own camera: look through it to see what Bumbrel shows. Its shape is yours to set. */
  get camera(): PerspectiveCamera {
    return this.objects.eye;
  }

  /**
   * Moves everything to where it is at a time. Allocates nothing once all has been seen.
   *
   * @param timeS  seconds on the tape, from 0
   * @param camera  what it is looked at with; the scene's own without it
   */
  update(timeS: number, camera: PerspectiveCamera = this.camera): void {
    const { state, frame, objects, pins } = this;
    state.simulation.mayGoOn = () => true;
    state.advanceTo(Math.max(0, timeS));
    if (hasPinned(state)) {
      camera.updateMatrixWorld();
      pins.view.copy(camera.matrixWorld);
      placePinned(state, pins);
    }
    frame.values = state.values;
    frame.timeS = state.timeS;
    frame.camera = camera;
    this.assets.programTextures?.fill(state.scene, {
      timeS: state.timeS,
      trackOf: (id) => state.trackOf(id),
      waves: state.simulation.waves,
    });
    objects.update(frame);
  }

  /**
   * Readies what the next image needs beyond the things themselves: shadows, mirrored water, and with `surroundings` the
   * light from all round and the fog. Call it between `update` and your own rendering; leave it out to light everything
   * yourself.
   */
  prepare(renderer: WebGLRenderer, scene: ThreeScene, camera: PerspectiveCamera): void {
    const { surroundings, casting, drawingBefore, hasLitAir, lens } = this.objects;
    const spending = QUALITY[this.quality];
    if (this.lighting?.renderer !== renderer || this.lighting.scene !== scene) {
      this.lighting?.environment.dispose();
      this.lighting = {
        renderer,
        scene,
        environment: new EnvironmentLight(renderer, scene),
        shadows: new Shadows(renderer),
      };
    }
    const { environment, shadows } = this.lighting;
    if (surroundings) {
      environment.show(surroundings.light, spending.mirrorsEnvironment);
      if (hasLitAir) airLight.value.copy(environment.meanLight(surroundings.light));
    }
    if (lens) {
      this.fog.density = lens.fog;
      this.fog.color.copy(lens.fogColour);
      scene.fog = lens.fog > 0 ? this.fog : null;
    }
    shadows.prepare(casting, camera, spending);
    // Lights that are not the scene's cast shadows as well.
    renderer.shadowMap.needsUpdate = true;
    const { enabled } = renderer.xr;
    renderer.xr.enabled = false;
    for (const rendered of drawingBefore) rendered.beforeImage!(renderer, scene, camera, spending);
    renderer.xr.enabled = enabled;
  }

  /** Lets go of everything on the graphics card. */
  dispose(): void {
    this.objects.dispose();
    this.assets.dispose();
    this.lighting?.environment.dispose();
    this.root.removeFromParent();
  }

  private get fineness(): number {
    return QUALITY[this.quality].fineness;
  }

  private remakeAssets(): void {
    // The first call may come before everything is made.
    if (!this.objects) return;
    this.objects.remakeAssets(this.state);
    this.objects.attach(this.state, this.fineness);
    this.objects.giveHulls(this.state);
    if (this.assets.isLoaded) this.whenArrived();
  }

  /** Sounds that run by themselves start with the tape, as they do on a delivered page. */
  private startSounds(scene: Scene, soundsS: Readonly<Record<string, number>>): Take {
    const take = new Take();
    const waiting = startedByAnswers(scene);
    const lengths = new Map<string, UnitLength>([[TAPE_UNIT, { lengthS: this.lengthS, loops: scene.loop }]]);
    for (const sound of scene.sounds) {
      const { unitId, loops } = runningOf(scene, sound);
      if (unitId === TAPE_UNIT || waiting.has(sound.id)) continue;
      const lengthS = Math.max(soundsS[sound.id] ?? 0, lengths.get(unitId)?.lengthS ?? 0);
      lengths.set(unitId, { lengthS, loops });
    }
    for (const [unitId, length] of lengths)
      if (unitId !== TAPE_UNIT)
        take.units.record({ kind: "unit", timeS: 0, unitId, positionS: 0, running: true, ...length });
    this.state.setLengths(lengths);
    this.state.setTake(take);
    return take;
  }
}
