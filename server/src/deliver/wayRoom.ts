import type { Scene } from "@bumbrel/core/document/scene";
import type { Stores } from "../archive/stores";
import type { PageParts } from "./page";

/** What a way out is made from. */
export interface WayRoom {
  projectId: string;
  scene: Scene;
  /** Whether programs of the scene may run here: the user has allowed those that came from elsewhere. */
  programsAllowed: boolean;
  stores: Stores;
  parts: PageParts;
  signal?: AbortSignal;
}
