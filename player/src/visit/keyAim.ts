import type { Vector3 } from "three";
import type { ScenePlayer } from "../scenePlayer";
import { hitAlong, rayAt } from "../stage/picking";
import type { Stage } from "../stage/stage";
import type { Pointing } from "./pointer";
import {
  answeringIds,
  answersOf,
  isKeyAskedFor,
  keyName,
  labelOf,
  type Reachable,
  reachables,
} from "./reachable";
import type { VisitWords } from "./visitWords";

/** How often the thing that is aimed at is looked up, ms. */
const LOOK_EVERY_MS = 150;
const TAP_KEYS = new Set(["Enter", "Space"]);
const NEXT_KEY = "KeyN";

/** Gives what turns the visitor's head towards a point of the stage; `undefined` while only the aim can move. */
export type TurnTo = (() => ((point: Vector3) => void) | undefined) | undefined;

/**
 * Taps by keyboard: Enter or Space taps what is under the aim, which is in the middle of the picture at first; N aims at the
 * next thing that answers, Shift and N at the one before. What is aimed at is read out.
 */
export class KeyAim {
  /** The aimed-at point of the picture: x and y from 0 (left, top) to 1. */
  readonly at: [x: number, y: number] = [0.5, 0.5];
  private readonly player: ScenePlayer;
  private readonly stage: Stage;
  private readonly pointing: Pointing;
  private readonly words: VisitWords | undefined;
  private readonly turnTo: TurnTo;
  private isInUse = false;
  private aimedAt = "";
  private lookedMs = 0;
  private pressed: string | undefined;

  constructor(
    player: ScenePlayer,
    stage: Stage,
    pointing: Pointing,
    words: VisitWords | undefined,
    turnTo?: TurnTo,
  ) {
    this.player = player;
    this.stage = stage;
    this.pointing = pointing;
    this.words = words;
    this.turnTo = turnTo;
  }

  /**
   * Takes a key that went down.
   *
   * @returns whether it was one of its keys
   */
  down(event: KeyboardEvent, nowMs: number): boolean {
    const { code, shiftKey, repeat } = event;
    if (isKeyAskedFor(this.player, keyName(event))) return false;
    if (code === NEXT_KEY) {
      this.next(shiftKey ? -1 : 1);
      return true;
    }
    if (!TAP_KEYS.has(code)) return false;
    if (repeat) return true;
    this.show();
    this.pressed = code;
    this.pointing.down(rayAt(this.stage, ...this.at), nowMs);
    return true;
  }

  up(code: string, nowMs: number): void {
    if (this.pressed !== code) return;
    this.pressed = undefined;
    this.pointing.up(nowMs);
  }

  /** Moves the aim over the picture, by shares of its width and height. */
  move(x: number, y: number): void {
    const limit = (value: number) => Math.max(0, Math.min(1, value));
    this.at[0] = limit(this.at[0] + x);
    this.at[1] = limit(this.at[1] + y);
    this.show();
  }

  /** A pointer is used instead: the aim is in the middle again, unseen. */
  leave(): void {
    this.isInUse = false;
    this.at.fill(0.5);
    this.words?.hideAim();
    if (this.pressed !== undefined) this.pointing.cancel();
    this.pressed = undefined;
  }

  /** Shows the aim: keys are in use. */
  show(): void {
    this.isInUse = true;
    this.words?.showAim(...this.at);
  }

  /** Reads out what has come under the aim. Call it once a frame. */
  update(nowMs: number): void {
    if (!this.isInUse || nowMs - this.lookedMs < LOOK_EVERY_MS) return;
    this.lookedMs = nowMs;
    const ray = rayAt(this.stage, ...this.at);
    const hit = hitAlong(this.stage, ray);
    this.pointing.over(ray, () => hit);
    const object = hit && this.stage.entries.get(hit.objectId)?.source.object;
    const isTold =
      object !== undefined && (answeringIds(this.player).has(object.id) || object.settings.spokenLabel);
    const id = isTold ? `${object.id} ${hit!.copy}` : "";
    if (id === this.aimedAt) return;
    this.aimedAt = id;
    if (isTold) this.tell({ objectId: object.id, copy: hit!.copy });
  }

  private tell({ objectId, copy }: Pick<Reachable, "objectId" | "copy">): void {
    const object = this.stage.entries.get(objectId)?.source.object;
    if (!object) return;
    const copies = reachables(this.player, this.stage).filter((one) => one.objectId === objectId).length;
    const answers = answersOf(this.player, objectId);
    this.words?.say([labelOf(object, copy, copies), ...(answers ? [answers] : [])].join(", "));
  }

  /** Aims at the next thing that answers, or the one before. */
  private next(by: 1 | -1): void {
    const all = reachables(this.player, this.stage).filter(({ point }) => this.canAim(point));
    if (all.length === 0) {
      this.show();
      this.words?.say("Nothing in sight answers.");
      return;
    }
    const at = all.findIndex(({ objectId, copy }) => `${objectId} ${copy}` === this.aimedAt);
    const chosen = all[at < 0 ? (by > 0 ? 0 : all.length - 1) : (at + by + all.length) % all.length];
    const turn = this.turnTo?.();
    if (turn) {
      turn(chosen.point);
      this.at.fill(0.5);
    } else {
      const { x, y } = chosen.point.clone().project(this.stage.camera);
      this.at[0] = (x + 1) / 2;
      this.at[1] = (1 - y) / 2;
    }
    this.show();
    this.aimedAt = `${chosen.objectId} ${chosen.copy}`;
    this.tell(chosen);
  }

  /** True for points that can be aimed at: all of them where the head can turn, else those in the picture. */
  private canAim(point: Vector3): boolean {
    if (this.turnTo?.()) return true;
    const { x, y, z } = point.clone().project(this.stage.camera);
    return Math.abs(x) <= 1 && Math.abs(y) <= 1 && z < 1;
  }
}
