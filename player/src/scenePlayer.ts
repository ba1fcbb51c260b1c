import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Scene } from "@bumbrel/core/document/scene";
import { runningOf, startedByAnswers } from "@bumbrel/core/document/strands/running";
import { Take } from "@bumbrel/core/document/take/take";
import { TAPE_UNIT, type UnitEvent } from "@bumbrel/core/document/take/units";
import { distanceGain } from "@bumbrel/core/dsp/level/distance";
import { loudestMiddleS } from "@bumbrel/core/dsp/level/loudest";
import type { Samples } from "@bumbrel/core/dsp/maths/samples";
import type { PropertyValues } from "@bumbrel/core/evaluate/plan";
import type { Tracks } from "@bumbrel/core/evaluate/values";
import { heardFirst, type Wave, type Waves, wavesOf } from "@bumbrel/core/evaluate/wave";
import type { UnitLength } from "@bumbrel/core/simulate/answers/answeredSounds";
import type { HapticPulse } from "@bumbrel/core/simulate/answers/answering";
import type { StrandRecord } from "@bumbrel/core/simulate/answers/zoneStrands";
import { hasPartsFor, loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import type { Place } from "@bumbrel/core/sound/kinds";
import type { Track } from "@bumbrel/core/strand/track";
import type { WebGLRenderer } from "three";
import { Transport } from "./audio/transport";
import type { LiveSounds } from "./live/liveSounds";
import { RunClock } from "./runClock";
import { FEEDBACK_HZ } from "./stage/image/framePipeline";
import type { Stage } from "./stage/stage";
import { SustainedCost } from "./sustained";

/** Says what time it is in a scene: the audio clock, a frame counter, a test. */
export interface TimeSource {
  /** Seconds on the tape. */
  positionS(): number;
}

export interface PlayerOptions {
  /** Makes what hears inputs and keyboards, for scenes with live sounds. */
  live?(transport: Transport): LiveSounds;
  /** Without one, the player's own transport. */
  time?: TimeSource;
}

/** Parts of a mix that follow the scene. */
export type PlacedMix = Pick<Transport, "setDistanceGain" | "setSide" | "setListener" | "setFade">;

/** Steps of the image's memory that a live frame makes up for; on slower machines they are skipped. */
const MAX_STEPS_BEHIND = 2;
/** Milliseconds that a live frame may spend on the image's memory after a seek. */
const PRE_ROLL_MS = 40;
/** While a scene is loading and stands still, it is drawn no more often: drawing takes time from loading. */
const LOADING_PAUSE_MS = 3000;
/** How often what is drawn beside it is looked at meanwhile, ms. */
const LOADING_LOOK_MS = 200;
/** A unit's position may differ from that of the take by this much: two readings of one clock. */
const SAME_POSITION_S = 0.004;
/** The same in a run, which has a clock of its own. */
const NEAR_POSITION_S = 0.012;
/** A sound that is this late in a replay begins again where it should be. */
const LATE_REPLAY_S = 0.06;
/** How long something that is tried is looked at while the tape stands still, s. */
const ASIDE_S = 10;
/** Milliseconds that a live frame may spend on bodies and answers: after a seek they catch up in several frames. */
const SIMULATION_MS = 24;

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
  /** Inputs and keyboards; none where nothing was given that hears them. */
  readonly live: LiveSounds | undefined;
  /** Milliseconds that the last frame took, smoothed. */
  frameCostMs = 0;
  private readonly script = new SustainedCost();
  private readonly time: TimeSource;
  private take = new Take();
  private runClock: RunClock | undefined;
  private isReplay = false;
  private lengths: ReadonlyMap<string, UnitLength> = new Map();
  /** By unit: what was last seen to happen to it. */
  private readonly followed = new Map<string, UnitEvent>();
  private readonly recorded = new WeakSet<UnitEvent>();
  private readonly liveCueS = new Map<string, number>();
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
  private readonly movers = new Set<(nowMs: number) => void>();
  private readonly watchers = new Set<(timeS: number) => void>();
  private readonly loadedListeners = new Set<() => void>();
  private request = 0;

  constructor(scene: Scene, { live, time }: PlayerOptions = {}) {
    this.live = live?.(this.transport);
    this.time = time ?? this.transport;
    this.state = new SceneState(scene);
    this.state.setTake(this.take);
    this.followSounds();
    this.transport.onChange(() => this.followLengths());
    this.followParts();
  }

  /** Loads the parts of the simulation that the scene needs. */
  private followParts(): void {
    if (hasPartsFor(this.scene)) return;
    void loadPartsFor(this.scene).then(() => {
      this.state.setHulls();
      this.notifyLoaded();
    });
  }

  get scene(): Scene {
    return this.state.scene;
  }

  /** Follows an edited scene; only what the edit touches is prepared again. */
  setScene(scene: Scene): void {
    const before = this.scene;
    if (scene === before) return;
    const changed = this.state.update(scene);
    this.followParts();
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

  /** The tracks of the whole sounds, by strand id. */
  get givenTracks(): Tracks {
    return this.wholeTracks;
  }

  /** Mono samples of each sound by its id. */
  get givenSamples(): ReadonlyMap<string, Samples> {
    return this.samples;
  }

  /** Says that tracks are being computed: until they are set, what is shown is not as it should be. */
  expectTracks(): void {
    this.isComplete = false;
  }

  /** Lets only some strands drive the stage, for looking while working; none lets all of them. */
  soloStrandsOnly(strandIds: ReadonlySet<string>): void {
    this.state.setSolo(strandIds);
  }

  /** True if all tracks, images and models of the scene are there: a frame drawn now is as it should be. */
  get isLoaded(): boolean {
    return this.isComplete && hasPartsFor(this.scene) && [...this.stages].every((stage) => stage.isLoaded);
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

  /** Calls `mover` before each frame is computed: for what moves a visitor. */
  beforeFrame(mover: (nowMs: number) => void): () => void {
    this.movers.add(mover);
    return () => this.movers.delete(mover);
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
      if (!this.headset) this.request = requestAnimationFrame(tick);
      // Only frames that follow each other tell how long drawing takes.
      const isPlaying =
        this.hasBeenLoaded &&
        (this.transport.state === "playing" || this.runClock !== undefined) &&
        !document.hidden;
      for (const stage of this.stages) {
        if (isPlaying && before > 0) stage.observeInterval(nowMs - before);
        else stage.forgetIntervals();
      }
      before = isPlaying ? nowMs : 0;
      this.frame();
    };
    this.tick = tick;
    if (this.request === 0) this.request = requestAnimationFrame(tick);
  }

  /** Draws by the frames of a renderer's headset while there is one; else by those of the screen. */
  tickBy(renderer: WebGLRenderer | undefined): void {
    const { tick } = this;
    this.headset?.setAnimationLoop(null);
    this.headset = renderer;
    if (!tick) return;
    cancelAnimationFrame(this.request);
    this.request = 0;
    if (renderer) renderer.setAnimationLoop(tick);
    else this.request = requestAnimationFrame(tick);
  }
  private tick: ((nowMs: number) => void) | undefined;
  private headset: WebGLRenderer | undefined;

  /** Haptic pulses that answers have given since they were last asked for. */
  takePulses(answering = this.state.simulation.answering): readonly HapticPulse[] {
    if (!answering || answering.pulses.length === 0) return [];
    const { pulses } = answering;
    answering.pulses = [];
    return this.isReplay ? [] : pulses;
  }

  /** Draws one frame at the time source's time. */
  frame(): void {
    const before = performance.now();
    this.watchAside();
    for (const mover of this.movers) mover(before);
    const timeS = this.nowS();
    if (this.runClock && !this.isReplay) this.take.lastUntil(Math.floor(timeS * STEPS_A_SECOND));
    this.live?.update(before, this.tracks, timeS);
    if (this.live && this.live.version !== this.liveVersion) {
      this.liveVersion = this.live.version;
      this.joinTracks();
    }
    this.recordLiveCues();
    this.state.simulation.mayGoOn = () => performance.now() - before < SIMULATION_MS;
    if (this.take.isRun) this.state.advanceTo(timeS);
    this.followUnits(timeS);
    const drawingMs = this.isDrawingDue(before) ? this.draw(timeS) : 0;
    if (!this.hasBeenLoaded && before - this.watchedMs < LOADING_LOOK_MS) return;
    this.watchedMs = before;
    this.followMix(timeS, this.transport);
    for (const watcher of this.watchers) watcher(timeS);
    const allMs = performance.now() - before;
    this.frameCostMs += (allMs - this.frameCostMs) * 0.1;
    this.script.add(allMs - drawingMs);
  }

  private nowS(): number {
    return this.runClock?.positionS() ?? this.time.positionS();
  }

  private isDrawingDue(nowMs: number): boolean {
    if (this.drawnAlone) return false;
    const { transport } = this;
    this.hasBeenLoaded ||= this.isLoaded || transport.state === "playing" || transport.hasRunningUnits;
    if (!this.hasBeenLoaded && nowMs - this.drawnMs < LOADING_PAUSE_MS) return false;
    this.drawnMs = nowMs;
    return true;
  }

  /**
   * Draws the scene as it is at a time, exactly: every step of the image's memory is taken, after a seek from up to two
   * seconds before, and drawings by programs are waited for. Without those it is done when it returns.
   */
  show(timeS: number): Promise<void> {
    return this.alone((show) => show(timeS));
  }

  /**
   * Does something with exact images while nothing else is drawn: after others who do so, and between two live frames.
   *
   * @param work  is given what draws the scene at a time
   */
  async alone<T>(work: (show: (timeS: number) => Promise<void>) => Promise<T>): Promise<T> {
    while (this.drawnAlone) await this.drawnAlone;
    let end = () => {};
    this.drawnAlone = new Promise((resolve) => {
      end = resolve;
    });
    try {
      return await work((timeS) => this.showExactly(timeS));
    } finally {
      this.drawnAlone = undefined;
      end();
    }
  }
  private drawnAlone: Promise<void> | undefined;

  private async showExactly(timeS: number): Promise<void> {
    this.state.simulation.mayGoOn = () => true;
    for (const stage of this.stages) stage.redraw();
    for (const waiting of this.drawFrame(timeS, true)) if (waiting) await waiting;
  }

  /** Brings the scene to a time without drawing it, so that places and units can be read. */
  follow(timeS: number): void {
    this.state.simulation.mayGoOn = () => true;
    this.advance(timeS);
    for (const stage of this.stages) stage.update();
  }

  /** Draws a frame by its number, see {@link show}. */
  showFrame(frame: number, framesPerSecond: number): Promise<void> {
    return this.show(frame / framesPerSecond);
  }

  /** @returns milliseconds that drawing took */
  private draw(timeS: number): number {
    const before = performance.now();
    for (const _waiting of this.drawFrame(timeS, false)) {
      // A live frame shows drawings as they are.
    }
    return performance.now() - before;
  }

  /** Draws a frame; between its parts it hands over what an exact one has to wait for. */
  private *drawFrame(timeS: number, isExact: boolean): Generator<Promise<unknown> | undefined> {
    const { state } = this;
    const step = Math.floor(timeS * FEEDBACK_HZ + 1e-6);
    const stages = [...this.stages];
    // An image with a memory is shown on the grid of its steps.
    const hadFeedback = stages.some((stage) => stage.hasFeedback);
    this.advance(hadFeedback ? step / FEEDBACK_HZ : timeS);
    for (const stage of stages) stage.update(this.hasLive);
    const hasFeedback = stages.some((stage) => stage.hasFeedback);
    if (hasFeedback) {
      yield* this.rollForward(step, isExact);
      if (state.timeS !== step / FEEDBACK_HZ) {
        this.advance(step / FEEDBACK_HZ);
        for (const stage of stages) stage.update(this.hasLive);
      }
    }
    for (const stage of stages) {
      if (isExact) yield stage.reachImage();
      stage.render(hasFeedback ? step : undefined);
    }
  }

  /** Takes the steps between what the images remember and the one that is to be shown. */
  private *rollForward(step: number, isExact: boolean): Generator<Promise<unknown> | undefined> {
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
        if (isExact) yield stage.reachImage();
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
    const timeS = this.nowS();
    this.state.simulation.mayGoOn = () => true;
    if (this.take.isRun) this.state.advanceTo(timeS);
    this.followUnits(timeS);
    this.state.invalidate();
    this.state.advanceTo(timeS);
    for (const stage of this.stages) stage.update(true);
    return timeS;
  }

  /** True if something plays while the tape stands still. */
  private get hasLive(): boolean {
    const { live, transport } = this;
    return live?.isListening === true || transport.hasRunningUnits || this.runClock !== undefined;
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
    for (const { id, place } of scene.sounds) {
      if (place) continue;
      this.transport.setDistanceGain(id, 1);
      this.transport.setSide(id, undefined);
    }
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
    const stored = wavesOf(scene, ({ id }) => samples.get(id), {
      positionS: (unitId, timeS) => (this.state.units ?? this.take.units).positionS(unitId, timeS),
    });
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

  /** Tells the state how long the tape and the units are. */
  private followLengths(): void {
    const { transport, scene } = this;
    const lengths = new Map<string, UnitLength>();
    const { loop, stretch } = scene;
    const tape: UnitLength = { lengthS: transport.durationS, loops: loop };
    if (loop && stretch) Object.assign(tape, { fromS: stretch.fromS, lengthS: stretch.toS });
    lengths.set(TAPE_UNIT, tape);
    for (const unitId of transport.unitIds) {
      lengths.set(unitId, { lengthS: transport.unitDurationS(unitId), loops: transport.unitLoops(unitId) });
    }
    this.lengths = lengths;
    this.state.setLengths(lengths);
  }

  /**
   * Keeps the sounds that are heard and the units of the state together: what answers or a replayed take have changed is
   * done, and what was done by hand, or came late, is recorded.
   */
  private followUnits(timeS: number): void {
    const { transport, take } = this;
    if (this.runClock?.isPaused) return;
    const units = this.state.units ?? take.units;
    let isChanged = false;
    for (const unitId of take.isRun ? [TAPE_UNIT, ...transport.unitIds] : transport.unitIds) {
      const last = units.lastOf(unitId, timeS);
      const running = units.isRunning(unitId, timeS);
      const positionS = units.positionS(unitId, timeS);
      if (last && last !== this.followed.get(unitId)) {
        this.followed.set(unitId, last);
        if (!this.recorded.has(last)) {
          transport.setUnit(unitId, running, positionS);
          continue;
        }
      }
      const isHeard = transport.stateOf(unitId) === "playing";
      const heardS = transport.unitPositionS(unitId);
      if (transport.stateOf(unitId) === "held" || transport.isStarting(unitId)) continue;
      const offS = Math.abs(positionS - heardS);
      if (running === isHeard && offS < (take.isRun ? NEAR_POSITION_S : SAME_POSITION_S)) continue;
      if (this.isReplay) {
        if (running !== isHeard || offS > LATE_REPLAY_S) transport.setUnit(unitId, running, positionS);
        continue;
      }
      const { lengthS, loops, fromS } = this.lengths.get(unitId) ?? { lengthS: 0, loops: false };
      const event: UnitEvent = {
        kind: "unit",
        timeS,
        unitId,
        positionS: heardS,
        running: isHeard,
        lengthS,
        loops,
        ...(fromS && { fromS }),
      };
      this.recorded.add(event);
      take.units.record(event);
      isChanged = true;
    }
    if (isChanged) this.state.setTake(take, timeS);
  }

  /** Records the cues of strands that are heard live: no replay could hear them again. */
  private recordLiveCues(): void {
    const { take, tracks } = this;
    if (!take.isRun || this.isReplay) return;
    for (const [strandId, { newest, cues = [] }] of tracks) {
      if (!newest) continue;
      const lastS = cues.at(-1)?.timeS ?? Number.NEGATIVE_INFINITY;
      const knownS = this.liveCueS.get(strandId) ?? lastS;
      this.liveCueS.set(strandId, lastS);
      for (const { timeS, strength } of cues) {
        if (timeS > knownS)
          take.record({ kind: "cue", step: this.state.simulation.nextStep, strandId, strength });
      }
    }
  }

  /**
   * Begins a run of the scene with a clock of its own, as a visitor meets it: from the start, with nobody there yet.
   *
   * @param take  one to be played again; without it, what happens is recorded
   * @returns the take that is played or recorded
   */
  beginRun(take?: Take): Take {
    const { transport, scene } = this;
    this.endRun();
    for (const unitId of [TAPE_UNIT, ...transport.unitIds]) transport.setUnit(unitId, false, 0);
    this.isReplay = take !== undefined;
    this.take = take ?? new Take();
    this.take.isRun = true;
    this.followed.clear();
    this.followLengths();
    if (!take) {
      this.take.soundDelayS = transport.startDelayS;
      const waiting = startedByAnswers(scene);
      const unitOf = new Map(scene.sounds.map((sound) => [runningOf(scene, sound).unitId, sound.id]));
      for (const [unitId, { lengthS, loops, fromS }] of this.lengths) {
        const soundId = unitOf.get(unitId);
        const running =
          unitId === TAPE_UNIT ? scene.beginsAtOnce : soundId === undefined || !waiting.has(soundId);
        const event: UnitEvent = { kind: "unit", timeS: 0, unitId, positionS: 0, running, lengthS, loops };
        this.take.units.record(fromS ? { ...event, fromS } : event);
      }
    }
    this.runClock = new RunClock();
    this.state.setTake(this.take);
    this.joinTracks();
    this.followWaves();
    return this.take;
  }

  /** Ends a run: time is the tape's again. */
  endRun(): void {
    if (!this.runClock) return;
    const { transport, aside } = this;
    this.runClock = undefined;
    this.aside = undefined;
    // Nothing that a run began outlives it. What is tried beside the tape plays to its end.
    if (!aside) for (const unitId of [TAPE_UNIT, ...transport.unitIds]) transport.setUnit(unitId, false, 0);
    this.isReplay = false;
    this.take = new Take();
    this.followed.clear();
    this.state.setTake(this.take);
    this.joinTracks();
    this.followWaves();
  }

  /**
   * Does what an answer says, as if it had happened now. While the tape stands still, time passes beside it for as long
   * as that can be seen.
   */
  tryAnswer(answerId: string): void {
    const { transport } = this;
    if (!this.runClock && transport.state !== "playing") this.beginAside();
    this.take.record({ kind: "trial", step: this.nextStep, answerId });
    this.asideUntilS = this.nowS() + ASIDE_S;
    this.state.invalidate();
  }

  /** Lets time pass for the stage while the tape stands still. */
  private beginAside(): void {
    const { transport, take: before } = this;
    const atS = transport.positionS();
    const take = new Take();
    take.isRun = true;
    const tape = { kind: "unit", unitId: TAPE_UNIT, positionS: 0, lengthS: 0, loops: false } as const;
    take.units.record({ ...tape, timeS: 0, running: true });
    for (const event of before.units.events) if (event.timeS <= atS) take.units.record(event);
    take.units.record({ ...tape, timeS: atS, positionS: atS, running: false });
    this.take = take;
    this.runClock = new RunClock();
    this.runClock.moveTo(atS);
    this.aside = { atS };
    this.state.setTake(take);
    this.state.advanceTo(atS);
    this.joinTracks();
  }

  /** Ends what was tried beside the tape: once it is over, or when the tape moves. */
  private watchAside(): void {
    const { aside, transport } = this;
    if (!aside) return;
    const isMoved = transport.state !== "paused" || Math.abs(transport.positionS() - aside.atS) > 1e-3;
    if (isMoved || this.nowS() > this.asideUntilS) this.endRun();
  }
  private aside: { atS: number } | undefined;
  private asideUntilS = 0;

  /** When an answer has fired last, on the time that frames are told. */
  lastFiredS(answerId: string): number | undefined {
    const history = this.state.simulation.answering?.history ?? [];
    for (let i = history.length - 1; i >= 0; i--) {
      if (history[i].answerId === answerId) return history[i].timeS;
    }
    return undefined;
  }

  /** The last seconds of a strand whose numbers come as they happen, before and after shaping. */
  recordOf(strandId: string): StrandRecord | undefined {
    return this.live?.recordOf(strandId) ?? this.state.simulation.answering?.zones.recordOf(strandId);
  }

  /** Position of the tape, whatever time the run has. */
  get tapeS(): number {
    return this.transport.positionS();
  }

  /** The clock of the run at hand; none while time is the tape's. */
  get run(): RunClock | undefined {
    return this.runClock;
  }

  /** Events of the run at hand, or since the tape was moved. */
  get currentTake(): Take {
    return this.take;
  }

  /** True if a take is being played again. */
  get isReplaying(): boolean {
    return this.isReplay;
  }

  /** The step that something belongs to that a visitor does now. */
  get nextStep(): number {
    return this.state.simulation.nextStep;
  }

  /**
   * Lets what is heard follow the scene as it is: distances, directions and the fades of answers.
   *
   * @param mix  what it is heard through
   */
  followMix(timeS: number, mix: PlacedMix): void {
    this.followDistances(mix);
    this.followFades(timeS, mix);
  }

  /** The mix follows the distance and the direction from the listener: the visitor, or the scene's camera. */
  private followDistances(mix: PlacedMix): void {
    if (this.placed.length === 0) return;
    const [stage] = this.stages;
    const eye = stage?.looker;
    const ear = eye
      ? [eye.matrixWorld.elements[12], eye.matrixWorld.elements[13], eye.matrixWorld.elements[14]]
      : [0, 1, 2].map((axis) => this.valueOf("camera", "position", axis));
    const camera = stage?.camera;
    if (camera && this.placed.some(({ place }) => place.fromItsSide)) {
      const { elements } = camera.matrixWorld;
      mix.setListener(ear, [-elements[8], -elements[9], -elements[10]], elements.slice(4, 7));
    }
    for (const { id, place } of this.placed) {
      const at = this.placeOf(place);
      const distance = Math.hypot(...at.map((one, axis) => one - ear[axis]));
      mix.setDistanceGain(id, place.heardFollows ? distanceGain(place, distance) : 1);
      mix.setSide(id, place.fromItsSide ? at : undefined);
    }
  }

  /** Place of a sound: that of its object, or its own. */
  private placeOf({ position, objectId }: Place): [number, number, number] {
    if (objectId === null) return position;
    const { state } = this;
    const body = state.simulation.answering?.bodies?.placeOf(objectId, 0);
    if (body) return [body[0], body[1], body[2]];
    const plan = state.plan.of(objectId);
    if (!plan?.at.position) return position;
    const { matrices } = state.placing.rootsOf(plan);
    return [matrices[12], matrices[13], matrices[14]];
  }

  /** Levels follow the fades of answers. */
  private followFades(timeS: number, mix: PlacedMix): void {
    const sounds = this.state.simulation.answering?.sounds;
    const hasFades = sounds?.hasFades === true;
    if (!hasFades && !this.hadFades) return;
    this.hadFades = hasFades;
    for (const { id } of this.scene.sounds) mix.setFade(id, sounds?.gainOf(id, timeS) ?? 1);
  }
  private hadFades = false;
}

/** The waveform of an input: its newest sample is now, wherever the tape is. */
function liveWave(history: Float32Array, time: TimeSource): Wave {
  return {
    samples: history,
    indexAt: (timeS) => history.length - 1 + Math.min(0, timeS - time.positionS()) * SAMPLE_RATE_HZ,
    isLive: true,
  };
}
