import { SceneFormatError } from "../errors";
import { SCENE_VERSION } from "./document";

/** Turns a document of the version it is listed under into one of the next version. */
export type Migration = (document: Record<string, unknown>) => Record<string, unknown>;

/** Migrations by the version they start from. */
export const MIGRATIONS: Readonly<Record<number, Migration>> = {
  // Version 1 knew neither buses nor groups, and strands listened to sounds only.
  1: (document) => ({
    ...document,
    stretch: null,
    buses: [],
    groups: [],
    sounds: listOf(document.sounds).map((sound) => ({
      ...sound,
      muted: false,
      pan: 0,
      busId: null,
      groupId: null,
      runs: "tape",
      loops: false,
      place: null,
      ...(sound.kind !== "file" && { on: true }),
    })),
    strands: listOf(document.strands).map(({ soundId, ...strand }) => ({
      ...strand,
      listensTo: soundId === null ? { kind: "nothing" } : { kind: "sound", id: soundId, tap: "before" },
    })),
  }),
};

/** The objects of what should be a list of them; what is not is left for the schema to name. */
function listOf(value: unknown): Record<string, unknown>[] {
  if (!Array.isArray(value)) return [];
  return value.filter((one) => typeof one === "object" && one !== null);
}

/**
 * Brings a document of any known version up to `target`.
 *
 * @param document  parsed JSON; read, not changed
 * @throws SceneFormatError when the document has no version or one from the future
 */
export function migrate(
  document: unknown,
  target: number = SCENE_VERSION,
  migrations: Readonly<Record<number, Migration>> = MIGRATIONS,
): unknown {
  if (typeof document !== "object" || document === null || Array.isArray(document)) {
    throw problem("scene-not-object", "a scene must be a JSON object", "", "Choose a Bumbrel scene file");
  }
  let current = structuredCloneJson(document as Record<string, unknown>);
  const version = current.version;
  if (typeof version !== "number" || !Number.isInteger(version) || version < 1) {
    throw problem(
      "scene-no-version",
      "the scene does not say which version it is",
      "/version",
      "Choose a Bumbrel scene file",
    );
  }
  if (version > target) {
    throw problem(
      "scene-too-new",
      `the scene is of version ${version}, made by a newer Bumbrel; this one reads up to ${target}`,
      "/version",
      "Update Bumbrel and open it again",
    );
  }
  for (let from = version; from < target; from++) {
    const step = migrations[from];
    if (!step) {
      throw problem(
        "scene-too-old",
        `there is no way from version ${from} to ${from + 1}`,
        "/version",
        "Open it in the Bumbrel that made it",
      );
    }
    current = { ...step(current), version: from + 1 };
  }
  return current;
}

function structuredCloneJson(value: Record<string, unknown>): Record<string, unknown> {
  return JSON.parse(JSON.stringify(value));
}

function problem(code: string, what: string, where: string, remedy: string): SceneFormatError {
  return new SceneFormatError([{ code, what, where, remedy }]);
}
