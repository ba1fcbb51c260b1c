import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Scene } from "@bumbrel/core/document/scene";
import { Take } from "@bumbrel/core/document/take";
import { distanceGain } from "@bumbrel/core/dsp/distance";
import { loudestMiddleS } from "@bumbrel/core/dsp/loudest";
import type { Samples } from "@bumbrel/core/dsp/samples";
import type { PropertyValues } from "@bumbrel/core/evaluate/plan";
import type { Tracks } from "@bumbrel/core/evaluate/values";
import { heardFirst, type Wave, type Waves, wavesOf } from "@bumbrel/core/evaluate/wave";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import type { Place } from "@bumbrel/core/sound/kinds";
import type { Track } from "@bumbrel/core/strand/track";
import { Transport } from "./audio/transport";
import { LiveSounds, type LiveUrls } from "./live/liveSounds";
import { FEEDBACK_HZ } from "./stage/framePipeline";
import type { Stage } from "./stage/stage";
import { SustainedCost } from "./sustained";

/** Says what time it is in a scene: the audio clock, a frame counter, a test. */
export interface TimeSource {
  /** Seconds on the tape. */
  positionS(): number;
}

export interface PlayerOptions {
  /** Where the worklet and worker were built to, for scenes with live sounds. */
  urls?: LiveUrls;
  /** Without one, the player's own transport. */
  time?: TimeSource;
}

/** Steps of the image's memory that a live frame makes up for; on slower machines they are skipped. */
const MAX_STEPS_BEHIND = 2;
/** Milliseconds that a live frame may spend on the image's memory after a seek. */
const PRE_ROLL_MS = 40;
/** While a scene is loading and stands still, it is drawn no more often: drawing takes time from loading. */
const LOADING_PAUSE_MS = 3000;
/** How often what is drawn beside it is looked at meanwhile, ms. */
const LOADING_LOOK_MS = 200;
/** Where a unit is and where the take says it is may differ by this much: two readings of one clock. */
const SAME_POSITION_S = 0.004;

/**
 * Plays a scene: time source → state → the attached stages, once a display frame, or any time when asked.
 *
 * The workbench and everything delivered use this same class.
 *
 * @example
 * const player = new ScenePlayer(scene);
 * player.attach(stage);
 * player.setTracks(tracks);
 * player.showFrame(1234, 60); // draws frame 1234 at 60 frames a second
 */
export class ScenePlayer {
  readonly transport = new Transport();
  readonly state: SceneState;
  /** Inputs and keyboards; none without a place to load what captures them from. */
  readonly live: LiveSounds | undefined;
  /** Milliseconds that the last frame took, smoothed. */
  frameCostMs = 0;
  private readonly script = new SustainedCost();
  private readonly time: TimeSource;
  private readonly take = new Take();
  private isComplete = false;
  private hasBeenLoaded = false;
  private watchedMs = Number.NEGATIVE_INFINITY;
  private drawnMs = Number.NEGATIVE_INFINITY;
  private wholeTracks: Tracks = new Map();
  private tracks: Tracks = new Map();
  private liveVersion = 0;
  private placed: { id: string; place: Place }[] = [];
  private samples: ReadonlyMap<string, Samples> = new Map();
  private readonly stages = new Set<Stage>();
  private readonly watchers = new Set<(timeS: number) => void>();
  private readonly loadedListeners = new Set<() => void>();
  private request = 0;

  constructor(scene: Scene, { urls, time }: PlayerOptions = {}) {
    this.live = urls && new LiveSounds(this.transport, urls);
    this.time = time ?? this.transport;
    this.state = new SceneState(scene);
    this.state.setTake(this.take);
    this.followSounds();
  }

  get scene(): Scene {
    return this.state.scene;
  }

  /** Follows an edited scene; only what the edit touches is prepared again. */
  setScene(scene: Scene): void {
    const before = this.scene;
    if (scene === before) return;
    const changed = this.state.update(scene);
    for (const stage of this.stages) stage.follow(changed);
    const hasOtherSounds =
      scene.sounds !== before.sounds || scene.groups !== before.groups || scene.strands !== before.strands;
    if (hasOtherSounds || scene.loop !== before.loop || scene.stretch !== before.stretch) {
      this.followSounds();
    }
  }

  /** Mono samples of each sound by its id, for what is drawn or moved by a waveform. */
  setSamples(samples: ReadonlyMap<string, Samples>): void {
    this.samples = samples;
    this.followWaves();
  }

  /**
   * @param tracks  by strand id; strands without one leave what they drive at rest
   * @param isComplete  whether these are all there will be
   */
  setTracks(tracks: Tracks, isComplete = true): void {
    this.wholeTracks = tracks;
    this.isComplete = isComplete;
    this.joinTracks();
    this.notifyLoaded();
  }

