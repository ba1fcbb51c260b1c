import { SoundFacts as SoundFactsSchema } from "@bumbrel/api/contracts";
import { ASSET_KINDS, type Asset } from "@bumbrel/core/document/scene";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import { type Static, Type } from "@sinclair/typebox";
import Ajv, { type ValidateFunction } from "ajv";

/** Says what is in an archive; the first file in it. */
export const MANIFEST_PATH = "archive.json";
/** The same for people. */
export const CONTENTS_PATH = "CONTENTS.txt";
const FORMAT = "bumbrel-archive";
const VERSION = 1;

const closed = { additionalProperties: false } as const;
const Path = Type.String({ pattern: "^[\\w.-]+(/[\\w.-]+)*$", maxLength: 300 });
/** Size and checksum of every file; the bytes that are read must match. */
const known = {
  path: Path,
  bytes: Type.Integer({ minimum: 0 }),
  sha256: Type.String({ pattern: "^[0-9a-f]{64}$" }),
};
const File = Type.Object(known, closed);
const stored = { ...known, storedId: Type.String({ minLength: 1, maxLength: 64 }), name: Type.String() };

export const ManifestSchema = Type.Object(
  {
    format: Type.Literal(FORMAT),
    version: Type.Literal(VERSION),
    madeAt: Type.String(),
    projects: Type.Array(
      Type.Object({ name: Type.String(), scene: File, thumbnail: Type.Union([File, Type.Null()]) }, closed),
      { maxItems: 10_000 },
    ),
    sounds: Type.Array(Type.Object({ ...stored, facts: SoundFactsSchema }, closed), { maxItems: 100_000 }),
    assets: Type.Array(
      Type.Object(
        { ...stored, kind: Type.Unsafe<Asset["kind"]>({ enum: Object.keys(ASSET_KINDS) }) },
        closed,
      ),
      { maxItems: 100_000 },
    ),
    /** Missing sounds and files that the projects refer to, in words. */
    missing: Type.Array(Type.String()),
  },
  closed,
);
export type Manifest = Static<typeof ManifestSchema>;
export type ArchivedFile = Static<typeof File>;
export type ArchivedSound = Manifest["sounds"][number] & { facts: SoundFacts };

export const newManifest = (madeAt: Date): Manifest => ({
  format: FORMAT,
  version: VERSION,
  madeAt: madeAt.toISOString(),
  projects: [],
  sounds: [],
  assets: [],
  missing: [],
});

let validator: ValidateFunction<Manifest> | undefined;

/** Reads what an archive says is in it; a sentence on what is wrong with it instead. */
export function readManifest(text: string): Manifest | string {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch (error) {
    return (error as Error).message;
  }
  const { format, version } = (parsed ?? {}) as Partial<Manifest>;
  if (format !== FORMAT) return "it is no archive of Bumbrel";
  if (version !== VERSION) return `it has version ${version}, and this Bumbrel reads version ${VERSION}`;
  validator ??= new Ajv().compile<Manifest>(ManifestSchema);
  if (validator(parsed)) return parsed;
  const [error] = validator.errors ?? [];
  return `${error?.instancePath || "/"} ${error?.message}`;
}

const size = (bytes: number) =>
  bytes < 1000
    ? `${bytes} B`
    : bytes < 1e6
      ? `${(bytes / 1000).toFixed(1)} kB`
      : `${(bytes / 1e6).toFixed(1)} MB`;

/** The page of contents: what somebody sees who opens an archive without Bumbrel. */
export function contentsPage({ madeAt, projects, sounds, assets, missing }: Manifest): string {
  const rows = (files: readonly (ArchivedFile & { name?: string })[]) =>
    files.map(({ path, bytes, sha256 }) => `  ${path}\n    ${size(bytes)}, SHA-256 ${sha256}`);
  const part = (title: string, lines: string[]) => (lines.length > 0 ? ["", title, ...lines] : []);
  return `${[
    `Bumbrel archive, made ${madeAt}`,
    "",
    `${projects.length} ${projects.length === 1 ? "project" : "projects"}: ${projects.map(({ name }) => name).join(", ")}`,
    `To open it: "Import" on the Shelf, or npx bumbrel import FILE.zip`,
    ...part("Scenes (JSON, by the schema docs/scene.schema.json)", rows(projects.map(({ scene }) => scene))),
    ...part("Sounds", rows(sounds)),
    ...part("Images, models, tables of colour and takes", rows(assets)),
    ...part(
      "Missing when it was made",
      missing.map((one) => `  ${one}`),
    ),
  ].join("\n")}\n`;
}
