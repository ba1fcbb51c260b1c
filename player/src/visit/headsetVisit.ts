import { type Pose, restingPose } from "@bumbrel/core/document/take/poses";
import type { By } from "@bumbrel/core/document/take/take";
import { settingOf } from "@bumbrel/core/kinds/table";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import {
  BufferGeometry,
  Euler,
  Group,
  Line,
  LineBasicMaterial,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  PerspectiveCamera,
  Quaternion,
  RingGeometry,
  Vector3,
} from "three";
import type { ScenePlayer } from "../scenePlayer";
import type { Ray } from "../stage/picking";
import type { Stage } from "../stage/stage";
import { MARK_COLOUR } from "../stage/zoneOutline";
import { CaptionSign } from "./captionSign";
import { type Comfort, storedComfort } from "./comfort";
import { HandMark } from "./handMark";
import { Pointing } from "./pointer";
import { throwAlong } from "./teleport";
import type { VisitWords } from "./visitWords";

/** Ways to be in a headset: all round, or over what its cameras see. */
export const HEADSET_MODES = { "immersive-vr": "all round", "immersive-ar": "in the room" } as const;
export type HeadsetMode = keyof typeof HEADSET_MODES;

/** Steps between two recorded poses of the head, and of the hands: they strike fast. */
const HEAD_STEPS = 4;
const HAND_STEPS = 2;
/** How far a stick has to be pushed. */
const PUSHED = 0.7;
const SLACK = 0.15;
/** A turn in steps, degrees, and a smooth one, degrees a second. */
const SNAP_DEGREES = { small: 30, large: 45 } as const;
const SMOOTH_DEGREES = 90;
/** Colour of a ray that lands nowhere. */
const NOT_REACHED = 0x8a8f90;
/** A hand takes hold of what is nearer than this. */
const GRAB_M = 0.35;

interface HandState {
  pointing: Pointing;
  mark: HandMark;
  line: Line;
  isThrowing: boolean;
  hasTurned: boolean;
  holds: { objectId: string; copy: number } | undefined;
  pose: Pose | undefined;
}

/**
 * A scene met in a headset, by WebXR: head and hands are recorded, triggers tap, grips hold bodies, sticks walk, turn and
 * teleport. Passes over the image are left out.
 */
export class HeadsetVisit {
  private readonly player: ScenePlayer;
  private readonly stage: Stage;
  /** Position of the visitor’s room in the scene. */
  private readonly rig = new Group();
  private readonly eye = new PerspectiveCamera();
  private readonly target = new Mesh(
    new RingGeometry(0.16, 0.2, 40).rotateX(-Math.PI / 2),
    new MeshBasicMaterial({ color: MARK_COLOUR, transparent: true, opacity: 0.9, depthTest: false }),
  );
  private readonly hands: Record<"left" | "right", HandState>;
  private session: XRSession | undefined;
  private space: XRReferenceSpace | undefined;
  private hitSource: XRHitTestSource | undefined;
  private floorHit: Vector3 | undefined;
  private landing: Vector3 | undefined;
  private isPlaced = false;
  private readonly stops: (() => void)[] = [];
  private readonly onEnd: () => void;
  private beforeMs = 0;
  private readonly head = restingPose();
  private readonly words: VisitWords | undefined;
  private sign: CaptionSign | undefined;
  private wanted = storedComfort();
  /** Features that the session could not provide, in words. */
  readonly missing: string[] = [];

  /**
   * @param onEnd  called when the session is over, whoever ended it
   * @param words  whose captions are shown in the headset too
   */
  constructor(player: ScenePlayer, stage: Stage, onEnd: () => void, words?: VisitWords) {
    this.player = player;
    this.stage = stage;
    this.onEnd = onEnd;
    this.words = words;
    const hand = (by: By): HandState => {
      const mark = new HandMark();
      const line = new Line(new BufferGeometry(), new LineBasicMaterial({ color: MARK_COLOUR }));
      line.frustumCulled = false;
      line.visible = false;
      return {
        pointing: new Pointing(player, stage, by),
        mark,
        line,
        isThrowing: false,
        hasTurned: false,
        holds: undefined,
        pose: undefined,
      };
    };
    this.hands = { left: hand("left"), right: hand("right") };
    this.rig.add(this.eye);
    this.target.visible = false;
    stage.three.add(this.rig, this.target);
    for (const { mark, line } of Object.values(this.hands)) stage.three.add(mark.object, line);
    this.stops.push(player.beforeFrame((nowMs) => this.move(nowMs)));
  }

