import { FILM_SETTINGS, type FilmSettings } from "@bumbrel/core/document/film/film";
import { ASSET_KINDS, type Asset, type Scene } from "@bumbrel/core/document/scene";
import { settingSchemas } from "@bumbrel/core/setting/schema";
import { type Static, Type } from "@sinclair/typebox";

/** The messages between server and workbench. Both sides import these contracts; the server validates requests with them. */
const closed = { additionalProperties: false } as const;
const nullableNumber = Type.Unsafe<number | null>({ type: ["number", "null"] });
const Id = Type.String({ minLength: 1, maxLength: 64 });
const Name = Type.String({ minLength: 1, maxLength: 120 });
/** As far as the database counts. */
const Revision = Type.Integer({ minimum: 1, maximum: 2 ** 31 - 1 });
/** A scene document; its own schema is published as `docs/scene.schema.json`. */
const SceneDocument = Type.Unsafe<Scene>({ type: "object", description: "A scene document" });

/** Length, level and channels of a sound: see `SoundFacts` in `core/format/sound`. */
export const SoundFacts = Type.Object(
  {
    originalRateHz: Type.Number({ exclusiveMinimum: 0 }),
    channels: Type.Integer({ minimum: 1, maximum: 8 }),
    layout: Type.Optional(Type.String({ maxLength: 80 })),
    durationS: Type.Number({ exclusiveMinimum: 0 }),
    peak: Type.Number({ minimum: 0 }),
    integratedLufs: nullableNumber,
    bandPrint: Type.Array(Type.Number({ minimum: 0, maximum: 1 }), { maxItems: 256 }),
  },
  closed,
);

export const ProjectSummary = Type.Object(
  {
    id: Id,
    name: Type.String(),
    /** One line of what it is or teaches; may be empty. */
    about: Type.String(),
    changedAt: Type.String({ format: "date-time" }),
    /** Length of the longest sound, or 0. */
    durationS: Type.Number(),
    /** Band print of the first sound that is heard. */
    bandPrint: Type.Array(Type.Number()),
    hasThumbnail: Type.Boolean(),
  },
  closed,
);
export type ProjectSummary = Static<typeof ProjectSummary>;
export const ProjectList = Type.Object({ projects: Type.Array(ProjectSummary) }, closed);

export const DeletedProject = Type.Object(
  {
    id: Id,
    name: Type.String(),
    deletedAt: Type.String({ format: "date-time" }),
    /** When it goes for good. */
    goneAt: Type.String({ format: "date-time" }),
  },
  closed,
);
export type DeletedProject = Static<typeof DeletedProject>;
export const Bin = Type.Object({ projects: Type.Array(DeletedProject) }, closed);

export const Storage = Type.Object(
  {
    /** Bytes of all sounds, images and models. */
    usedBytes: Type.Integer({ minimum: 0 }),
    /** Bytes left on the disk of the data folder; `null` when that cannot be told. */
    freeBytes: Type.Union([Type.Integer({ minimum: 0 }), Type.Null()]),
    /** Warnings about the stored data, as sentences that can be shown as they are. */
    notices: Type.Array(Type.String()),
  },
  closed,
);
export type Storage = Static<typeof Storage>;

export const LoadedProject = Type.Object(
  {
    id: Id,
    revision: Revision,
    /** The name of its last save; `null` when it was saved without one. */
    saveId: Type.Union([Id, Type.Null()]),
    scene: SceneDocument,
    /** Facts of the scene's sounds by stored id. */
    facts: Type.Record(Type.String(), SoundFacts),
    /** False until the user has allowed the programs of an imported document to run. */
    programsAllowed: Type.Boolean(),
  },
  closed,
);
export type LoadedProject = Static<typeof LoadedProject>;

/** The event that is sent when a project changes: its revision, `null` when it is deleted. */
export const ProjectState = Type.Object({ revision: Type.Union([Revision, Type.Null()]) }, closed);
export type ProjectState = Static<typeof ProjectState>;

/** A new project: empty, from a worked example, as a copy, or from a scene document. */
export const NewProject = Type.Object(
  {
    name: Type.Optional(Name),
    example: Type.Optional(Type.String({ maxLength: 64 })),
    copyOf: Type.Optional(Type.String({ maxLength: 64 })),
    scene: Type.Optional(Type.Unknown()),
  },
  closed,
);
export type NewProject = Static<typeof NewProject>;
export const CreatedProject = Type.Object({ id: Id, revision: Revision }, closed);

/** A save names the revision it builds on; the scene is checked by its own schema. */
export const SaveScene = Type.Object(
  {
    revision: Revision,
    scene: Type.Unknown(),
    /** Names this save. */
    saveId: Type.Optional(Id),
    /** Saves of the same window whose answers were lost: onto one of them this save may be made as well. */
    unanswered: Type.Optional(Type.Array(Id, { maxItems: 64 })),
  },
  closed,
);
export const SavedScene = Type.Object({ revision: Revision }, closed);

