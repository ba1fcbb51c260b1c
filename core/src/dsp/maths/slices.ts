/** Work in slices: each turn of the generator is a short piece of it, and what it returns is the result. */
export type Sliced<T> = Generator<void, T, void>;

/** Does sliced work at once. */
export function finish<T>(work: Generator<unknown, T, void>): T {
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
  }
}