  /** True if this browser supports a way of showing scenes in a headset. */
  static async isOffered(mode: HeadsetMode): Promise<boolean> {
    return (await navigator.xr?.isSessionSupported(mode).catch(() => false)) === true;
  }

  /**
   * Enters the headset. Call it from a gesture.
   *
   * @throws Error in words, when there is none or it was refused
   */
  async enter(mode: HeadsetMode): Promise<void> {
    const { xr } = navigator;
    if (!xr) throw new Error("This browser knows no headsets.");
    let session: XRSession;
    try {
      session = await xr.requestSession(mode, {
        optionalFeatures: ["local-floor", "hand-tracking", ...(mode === "immersive-ar" ? ["hit-test"] : [])],
      });
    } catch (error) {
      const isRefused = error instanceof DOMException && error.name === "NotAllowedError";
      throw new Error(
        isRefused
          ? "The headset was refused. Allow it in the browser, and try again."
          : "There is no headset here that can show the scene in this way.",
      );
    }
    const { renderer } = this.stage;
    this.session = session;
    session.addEventListener("end", this.ended);
    session.addEventListener("selectstart", this.selectStart);
    session.addEventListener("selectend", this.selectEnd);
    session.addEventListener("squeezestart", this.squeezeStart);
    session.addEventListener("squeezeend", this.squeezeEnd);
    this.missing.length = 0;
    const hasFloor = await session.requestReferenceSpace("local-floor").then(
      () => true,
      () => false,
    );
    // Without a floor, places are told from where the head was at first: that is taken for eye height.
    this.headAboveM = hasFloor ? 0 : this.world<number>("eyeHeight");
    this.hasFloor = hasFloor;
    this.isSeated = false;
    if (!hasFloor) {
      const height = `${this.headAboveM.toFixed(1)} m`;
      this.missing.push(
        `This headset does not tell where its floor is: your eyes are taken to be ${height} above it.`,
      );
    }
    renderer.xr.enabled = true;
    renderer.xr.setReferenceSpaceType(hasFloor ? "local-floor" : "local");
    await renderer.xr.setSession(session);
    this.space = renderer.xr.getReferenceSpace() ?? undefined;
    this.stage.present(mode === "immersive-ar" ? "overRoom" : "headset");
    this.stage.looker = this.eye;
    this.player.tickBy(renderer);
    this.arrive();
    if (mode === "immersive-ar") await this.findFloor(session);
    else this.isPlaced = true;
  }

  /** Height of where heads are told from above the visitor's feet, in the room, m. */
  private headAboveM = 0;
  private hasFloor = false;
  /** The eyes of somebody who sits have been raised. */
  private isSeated = false;

  /** Sets how the visitor wants to be in the headset. */
  set comfort(comfort: Comfort) {
    this.wanted = comfort;
    if (comfort.posture === "seated" || !this.isSeated) return;
    const { feetY } = this;
    this.headAboveM = 0;
    this.isSeated = false;
    this.feetY = feetY;
  }

  /** Raises the eyes of somebody who sits to the height they have when standing. */
  private raiseSeated(eyesM: number): void {
    if (this.wanted.posture !== "seated" || this.isSeated || !this.hasFloor || this.hitSource) return;
    const { feetY } = this;
    this.headAboveM = Math.max(0, this.world<number>("eyeHeight") - eyesM);
    this.isSeated = true;
    this.feetY = feetY;
    this.rig.updateMatrixWorld(true);
  }

  /** Position of the visitor's feet. */
  private get feetY(): number {
    return this.rig.position.y - this.headAboveM * this.rig.scale.x;
  }
  private set feetY(y: number) {
    this.rig.position.y = y + this.headAboveM * this.rig.scale.x;
  }

