import { createStore, type UseStore } from "idb-keyval";

/**
 * A table in the browser's storage. Where there is none, as in a private window, nothing is done.
 *
 * @returns a function that carries something out in it, and gives `undefined` where there is none
 */
export function browserStorage(database: string, table: string) {
  let store: UseStore | undefined;
  return async <T>(action: (store: UseStore) => Promise<T>): Promise<T | undefined> => {
    try {
      store ??= createStore(database, table);
      return await action(store);
    } catch {
      return undefined;
    }
  };
}
