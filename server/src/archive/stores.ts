import type { Database } from "../db/open";
import { AssetStore } from "../store/assets";
import { BlobStore } from "../store/blobs";
import { ProjectStore } from "../store/projects";
import { SoundStore } from "../store/sounds";

/** The stores that archives are made from and read into. */
export interface Stores {
  projects: ProjectStore;
  sounds: SoundStore;
  assets: AssetStore;
}

export function storesOf(db: Database): Stores {
  const blobs = new BlobStore(db);
  return {
    projects: new ProjectStore(db),
    sounds: new SoundStore(db, blobs),
    assets: new AssetStore(db, blobs),
  };
}