  private async findFloor(session: XRSession): Promise<void> {
    this.isPlaced = false;
    const viewer = await session.requestReferenceSpace("viewer").catch(() => undefined);
    const asked = viewer && session.requestHitTestSource?.({ space: viewer });
    this.hitSource = await asked?.catch(() => undefined);
    if (this.hitSource) return;
    this.missing.push("The floor of the room cannot be found: the scene stands where it is.");
    this.isPlaced = true;
  }

  /** Puts the visitor where visitors arrive. */
  arrive(): void {
    const [x, y, z] = this.world<[number, number, number]>("arriveAt");
    const scale = 1 / this.world<number>("worldScale");
    this.hasArrived = false;
    const feetY = Math.max(y, this.world<number>("floorHeight"));
    this.rig.position.set(x, feetY + this.headAboveM * scale, z);
    this.rig.rotation.set(0, (this.world<number>("arriveTurn") * Math.PI) / 180, 0);
    this.rig.scale.setScalar(scale);
    this.rig.updateMatrixWorld(true);
  }

  private world<T>(key: string): T {
    return settingOf(this.player.state.plan.of("world")!.object, key) as T;
  }

  get isInside(): boolean {
    return this.session !== undefined;
  }

  /** Leaves the headset. */
  async leave(): Promise<void> {
    await this.session?.end().catch(() => undefined);
  }

  private readonly ended = () => {
    const { renderer } = this.stage;
    this.session = undefined;
    this.hitSource = undefined;
    this.space = undefined;
    renderer.xr.enabled = false;
    this.player.tickBy(undefined);
    this.stage.looker = undefined;
    this.stage.present("screen");
    for (const { mark, line } of Object.values(this.hands)) {
      mark.hide();
      line.visible = false;
    }
    this.target.visible = false;
    this.onEnd();
  };

  private sideOf({ inputSource }: XRInputSourceEvent): "left" | "right" {
    return inputSource.handedness === "left" ? "left" : "right";
  }

  private readonly selectStart = (event: XRInputSourceEvent) => {
    if (!this.isPlaced && this.floorHit) {
      this.place(this.floorHit);
      return;
    }
    const ray = this.rayOf(event.inputSource, event.frame);
    if (ray) this.hands[this.sideOf(event)].pointing.down(ray, performance.now());
  };

  private readonly selectEnd = (event: XRInputSourceEvent) => {
    this.hands[this.sideOf(event)].pointing.up(performance.now());
  };

  /** Stands the scene on a place of the room: its origin comes to lie there. */
  private place(at: Vector3): void {
    // `at` is in the scene as it stands now; the room moves the other way.
    this.rig.position.sub(at);
    this.rig.updateMatrixWorld(true);
    this.isPlaced = true;
    this.target.visible = false;
  }

  private readonly squeezeStart = (event: XRInputSourceEvent) => {
    const side = this.sideOf(event);
    const hand = this.hands[side];
    const bodies = this.player.state.simulation.answering?.bodies;
    if (!hand.pose || !bodies || !this.isRecording) return;
    let nearest: { objectId: string; copy: number; away: number } | undefined;
    for (const { ref, place } of bodies.moving()) {
      const away = Math.hypot(place[0] - hand.pose.x, place[1] - hand.pose.y, place[2] - hand.pose.z);
      if (away < GRAB_M && (!nearest || away < nearest.away)) nearest = { ...ref, away };
    }
    if (!nearest) return;
    hand.holds = { objectId: nearest.objectId, copy: nearest.copy };
    this.recordGrab(side, true);
  };

  private readonly squeezeEnd = (event: XRInputSourceEvent) => {
    const side = this.sideOf(event);
    if (!this.hands[side].holds) return;
    this.recordGrab(side, false);
    this.hands[side].holds = undefined;
  };

