import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { distanceGain } from "@bumbrel/core/dsp/distance";
import type { Place, Scene, Sound } from "@bumbrel/core/scene/document";
import {
  Evaluator,
  type PropertyValues,
  type Tracks,
  type Wave,
  type Waves,
} from "@bumbrel/core/scene/evaluate";
import { loopLengthS, runningOf } from "@bumbrel/core/scene/listening";
import type { Track } from "@bumbrel/core/strand/track";
import { Transport } from "./audio/transport";
import { LiveSounds, type LiveUrls } from "./live/liveSounds";
import type { Stage } from "./stage/stage";

/**
 * Plays a scene: transport → position → evaluated values → the attached stages, once a display frame.
 *
 * The workbench and every delivered page use this same class.
 */
export class ScenePlayer {
  readonly transport = new Transport();
  /** Inputs and keyboards; none without a place to load what captures them from. */
  readonly live: LiveSounds | undefined;
  /** Milliseconds that the last frame took, smoothed: all of it, and without having it drawn. */
  frameCostMs = 0;
  scriptCostMs = 0;
  private scene: Scene;
  private evaluator: Evaluator;
  private values: Float64Array;
  /** Tracks over whole sounds, and these with the live ones. */
  private wholeTracks: Tracks = new Map();
  private tracks: Tracks = new Map();
  /** Those that drive the stage: not the muted ones, and only the one that is heard alone. */
  private driving: Tracks = new Map();
  private liveVersion = 0;
  private soloStrands: ReadonlySet<string> = new Set();
  private placed: { id: string; place: Place }[] = [];
  private samples: ReadonlyMap<string, Float32Array> = new Map();
  private readonly stages = new Set<Stage>();
  private readonly watchers = new Set<(timeS: number) => void>();
  private request = 0;

  /** @param urls  where what runs apart was built to, for scenes with live sounds */
  constructor(scene: Scene, urls?: LiveUrls) {
    this.live = urls && new LiveSounds(this.transport, urls);
    this.scene = scene;
    this.evaluator = new Evaluator(scene);
    this.values = new Float64Array(this.evaluator.size);
    this.followSounds();
  }

  setScene(scene: Scene): void {
    this.scene = scene;
    const evaluator = new Evaluator(scene);
    evaluator.goOnFrom(this.evaluator);
    this.evaluator = evaluator;
    if (this.values.length !== this.evaluator.size) this.values = new Float64Array(this.evaluator.size);
    for (const stage of this.stages) stage.setScene(scene, this.evaluator);
    this.followSounds();
  }

  /** Mono samples of each sound by its id, for what is drawn or moved by a waveform. */
  setSamples(samples: ReadonlyMap<string, Float32Array>): void {
    this.samples = samples;
    this.followWaves();
  }

  /** Tracks by strand id; strands without one leave what they drive at rest. */
  setTracks(tracks: Tracks): void {
    this.wholeTracks = tracks;
    this.joinTracks();
  }

  /** Lets only some strands drive the stage, for looking while working; none lets all of them. */
  soloStrandsOnly(strandIds: ReadonlySet<string>): void {
    this.soloStrands = strandIds;
    this.joinTracks();
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
    this.live?.update(before, this.tracks, this.transport.positionS());
    if (this.live && this.live.version !== this.liveVersion) {
      this.liveVersion = this.live.version;
      this.joinTracks();
    }
    const timeS = this.applyNow(this.hasLive());
    this.followDistances();
    const beforeDrawing = performance.now();
    for (const stage of this.stages) stage.render();
    const drawingMs = performance.now() - beforeDrawing;
    for (const watcher of this.watchers) watcher(timeS);
    const allMs = performance.now() - before;
    this.frameCostMs += (allMs - this.frameCostMs) * 0.1;
    this.scriptCostMs += (allMs - drawingMs - this.scriptCostMs) * 0.1;
  }

  /** Brings values and stages to the present position without drawing; gives the position. */
  applyNow(isLive = true): number {
    const timeS = this.transport.positionS();
    this.evaluator.evaluateInto(this.driving, timeS, this.values);
    for (const stage of this.stages) stage.apply(this.values, timeS, isLive);
    return timeS;
  }

  /** Whether something is heard that goes on while the tape stands still. */
  private hasLive(): boolean {
    const { live, transport } = this;
    return live?.isListening || transport.units.some((unit) => transport.stateOf(unit) === "playing");
  }

