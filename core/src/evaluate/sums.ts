import type { ActiveBinding } from "./activeBinding";
import type { Slot } from "./slots";

/** Integrals over time that values depend on: rate bindings, and properties that are speeds. */
export interface Sums {
  /** Integral of a rate binding up to a time; of a fan the mean of its bands, or between two of them. */
  rateAt(active: ActiveBinding, timeS: number, band?: number): number;
  /**
   * Integral of a property that is a speed.
   *
   * @param values  as evaluated at that time
   */
  integralAt(slot: Slot, timeS: number, values: Float64Array): number;
}
