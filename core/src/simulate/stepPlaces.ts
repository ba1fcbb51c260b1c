import { numberOf, type ObjectPlan } from "../evaluate/plan";
import type { ValueSource } from "../evaluate/values";
import type { Matrices } from "./matrix";
import { type Instances, newInstances, Placing } from "./placing";

/** Positions of objects at a step, each computed when it is first asked for. */
export class StepPlaces {
  readonly placing: Placing;
  readonly values: Float64Array;
  private readonly source: ValueSource;
  private timeS = 0;
  private turn = 0;
  private readonly evaluated = new Map<ObjectPlan, number>();
  private readonly placed = new Map<ObjectPlan, number>();
  private readonly instances = new Map<ObjectPlan, { turn: number; of: Instances }>();

  constructor(source: ValueSource) {
    this.source = source;
    this.values = Float64Array.from(source.plan.rest);
    this.placing = new Placing(source.plan, source.sums);
  }

  /** Moves to a step; what is asked for from now on is as of then. */
  moveTo(timeS: number): void {
    this.timeS = timeS;
    this.turn++;
  }

  /** One number of a property as of the step. */
  number(plan: ObjectPlan, key: string, axis = 0): number {
    this.evaluate(plan);
    return numberOf(plan, key, this.values, axis);
  }

  /** True if an object is visible. */
  isShown(plan: ObjectPlan): boolean {
    for (const one of this.placing.chainOf(plan)) this.evaluate(one);
    return this.placing.isShown(plan, this.values);
  }

  /** The transforms of an object: one, or one for each copy of the group it is in. */
  rootsOf(plan: ObjectPlan): { count: number; matrices: Matrices } {
    for (const one of this.placing.chainOf(plan)) {
      if (this.placed.get(one) === this.turn) continue;
      this.placed.set(one, this.turn);
      this.evaluate(one);
      this.placing.placeRoots(one, this.timeS, this.values);
    }
    return this.placing.rootsOf(plan);
  }

  /** The matrices of all instances of a body, before anything has moved it. */
  instancesOf(plan: ObjectPlan): Instances {
    let known = this.instances.get(plan);
    if (known?.turn === this.turn) return known.of;
    this.rootsOf(plan);
    const most = this.placing.maxInstances(plan);
    if (!known || known.of.matrices.length < most * 16) known = { turn: 0, of: newInstances(most) };
    this.instances.set(plan, known);
    known.turn = this.turn;
    this.placing.writeMatrices(plan, this.values, known.of);
    return known.of;
  }

  /** The matrices of a thing's copies; of one without copies, its own. */
  copiesOf(plan: ObjectPlan): { count: number; matrices: Matrices } {
    return plan.at.growth ? this.instancesOf(plan) : this.rootsOf(plan);
  }

  private evaluate(plan: ObjectPlan): void {
    if (this.evaluated.get(plan) === this.turn) return;
    this.evaluated.set(plan, this.turn);
    this.source.evaluatePlan(plan, this.timeS, this.values);
  }
}