  /** A strand's track, live or whole. */
  trackOf(strandId: string): Track | undefined {
    return this.tracks.get(strandId);
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
    this.live?.dispose();
    this.transport.dispose();
    this.stages.clear();
    this.watchers.clear();
  }

  private followSounds(): void {
    const { scene } = this;
    this.transport.setLoop(scene.loop, scene.stretch);
    this.placed = scene.sounds.flatMap(({ id, place }) => (place ? [{ id, place }] : []));
    for (const { id, place } of scene.sounds) if (!place) this.transport.setDistanceGain(id, 1);
    this.live?.setScene(scene);
    this.followWaves();
    this.joinTracks();
  }

  /** Waveforms that the stage may follow, by sound. */
  get waves(): Waves {
    return this.evaluator.waves;
  }

  /** Finds the waveforms that the stage may follow: those that are heard come first. */
  private followWaves(): void {
    const { scene, samples, transport, live } = this;
    const lengthS = ({ id }: Sound) => (samples.get(id)?.length ?? 0) / SAMPLE_RATE_HZ;
    const waves = new Map<string, Wave>();
    for (const sound of [...scene.sounds].sort((a, b) => Number(b.heard) - Number(a.heard))) {
      const { runs, unitId } = runningOf(scene, sound);
      if (sound.kind === "input") {
        const input = live?.inputs.get(sound.id);
        if (!input) continue;
        const { history } = input;
        waves.set(sound.id, {
          samples: history,
          // The newest sample is now, wherever the tape is.
          indexAt: (timeS) =>
            history.length - 1 + Math.min(0, timeS - transport.positionS()) * SAMPLE_RATE_HZ,
          isLive: true,
        });
        continue;
      }
      const own = samples.get(sound.id);
      if (!own) continue;
      const loopS = loopLengthS(scene, sound, lengthS);
      const ownS = (timeS: number) => (runs === "alone" ? transport.unitPositionS(unitId) : timeS);
      waves.set(sound.id, {
        samples: own,
        indexAt: (timeS) => (loopS > 0 ? ownS(timeS) % loopS : ownS(timeS)) * SAMPLE_RATE_HZ,
      });
    }
    this.evaluator.waves = waves;
  }

  /** A strand on a sound that runs alone is read where that sound is, not where the tape is. */
  private joinTracks(): void {
    const { scene, transport } = this;
    const tracks = new Map(this.wholeTracks);
    for (const { id, listensTo } of scene.strands) {
      const track = tracks.get(id);
      const sound =
        listensTo.kind === "sound" ? scene.sounds.find((one) => one.id === listensTo.id) : undefined;
      if (!track || !sound) continue;
      const { runs, unitId } = runningOf(scene, sound);
      if (runs !== "alone") continue;
      const positionS = (timeS: number) => transport.unitPositionS(unitId) + timeS - transport.positionS();
      tracks.set(id, { ...track, positionS });
    }
    for (const [id, track] of this.live?.tracks() ?? []) tracks.set(id, track);
    this.tracks = tracks;
    const { soloStrands } = this;
    this.driving = new Map(
      scene.strands.flatMap(({ id, muted }) => {
        const track = tracks.get(id);
        return track && !muted && (soloStrands.size === 0 || soloStrands.has(id)) ? [[id, track]] : [];
      }),
    );
  }

  /** What is heard follows the distance from the camera as it is now. */
  private followDistances(): void {
    for (const { id, place } of this.placed) {
      const [x, y, z] = place.position;
      const distance = Math.hypot(
        x - this.valueOf("camera", "position", 0),
        y - this.valueOf("camera", "position", 1),
        z - this.valueOf("camera", "position", 2),
      );
      this.transport.setDistanceGain(id, place.heardFollows ? distanceGain(place, distance) : 1);
    }
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
  /** Every number of an object that is sent to be drawn. */
  drawn(objectId: string): number[];
  /** Milliseconds of script that a frame takes, smoothed. */
  frameCostMs(): number;
}

/** Makes a handle on a player and the stage it is seen on, if it is seen. */
export function playerHandle(player: ScenePlayer, stage?: Stage): PlayerHandle {
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
      return stage?.read(objectId, property);
    },
    drawn: (objectId) => {
      player.applyNow();
      return stage?.drawn(objectId) ?? [];
    },
    frameCostMs: () => player.frameCostMs,
  };
}

declare global {
  interface Window {
    /** The player of this page, once it is ready. */
    bumbrel?: PlayerHandle;
  }
}