  /** Says that tracks are being computed: until they are set, what is shown is not as it should be. */
  expectTracks(): void {
    this.isComplete = false;
  }

  /** Lets only some strands drive the stage, for looking while working; none lets all of them. */
  soloStrandsOnly(strandIds: ReadonlySet<string>): void {
    this.state.setSolo(strandIds);
  }

  /** Whether all tracks, images and models of the scene are there: a frame drawn now is as it should be. */
  get isLoaded(): boolean {
    return this.isComplete && [...this.stages].every((stage) => stage.isLoaded);
  }

  /** Resolves when everything is loaded. */
  whenLoaded(): Promise<void> {
    if (this.isLoaded) return Promise.resolve();
    return new Promise((resolve) => {
      const listener = () => {
        if (!this.isLoaded) return;
        this.loadedListeners.delete(listener);
        resolve();
      };
      this.loadedListeners.add(listener);
    });
  }

  private notifyLoaded(): void {
    for (const listener of [...this.loadedListeners]) listener();
  }

  /** Adds a stage to be drawn every frame; returns a function that stops that. */
  attach(stage: Stage): () => void {
    stage.attach(this.state);
    this.stages.add(stage);
    this.drawnMs = Number.NEGATIVE_INFINITY;
    const stop = stage.onArrival(() => this.notifyLoaded());
    return () => {
      stop();
      this.stages.delete(stage);
    };
  }

  /** Calls `watcher` every frame with the position; for drawings that follow it without React. */
  onFrame(watcher: (timeS: number) => void): () => void {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  }

  /** Milliseconds of script that frames take, without having them drawn; `undefined` until that can be said. */
  get scriptCostMs(): number | undefined {
    return this.script.ms;
  }

  /** Begins drawing once a display frame. */
  start(): void {
    let before = 0;
    const tick = (nowMs: number) => {
      this.request = requestAnimationFrame(tick);
      // Only frames that follow each other tell how long drawing takes.
      const isPlaying = this.hasBeenLoaded && this.transport.state === "playing" && !document.hidden;
      for (const stage of this.stages) {
        if (isPlaying && before > 0) stage.observeInterval(nowMs - before);
        else stage.forgetIntervals();
      }
      before = isPlaying ? nowMs : 0;
      this.frame();
    };
    if (this.request === 0) this.request = requestAnimationFrame(tick);
  }

  /** Draws one frame at the time source's time. */
  frame(): void {
    const before = performance.now();
    const timeS = this.time.positionS();
    this.live?.update(before, this.tracks, timeS);
    if (this.live && this.live.version !== this.liveVersion) {
      this.liveVersion = this.live.version;
      this.joinTracks();
    }
    this.recordUnits(timeS);
    const drawingMs = this.isDrawingDue(before) ? this.draw(timeS, false) : 0;
    if (!this.hasBeenLoaded && before - this.watchedMs < LOADING_LOOK_MS) return;
    this.watchedMs = before;
    this.followDistances();
    for (const watcher of this.watchers) watcher(timeS);
    const allMs = performance.now() - before;
    this.frameCostMs += (allMs - this.frameCostMs) * 0.1;
    this.script.add(allMs - drawingMs);
  }

  private isDrawingDue(nowMs: number): boolean {
    const { transport } = this;
    this.hasBeenLoaded ||= this.isLoaded || transport.state === "playing" || transport.hasRunningUnits;
    if (!this.hasBeenLoaded && nowMs - this.drawnMs < LOADING_PAUSE_MS) return false;
    this.drawnMs = nowMs;
    return true;
  }

  /**
   * Draws the scene as it is at a time, exactly: every step of the image's memory is taken, after a seek from up to two
   * seconds before.
   */
  show(timeS: number): void {
    for (const stage of this.stages) stage.redraw();
    this.draw(timeS, true);
  }

  /** Draws a frame by its number, see {@link show}. */
  showFrame(frame: number, framesPerSecond: number): void {
    this.show(frame / framesPerSecond);
  }

  /** @returns milliseconds that drawing took */
  private draw(timeS: number, isExact: boolean): number {
    const { state } = this;
    const step = Math.floor(timeS * FEEDBACK_HZ + 1e-6);
    const stages = [...this.stages];
    // An image with a memory is shown on the grid of its steps.
    const hadFeedback = stages.some((stage) => stage.hasFeedback);
    this.advance(hadFeedback ? step / FEEDBACK_HZ : timeS);
    for (const stage of stages) stage.update(this.hasLive);
    const hasFeedback = stages.some((stage) => stage.hasFeedback);
    const before = performance.now();
    if (hasFeedback) {
      this.rollForward(step, isExact);
      if (state.timeS !== step / FEEDBACK_HZ) {
        this.advance(step / FEEDBACK_HZ);
        for (const stage of stages) stage.update(this.hasLive);
      }
    }
    for (const stage of stages) stage.render(hasFeedback ? step : undefined);
    return performance.now() - before;
  }

