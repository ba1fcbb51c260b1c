import type {
  ArchiveReport,
  DeletedProject,
  FeedClock,
  FeedState,
  FeedWish,
  FilmJob,
  KnownSound,
  LoadedProject,
  NewAsset,
  NewFilm,
  NewProject,
  ProjectSummary,
  SavedState,
  StateScene,
  Storage,
} from "@bumbrel/api/contracts";
import { type MadeWay, WAYS_OUT } from "@bumbrel/api/waysOut";
import type { Scene } from "@bumbrel/core/document/scene";
import type { SoundFacts } from "@bumbrel/core/format/samples/sound";
import type { Settings, SettingValue } from "@bumbrel/core/setting/descriptor";
import type { SaveFailure, SaveNames } from "../document/autosave";

/** An answer of the server that was not what was asked for; `message` can be shown as it is. */
export class ApiProblem extends Error {
  readonly status: number;
  readonly body: Record<string, unknown>;

  constructor(status: number, message: string, body: Record<string, unknown> = {}) {
    super(message);
    this.status = status;
    this.body = body;
  }
}

/** Meaning of the server's answer, or of none, for a save. */
export function saveFailureOf(error: unknown): SaveFailure {
  const status = error instanceof ApiProblem ? error.status : 0;
  if (status === 0) return "unanswered";
  if (status === 409) return "conflict";
  if (status === 404) return "gone";
  // Signing in again, or waiting, may help.
  if (status === 401 || status === 408 || status === 429) return "unavailable";
  return status < 500 ? "refused" : "unanswered";
}

const NO_ANSWER = "The Bumbrel server does not answer. Check that it is still running; nothing here is lost.";

async function call(
  method: string,
  path: string,
  body?: unknown,
  options: RequestInit = {},
): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      ...(body !== undefined && {
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(body),
      }),
      ...options,
    });
  } catch (error) {
    if ((error as Error).name === "AbortError") throw error;
    throw new ApiProblem(0, NO_ANSWER);
  }
  if (response.ok) return response;
  const problem = await response.json().catch(() => ({}));
  throw new ApiProblem(response.status, problem.detail ?? `The server answered ${response.status}.`, problem);
}

/** Sends bytes and tells how far they are: `fetch` cannot say how much of a body has gone. */
function upload(
  url: string,
  bytes: Blob,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    const stop = () => request.abort();
    signal.addEventListener("abort", stop);
    request.upload.onprogress = ({ loaded }) => onShare(bytes.size > 0 ? loaded / bytes.size : 1);
    request.onload = () => {
      signal.removeEventListener("abort", stop);
      if (request.status < 300) resolve();
      else reject(new ApiProblem(request.status, problemText(request)));
    };
    request.onerror = () => reject(new ApiProblem(0, NO_ANSWER));
    request.onabort = () => reject(signal.reason);
    request.open("PUT", url);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.send(bytes);
  });
}

function problemText({ status, responseText }: XMLHttpRequest): string {
  try {
    return JSON.parse(responseText).detail;
  } catch {
    return `The server answered ${status}.`;
  }
}

const json = async <T>(answer: Promise<Response>): Promise<T> => (await answer).json();

