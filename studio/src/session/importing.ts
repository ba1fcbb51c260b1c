import type { DocumentStore } from "../document/documentStore";
import { Arrivals } from "../library/arrivals";
import { importAsset } from "../library/importAsset";
import { BrowserImports } from "../library/pendingImports";
import { prepareFile } from "../library/prepareFile";
import type { SoundLibrary } from "../library/soundLibrary";
import { addStored, replaceSound } from "./edits/sounds";
import { addAsset } from "./edits/stage";

/** An open project's files on their way in; they keep arriving whichever view is shown. */
export const makeArrivals = (projectId: string, document: DocumentStore, library: SoundLibrary): Arrivals =>
  new Arrivals(
    projectId,
    {
      prepare: prepareFile,
      store: (...all) => library.store(...all),
      importAsset,
      show: (asset) => addAsset(document, asset),
      add: (name, kind, storedId) => addStored(document, name, kind, storedId),
      replace: (soundId, kind, storedId) => replaceSound(document, soundId, kind, storedId),
    },
    new BrowserImports(),
  );
