import { metaQuest3, XRDevice } from "iwer";
import { MadeUpRoom } from "./madeUpRoom";

/** Metres a second and degrees a second that keys move the head by. */
const WALK_SPEED = 1.4;
const TURN_SPEED = 70;
const EYE_M = 1.6;
/** How far before the head hands are held, at first, nearest and farthest. */
const REACH = { first: 0.45, least: 0.2, most: 0.9 };
const WHEEL_M = 0.0006;

export type MadeUpInput = "controllers" | "hands";
type Side = "left" | "right";

/**
 * A made-up headset, with two controllers or hands, that pointer and keys move: the stand-in for a real one. The browser’s own
 * WebXR is replaced while it is there.
 *
 * W A S D walk, the arrows turn the head, Q and E go down and up. Moving the pointer moves the right hand, with Shift the left;
 * the wheel moves it nearer and farther; a click pulls its trigger, G holds on to what it reaches, T teleports.
 */
export class MadeUpHeadset {
  readonly device: XRDevice;
  /** The hand whose stick T pushes to teleport. */
  leading: Side = "right";
  private readonly element: HTMLElement;
  private readonly keys = new Set<string>();
  private readonly reach = { left: REACH.first, right: REACH.first };
  private readonly aim = { left: [-0.25, -0.25], right: [0.25, -0.25] };
  private yaw = 0;
  private pitch = 0;
  private beforeMs = 0;
  /** Aborted when it ends: all listening ends with it. */
  private readonly ended = new AbortController();

  /** @param element  what takes pointers and keys, where the picture is shown */
  constructor(element: HTMLElement, showsBothEyes: boolean) {
    this.element = element;
    this.device = new XRDevice(metaQuest3, { stereoEnabled: showsBothEyes });
    this.device.installSEM(MadeUpRoom as unknown as Parameters<XRDevice["installSEM"]>[0]);
    this.device.installRuntime({ forceInstall: true });
    this.device.position.set(0, EYE_M, 0);
    this.moveHands();
    const listening = { signal: this.ended.signal, passive: false };
    addEventListener("pointermove", (event) => this.point(event), listening);
    addEventListener("pointerdown", (event) => this.trigger(event, 1), listening);
    addEventListener("pointerup", (event) => this.trigger(event, 0), listening);
    addEventListener("wheel", (event) => this.stretch(event), listening);
    addEventListener("keydown", (event) => this.key(event, true), listening);
    addEventListener("keyup", (event) => this.key(event, false), listening);
    addEventListener("blur", () => this.keys.clear(), listening);
  }

  set showsBothEyes(both: boolean) {
    this.device.stereoEnabled = both;
  }

  set input(input: MadeUpInput) {
    this.device.primaryInputMode = input === "hands" ? "hand" : "controller";
  }

  /** Position and direction of the head. */
  get head(): { position: [number, number, number]; yaw: number; pitch: number } {
    const { x, y, z } = this.device.position;
    return { position: [x, y, z], yaw: this.yaw, pitch: this.pitch };
  }

  /** Moves what keys are held down for. Call it once a frame. */
  update(nowMs: number): void {
    const s = this.beforeMs > 0 ? Math.min(0.1, (nowMs - this.beforeMs) / 1000) : 0;
    this.beforeMs = nowMs;
    const { keys, device } = this;
    const way = (more: string, less: string) => Number(keys.has(more)) - Number(keys.has(less));
    this.yaw += way("ArrowLeft", "ArrowRight") * TURN_SPEED * s;
    this.pitch = Math.max(-85, Math.min(85, this.pitch + way("ArrowUp", "ArrowDown") * TURN_SPEED * s));
    const angle = (this.yaw * Math.PI) / 180;
    const ahead = way("KeyW", "KeyS") * WALK_SPEED * s;
    const right = way("KeyD", "KeyA") * WALK_SPEED * s;
    const up = way("KeyE", "KeyQ") * WALK_SPEED * s;
    const { x, y, z } = device.position;
    device.position.set(
      x - Math.sin(angle) * ahead + Math.cos(angle) * right,
      Math.max(0.3, y + up),
      z - Math.cos(angle) * ahead - Math.sin(angle) * right,
    );
    const [sy, cy] = [Math.sin(angle / 2), Math.cos(angle / 2)];
    const half = (this.pitch * Math.PI) / 360;
    const [sx, cx] = [Math.sin(half), Math.cos(half)];
    device.quaternion.set(cy * sx, sy * cx, -sy * sx, cy * cx);
    this.moveHands();
    this.fit();
  }