  private recordGrab(side: "left" | "right", holds: boolean): void {
    const { currentTake, nextStep } = this.player;
    const { holds: held, pose } = this.hands[side];
    if (!held || !pose || !this.isRecording) return;
    const point = [pose.x, pose.y, pose.z].map((one) => Math.round(one * 1000) / 1000);
    currentTake.record({
      kind: "grab",
      step: nextStep,
      by: side,
      ...held,
      point: point as [number, number, number],
      holds,
    });
  }

  private get isRecording(): boolean {
    return this.player.run !== undefined && !this.player.isReplaying;
  }

  /** Moves and records the visitor, before a frame is drawn. */
  private move(nowMs: number): void {
    const passedS = this.beforeMs > 0 ? Math.min(0.1, (nowMs - this.beforeMs) / 1000) : 0;
    this.beforeMs = nowMs;
    const { player, stage } = this;
    if (player.isReplaying) {
      this.followTake();
      return;
    }
    const frame = stage.renderer.xr.getFrame() as XRFrame | null;
    if (!this.session || !this.space || !frame) return;
    const viewer = frame.getViewerPose(this.space);
    if (!viewer) return;
    this.raiseSeated(viewer.transform.position.y);
    poseOf(viewer.transform.matrix, this.rig.matrixWorld, this.head);
    this.showCaption();
    stage.pins.view.copy(LAST);
    if (this.isRecording) {
      const track = player.currentTake.poses.head;
      const step = player.nextStep;
      if (track.count === 0 || step - track.lastStep >= HEAD_STEPS) track.record(step, this.head);
    }
    this.settle();
    this.feelFloor(frame);
    const seen = { left: false, right: false };
    for (const source of this.session.inputSources) {
      const side = source.handedness === "left" ? "left" : "right";
      seen[side] = this.moveHand(side, source, frame, passedS);
    }
    for (const side of ["left", "right"] as const) {
      if (seen[side]) this.hands[side].pointing.update(nowMs);
      else this.hands[side].mark.hide();
    }
    this.giveHaptics();
    stage.redraw();
  }

  private showCaption(): void {
    const text = this.words?.shownCaption ?? "";
    if (text !== "") this.sign ??= new CaptionSign(this.eye);
    this.sign?.show(text);
  }

  private moveHand(side: "left" | "right", source: XRInputSource, frame: XRFrame, passedS: number): boolean {
    const { player } = this;
    const hand = this.hands[side];
    const tip = source.hand?.get("index-finger-tip");
    const held = tip && frame.getJointPose?.(tip, this.space!);
    const grip = source.gripSpace ? frame.getPose(source.gripSpace, this.space!) : undefined;
    const pose = held ?? grip;
    if (!pose) return false;
    hand.pose ??= restingPose();
    poseOf(pose.transform.matrix, this.rig.matrixWorld, hand.pose);
    this.stage.pins[side].copy(LAST);
    hand.mark.show(hand.pose, this.rig.scale.x, pose === held);
    if (this.isRecording) {
      const track = player.currentTake.poses[side];
      const step = player.nextStep;
      if (track.count === 0 || step - track.lastStep >= HAND_STEPS) track.record(step, hand.pose);
    }
    const ray = this.rayOf(source, frame);
    if (ray) this.steer(side, source, ray, passedS);
    return true;
  }

  /** Sticks: that of the leading hand turns and teleports, the other one walks; with one hand, either turns and teleports. */
  private steer(side: "left" | "right", source: XRInputSource, ray: Ray, passedS: number): void {
    const axes = source.gamepad?.axes ?? [];
    const [x, y] = axes.length >= 4 ? [axes[2], axes[3]] : [axes[0] ?? 0, axes[1] ?? 0];
    const hand = this.hands[side];
    const { hand: leading, hands, turning } = this.wanted;
    if (hands === "two" && side !== leading) {
      if (Math.hypot(x, y) > SLACK) this.walk(x, y, passedS);
      return;
    }
    if (turning === "smooth") {
      if (Math.abs(x) > SLACK) this.turn(-x * SMOOTH_DEGREES * passedS);
    } else if (Math.abs(x) > PUSHED && !hand.hasTurned) this.turn(-Math.sign(x) * SNAP_DEGREES[turning]);
    hand.hasTurned = Math.abs(x) > PUSHED / 2;
    if (y < -PUSHED) hand.isThrowing = true;
    if (hand.isThrowing && y > -PUSHED / 2) {
      hand.isThrowing = false;
      hand.line.visible = false;
      this.target.visible = false;
      if (this.landing) this.goTo(this.landing);
      this.landing = undefined;
    } else if (hand.isThrowing) this.aimThrow(hand, ray);
  }

