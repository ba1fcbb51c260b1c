import type { Scene } from "@bumbrel/core/scene/document";
import { Evaluator, type PropertyValues, type Tracks } from "@bumbrel/core/scene/evaluate";
import { Transport } from "./audio/transport";
import type { Stage } from "./stage/stage";

/**
 * Plays a scene: transport → position → evaluated values → the attached stages, once a display frame.
 *
 * The workbench and every delivered page use this same class.
 */
export class ScenePlayer {
  readonly transport = new Transport();
  /** Milliseconds of script that the last frame took, smoothed. */
  frameCostMs = 0;
  private scene: Scene;
  private evaluator: Evaluator;
  private values: Float64Array;
  private tracks: Tracks = new Map();
  private readonly stages = new Set<Stage>();
  private readonly watchers = new Set<(timeS: number) => void>();
  private request = 0;

  constructor(scene: Scene) {
    this.scene = scene;
    this.evaluator = new Evaluator(scene);
    this.values = new Float64Array(this.evaluator.size);
    this.transport.setLoop(scene.loop);
  }

  setScene(scene: Scene): void {
    this.scene = scene;
    this.evaluator = new Evaluator(scene);
    if (this.values.length !== this.evaluator.size) this.values = new Float64Array(this.evaluator.size);
    for (const stage of this.stages) stage.setScene(scene, this.evaluator);
    this.transport.setLoop(scene.loop);
  }

  /** Tracks by strand id; strands without one leave what they drive at rest. */
  setTracks(tracks: Tracks): void {
    this.tracks = tracks;
  }

  /** Adds a stage to be drawn every frame; gives a way to stop that. */
  attach(stage: Stage): () => void {
    stage.setScene(this.scene, this.evaluator);
    this.stages.add(stage);
    return () => this.stages.delete(stage);
  }

  /** Calls `watcher` every frame with the position; for drawings that follow it without React. */
  onFrame(watcher: (timeS: number) => void): () => void {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  }

  /** Begins drawing once a display frame. */
  start(): void {
    const tick = () => {
      this.request = requestAnimationFrame(tick);
      this.frame();
    };
    if (this.request === 0) tick();
  }

  /** One frame, now. */
  frame(): void {
    const before = performance.now();
    const timeS = this.applyNow();
    for (const stage of this.stages) stage.render();
    for (const watcher of this.watchers) watcher(timeS);
    this.frameCostMs += (performance.now() - before - this.frameCostMs) * 0.1;
  }

  /** Brings values and stages to the present position without drawing; gives the position. */
  applyNow(): number {
    const timeS = this.transport.positionS();
    this.evaluator.evaluateInto(this.tracks, timeS, this.values);
    for (const stage of this.stages) stage.apply(this.values);
    return timeS;
  }

  /** Property values at the present position. */
  currentValues(): PropertyValues {
    this.applyNow();
    return this.evaluator.readAll(this.values);
  }

  /** The number of a property at the present position, without allocating; its first axis for vectors. */
  valueOf(objectId: string, property: string, axis = 0): number {
    const slot = this.evaluator.slot(objectId, property);
    return slot ? this.values[slot.offset + axis] : 0;
  }

  dispose(): void {
    if (this.request !== 0) cancelAnimationFrame(this.request);
    this.request = 0;
    this.transport.dispose();
    this.stages.clear();
    this.watchers.clear();
  }
}

/** What a page around a player may call; published as `window.bumbrel`. */
export interface PlayerHandle {
  play(): void;
  pause(): void;
  /** Moves to a time in seconds. */
  seek(timeS: number): void;
  positionS(): number;
  durationS(): number;
  state(): "paused" | "playing" | "held";
  /** Evaluated property values at the present position, by object id and property. */
  values(): PropertyValues;
  /** What the stage shows for a property, read back from what is drawn. */
  read(objectId: string, property: string): number | number[] | undefined;
}

/** Makes a handle on a player and the stage it is seen on. */
export function playerHandle(player: ScenePlayer, stage: Stage): PlayerHandle {
  const { transport } = player;
  return {
    play: () => transport.play(),
    pause: () => transport.pause(),
    seek: (timeS) => transport.seek(timeS),
    positionS: () => transport.positionS(),
    durationS: () => transport.durationS,
    state: () => transport.state,
    values: () => player.currentValues(),
    read: (objectId, property) => {
      player.applyNow();
      return stage.read(objectId, property);
    },
  };
}

declare global {
  interface Window {
    /** The player of this page, once it is ready. */
    bumbrel?: PlayerHandle;
  }
}
