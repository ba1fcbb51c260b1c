import type { LookWay } from "@bumbrel/core/document/scene";
import { restingPose } from "@bumbrel/core/document/take/poses";
import type { Take } from "@bumbrel/core/document/take/take";
import { settingOf } from "@bumbrel/core/kinds/table";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import { PerspectiveCamera, Spherical, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { ScenePlayer } from "../scenePlayer";
import { rayAt } from "../stage/picking";
import type { Stage } from "../stage/stage";
import { KeyAim } from "./keyAim";
import { Pointing } from "./pointer";
import { isKeyAskedFor, keyName } from "./reachable";
import type { VisitWords } from "./visitWords";
import { type Steering, Walker } from "./walker";

/** Steps between two recorded poses of somebody who walks: thirty a second. */
const POSE_STEPS = 4;
/** Degrees that a drag over the whole height of the image turns the head. */
const TURN_DEGREES = 120;
/** A finger in this part of the image, from the left and the bottom, steers; anywhere else it looks round. */
const STICK = { left: 0.4, bottom: 0.45 };
/** A finger that has moved this share of the height walks at full speed. */
const FULL_STICK = 0.12;

/** Degrees that a key turns a second, and the share of the picture that it moves the aim by. */
const KEY_DEGREES_A_SECOND = 75;
const KEY_AIM_A_SECOND = 0.5;
/** A key comes nearer by this factor a second, or goes as much farther. */
const KEY_NEARER_A_SECOND = 1.8;
/** A key turns by no more than this long in one frame, s, however late the frame is. */
const LONGEST_FRAME_S = 0.1;

/** Keys that are held down, in pairs: the first moves by 1, the second by −1. */
const HELD_KEYS = {
  ahead: [
    ["KeyW", "ArrowUp"],
    ["KeyS", "ArrowDown"],
  ],
  sideways: [["KeyD"], ["KeyA"]],
  turn: [["ArrowLeft"], ["ArrowRight"]],
  lift: [["ArrowUp"], ["ArrowDown"]],
  look: [["PageUp"], ["PageDown"]],
} as const;
const MOVING_KEYS: Record<LookWay, readonly (keyof typeof HELD_KEYS)[]> = {
  walk: ["ahead", "sideways", "turn", "look"],
  orbit: ["turn", "lift", "look"],
  camera: ["turn", "lift"],
};

/**
 * A scene met in a window: by keyboard, pointer and touch. It moves the visitor's eye, and records what they do.
 */
export class WindowVisit {
  readonly walker = new Walker();
  private readonly player: ScenePlayer;
  private readonly stage: Stage;
  private readonly element: HTMLElement;
  private readonly eye = new PerspectiveCamera();
  private readonly pointing: Pointing;
  private orbit: OrbitControls | undefined;
  private way: LookWay = "camera";
  private readonly keys = new Set<string>();
  private readonly stick: Steering = { ahead: 0, right: 0 };
  private stickPointer: number | undefined;
  private lookPointer: number | undefined;
  private lastAt: [x: number, y: number] = [0, 0];
  private beforeMs = 0;
  /** Aborted when it ends: all listening ends with it. */
  private readonly ended = new AbortController();
  private readonly pose = restingPose();
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
    this.aim = new KeyAim(player, stage, this.pointing, words, () =>
      this.way === "walk" ? (point) => this.face(point) : undefined,
    );
    const { signal } = this.ended;
    signal.addEventListener(
      "abort",
      player.beforeFrame((nowMs) => this.move(nowMs)),
    );
    element.addEventListener("pointerdown", (event) => this.down(event), { signal });
    element.addEventListener("pointermove", (event) => this.drag(event), { signal });
    element.addEventListener("pointerup", (event) => this.up(event), { signal });
    element.addEventListener("pointercancel", (event) => this.up(event, true), { signal });
    element.addEventListener("keydown", (event) => this.key(event), { signal });
    element.addEventListener("keyup", ({ code }) => this.release(code), { signal });
    element.addEventListener("blur", () => this.keys.clear(), { signal });
  }

  get lookWay(): LookWay {
    return this.way;
  }

  /** Chooses how the scene is looked at. */
  look(way: LookWay): void {
    if (this.way === way && (way === "camera") === (this.stage.looker === undefined)) return;
    this.way = way;
    this.aim.leave();
    this.orbit?.dispose();
    this.orbit = undefined;
    this.keys.clear();
    if (way === "camera") {
      this.stage.looker = undefined;
      return;
    }
    const { camera } = this.stage;
    this.eye.copy(camera, false);
    if (way === "orbit") {
      this.orbit = new OrbitControls(this.eye, this.element);
      const distance = (camera.userData.targetM as number | undefined) ?? 10;
      const ahead = camera.getWorldDirection(new Vector3());
      this.orbit.target.copy(camera.position).addScaledVector(ahead, distance);
    } else this.arrive();
    this.stage.looker = this.eye;
  }

  /** Puts a walking visitor where visitors arrive. */
  arrive(): void {
    const place = this.world<[number, number, number]>("arriveAt");
    this.walker.stand(
      [place[0], Math.max(place[1], this.world<number>("floorHeight")), place[2]],
      this.world("arriveTurn"),
    );
    this.showEye();
  }

  private world<T>(key: string): T {
    const plan = this.player.state.plan.of("world")!;
    return settingOf(plan.object, key) as T;
  }

  dispose(): void {
    this.ended.abort();
    this.orbit?.dispose();
    this.stage.looker = undefined;
  }

  private get isReplaying(): boolean {
    return this.player.isReplaying;
  }

  /** Moves the visitor by what is held down, before a frame is drawn. */
  private move(nowMs: number): void {
    const passedS = this.beforeMs > 0 ? (nowMs - this.beforeMs) / 1000 : 0;
    this.beforeMs = nowMs;
    const { player } = this;
    if (this.isReplaying) {
      this.followTake(player.currentTake);
      return;
    }
    this.pointing.update(nowMs);
    this.aim.update(nowMs);
    this.steerByKeys(passedS);
    this.orbit?.update();
    if (this.way !== "walk") {
      if (this.way === "orbit") this.stage.redraw();
      return;
    }
    const { walker } = this;
    const steering = {
      ahead: this.heldKeys("ahead") + this.stick.ahead,
      right: this.heldKeys("sideways") + this.stick.right,
    };
    const eyeHeight = this.world<number>("eyeHeight");
    const { simulation } = player.state;
    const bodies = simulation.awaitsBodies ? "coming" : simulation.answering?.bodies;
    if (player.run && !player.run.isPaused) {
      walker.walk(
        steering,
        this.world("walkSpeed"),
        passedS,
        eyeHeight + 0.1,
        this.world("floorHeight"),
        bodies,
      );
      this.recordHead(eyeHeight);
    }
    this.showEye();
  }

  /** 1, −1 or 0: which of a pair of keys is held down. */
  private heldKeys(pair: keyof typeof HELD_KEYS): number {
    const [more, less] = HELD_KEYS[pair].map((codes) => codes.some((code) => this.keys.has(code)));
    return Number(more) - Number(less);
  }

  /** Turns the head, goes round the scene, or moves the aim by the keys that are held down. */
  private steerByKeys(passedS: number): void {
    const [turn, lift, look] = [this.heldKeys("turn"), this.heldKeys("lift"), this.heldKeys("look")];
    if (turn === 0 && lift === 0 && look === 0) return;
    const s = Math.min(passedS, LONGEST_FRAME_S);
    const degrees = KEY_DEGREES_A_SECOND * s;
    const share = KEY_AIM_A_SECOND * s;
    if (this.way === "walk") this.walker.turn(turn * degrees, look * degrees);
    else if (this.way === "orbit") this.circle(turn * degrees, lift * degrees, look * s);
    else this.aim.move(-turn * share, -lift * share);
  }

  /** Moves the eye on a sphere about what it looks at, degrees; and nearer to it. */
  private circle(sideways: number, up: number, nearer: number): void {
    const { orbit, eye } = this;
    if (!orbit) return;
    const radians = Math.PI / 180;
    const from = eye.position.clone().sub(orbit.target);
    const at = new Spherical().setFromVector3(from);
    at.theta += sideways * radians;
    at.phi -= up * radians;
    at.radius *= KEY_NEARER_A_SECOND ** -nearer;
    eye.position.copy(orbit.target).add(from.setFromSpherical(at.makeSafe()));
  }

  /** Turns the walking visitor's head towards a point. */
  private face(point: Vector3): void {
    const { walker, eye } = this;
    const [x, y, z] = [point.x - eye.position.x, point.y - eye.position.y, point.z - eye.position.z];
    const degrees = 180 / Math.PI;
    walker.turn(
      Math.atan2(-x, -z) * degrees - walker.yaw,
      Math.atan2(y, Math.hypot(x, z)) * degrees - walker.pitch,
    );
    this.showEye();
  }

  private recordHead(eyeHeight: number): void {
    const { player, walker, pose } = this;
    const { head } = player.currentTake.poses;
    const step = player.nextStep;
    if (head.count > 0 && step - head.lastStep < POSE_STEPS) return;
    Object.assign(pose, {
      x: walker.x,
      y: walker.y + eyeHeight,
      z: walker.z,
      yaw: walker.yaw,
      pitch: walker.pitch,
    });
    head.record(step, pose);
  }

  /** The eye of a take that is played again moves evenly from pose to pose. */
  private followTake(take: Take): void {
    const { head } = take.poses;
    const step = (this.player.run?.positionS() ?? 0) * STEPS_A_SECOND;
    if (!head.between(step, POSE_STEPS * 2, this.pose)) return;
    const { x, y, z, yaw, pitch } = this.pose;
    Object.assign(this.walker, { x, y: y - this.world<number>("eyeHeight"), z, yaw, pitch });
    if (this.stage.looker !== this.eye) {
      this.eye.copy(this.stage.camera, false);
      this.stage.looker = this.eye;
    }
    this.showEye();
  }

  private showEye(): void {
    const { eye, walker } = this;
    eye.position.set(walker.x, walker.y + this.world<number>("eyeHeight"), walker.z);
    eye.rotation.set((walker.pitch * Math.PI) / 180, (walker.yaw * Math.PI) / 180, 0, "YXZ");
    eye.fov = WALKING_FOV;
    eye.updateProjectionMatrix();
    eye.updateMatrixWorld();
    this.stage.redraw();
  }

  private at(event: PointerEvent): [x: number, y: number] {
    const { left, top, width, height } = this.element.getBoundingClientRect();
    return [(event.clientX - left) / width, (event.clientY - top) / height];
  }

  private down(event: PointerEvent): void {
    if (event.button !== 0 || this.isReplaying) return;
    this.aim.leave();
    const [x, y] = this.at(event);
    const isStick = event.pointerType === "touch" && x < STICK.left && y > 1 - STICK.bottom;
    if (this.way === "walk" && isStick && this.stickPointer === undefined) {
      this.stickPointer = event.pointerId;
      this.lastAt = [x, y];
      return;
    }
    this.pointing.down(rayAt(this.stage, x, y), performance.now(), [event.clientX, event.clientY]);
    if (this.way !== "walk") return;
    this.lookPointer = event.pointerId;
    this.element.setPointerCapture(event.pointerId);
  }

  private drag(event: PointerEvent): void {
    if (this.isReplaying) return;
    const [x, y] = this.at(event);
    if (event.pointerId === this.stickPointer) {
      const limit = (value: number) => Math.max(-1, Math.min(1, value / FULL_STICK));
      this.stick.right = limit((x - this.lastAt[0]) * 1.5);
      this.stick.ahead = limit(this.lastAt[1] - y);
      return;
    }
    this.pointing.moved([event.clientX, event.clientY]);
    if (event.buttons === 0) this.pointing.over(rayAt(this.stage, x, y));
    if (event.pointerId !== this.lookPointer) return;
    const perPx = TURN_DEGREES / this.element.clientHeight;
    this.walker.turn(-event.movementX * perPx, -event.movementY * perPx);
  }

  private up(event: PointerEvent, isOff = false): void {
    if (event.pointerId === this.stickPointer) {
      this.stickPointer = undefined;
      this.stick.ahead = 0;
      this.stick.right = 0;
      return;
    }
    if (event.pointerId === this.lookPointer) this.lookPointer = undefined;
    if (isOff) this.pointing.cancel();
    else this.pointing.up(performance.now());
  }

  private key(event: KeyboardEvent): void {
    const { code, repeat } = event;
    if (event.ctrlKey || event.metaKey || event.altKey || this.isReplaying) return;
    const { player } = this;
    const moves = MOVING_KEYS[this.way].some((pair) => HELD_KEYS[pair].flat().includes(code as never));
    if (moves) {
      this.keys.add(code);
      if (this.way !== "walk" || code.startsWith("Arrow")) this.aim.show();
    }
    const name = keyName(event);
    const isAsked = isKeyAskedFor(player, name);
    if (isAsked && !repeat && player.run) {
      player.currentTake.record({ kind: "key", step: player.nextStep, key: name });
    }
    const isAim = !isAsked && player.run !== undefined && this.aim.down(event, performance.now());
    if (moves || isAsked || isAim) event.preventDefault();
  }

  private release(code: string): void {
    this.keys.delete(code);
    this.aim.up(code, performance.now());
  }
}

/** A view in which a walk feels neither like a tunnel nor like a fisheye. */
const WALKING_FOV = 65;
