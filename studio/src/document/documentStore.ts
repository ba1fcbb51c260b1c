import { checkBudget } from "@bumbrel/core/check/budget";
import type { Scene } from "@bumbrel/core/document/scene";
import { createStore, type StoreApi } from "zustand/vanilla";
import { Autosave, type AutosaveParts, type SaveState } from "./autosave";
import type { DraftKeeper } from "./drafts";
import { applyEdit, endGesture, type History, type Recipe, redo, undo } from "./history";

/** What can be read of an open document; changes by edits only, never by frames. */
export interface DocumentState {
  scene: Scene;
  saved: SaveState;
  undoLabel: string | undefined;
  redoLabel: string | undefined;
  /** Why the last edit was not carried out, if it was not. */
  refused: string | undefined;
}

/** The open project's document: its scene with history, saved on its own. */
export class DocumentStore {
  private readonly keeper: DraftKeeper | undefined;
  readonly store: StoreApi<DocumentState>;
  private history: History;
  private readonly autosave: Autosave;

  /**
   * @param parts  how it is saved
   * @param keeper  keeps a draft of what has not been saved
   */
  constructor(scene: Scene, parts: Omit<AutosaveParts, "onState">, keeper?: DraftKeeper) {
    this.keeper = keeper;
    this.history = { scene, past: [], future: [] };
    this.store = createStore<DocumentState>(() => ({
      scene,
      saved: { kind: "saved" },
      undoLabel: undefined,
      redoLabel: undefined,
      refused: undefined,
    }));
    this.autosave = new Autosave({
      ...parts,
      onState: (saved) => {
        if (saved.kind === "saved") keeper?.saved();
        this.store.setState({ saved });
      },
    });
  }

  get scene(): Scene {
    return this.history.scene;
  }

  /** Whether something has not reached the server yet. */
  get isBehind(): boolean {
    return this.store.getState().saved.kind !== "saved";
  }

  /**
   * Changes the document as one undoable step.
   *
   * @param label  what was done, for "Undo: …"
   * An edit by which the document would hold more than it may is not carried out: it could never be saved.
   *
   * @param gesture  edits in a row with the same key become one step
   */
  edit(label: string, recipe: Recipe, gesture?: string): void {
    const next = applyEdit(this.history, label, recipe, gesture);
    const [over] = next.scene === this.scene ? [] : checkBudget(next.scene);
    if (over && checkBudget(this.scene).length === 0) {
      this.store.setState({ refused: `This was not done (${label}): ${over.what}. ${over.remedy}.` });
      return;
    }
    if (this.store.getState().refused !== undefined) this.dismissRefusal();
    this.set(next);
  }

  /** What was said about an edit that was not carried out has been read. */
  readonly dismissRefusal = (): void => this.store.setState({ refused: undefined });

  /** Ends a gesture: the next edit is a step of its own. */
  endGesture(): void {
    this.history = endGesture(this.history);
  }

  readonly undo = (): void => this.set(undo(this.history));
  readonly redo = (): void => this.set(redo(this.history));

  /** Saves again after a deleted project has been restored. */
  resume(): Promise<void> {
    return this.autosave.resume();
  }

  /** Saves any unsaved changes, and resolves when they are saved. */
  flush(): Promise<void> {
    return this.autosave.flush();
  }

  /** Stops saving, and forgets the draft of what was not saved: it is kept elsewhere, or not wanted. */
  async abandon(): Promise<void> {
    this.autosave.stop();
    this.keeper?.saved();
    this.store.setState({ saved: { kind: "saved" } });
    await this.keeper?.flush();
  }

  /** Saves any unsaved changes and stops. */
  dispose(): void {
    void this.keeper?.flush();
    void this.autosave.flush().finally(() => this.autosave.stop());
  }

  private set(history: History): void {
    if (history === this.history) return;
    const isSceneNew = history.scene !== this.history.scene;
    this.history = history;
    if (isSceneNew) {
      this.autosave.changed(history.scene);
      this.keeper?.edited({ revision: this.autosave.base, scene: history.scene, editedMs: Date.now() });
    }
    this.store.setState({
      scene: history.scene,
      undoLabel: history.past.at(-1)?.label,
      redoLabel: history.future[0]?.label,
    });
  }
}