  private walk(x: number, y: number, passedS: number): void {
    const yaw = (this.head.yaw * Math.PI) / 180;
    const by = this.world<number>("walkSpeed") * passedS;
    const [dx, dz] = [
      (Math.cos(yaw) * x + Math.sin(yaw) * y) * by,
      (-Math.sin(yaw) * x + Math.cos(yaw) * y) * by,
    ];
    const eye = this.world<number>("eyeHeight");
    const { bodies, feetY } = this;
    const got = bodies?.walk([this.head.x + dx, feetY, this.head.z + dz], eye);
    // Nobody moves before what they stand on exists.
    if (!got && (bodies || this.player.state.simulation.awaitsBodies)) return;
    this.rig.position.x += got ? got.feet[0] - this.head.x : dx;
    this.rig.position.z += got ? got.feet[2] - this.head.z : dz;
    if (got?.stands) this.feetY = Math.max(this.world<number>("floorHeight"), got.feet[1]);
    this.rig.updateMatrixWorld(true);
  }

  private get bodies() {
    return this.player.state.simulation.answering?.bodies;
  }

  /** Lifts a visitor who arrives inside a solid object on top of it, once it exists. */
  private settle(): void {
    const { bodies, head, rig } = this;
    if (this.hasArrived || this.player.state.simulation.awaitsBodies) return;
    const eye = this.world<number>("eyeHeight");
    // Before the visitor is in the world too, nothing can be asked of it.
    if (bodies && !bodies.walk([head.x, this.feetY, head.z], eye)) return;
    this.hasArrived = true;
    if (bodies) [, this.feetY] = bodies.onTop([head.x, this.feetY, head.z], eye);
    rig.updateMatrixWorld(true);
  }
  private hasArrived = false;

  /** Turns the visitor about where they stand. */
  private turn(degrees: number): void {
    const angle = (degrees * Math.PI) / 180;
    const [x, z] = [this.head.x, this.head.z];
    const { position } = this.rig;
    const [dx, dz] = [position.x - x, position.z - z];
    position.x = x + Math.cos(angle) * dx + Math.sin(angle) * dz;
    position.z = z - Math.sin(angle) * dx + Math.cos(angle) * dz;
    this.rig.rotation.y += angle;
    this.rig.updateMatrixWorld(true);
  }

  /** Shows where a teleport would go. */
  private aimThrow(hand: HandState, ray: Ray): void {
    const { points, landing } = throwAlong(ray, {
      scale: this.rig.scale.x,
      feetY: this.feetY,
      eye: this.world("eyeHeight"),
      floorY: this.world("teleports") === "solid" ? undefined : this.world("floorHeight"),
      bodies: this.bodies,
    });
    this.landing = landing;
    hand.line.geometry.setFromPoints(points);
    hand.line.visible = true;
    (hand.line.material as LineBasicMaterial).color.setHex(this.landing ? MARK_COLOUR : NOT_REACHED);
    this.target.visible = this.landing !== undefined;
    if (this.landing) this.target.position.copy(this.landing).y += 0.01;
    this.target.scale.setScalar(this.rig.scale.x);
  }

  /** Stands the visitor on a place. */
  private goTo(at: Vector3): void {
    this.rig.position.x += at.x - this.head.x;
    this.rig.position.z += at.z - this.head.z;
    this.feetY = at.y;
    this.rig.updateMatrixWorld(true);
  }

