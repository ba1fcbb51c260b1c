import type { Scene } from "@bumbrel/core/document/scene";
import type { Stores } from "../archive/stores";
import type { PageParts } from "./pageCode";

/** A project that something is made of. */
export interface WayProject {
  projectId: string;
  /** The document as it is kept. */
  document: Scene;
  /** True if its programs may run: the user has allowed those that came from elsewhere. */
  programsAllowed: boolean;
  stores: Stores;
  parts: PageParts;
  signal?: AbortSignal;
}

/** Inputs of a way out. */
export interface WayRoom extends WayProject {
  /** The document as far as it may run: what is delivered holds no program that nobody has allowed. */
  scene: Scene;
}
