import { randomUUID } from "node:crypto";
import { EventEmitter } from "node:events";
import type { DeletedProject, LoadedProject, ProjectSummary } from "@bumbrel/api/contracts";
import { parseScene } from "@bumbrel/core/check/readScene";
import type { Scene } from "@bumbrel/core/document/scene";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import { isKnownSound, isMade, isStored } from "@bumbrel/core/sound/kinds";
import { and, desc, eq, inArray, isNotNull, isNull, or, sql } from "drizzle-orm";
import type { Database } from "../db/open";
import { blobs, examples, projects, sounds } from "../db/schema";
import { BIN_DAYS, DAY_MS } from "./cleanUp";
import { StateStore } from "./projectStates";

/** Outcome of a save: the new revision, or the one that is there instead. */
export type SaveOutcome = { saved: true; revision: number } | { saved: false; revision: number };

/** Projects and their scene documents. */
export class ProjectStore {
  /** Earlier saved states. */
  readonly states: StateStore;
  private readonly db: Database;
  private readonly changes = new EventEmitter().setMaxListeners(0);
  private listening: Promise<void> | undefined;

  constructor(db: Database) {
    this.db = db;
    this.states = new StateStore(db);
  }

  /**
   * Calls back after each change of a project's revision or of its being there, by this process or another one on the
   * same database; more often than that, perhaps.
   *
   * @returns a function that stops that
   */
  async watch(id: string, onChange: () => void): Promise<() => void> {
    this.listening ??= this.db
      .listen("project_changes", (changed) => {
        const names = changed === undefined ? this.changes.eventNames() : [changed];
        for (const name of names) this.changes.emit(name);
      })
      .catch((error) => {
        this.listening = undefined;
        throw error;
      });
    await this.listening;
    this.changes.on(id, onChange);
    return () => this.changes.off(id, onChange);
  }

  /** A project's newest revision; `undefined` when it is not there or deleted. */
  async revisionOf(id: string): Promise<number | undefined> {
    const [row] = await this.db
      .select({ revision: projects.revision })
      .from(projects)
      .where(and(eq(projects.id, id), isNull(projects.deletedAt)));
    return row?.revision;
  }

  async list(): Promise<ProjectSummary[]> {
    const rows = await this.db
      .select({
        id: projects.id,
        name: projects.name,
        about: projects.about,
        sounds: projects.sounds,
        changedAt: projects.changedAt,
        hasThumbnail: sql<boolean>`${projects.thumbnail} is not null`,
      })
      .from(projects)
      .where(isNull(projects.deletedAt))
      .orderBy(desc(projects.changedAt));
    const lists = rows.map(({ sounds }) => (Array.isArray(sounds) ? sounds.filter(isKnownSound) : []));
    const facts = await this.factsOf(lists);
    return rows.map(({ id, name, about, changedAt, hasThumbnail }, i) => {
      const heard = filesOf(lists[i]).find((sound) => sound.heard && facts[sound.storedId]);
      return {
        id,
        name: name ?? "",
        about: about ?? "",
        changedAt: changedAt.toISOString(),
        durationS: Math.max(
          0,
          ...lists[i].map((sound) =>
            isStored(sound) ? (facts[sound.storedId]?.durationS ?? 0) : isMade(sound) ? sound.seconds : 0,
          ),
        ),
        bandPrint: heard ? facts[heard.storedId].bandPrint : [],
        hasThumbnail,
      };
    });
  }

  async get(id: string): Promise<LoadedProject | undefined> {
    const [row] = await this.db
      .select({
        id: projects.id,
        revision: projects.revision,
        saveId: projects.saveId,
        scene: projects.scene,
        programsAllowed: projects.programsAllowed,
      })
      .from(projects)
      .where(and(eq(projects.id, id), isNull(projects.deletedAt)));
    if (!row) return undefined;
    // Migrate scenes of older versions as they are opened.
    const scene = parseScene(row.scene);
    return { ...row, scene, facts: await this.factsOf([scene.sounds]) };
  }

  /**
   * @param copyOf  the project whose thumbnail it begins with
   * @param isFromOutside  the document came from outside: its programs may run only where they are, letter for letter, those
   *   of a project here that may run them
   */
  async create(
    scene: Scene,
    copyOf?: string,
    isFromOutside = false,
  ): Promise<{ id: string; revision: number }> {
    const id = randomUUID();
    const [original] =
      copyOf === undefined
        ? []
        : await this.db
            .select({
              thumbnail: projects.thumbnail,
              programsAllowed: projects.programsAllowed,
              scene: projects.scene,
            })
            .from(projects)
            .where(eq(projects.id, copyOf));
    const known = new Set(
      (original?.scene as Partial<Scene> | undefined)?.programs?.map(({ code }) => code) ?? [],
    );
    const programsAllowed =
      (original?.programsAllowed ?? true) &&
      (!isFromOutside || scene.programs.every(({ code }) => known.has(code)));
    await this.db
      .insert(projects)
      .values({ id, revision: 1, scene, thumbnail: original?.thumbnail, programsAllowed });
    return { id, revision: 1 };
  }

