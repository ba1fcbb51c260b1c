/**
 * Notifies listeners that results have changed: a sound has loaded, numbers have arrived, what is auditioned is another.
 * Listeners read the changed values from the parts of the session.
 */
export class Results {
  private readonly listeners = new Set<() => void>();

  /** Calls `listener` after each change; returns a function that stops that. */
  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly notify = (): void => {
    for (const listener of this.listeners) listener();
  };
}