  /** Looks for the floor before the visitor, until the scene stands on it. */
  private feelFloor(frame: XRFrame): void {
    if (!this.hitSource || this.isPlaced || !this.space) return;
    const [hit] = frame.getHitTestResults(this.hitSource);
    const pose = hit?.getPose(this.space);
    this.floorHit = undefined;
    this.target.visible = pose !== undefined;
    if (!pose) return;
    const { x, y, z } = pose.transform.position;
    this.floorHit = new Vector3(x, y, z).applyMatrix4(this.rig.matrixWorld);
    this.target.position.copy(this.floorHit).y += 0.01;
    this.target.scale.setScalar(this.rig.scale.x);
  }

  /** Found position of the floor, until the scene is placed on it. */
  get foundFloor(): readonly number[] | undefined {
    return this.isPlaced ? undefined : this.floorHit?.toArray();
  }

  private rayOf(source: XRInputSource, frame: XRFrame): Ray | undefined {
    const pose = this.space && frame.getPose(source.targetRaySpace, this.space);
    if (!pose) return undefined;
    MATRIX.fromArray(pose.transform.matrix).premultiply(this.rig.matrixWorld);
    const from = new Vector3().setFromMatrixPosition(MATRIX);
    const way = new Vector3(0, 0, -1).transformDirection(MATRIX);
    return { from: from.toArray(), way: way.toArray() };
  }

  private giveHaptics(): void {
    const { answering } = this.player.state.simulation;
    for (const { by, strength, forMs } of this.player.takePulses(answering)) {
      for (const { handedness, gamepad } of this.session?.inputSources ?? []) {
        if ((by === "left" || by === "right") && handedness !== by) continue;
        const [actuator] = (gamepad?.hapticActuators ?? []) as unknown as {
          pulse(strength: number, forMs: number): Promise<boolean>;
        }[];
        void actuator?.pulse(strength, forMs).catch(() => undefined);
      }
    }
  }

  /** The eye and the hands of a take that is played again. */
  private followTake(): void {
    const { player, stage, head } = this;
    const { poses } = player.currentTake;
    const step = (player.run?.positionS() ?? 0) * STEPS_A_SECOND;
    for (const side of ["left", "right"] as const) {
      const { mark } = this.hands[side];
      if (poses[side].between(step, HAND_STEPS * 2, head)) mark.show(head, 1, false);
      else mark.hide();
    }
    if (!poses.head.between(step, HEAD_STEPS * 2, head)) return;
    if (stage.looker !== this.eye) {
      this.eye.copy(stage.sceneCamera, false);
      stage.looker = this.eye;
    }
    this.rig.position.set(0, 0, 0);
    this.rig.rotation.set(0, 0, 0);
    this.rig.scale.setScalar(1);
    this.eye.position.set(head.x, head.y, head.z);
    this.eye.rotation.set(
      (head.pitch * Math.PI) / 180,
      (head.yaw * Math.PI) / 180,
      (head.roll * Math.PI) / 180,
      "YXZ",
    );
    this.eye.fov = 80;
    this.eye.updateProjectionMatrix();
    stage.redraw();
  }

  dispose(): void {
    void this.leave();
    for (const stop of this.stops) stop();
    const { three } = this.stage;
    three.remove(this.rig, this.target);
    for (const { mark, line } of Object.values(this.hands)) {
      three.remove(line);
      mark.dispose();
      line.geometry.dispose();
    }
    this.target.geometry.dispose();
    this.sign?.dispose();
    this.stage.looker = undefined;
  }
}

const MATRIX = new Matrix4();
/** The matrix that {@link poseOf} was made of last. */
const LAST = new Matrix4();
const PLACE = new Vector3();
const TURN = new Quaternion();
const SIZE = new Vector3();
const ANGLES = new Euler();
const DEGREES = 180 / Math.PI;

/** A pose in the room as one in the scene. */
function poseOf(matrix: Float32Array, rig: Matrix4, out: Pose): void {
  LAST.fromArray(matrix).premultiply(rig);
  LAST.decompose(PLACE, TURN, SIZE);
  ANGLES.setFromQuaternion(TURN, "YXZ");
  out.x = PLACE.x;
  out.y = PLACE.y;
  out.z = PLACE.z;
  out.yaw = ANGLES.y * DEGREES;
  out.pitch = ANGLES.x * DEGREES;
  out.roll = ANGLES.z * DEGREES;
}
