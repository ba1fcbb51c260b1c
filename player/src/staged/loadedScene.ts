import type { Scene } from "@bumbrel/core/document/scene";
import { runningOf, startedByAnswers } from "@bumbrel/core/document/strands/running";
import { Take } from "@bumbrel/core/document/take/take";
import { TAPE_UNIT } from "@bumbrel/core/document/take/units";
import type { Samples } from "@bumbrel/core/dsp/maths/samples";
import type { Tracks } from "@bumbrel/core/evaluate/values";
import { wavesOf } from "@bumbrel/core/evaluate/wave";
import type { UnitLength } from "@bumbrel/core/simulate/answers/answeredSounds";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { Group, Matrix4, type PerspectiveCamera } from "three";
import { type FetchAsset, StageAssets } from "../stage/assets";
import type { Frame } from "../stage/renderedObject";
import { hasPinned, placePinned, StageObjects } from "../stage/stageObjects";

/** Everything a scene needs to stand without a stage. */
export interface SceneSource {
  scene: Scene;
  tracks: Tracks;
  /** Seconds of the tape. */
  lengthS: number;
  /** The take to play. Without one nobody visits, and sounds that run by themselves start with the tape. */
  take?: Take | undefined;
  /** Seconds of each sound that has an end, by its id. */
  soundsS: Readonly<Record<string, number>>;
  samplesOf?(soundId: string): Samples | undefined;
  fetchAsset?: FetchAsset | undefined;
  fetchFont?: (() => Promise<ArrayBuffer>) | undefined;
  /** Share of the steps that round shapes are made of. */
  fineness: number;
}

/**
 * The things of a scene in a group of three.js, without anything that draws them: at a time they stand as the scene says,
 * whatever was shown before.
 */
export class LoadedScene {
  readonly root = new Group();
  readonly state: SceneState;
  readonly objects: StageObjects;
  readonly assets: StageAssets;
  private readonly source: SceneSource;
  private readonly ready: Promise<void>;
  private readonly frame: Frame;
  private readonly pins = { view: new Matrix4(), left: new Matrix4(), right: new Matrix4() };
  private whenArrived: () => void = () => {};

  private constructor(source: SceneSource) {
    this.source = source;
    const { scene, tracks, samplesOf, fetchAsset, fetchFont } = source;
    this.state = new SceneState(scene);
    this.state.setTracks(tracks);
    const take = this.startSounds();
    if (samplesOf) this.state.setWaves(wavesOf(scene, ({ id }) => samplesOf(id), take.units));
    this.ready = new Promise((resolve) => {
      this.whenArrived = resolve;
    });
    this.assets = new StageAssets(fetchAsset, () => this.remakeAssets(), fetchFont);
    this.objects = new StageObjects(this.root, this.assets);
    this.frame = { values: this.state.values, timeS: 0, camera: this.objects.eye, isSoft: false };
  }

  /**
   * Puts a scene together, and waits until all its images, models and words are there.
   *
   * @throws Error saying which image or model cannot be shown
   */
  static async load(source: SceneSource): Promise<LoadedScene> {
    const loaded = new LoadedScene(source);
    const { state, assets, objects } = loaded;
    await loadPartsFor(state.scene);
    state.setHulls();
    const failures: string[] = [];
    assets.onFailure((message) => failures.push(message));
    objects.attach(state, source.fineness);
    // The first update tells which images are needed.
    loaded.update(0);
    if (!assets.isLoaded) await loaded.ready;
    if (failures.length > 0) throw new Error(failures.join(" "));
    return loaded;
  }

  /**
   * Moves everything to where it is at a time.
   *
   * @param camera  what it is looked at with; the scene's own without it
   */
  update(timeS: number, camera: PerspectiveCamera = this.objects.eye): void {
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

  dispose(): void {
    this.objects.dispose();
    this.assets.dispose();
  }

  private remakeAssets(): void {
    // The first call may come before everything is made.
    if (!this.objects) return;
    this.objects.remakeAssets(this.state);
    this.objects.attach(this.state, this.source.fineness);
    this.objects.giveHulls(this.state);
    if (this.assets.isLoaded) this.whenArrived();
  }

  /** Without a take, sounds that run by themselves start with the tape, as they do on a delivered page. */
  private startSounds(): Take {
    const { scene, soundsS, lengthS: tapeS } = this.source;
    const take = this.source.take ?? new Take();
    const waiting = startedByAnswers(scene);
    const lengths = new Map<string, UnitLength>([[TAPE_UNIT, { lengthS: tapeS, loops: scene.loop }]]);
    for (const sound of scene.sounds) {
      const { unitId, loops } = runningOf(scene, sound);
      if (unitId === TAPE_UNIT || waiting.has(sound.id)) continue;
      const lengthS = Math.max(soundsS[sound.id] ?? 0, lengths.get(unitId)?.lengthS ?? 0);
      lengths.set(unitId, { lengthS, loops });
    }
    for (const [unitId, length] of lengths)
      if (unitId !== TAPE_UNIT && !this.source.take)
        take.units.record({ kind: "unit", timeS: 0, unitId, positionS: 0, running: true, ...length });
    this.state.setLengths(lengths);
    this.state.setTake(take);
    return take;
  }
}