/** The server's interface, one function for each thing it does. */
export const api = {
  projects: async () => (await json<{ projects: ProjectSummary[] }>(call("GET", "/projects"))).projects,
  project: (id: string) => json<LoadedProject>(call("GET", `/projects/${id}`)),
  createProject: (from: NewProject) => json<{ id: string }>(call("POST", "/projects", from)),
  /** Keeps a scene as a project of its own beside the one it comes from; gives its id. */
  keepAsOwn: async (scene: Scene, copyOf: string) =>
    (await api.createProject({ scene, copyOf, name: `${scene.name} (mine)`.slice(0, 120) })).id,
  allowPrograms: (id: string) => call("POST", `/projects/${id}/allow-programs`),
  saveScene: (id: string, revision: number, scene: Scene, names?: SaveNames) =>
    json<{ revision: number }>(call("PUT", `/projects/${id}/scene`, { revision, scene, ...names })),
  deleteProject: (id: string) => call("DELETE", `/projects/${id}`),
  restoreProject: (id: string) => call("POST", `/projects/${id}/restore`),
  bin: async () => (await json<{ projects: DeletedProject[] }>(call("GET", "/bin"))).projects,
  removeForGood: (id: string) => call("DELETE", `/bin/${id}`),
  emptyBin: () => call("DELETE", "/bin"),
  storage: () => json<Storage>(call("GET", "/storage")),
  /** Brings the projects of an archive in. */
  importArchive: (zip: Blob) =>
    json<ArchiveReport>(
      call("POST", "/archives", undefined, { body: zip, headers: { "Content-Type": "application/zip" } }),
    ),
  films: async (projectId: string) =>
    (await json<{ films: FilmJob[] }>(call("GET", `/projects/${projectId}/films`))).films,
  orderFilm: (projectId: string, film: NewFilm) =>
    json<{ id: string }>(call("POST", `/projects/${projectId}/films`, film)),
  cancelFilm: (id: string) => call("POST", `/films/${id}/cancel`),
  removeFilm: (id: string) => call("DELETE", `/films/${id}`),
  states: async (projectId: string) =>
    (await json<{ states: SavedState[] }>(call("GET", `/projects/${projectId}/states`))).states,
  state: (projectId: string, id: number) =>
    json<StateScene>(call("GET", `/projects/${projectId}/states/${id}`)),
  feed: (projectId: string) => json<FeedState>(call("GET", `/feed/${projectId}`)),
  setFeed: (projectId: string, wish: FeedWish) => json<FeedState>(call("PUT", `/feed/${projectId}`, wish)),
  tellFeed: (projectId: string, clock: FeedClock) => call("POST", `/feed/${projectId}/clock`, clock),
  setThumbnail: (id: string, jpeg: Blob) =>
    call("PUT", `/projects/${id}/thumbnail`, undefined, {
      body: jpeg,
      headers: { "Content-Type": "image/jpeg" },
    }),
  sound: (id: string) => json<KnownSound>(call("GET", `/sounds/${id}`)),
  announceSound: (name: string, facts: SoundFacts) =>
    json<{ id: string }>(call("POST", "/sounds", { name, facts })),
  sendSoundBytes: (id: string, bytes: Blob, onShare: (share: number) => void, signal: AbortSignal) =>
    upload(soundBytesUrl(id), bytes, onShare, signal),
  addAsset: (kind: NewAsset["kind"], name: string, bytes: Blob, signal?: AbortSignal) =>
    json<{ id: string }>(
      call("PUT", `/assets?${new URLSearchParams({ kind, name })}`, undefined, {
        body: bytes,
        signal,
        headers: { "Content-Type": "application/octet-stream" },
      }),
    ),
};

export const assetBytesUrl = (storedId: string) => `/api/assets/${storedId}/bytes`;
export const projectEventsUrl = (projectId: string) => `/api/projects/${projectId}/events`;
export const soundBytesUrl = (storedId: string) => `/api/sounds/${storedId}/bytes`;
export const thumbnailUrl = (project: ProjectSummary) =>
  `/api/projects/${project.id}/thumbnail?${encodeURIComponent(project.changedAt)}`;
export const filmUrl = (id: string) => `/api/films/${id}/file`;
/** A way out of a project as a file. @throws ApiProblem with the reason why it cannot be made */
export async function fetchWay(path: string, name: string): Promise<File> {
  const response = await call("GET", path);
  const [, named] = /filename="?([^";]+)"?/.exec(response.headers.get("Content-Disposition") ?? "") ?? [];
  return new File([await response.blob()], named ?? name);
}

/** Path of a way out of a project, with those of its settings that are not as they begin. */
export function wayPath(
  projectId: string,
  name: MadeWay,
  values: Readonly<Record<string, SettingValue>>,
): string {
  const query = new URLSearchParams();
  for (const [key, { default: usual }] of Object.entries(WAYS_OUT[name].settings as Settings)) {
    const value = values[key];
    if (value !== undefined && value !== usual) query.set(key, String(value ?? ""));
  }
  return `/deliver/${projectId}/${name}${query.size > 0 ? `?${query}` : ""}`;
}
