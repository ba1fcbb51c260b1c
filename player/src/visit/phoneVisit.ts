import { restingPose } from "@bumbrel/core/document/take/poses";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import { Euler, PerspectiveCamera, Quaternion } from "three";
import type { CameraPicture } from "../camera/madeUpCamera";
import type { ScenePlayer } from "../scenePlayer";
import { CameraLayers } from "../stage/image/cameraLayers";
import { rayAt } from "../stage/picking";
import type { Stage } from "../stage/stage";
import { KeyAim } from "./keyAim";
import { Pointing } from "./pointer";
import type { VisitWords } from "./visitWords";

/** Steps between two recorded tilts. */
const TILT_STEPS = 4;
/** A device that has told nothing of its motion for so long will not, ms. */
const SILENT_MS = 2000;
const NO_MOTION = "This device does not tell how it is tilted. Dragging tilts the view.";
/** Degrees that a drag over the whole height tilts, and that a key tilts a second. */
const DRAG_DEGREES = 90;
const KEY_DEGREES_A_SECOND = 40;
const MOST_DEGREES = 60;
const TILT_KEYS: Record<string, [yaw: number, pitch: number]> = {
  ArrowLeft: [1, 0],
  ArrowRight: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/**
 * A scene met through a phone in the hand: drawn on a camera's picture, looked at a little from the side as the phone is
 * tilted, and tapped.
 */
export class PhoneVisit {
  /** How the phone is tilted against how it was held first, degrees. */
  readonly tilt = { yaw: 0, pitch: 0 };
  private readonly player: ScenePlayer;
  private readonly stage: Stage;
  private readonly element: HTMLElement;
  private readonly eye = new PerspectiveCamera();
  private readonly pointing: Pointing;
  private readonly keys = new Set<string>();
  private readonly pose = restingPose();
  private readonly turn = new Quaternion();
  /** Aborted when it ends: all listening ends with it. */
  private readonly ended = new AbortController();
  private layers: CameraLayers | undefined;
  private held: { pointerId: number; hasHit: boolean } | undefined;
  private first: { alpha: number; beta: number } | undefined;
  private beforeMs = 0;
  private readonly aim: KeyAim;

  /**
   * @param element  what takes pointers and keys, over the whole image
   * @param words  where the aim of keys is shown and what it is on is read out
   */
  constructor(player: ScenePlayer, stage: Stage, element: HTMLElement, words?: VisitWords) {
    this.player = player;
    this.stage = stage;
    this.element = element;
    this.pointing = new Pointing(player, stage, "pointer");
    this.aim = new KeyAim(player, stage, this.pointing, words);
    const { signal } = this.ended;
    signal.addEventListener(
      "abort",
      player.beforeFrame((nowMs) => this.move(nowMs)),
    );
    element.addEventListener("pointerdown", (event) => this.down(event), { signal });
    element.addEventListener("pointermove", (event) => this.drag(event), { signal });
    element.addEventListener("pointerup", () => this.up(), { signal });
    element.addEventListener("pointercancel", () => this.pointing.cancel(), { signal });
    element.addEventListener("keydown", (event) => this.key(event), { signal });
    element.addEventListener("keyup", ({ code }) => this.release(code), { signal });
    element.addEventListener("blur", () => this.keys.clear(), { signal });
  }

  /** Draws the scene on a camera's picture; without one as in a window. */
  setCamera(camera: CameraPicture | undefined): void {
    this.layers = camera && new CameraLayers(camera);
    this.stage.cameraLayers = this.layers;
  }

  /**
   * Asks for the device's own motion, where devices ask; call it from a gesture.
   *
   * @returns why it cannot be had, in words
   */
  static async askForMotion(): Promise<string | undefined> {
    const motion = globalThis.DeviceOrientationEvent as
      | (typeof DeviceOrientationEvent & { requestPermission?(): Promise<"granted" | "denied"> })
      | undefined;
    if (!motion) return NO_MOTION;
    const answer = await motion.requestPermission?.().catch(() => "denied" as const);
    return answer === "denied" ? "Motion was refused. Dragging tilts the view." : undefined;
  }

  /**
   * Lets the device's own motion tilt.
   *
   * @param onNone  is told in words when the device says nothing of it
   */
  followMotion(onNone: (message: string) => void): void {
    const { signal } = this.ended;
    const silent = setTimeout(() => onNone(NO_MOTION), SILENT_MS);
    signal.addEventListener("abort", () => clearTimeout(silent));
    const follow = ({ alpha, beta }: DeviceOrientationEvent) => {
      if (alpha === null || beta === null) return;
      clearTimeout(silent);
      this.first ??= { alpha, beta };
      let yaw = alpha - this.first.alpha;
      yaw -= Math.round(yaw / 360) * 360;
      this.setTilt(yaw, beta - this.first.beta);
    };
    addEventListener("deviceorientation", follow, { signal });
  }

  /** Holds the phone as at first. */
  level(): void {
    this.first = undefined;
    this.setTilt(0, 0);
  }

  private setTilt(yaw: number, pitch: number): void {
    const limit = (value: number) => Math.max(-MOST_DEGREES, Math.min(MOST_DEGREES, value));
    this.tilt.yaw = limit(yaw);
    this.tilt.pitch = limit(pitch);
  }

  private move(nowMs: number): void {
    const passedS = this.beforeMs > 0 ? Math.min(0.1, (nowMs - this.beforeMs) / 1000) : 0;
    this.beforeMs = nowMs;
    const { player, tilt, pose } = this;
    const runS = player.run?.positionS() ?? 0;
    if (player.isReplaying) {
      const recorded = player.currentTake.poses.tilt;
      if (recorded.between(runS * STEPS_A_SECOND, TILT_STEPS * 2, pose))
        Object.assign(tilt, { yaw: pose.yaw, pitch: pose.pitch });
    } else {
      this.pointing.update(nowMs);
      this.aim.update(nowMs);
      for (const code of this.keys) {
        const [yaw, pitch] = TILT_KEYS[code];
        const by = KEY_DEGREES_A_SECOND * passedS;
        this.setTilt(tilt.yaw + yaw * by, tilt.pitch + pitch * by);
      }
      this.record();
    }
    if (this.layers?.update(runS)) this.stage.redraw();
    this.showEye();
  }

  private record(): void {
    const { player, tilt, pose } = this;
    if (!player.run || player.run.isPaused) return;
    const track = player.currentTake.poses.tilt;
    const step = player.nextStep;
    if (track.count > 0 && step - track.lastStep < TILT_STEPS) return;
    Object.assign(pose, restingPose(), tilt);
    track.record(step, pose);
  }

  /** The eye is the scene's camera, turned as the phone is. */
  private showEye(): void {
    const { eye, stage, tilt } = this;
    const { sceneCamera: camera } = stage;
    eye.copy(camera, false);
    this.turn.setFromEuler(new Euler((tilt.pitch * Math.PI) / 180, (tilt.yaw * Math.PI) / 180, 0, "YXZ"));
    eye.quaternion.copy(camera.quaternion).multiply(this.turn);
    eye.updateMatrixWorld();
    if (stage.looker !== eye) stage.looker = eye;
    else stage.redraw();
  }

  private at(event: PointerEvent): [x: number, y: number] {
    const { left, top, width, height } = this.element.getBoundingClientRect();
    return [(event.clientX - left) / width, (event.clientY - top) / height];
  }

  private down(event: PointerEvent): void {
    if (event.button !== 0 || this.player.isReplaying) return;
    this.aim.leave();
    const ray = rayAt(this.stage, ...this.at(event));
    this.pointing.down(ray, performance.now(), [event.clientX, event.clientY]);
    this.held = { pointerId: event.pointerId, hasHit: this.pointing.hit !== undefined };
  }

  private drag(event: PointerEvent): void {
    if (this.player.isReplaying) return;
    this.pointing.moved([event.clientX, event.clientY]);
    if (event.buttons === 0) this.pointing.over(rayAt(this.stage, ...this.at(event)));
    if (this.held?.pointerId !== event.pointerId) return;
    const perPx = DRAG_DEGREES / this.element.clientHeight;
    this.setTilt(this.tilt.yaw + event.movementX * perPx, this.tilt.pitch + event.movementY * perPx);
  }

  private up(): void {
    this.held = undefined;
    this.pointing.up(performance.now());
  }

  private key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey || this.player.isReplaying) return;
    if (event.code in TILT_KEYS) this.keys.add(event.code);
    else if (!this.player.run || !this.aim.down(event, performance.now())) return;
    event.preventDefault();
  }

  private release(code: string): void {
    this.keys.delete(code);
    this.aim.up(code, performance.now());
  }

  dispose(): void {
    this.ended.abort();
    this.stage.cameraLayers = undefined;
    this.stage.looker = undefined;
  }
}
