import { FILM_FORMATS, type FilmPlan, type FilmSettings, sizeOf } from "@bumbrel/core/document/film/film";
import { type FilmOrder, piecesOf } from "@bumbrel/core/document/film/filmPieces";
import type { Scene } from "@bumbrel/core/document/scene";
import { runningOf, startedByAnswers } from "@bumbrel/core/document/strands/running";
import type { Take } from "@bumbrel/core/document/take/take";
import type { UnitEvent, UnitTimes } from "@bumbrel/core/document/take/units";
import type { Samples } from "@bumbrel/core/dsp/maths/samples";
import type { Tracks } from "@bumbrel/core/evaluate/values";
import type { PlayableSound } from "../audio/transport";
import { ScenePlayer } from "../scenePlayer";
import type { FetchAsset, OnProgramFailure } from "../stage/assets";
import type { DrawnStep } from "../stage/image/quality";
import { Stage, type Weight } from "../stage/stage";
import { FrameBlend } from "./frameBlend";
import { FrameReader } from "./frameReader";
import { GraphicsLost } from "./graphicsLost";

/** Seconds that are drawn before a run of frames for the limiter of flashes: what it remembers then is as it would be. */
const LIMITER_LEAD_S = 2;

/** Everything that a film is made from. */
export interface FilmSource {
  scene: Scene;
  tracks: Tracks;
  /** Mono samples of each sound, by its id. */
  samples: ReadonlyMap<string, Samples>;
  sounds: readonly PlayableSound[];
  /** Recorded visitors; without a take, time in the film is the tape's. */
  take: Take | undefined;
  fetchAsset: FetchAsset;
  fetchFont(): Promise<ArrayBuffer>;
}

/**
 * A scene as a film shows it: every frame and every sample by its number, apart from whatever else is played.
 *
 * @example
 * const film = await FilmScene.open(source, order);
 * await film.draw(0); // film.canvas shows the first frame
 */
export class FilmScene {
  readonly plan: FilmPlan;
  readonly settings: FilmSettings;
  readonly source: FilmSource;
  readonly player: ScenePlayer;
  /** Shows the frame that was drawn last, until the page lets go of it. */
  readonly canvas: HTMLCanvasElement;
  private readonly stage: Stage;
  private readonly blend: FrameBlend | undefined;

  private constructor(source: FilmSource, order: FilmOrder, step: DrawnStep | undefined) {
    const { settings } = order;
    this.source = source;
    this.settings = settings;
    this.plan = piecesOf(order).plan;
    // A film has time for the best pictures unless the scene asks for less.
    const { scene } = source;
    this.player = new ScenePlayer(scene.quality === "auto" ? { ...scene, quality: "desktop" } : scene);
    const { player } = this;
    player.setTracks(source.tracks);
    player.setSamples(source.samples);
    player.transport.setSounds(source.sounds, scene.buses);
    const drawn = document.createElement("canvas");
    this.stage = new Stage(drawn, source.fetchAsset, source.fetchFont);
    if (step) this.stage.drawAt(step);
    const { width, height } = sizeOf(settings);
    const { isClear } = FILM_FORMATS[settings.format];
    if (isClear) this.stage.present("overRoom");
    player.attach(this.stage);
    this.stage.resize(width, height, 1 / this.stage.pixelShare);
    if (source.take) player.beginRun(source.take);
    else this.startUnits();
    this.blend = settings.subFrames > 1 ? new FrameBlend(width, height) : undefined;
    this.canvas = this.blend?.canvas ?? drawn;
  }

  /**
   * Opens the film once everything that it shows has been loaded.
   *
   * @param step  of quality that it is drawn at, instead of the one the scene asks for
   */
  static async open(source: FilmSource, order: FilmOrder, step?: DrawnStep): Promise<FilmScene> {
    const film = new FilmScene(source, order, step);
    // Drawing tells which parts have to be loaded; what has come may ask for more.
    for (let round = 0; round < 3; round++) {
      await film.player.show(film.plan.timesOf(0)[0]);
      await film.player.whenLoaded();
    }
    return film;
  }

  /** True if the mix depends on motion or events in the scene. */
  get isMoving(): boolean {
    const { scene, take } = this.source;
    return take !== undefined || scene.answers.length > 0 || scene.sounds.some(({ place }) => place);
  }

  /** Brings the scene to a time without drawing it. */
  follow(timeS: number): void {
    this.player.follow(timeS);
  }

  /** Positions of the tape and of sounds that run by themselves. */
  get units(): UnitTimes {
    return this.player.state.units ?? this.player.currentTake.units;
  }

  /** Sounds that run by themselves start with the film, as they do with a delivered page. */
  private startUnits(): void {
    const { transport, currentTake, state, scene } = this.player;
    const waiting = startedByAnswers(scene);
    const isWaiting = (unitId: string) =>
      scene.sounds.some((sound) => runningOf(scene, sound).unitId === unitId && waiting.has(sound.id));
    for (const unitId of transport.unitIds) {
      if (isWaiting(unitId)) continue;
      const event: UnitEvent = {
        kind: "unit",
        timeS: this.plan.fromS,
        unitId,
        positionS: 0,
        running: true,
        lengthS: transport.unitDurationS(unitId),
        loops: transport.unitLoops(unitId),
      };
      currentTake.units.record(event);
    }
    state.setTake(currentTake);
  }

  /** Begins a run of frames: what they show does not depend on which were drawn before. */
  async begin(frame: number): Promise<void> {
    this.stage.forgetImages();
    if (!this.source.scene.limitsFlashes) return;
    // The limiter remembers what was shown within a second.
    const before = Math.ceil(LIMITER_LEAD_S * this.plan.framesPerSecond);
    for (let one = Math.max(0, frame - before); one < frame; one++) await this.draw(one);
  }

  /**
   * Draws a frame on the canvas.
   *
   * @throws GraphicsLost when there is nothing to draw with any more
   */
  async draw(frame: number): Promise<void> {
    if (this.stage.renderer.getContext().isContextLost()) throw new GraphicsLost();
    const times = this.plan.timesOf(frame);
    this.stage.shownS = times[0];
    if (!this.blend) {
      await this.player.show(times[0]);
      return;
    }
    this.blend.begin();
    for (const timeS of times) {
      this.stage.shownS = timeS;
      await this.player.show(timeS);
      this.blend.add(this.stage.canvas, 1 / times.length);
    }
    this.blend.finish();
  }

  /** Reads frames after they have been drawn, in order. @param onFrame  see {@link FrameReader} */
  reader(onFrame: (frame: number, rgba: Uint8ClampedArray) => void): FrameReader {
    const { renderer, canvas } = this.stage;
    return new FrameReader(renderer, canvas.width, canvas.height, onFrame);
  }

  /** Cost of the frame that was drawn last. */
  weight(): Weight {
    return this.stage.weight();
  }

  /** Draws at another step of quality from now on. */
  drawAt(step: DrawnStep): void {
    this.stage.drawAt(step);
  }

  /** Tells what is wrong with drawing programs: now and later. */
  onProgramFailure(listener: OnProgramFailure): void {
    this.stage.onProgramFailure(listener);
  }

  dispose(): void {
    this.blend?.dispose();
    this.player.dispose();
    this.stage.dispose();
    this.stage.renderer.forceContextLoss();
  }
}
