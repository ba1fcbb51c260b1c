import { useSyncExternalStore } from "react";
import { type Arrival, Arrivals } from "../../library/arrivals";
import { importAsset } from "../../library/importAsset";
import { BrowserImports } from "../../library/pendingImports";
import { prepareFile } from "../../library/prepareFile";
import { addStored, replaceSound } from "../sounds/edits";
import { addAsset } from "../stage/edits";
import { useWorkbench } from "./context";
import type { Workbench } from "./workbench";

const made = new WeakMap<Workbench, Arrivals>();

/** An open project's files on their way in: they go on whichever view is shown. */
export function arrivalsOf(workbench: Workbench): Arrivals {
  let arrivals = made.get(workbench);
  if (!arrivals) {
    arrivals = new Arrivals(
      workbench.projectId,
      {
        prepare: prepareFile,
        store: (...all) => workbench.library.store(...all),
        importAsset,
        show: (asset) => addAsset(workbench, asset),
        add: (name, kind, storedId) => addStored(workbench, name, kind, storedId),
        replace: (soundId, kind, storedId) => replaceSound(workbench, soundId, kind, storedId),
      },
      new BrowserImports(),
    );
    made.set(workbench, arrivals);
  }
  return arrivals;
}

/** The files on their way in, and what brings them. */
export function useArrivals(): { arrivals: Arrivals; list: readonly Arrival[] } {
  const arrivals = arrivalsOf(useWorkbench());
  return { arrivals, list: useSyncExternalStore(arrivals.subscribe, arrivals.all) };
}
