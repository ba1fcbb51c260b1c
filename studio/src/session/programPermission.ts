import type { Scene } from "@bumbrel/core/document/scene";
import { api } from "../api/client";

/** Permission for programs of a document that came from elsewhere. */
export class ProgramPermission {
  private readonly projectId: string;
  private readonly onAllowed: () => void;
  private held: { of: Scene; scene: Scene } | undefined;
  private allowed: boolean;

  /** @param onAllowed  called once they may run */
  constructor(projectId: string, allowed: boolean, onAllowed: () => void) {
    this.projectId = projectId;
    this.allowed = allowed;
    this.onAllowed = onAllowed;
  }

  get isAllowed(): boolean {
    return this.allowed;
  }

  /** Lets the programs run from now on. */
  async allow(): Promise<void> {
    await api.allowPrograms(this.projectId);
    this.allowed = true;
    this.onAllowed();
  }

  /** The scene without programs that may not run; the same object for the same scene. */
  allowedPart(scene: Scene): Scene {
    if (this.allowed || scene.programs.length === 0) return scene;
    if (this.held?.of !== scene) this.held = { of: scene, scene: { ...scene, programs: [] } };
    return this.held.scene;
  }
}