/** A sound is announced first; its bytes follow. */
export const NewSound = Type.Object({ name: Name, facts: SoundFacts }, closed);
export const KnownSound = Type.Object(
  { id: Id, name: Name, facts: SoundFacts, byteLength: Type.Integer({ minimum: 0 }) },
  closed,
);
export type KnownSound = Static<typeof KnownSound>;
export const NewAsset = Type.Object(
  { kind: Type.Unsafe<Asset["kind"]>({ type: "string", enum: Object.keys(ASSET_KINDS) }), name: Name },
  closed,
);
export type NewAsset = Static<typeof NewAsset>;
export const Created = Type.Object({ id: Id }, closed);
export const Health = Type.Object({ ready: Type.Boolean() }, closed);

/** The projects that came in from an archive, and problems as sentences. */
export const ArchiveReport = Type.Object(
  {
    projects: Type.Array(
      Type.Object(
        {
          id: Id,
          name: Type.String(),
          /** False for one that was here already. */
          isNew: Type.Boolean(),
        },
        closed,
      ),
    ),
    problems: Type.Array(Type.String()),
  },
  closed,
);
export type ArchiveReport = Static<typeof ArchiveReport>;

/** - `making`: waits for a worker, or some have it in hand */
export const FILM_STATES = ["making", "whole", "failed", "cancelled"] as const;
export type FilmState = (typeof FILM_STATES)[number];

const Seconds = Type.Number({ minimum: 0, maximum: 24 * 3600 });
/** A film that is to be made as a job, of a project as it is saved. */
export const NewFilm = Type.Object(
  {
    settings: Type.Unsafe<FilmSettings>(Type.Object(settingSchemas(FILM_SETTINGS), closed)),
    stretch: Type.Object({ fromS: Seconds, toS: Seconds }, closed),
  },
  closed,
);
export type NewFilm = Static<typeof NewFilm>;

/** A film that is made as a job. */
export const FilmJob = Type.Object(
  {
    id: Id,
    title: Type.String(),
    settings: Type.Unsafe<FilmSettings>({ type: "object" }),
    lengthS: Type.Number(),
    state: Type.Unsafe<FilmState>({ type: "string", enum: [...FILM_STATES] }),
    failure: Type.Union([Type.String(), Type.Null()]),
    /** Pieces that are finished, and all there are. */
    pieces: Type.Integer(),
    ofPieces: Type.Integer(),
    /** Workers that have a share of it in hand. */
    workers: Type.Array(Type.String()),
    createdAt: Type.String(),
  },
  closed,
);
export type FilmJob = Static<typeof FilmJob>;
export const FilmJobs = Type.Object({ films: Type.Array(FilmJob) }, closed);

/** An earlier saved state of a project. */
export const SavedState = Type.Object(
  {
    id: Type.Integer(),
    revision: Type.Integer(),
    savedAt: Type.String(),
    /** Changes since the state before, in words, and how many more there are. */
    changes: Type.Array(Type.String()),
    moreChanges: Type.Integer(),
  },
  closed,
);
export type SavedState = Static<typeof SavedState>;
export const SavedStates = Type.Object({ states: Type.Array(SavedState) }, closed);
/** The scene of an earlier state, with the facts of its sounds by stored id. */
export const StateScene = Type.Object(
  { scene: SceneDocument, facts: Type.Record(Type.String(), SoundFacts) },
  closed,
);
export type StateScene = Static<typeof StateScene>;

/** A live feed as it is to be: on, and where its OSC goes. */
export const FeedWish = Type.Object(
  {
    on: Type.Boolean(),
    /** `host:port` each. */
    osc: Type.Array(Type.String({ maxLength: 200 }), { maxItems: 16 }),
    /** Strands that happen live: their numbers are told by whoever plays. */
    live: Type.Array(
      Type.Object(
        { id: Id, name: Type.String({ maxLength: 200 }), width: Type.Integer({ minimum: 1, maximum: 1024 }) },
        closed,
      ),
      { maxItems: 256 },
    ),
  },
  closed,
);
export type FeedWish = Static<typeof FeedWish>;

/** Position of the tape, and the newest numbers of live strands. */
export const FeedClock = Type.Object(
  {
    playing: Type.Boolean(),
    positionS: Type.Number({ minimum: 0, maximum: 1e6 }),
    numbers: Type.Optional(Type.Record(Id, Type.Array(Type.Number(), { maxItems: 1024 }))),
    cues: Type.Optional(
      Type.Array(Type.Object({ id: Id, strength: Type.Number() }, closed), { maxItems: 256 }),
    ),
  },
  closed,
);
export type FeedClock = Static<typeof FeedClock>;

/** A live feed as it is. */
export const FeedState = Type.Object(
  {
    on: Type.Boolean(),
    /** Address that programs and pages connect to. */
    address: Type.Union([Type.String(), Type.Null()]),
    playing: Type.Boolean(),
    timeS: Type.Number(),
    strands: Type.Array(
      Type.Object({ id: Id, name: Type.String(), slug: Type.String(), width: Type.Integer() }, closed),
    ),
    receivers: Type.Array(
      Type.Object(
        {
          name: Type.String(),
          /** Messages so far, and a second. */
          sent: Type.Integer(),
          rate: Type.Number(),
          dropped: Type.Integer(),
          last: Type.String(),
        },
        closed,
      ),
    ),
  },
  closed,
);
export type FeedState = Static<typeof FeedState>;

/** An error as a problem document (RFC 9457). */
export const Problem = Type.Object({
  type: Type.String(),
  title: Type.String(),
  status: Type.Integer(),
  /** A sentence that can be shown as it is. */
  detail: Type.String(),
});