  /** Shows what the headset shows where the stage is: by itself it would cover the page. */
  private fit(): void {
    const { device, element } = this;
    const canvas = device.appCanvas;
    if (!canvas) return;
    const { left, top, width, height } = element.getBoundingClientRect();
    const [w, h] = [Math.max(1, Math.round(width)), Math.max(1, Math.round(height))];
    // The device takes the size of the window whenever a session begins.
    if (canvas.width !== w) canvas.width = w;
    if (canvas.height !== h) canvas.height = h;
    Object.assign(device.canvasContainer.style, {
      left: `${left}px`,
      top: `${top}px`,
      width: `${width}px`,
      height: `${height}px`,
      zIndex: "5",
      pointerEvents: "none",
    });
  }

  /** Looks down by an angle, degrees. */
  lookDown(degrees: number): void {
    this.pitch = -degrees;
  }

  /** Puts a hand somewhere by itself: metres before, beside and above the head. */
  holdHand(side: Side, right: number, up: number, ahead: number): void {
    this.aim[side] = [right, up];
    this.reach[side] = ahead;
    this.moveHands();
  }

  private moveHands(): void {
    const { device } = this;
    const q = device.quaternion;
    for (const side of ["left", "right"] as const) {
      const [x, y] = this.aim[side];
      const local: [number, number, number] = [x, y, -this.reach[side]];
      const [px, py, pz] = turned([q.x, q.y, q.z, q.w], local);
      const at = [device.position.x + px, device.position.y + py, device.position.z + pz] as const;
      for (const input of [device.controllers[side], device.hands[side]]) {
        input?.position.set(...at);
        input?.quaternion.set(q.x, q.y, q.z, q.w);
      }
    }
  }

  private sideOf({ shiftKey }: { shiftKey: boolean }): Side {
    return shiftKey ? "left" : "right";
  }

  private isOver({ clientX, clientY }: { clientX: number; clientY: number }): boolean {
    const { left, top, right, bottom } = this.element.getBoundingClientRect();
    return clientX >= left && clientX <= right && clientY >= top && clientY <= bottom;
  }

  private point(event: PointerEvent): void {
    if (!this.isOver(event)) return;
    const side = this.sideOf(event);
    const { left, top, width, height } = this.element.getBoundingClientRect();
    const high = this.reach[side] * 0.9;
    this.aim[side] = [
      ((event.clientX - left) / width - 0.5) * 2 * high * (width / height),
      (0.5 - (event.clientY - top) / height) * 2 * high,
    ];
    this.moveHands();
  }

  private trigger(event: PointerEvent, value: number): void {
    if (event.button !== 0 || (value > 0 && !this.isOver(event))) return;
    this.press(this.sideOf(event), value);
  }

  /** Pulls a trigger or closes two fingers, 0 to 1. */
  press(side: Side, value: number): void {
    this.device.controllers[side]?.updateButtonValue("trigger", value);
    this.device.hands[side]?.updatePinchValue(value);
  }

  /** Holds on with a hand, 0 to 1. */
  squeeze(side: Side, value: number): void {
    this.device.controllers[side]?.updateButtonValue("squeeze", value);
  }

  /** Pushes a controller’s stick. */
  stick(side: Side, x: number, y: number): void {
    this.device.controllers[side]?.updateAxes("thumbstick", x, y);
  }

  private stretch(event: WheelEvent): void {
    if (!this.isOver(event)) return;
    event.preventDefault();
    const side = this.sideOf(event);
    this.reach[side] = Math.max(REACH.least, Math.min(REACH.most, this.reach[side] - event.deltaY * WHEEL_M));
    this.moveHands();
  }

  private key(event: KeyboardEvent, isDown: boolean): void {
    const { code } = event;
    if (event.target instanceof Element && event.target.matches("input, textarea, select")) return;
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const side = this.sideOf(event);
    if (code === "KeyG") this.squeeze(side, isDown ? 1 : 0);
    else if (code === "KeyT") this.stick(this.leading, 0, isDown ? -1 : 0);
    else if (!KEYS.has(code)) return;
    if (isDown) this.keys.add(code);
    else this.keys.delete(code);
    event.preventDefault();
  }

  dispose(): void {
    this.ended.abort();
    this.device.uninstallRuntime();
  }
}

const KEYS = new Set([
  "KeyW",
  "KeyA",
  "KeyS",
  "KeyD",
  "KeyQ",
  "KeyE",
  "ArrowLeft",
  "ArrowRight",
  "ArrowUp",
  "ArrowDown",
]);

type Three = [number, number, number];
function turned([qx, qy, qz, qw]: [number, number, number, number], [x, y, z]: Three): Three {
  const [tx, ty, tz] = [2 * (qy * z - qz * y), 2 * (qz * x - qx * z), 2 * (qx * y - qy * x)];
  return [x + qw * tx + qy * tz - qz * ty, y + qw * ty + qz * tx - qx * tz, z + qw * tz + qx * ty - qy * tx];
}
