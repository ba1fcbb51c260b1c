import { checkBudget } from "@bumbrel/core/check/budget";
import type { Scene } from "@bumbrel/core/document/scene";
import { type Collision, mergeScenes, type Side } from "@bumbrel/core/document/versions/merge";
import isEqual from "fast-deep-equal";
import { createStore, type StoreApi } from "zustand/vanilla";
import { Autosave, type AutosaveParts, type SaveState } from "./autosave";
import type { DraftKeeper } from "./drafts";
import { applyEdit, endGesture, type History, type Recipe, redo, undo } from "./history";

/** Readable state of an open document; changes by edits only, never by frames. */
export interface DocumentState {
  scene: Scene;
  saved: SaveState;
  undoLabel: string | undefined;
  redoLabel: string | undefined;
  /** Why the last edit was not carried out, if it was not. */
  refused: string | undefined;
  /** Conflicting changes from here and elsewhere; nothing is saved until a person has chosen. */
  collisions: readonly Collision[];
  /** How many times changes from elsewhere were taken in. */
  takenIn: number;
}

/** A project as the server has it. */
export interface Stored {
  revision: number;
  scene: Scene;
  /** The name of its last save; `null` when it was saved without one. */
  saveId: string | null;
}

export interface DocumentParts extends Omit<AutosaveParts, "onState"> {
  /** Asks the server for its newest state; rejects as a save does. */
  load(): Promise<Stored>;
  /** Called before an edit of a gesture, and at the end of one with `undefined`. */
  onEdit?(gesture: string | undefined): void;
}

/** The open project's document: its scene with history, saved on its own. */
export class DocumentStore {
  private readonly keeper: DraftKeeper | undefined;
  readonly store: StoreApi<DocumentState>;
  private history: History;
  private readonly parts: DocumentParts;
  private readonly autosave: Autosave;
  private elsewhere: Stored | undefined;
  private taking: Promise<void> | undefined;
  private isDisposed = false;

  /**
   * @param parts  how it is saved
   * @param keeper  keeps a draft of what has not been saved
   */
  constructor(parts: DocumentParts, keeper?: DraftKeeper) {
    const { scene } = parts;
    this.parts = parts;
    this.keeper = keeper;
    this.history = { scene, past: [], future: [] };
    this.store = createStore<DocumentState>(() => ({
      scene,
      saved: { kind: "saved" },
      undoLabel: undefined,
      redoLabel: undefined,
      refused: undefined,
      collisions: [],
      takenIn: 0,
    }));
    this.autosave = new Autosave({
      ...parts,
      onState: (saved) => {
        if (saved.kind === "saved") keeper?.saved();
        // Somebody else saved first: their edits and these go together wherever they can.
        if (saved.kind === "conflict") void this.takeIn();
        else if (!isEqual(saved, this.store.getState().saved)) this.store.setState({ saved });
      },
    });
  }

  /** The project has another revision on the server than a save from here gave it, or was deleted there. */
  async changedElsewhere(revision: number | "gone"): Promise<void> {
    await this.autosave.settled();
    if (this.isDisposed) return;
    const { saved } = this.store.getState();
    if (revision === "gone") {
      this.autosave.stop();
      this.store.setState({ saved: { kind: "gone", message: "The project was deleted elsewhere." } });
    } else if (saved.kind === "gone") await this.resume();
    else if (revision > this.autosave.base.revision) await this.takeIn();
  }

  /** Goes on after collisions, with what was chosen for each of them. */
  choose(sides: readonly Side[]): void {
    const { elsewhere } = this;
    if (!elsewhere) return;
    let next = 0;
    this.adopt(elsewhere, this.mergedWith(elsewhere, () => sides[next++] ?? "mine").scene);
  }

  get scene(): Scene {
    return this.history.scene;
  }

  /** The document here, elsewhere, and as it was when both parted. */
  get versions(): Scene[] {
    const { scene } = this.autosave.base;
    return [this.scene, scene, ...(this.elsewhere ? [this.elsewhere.scene] : [])];
  }

  /** True if something has not reached the server yet. */
  get isBehind(): boolean {
    return this.store.getState().saved.kind !== "saved";
  }

