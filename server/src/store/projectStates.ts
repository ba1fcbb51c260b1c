import type { SavedState } from "@bumbrel/api/contracts";
import { changeWords } from "@bumbrel/core/check/placeWords";
import { parseScene } from "@bumbrel/core/check/readScene";
import type { Scene } from "@bumbrel/core/document/scene";
import { changesBetween } from "@bumbrel/core/document/versions/changes";
import { and, desc, eq, sql } from "drizzle-orm";
import type { Database } from "../db/open";
import { projectStates } from "../db/schema";

/** States that are kept of a project. */
export const MOST_STATES = 50;
/** Changes of a state that are told. */
const MOST_CHANGES = 12;

/** Earlier saved states of projects. Saves within a minute are one state: the last of them. */
export class StateStore {
  private readonly db: Database;

  constructor(db: Database) {
    this.db = db;
  }

  /** Keeps the state that a project has before its first save, unless there are states already. */
  async keepFirst(projectId: string): Promise<void> {
    await this.db.execute(sql`
      insert into project_states (project_id, minute, revision, scene, saved_at)
      select id, floor(extract(epoch from now()) / 60)::int - 1, revision, scene, changed_at
      from projects where id = ${projectId}
        and not exists (select 1 from project_states where project_id = ${projectId})
      on conflict do nothing`);
  }

  /** Keeps the state that a project has now, in place of an earlier one of this minute; old ones go. */
  async keep(projectId: string): Promise<void> {
    await this.db.execute(sql`
      insert into project_states (project_id, minute, revision, scene, saved_at)
      select id, floor(extract(epoch from now()) / 60)::int, revision, scene, changed_at
      from projects where id = ${projectId}
      on conflict (project_id, minute) do update
        set revision = excluded.revision, scene = excluded.scene, saved_at = excluded.saved_at`);
    await this.db.execute(sql`
      delete from project_states where project_id = ${projectId} and minute < (
        select min(minute) from (
          select minute from project_states where project_id = ${projectId}
          order by minute desc limit ${MOST_STATES}) as newest)`);
  }

  /** The states of a project, the newest first, each with what it changed. */
  async list(projectId: string): Promise<SavedState[]> {
    const rows = await this.db
      .select()
      .from(projectStates)
      .where(eq(projectStates.projectId, projectId))
      .orderBy(desc(projectStates.minute));
    const scenes = rows.map(({ scene }) => parseScene(scene));
    return rows.map(({ minute, revision, savedAt }, i) => {
      const before = scenes[i + 1];
      return {
        id: minute,
        revision,
        savedAt: savedAt.toISOString(),
        ...(before ? told(before, scenes[i]) : { changes: [], moreChanges: 0 }),
      };
    });
  }

  /** A state's scene. */
  async get(projectId: string, id: number): Promise<Scene | undefined> {
    const [row] = await this.db
      .select({ scene: projectStates.scene })
      .from(projectStates)
      .where(and(eq(projectStates.projectId, projectId), eq(projectStates.minute, id)));
    return row && parseScene(row.scene);
  }
}

function told(before: Scene, after: Scene): Pick<SavedState, "changes" | "moreChanges"> {
  const words = [
    ...new Set(changesBetween(before, after).map((change) => changeWords(change, [after, before]))),
  ];
  return {
    changes: words.slice(0, MOST_CHANGES),
    moreChanges: Math.max(0, words.length - MOST_CHANGES),
  };
}
