import type { By } from "@bumbrel/core/document/take/take";
import type { ScenePlayer } from "../scenePlayer";
import { type Hit, hitAlong, type Ray } from "../stage/picking";
import type { Stage } from "../stage/stage";
import { answeringIds } from "./reachable";

/** A press that moves further than this is no tap, in pixels. */
const TAP_PX = 8;
/** How often a press that is held is told of, ms. */
const HOLD_EVERY_MS = 100;
/** A press that is held for longer than this is no tap any more, ms. */
const TAP_MS = 450;

interface Press {
  ray: Ray;
  hit: Hit | undefined;
  sinceMs: number;
  holds: number;
  /** Position on the screen where it began. */
  at: [x: number, y: number];
  isMoved: boolean;
}

/**
 * Taps, long presses and touches of a pointer, a finger or a controller's ray: finds what they are on, and records them for
 * the step that is taken next.
 */
export class Pointing {
  private readonly player: ScenePlayer;
  private readonly stage: Stage;
  private readonly by: By;
  private press: Press | undefined;
  private overId: string | undefined;

  constructor(player: ScenePlayer, stage: Stage, by: By) {
    this.player = player;
    this.stage = stage;
    this.by = by;
  }

  private get isRecording(): boolean {
    return this.player.run !== undefined && !this.player.isReplaying;
  }

  /** A button, a finger or a trigger goes down. */
  down(ray: Ray, nowMs: number, at: [x: number, y: number] = [0, 0]): void {
    if (!this.isRecording) return;
    this.press = { ray, hit: hitAlong(this.stage, ray), sinceMs: nowMs, holds: 0, at, isMoved: false };
  }

  /** It has moved on the screen: what moves far looks round. */
  moved(at: [x: number, y: number]): void {
    const { press } = this;
    if (press && Math.hypot(at[0] - press.at[0], at[1] - press.at[1]) > TAP_PX) press.isMoved = true;
  }

  /** True if a press hits something that waits to be pressed: then it does not turn the view. */
  get hit(): Hit | undefined {
    return this.press?.hit;
  }

  /** It goes up: a short press that did not move is a tap. */
  up(nowMs: number): void {
    const { press, by } = this;
    this.press = undefined;
    if (!press || press.isMoved || nowMs - press.sinceMs > TAP_MS || !this.isRecording) return;
    const { ray, hit } = press;
    const { currentTake, nextStep } = this.player;
    currentTake.record({ kind: "tap", step: nextStep, by, ...rounded(hit, ray), ...roundedRay(ray) });
  }

  cancel(): void {
    this.press = undefined;
  }

  /** Tells of a press that is held. Call it once a frame. */
  update(nowMs: number): void {
    const { press, by } = this;
    if (!press || press.isMoved || !this.isRecording) return;
    while (nowMs - press.sinceMs >= (press.holds + 1) * HOLD_EVERY_MS) {
      press.holds++;
      const { currentTake, nextStep } = this.player;
      const heldMs = press.holds * HOLD_EVERY_MS;
      currentTake.record({ kind: "hold", step: nextStep, by, heldMs, ...rounded(press.hit, press.ray) });
    }
  }

  /**
   * It points somewhere: tells of coming over things that wait to be touched.
   *
   * @param found  finds what the ray hits; asked only while something waits
   */
  over(ray: Ray, found = () => hitAlong(this.stage, ray)): void {
    if (!this.isRecording || answeringIds(this.player, ["touch"]).size === 0) return;
    const hit = found();
    const id = hit && `${hit.objectId} ${hit.copy}`;
    if (id === this.overId) return;
    this.overId = id;
    if (!hit) return;
    const { currentTake, nextStep } = this.player;
    currentTake.record({ kind: "over", step: nextStep, by: this.by, ...rounded(hit, ray) });
  }
}

type Three = [number, number, number];
/** Takes stay small when places are told to the millimetre. */
const mm = (values: Three): Three => values.map((one) => Math.round(one * 1000) / 1000) as Three;
const roundedRay = ({ from, way }: Ray) => ({
  from: mm(from),
  way: way.map((one) => Math.round(one * 1e4) / 1e4) as Three,
});

/** Hit of a ray; a ray that hits nothing ends some metres away. */
function rounded(hit: Hit | undefined, { from, way }: Ray) {
  if (hit) return { objectId: hit.objectId, copy: hit.copy, point: mm(hit.point) };
  const point = from.map((one, axis) => one + way[axis] * NOWHERE_M) as Three;
  return { objectId: null, copy: 0, point: mm(point) };
}
const NOWHERE_M = 5;