  /**
   * Changes the document as one undoable step. An edit by which the document would hold more than it may is not carried
   * out: it could never be saved.
   *
   * @param label  what was done, for "Undo: …"
   * @param gesture  edits in a row with the same key become one step
   */
  edit(label: string, recipe: Recipe, gesture?: string): void {
    this.parts.onEdit?.(gesture);
    const next = applyEdit(this.history, label, recipe, gesture);
    const [over] = next.scene === this.scene ? [] : checkBudget(next.scene);
    if (over && checkBudget(this.scene).length === 0) {
      this.store.setState({ refused: `This was not done (${label}): ${over.what}. ${over.remedy}.` });
      return;
    }
    if (this.store.getState().refused !== undefined) this.dismissRefusal();
    this.set(next);
  }

  /** Dismisses the message about an edit that was not carried out. */
  readonly dismissRefusal = (): void => this.store.setState({ refused: undefined });

  /** Ends a gesture: the next edit is a step of its own. */
  endGesture(): void {
    this.parts.onEdit?.(undefined);
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
    this.isDisposed = true;
    void this.keeper?.flush();
    void this.autosave.flush().finally(() => this.autosave.stop());
  }

  private set(history: History): void {
    if (history === this.history) return;
    const isSceneNew = history.scene !== this.history.scene;
    this.history = history;
    if (isSceneNew) {
      this.autosave.changed(history.scene);
      this.keepDraft();
    }
    this.store.setState({
      scene: history.scene,
      undoLabel: history.past.at(-1)?.label,
      redoLabel: history.future[0]?.label,
    });
  }

  private keepDraft(): void {
    const { revision, scene: base } = this.autosave.base;
    this.keeper?.edited({ revision, base, scene: this.scene, editedMs: Date.now() });
  }

  /** Takes in what was saved elsewhere, once at a time. */
  private takeIn(): Promise<void> {
    this.taking ??= this.loadAndMerge().finally(() => {
      this.taking = undefined;
    });
    return this.taking;
  }

  private async loadAndMerge(): Promise<void> {
    let elsewhere: Stored;
    try {
      elsewhere = await this.parts.load();
    } catch (error) {
      if (this.isDisposed) return;
      const message = (error as Error).message;
      const isGone = this.parts.failureOf(error) === "gone";
      this.store.setState({ saved: { kind: isGone ? "gone" : "failed", message } });
      if (!isGone) setTimeout(() => this.isDisposed || this.takeIn(), this.parts.retryMs ?? RETRY_MS);
      return;
    }
    if (this.isDisposed || elsewhere.revision <= this.autosave.base.revision) return;
    // The answer to a save from here was lost on the way: it is what the edits since build on.
    if (this.autosave.isOwn(elsewhere.saveId)) {
      this.autosave.rebase(elsewhere, this.scene);
      return;
    }
    const { scene, collisions } = this.mergedWith(elsewhere);
    if (collisions.length === 0) {
      this.adopt(elsewhere, scene);
      return;
    }
    this.elsewhere = elsewhere;
    this.autosave.stop();
    this.store.setState({
      collisions,
      saved: { kind: "conflict", message: "The same was changed elsewhere, in another way." },
    });
  }

  private mergedWith({ scene }: Stored, choose?: (collision: Collision) => Side) {
    return mergeScenes(this.autosave.base.scene, this.scene, scene, choose);
  }

  /** Goes on with a scene that includes what the server has. */
  private adopt(elsewhere: Stored, merged: Scene): void {
    // A scene that is the same is kept as the same, so that nothing is saved for nothing.
    const scene = isEqual(merged, elsewhere.scene) ? elsewhere.scene : merged;
    this.elsewhere = undefined;
    this.history = { ...endGesture(this.history), scene };
    this.store.setState({ scene, collisions: [], takenIn: this.store.getState().takenIn + 1 });
    this.autosave.rebase(elsewhere, scene);
    if (scene !== elsewhere.scene) this.keepDraft();
  }
}

/** Time before the newest state is asked for again, ms. */
const RETRY_MS = 3000;
