import { useMemo, useSyncExternalStore } from "react";
import { Arrivals } from "../../library/arrivals";
import { prepareFile } from "../../library/prepareFile";
import { useWorkbench } from "../project/context";
import { addStored, replaceSound } from "./edits";

/** Brings files into the project, and shows how far each of them is. */
export function useArrivals() {
  const workbench = useWorkbench();
  const arrivals = useMemo(
    () =>
      new Arrivals({
        prepare: prepareFile,
        store: (...all) => workbench.library.store(...all),
        add: (name, kind, storedId) => addStored(workbench, name, kind, storedId),
        replace: (soundId, kind, storedId) => replaceSound(workbench, soundId, kind, storedId),
      }),
    [workbench],
  );
  return { arrivals, list: useSyncExternalStore(arrivals.subscribe, arrivals.all) };
}
