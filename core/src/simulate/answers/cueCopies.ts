import type { ScenePlan } from "../../evaluate/plan";
import { settingOf } from "../../kinds/table";
import { platform } from "../../platform";
import type { Point } from "../bodies/bodies";
import { toLocal } from "../matrix";
import type { StepPlaces } from "../stepPlaces";

/** Copies that actions have put somewhere: when each was born, and its place about the object's middle. */
interface PutCopies {
  /** −1 for a copy that is not there. */
  bornS: number[];
  places: number[];
}

/** State from step to step, by object: plain data. */
export type CueCopiesState = Record<string, PutCopies>;

/** The copies of objects whose formation is "cues": each is put somewhere by an action, and ends after its time. */
export class CueCopies {
  private state: CueCopiesState = {};

  constructor(
    private readonly plan: ScenePlan,
    private readonly places: StepPlaces,
  ) {}

  begin(): void {
    this.state = {};
    this.layOut();
  }

  save(): CueCopiesState {
    return platform.structuredClone(this.state);
  }

  restore(state: CueCopiesState): void {
    this.state = platform.structuredClone(state);
  }

  /**
   * Puts a copy somewhere.
   *
   * @param placeOf  the place, m in the scene, from the middle of the object
   * @returns which copy it is and where; undefined for an object without such copies
   */
  put(
    objectId: string,
    placeOf: (middle: Point) => Point,
    atS: number,
  ): { copy: number; point: Point } | undefined {
    const plan = this.plan.of(objectId);
    const copies = plan?.copies;
    if (!plan || !copies || settingOf(plan.object, "formation") !== "cues") return undefined;
    const own = this.places.rootsOf(plan).matrices;
    const point = placeOf([own[12], own[13], own[14]]);
    const list = this.copiesOf(objectId, copies.most);
    // A free place, else that of the oldest.
    let copy = list.bornS.indexOf(-1);
    if (copy < 0) copy = list.bornS.indexOf(Math.min(...list.bornS));
    toLocal(own, 0, ...point, LOCAL);
    list.bornS[copy] = atS;
    for (let axis = 0; axis < 3; axis++) list.places[copy * 3 + axis] = LOCAL[axis];
    this.layOut();
    return { copy, point };
  }

  /** Takes away copies whose time is over. */
  endOld(timeS: number, onEnd: (objectId: string, copy: number) => void): void {
    let isChanged = false;
    for (const [objectId, { bornS }] of Object.entries(this.state)) {
      const plan = this.plan.of(objectId);
      const lifeS = plan ? (settingOf(plan.object, "copyLife") as number) : 0;
      bornS.forEach((born, copy) => {
        if (born < 0 || timeS - born < lifeS) return;
        bornS[copy] = -1;
        onEnd(objectId, copy);
        isChanged = true;
      });
    }
    if (isChanged) this.layOut();
  }

  /** Hands the copies that are there to whatever lays copies out. */
  layOut(): void {
    for (const { object, copies } of this.plan.plans) {
      if (!copies || settingOf(object, "formation") !== "cues") continue;
      const { bornS, places } = this.copiesOf(object.id, copies.most);
      copies.setCued(
        Float32Array.from(places),
        Float32Array.from(bornS, (born) => (born < 0 ? 0 : 1)),
      );
    }
  }

  private copiesOf(objectId: string, most: number): PutCopies {
    this.state[objectId] ??= {
      bornS: Array.from({ length: most }, () => -1),
      places: Array.from({ length: most * 3 }, () => 0),
    };
    return this.state[objectId];
  }
}

const LOCAL = new Float64Array(3);