  /** Takes the steps between what the images remember and the one that is to be shown. */
  private rollForward(step: number, isExact: boolean): void {
    for (const stage of this.stages) {
      const { memoryStep } = stage;
      const behind = memoryStep === undefined ? Number.POSITIVE_INFINITY : step - memoryStep - 1;
      const isSeek = behind < -1 || behind >= FEEDBACK_HZ;
      let steps = isSeek ? stage.feedbackSteps : Math.max(0, behind);
      if (isSeek) stage.forgetImages();
      if (!isExact) {
        if (isSeek) steps = Math.min(steps, Math.floor(PRE_ROLL_MS / Math.max(1, this.frameCostMs)));
        else if (steps > MAX_STEPS_BEHIND) steps = 0;
      }
      for (let at = Math.max(0, step - steps); at < step; at++) {
        this.advance(at / FEEDBACK_HZ);
        stage.update(true);
        stage.remember(at);
      }
    }
  }

  private advance(timeS: number): void {
    if (this.hasLive) this.state.invalidate();
    this.state.advanceTo(timeS);
  }

  /** Brings the state to the present position without drawing; returns the position. */
  readNow(): number {
    const timeS = this.time.positionS();
    this.recordUnits(timeS);
    this.state.invalidate();
    this.state.advanceTo(timeS);
    for (const stage of this.stages) stage.update(true);
    return timeS;
  }

  /** Whether something plays while the tape stands still. */
  private get hasLive(): boolean {
    const { live, transport } = this;
    return live?.isListening === true || transport.hasRunningUnits;
  }

  /** A strand's track, live or whole. */
  trackOf(strandId: string): Track | undefined {
    return this.state.trackOf(strandId);
  }

  /** Property values at the present position. */
  currentValues(): PropertyValues {
    this.readNow();
    return this.state.readAll();
  }

  /** The middle of the loudest part of what is heard, seconds: where a scene is at its most. */
  get loudestS(): number {
    const heard = this.scene.sounds.filter((sound) => sound.heard && !sound.muted);
    return loudestMiddleS(heard.flatMap(({ id }) => this.samples.get(id) ?? []));
  }

  /** The number of a property as last evaluated; its first axis for vectors. */
  valueOf(objectId: string, property: string, axis = 0): number {
    return this.state.valueOf(objectId, property, axis);
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
    return this.state.simulation.waves;
  }

  /** Finds the waveforms that the stage may follow: those that are heard come first. */
  private followWaves(): void {
    const { scene, samples, live, time } = this;
    const stored = wavesOf(scene, ({ id }) => samples.get(id), this.take);
    const waves = new Map<string, Wave>();
    for (const { id, kind } of heardFirst(scene.sounds)) {
      const input = kind === "input" ? live?.inputs.get(id) : undefined;
      const wave = input ? liveWave(input.history, time) : stored.get(id);
      if (wave) waves.set(id, wave);
    }
    this.state.setWaves(waves);
  }

  private joinTracks(): void {
    const tracks = new Map(this.wholeTracks);
    for (const [id, track] of this.live?.tracks() ?? []) tracks.set(id, track);
    this.tracks = tracks;
    this.state.setTracks(tracks);
  }

  /** Records where sounds are that run by themselves, whenever that is not where the take says. */
  private recordUnits(timeS: number): void {
    const { transport, take } = this;
    let isChanged = false;
    for (const unitId of transport.unitIds) {
      const running = transport.stateOf(unitId) === "playing";
      const positionS = transport.unitPositionS(unitId);
      const isKnown =
        take.isRunning(unitId, timeS) === running &&
        Math.abs(take.unitPositionS(unitId, timeS) - positionS) < SAME_POSITION_S;
      if (isKnown) continue;
      const [lengthS, loops] = [transport.unitDurationS(unitId), transport.unitLoops(unitId)];
      take.record({ kind: "unit", timeS, unitId, positionS, running, lengthS, loops });
      isChanged = true;
    }
    if (isChanged) this.state.setTake(take, timeS);
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

/** The waveform of an input: its newest sample is now, wherever the tape is. */
function liveWave(history: Float32Array, time: TimeSource): Wave {
  return {
    samples: history,
    indexAt: (timeS) => history.length - 1 + Math.min(0, timeS - time.positionS()) * SAMPLE_RATE_HZ,
    isLive: true,
  };
}