  /** Lets a project's programs run from now on; gives whether it is there. */
  async allowPrograms(id: string): Promise<boolean> {
    const rows = await this.db
      .update(projects)
      .set({ programsAllowed: true })
      .where(and(eq(projects.id, id), isNull(projects.deletedAt)))
      .returning({ id: projects.id });
    return rows.length > 0;
  }

  /**
   * Saves only onto the revision named, or onto one of the same window's own saves, in one statement: of two saves at
   * once, one wins and the other is refused.
   */
  async save(
    id: string,
    revision: number,
    scene: Scene,
    { saveId, unanswered = [] }: { saveId?: string; unanswered?: readonly string[] } = {},
  ): Promise<SaveOutcome | undefined> {
    await this.states.keepFirst(id);
    const isOwn = unanswered.length > 0 ? inArray(projects.saveId, [...unanswered]) : undefined;
    const [saved] = await this.db
      .update(projects)
      .set({
        scene,
        revision: sql`${projects.revision} + 1`,
        saveId: saveId ?? null,
        changedAt: new Date(),
      })
      .where(and(eq(projects.id, id), or(eq(projects.revision, revision), isOwn), isNull(projects.deletedAt)))
      .returning({ revision: projects.revision });
    if (saved) {
      await this.states.keep(id);
      return { saved: true, revision: saved.revision };
    }
    const there = await this.revisionOf(id);
    return there === undefined ? undefined : { saved: false, revision: there };
  }

  /** Deleted projects that can still be brought back, the last first. */
  async deleted(): Promise<DeletedProject[]> {
    const rows = await this.db
      .select({
        id: projects.id,
        name: projects.name,
        deletedAt: projects.deletedAt,
      })
      .from(projects)
      .where(isNotNull(projects.deletedAt))
      .orderBy(desc(projects.deletedAt));
    return rows.map(({ id, name, deletedAt }) => ({
      id,
      name: name ?? "",
      deletedAt: deletedAt!.toISOString(),
      goneAt: new Date(deletedAt!.getTime() + BIN_DAYS * DAY_MS).toISOString(),
    }));
  }

  /** Removes deleted projects for good: one of them, or all. Their sounds go once they have been unused for a while. */
  async removeForGood(id?: string): Promise<number> {
    const rows = await this.db
      .delete(projects)
      .where(and(isNotNull(projects.deletedAt), id === undefined ? undefined : eq(projects.id, id)))
      .returning({ id: projects.id });
    return rows.length;
  }

  /** Bytes that sounds, images and models take. */
  async usage(): Promise<{ usedBytes: number }> {
    const [row] = await this.db
      .select({ usedBytes: sql<string>`coalesce(sum(${blobs.byteLength}), 0)` })
      .from(blobs);
    return { usedBytes: Number(row.usedBytes) };
  }

  /** Deletes so that it can be brought back. */
  async remove(id: string): Promise<boolean> {
    const rows = await this.db
      .update(projects)
      .set({ deletedAt: new Date() })
      .where(and(eq(projects.id, id), isNull(projects.deletedAt)))
      .returning({ id: projects.id });
    return rows.length > 0;
  }

  async restore(id: string): Promise<boolean> {
    const rows = await this.db
      .update(projects)
      .set({ deletedAt: null })
      .where(and(eq(projects.id, id), isNotNull(projects.deletedAt)))
      .returning({ id: projects.id });
    return rows.length > 0;
  }

  async setThumbnail(id: string, thumbnail: Uint8Array): Promise<boolean> {
    const rows = await this.db
      .update(projects)
      .set({ thumbnail })
      .where(eq(projects.id, id))
      .returning({ id: projects.id });
    return rows.length > 0;
  }

  async thumbnail(id: string): Promise<Uint8Array | undefined> {
    const [row] = await this.db
      .select({ thumbnail: projects.thumbnail })
      .from(projects)
      .where(eq(projects.id, id));
    return row?.thumbnail ?? undefined;
  }

  async example(id: string): Promise<Scene | undefined> {
    const [row] = await this.db.select().from(examples).where(eq(examples.id, id));
    return row && parseScene(row.scene);
  }

  async addExample(id: string, scene: Scene): Promise<void> {
    await this.db.insert(examples).values({ id, scene }).onConflictDoNothing();
  }

  async isEmpty(): Promise<boolean> {
    const rows = await this.db.select({ id: projects.id }).from(projects).limit(1);
    return rows.length === 0;
  }

  async factsOf(lists: Scene["sounds"][]): Promise<Record<string, SoundFacts>> {
    const ids = [...new Set(lists.flatMap((sounds) => filesOf(sounds).map(({ storedId }) => storedId)))];
    if (ids.length === 0) return {};
    const rows = await this.db
      .select({ id: sounds.id, facts: sounds.facts })
      .from(sounds)
      .where(inArray(sounds.id, ids));
    return Object.fromEntries(rows.map(({ id, facts }) => [id, facts]));
  }
}

const filesOf = (sounds: Scene["sounds"]) => sounds.filter(isStored);
