import type { FilmOrder } from "@bumbrel/core/document/film/filmPieces";

/** Facts about a film that is being made, beside its pieces. */
export interface FilmNote {
  order: FilmOrder;
  /** Tells whether the scene is still the one that the pieces show. */
  sceneKey: string;
  startedAt: string;
}

/** A film in the browser's own files: its pieces, and the film itself once it is whole. Nothing of it is held in memory. */
export interface StoredFilm {
  id: string;
  note: FilmNote;
  made(): Promise<Set<string>>;
  put(name: string, bytes: Uint8Array): Promise<void>;
  get(name: string): Promise<Uint8Array>;
  /** Writes the whole film; gives it as a file that lies on disk. */
  write(
    use: (writeAt: (position: number, bytes: Uint8Array) => Promise<void>) => Promise<unknown>,
  ): Promise<File>;
  remove(): Promise<void>;
}

const NOTE = "note.json";
const WHOLE = "whole";

async function folderOf(projectId: string): Promise<FileSystemDirectoryHandle> {
  const root = await navigator.storage.getDirectory();
  const films = await root.getDirectoryHandle("films", { create: true });
  return films.getDirectoryHandle(projectId, { create: true });
}

/** True where the browser keeps files: on pages of this machine, and on those that are encrypted. */
export const canKeepFilms = (): boolean => typeof navigator.storage?.getDirectory === "function";

/** Begins to keep a film. */
export async function newFilm(projectId: string, note: FilmNote): Promise<StoredFilm> {
  const folder = await folderOf(projectId);
  const id = `film-${Date.now()}`;
  const own = await folder.getDirectoryHandle(id, { create: true });
  await writeFile(own, NOTE, new TextEncoder().encode(JSON.stringify(note)));
  return storedFilm(folder, own, id, note);
}

/** Films of a project that have been begun, the newest first. */
export async function keptFilms(projectId: string): Promise<StoredFilm[]> {
  const folder = await folderOf(projectId);
  const films: StoredFilm[] = [];
  for await (const [id, handle] of folder.entries()) {
    if (handle.kind !== "directory") continue;
    const own = handle as FileSystemDirectoryHandle;
    try {
      const note = JSON.parse(await (await (await own.getFileHandle(NOTE)).getFile()).text()) as FilmNote;
      films.push(storedFilm(folder, own, id, note));
    } catch {
      // Cut short before it was begun: there is nothing in it.
      await folder.removeEntry(id, { recursive: true }).catch(() => {});
    }
  }
  return films.sort((a, b) => b.id.localeCompare(a.id));
}

function storedFilm(
  folder: FileSystemDirectoryHandle,
  own: FileSystemDirectoryHandle,
  id: string,
  note: FilmNote,
): StoredFilm {
  return {
    id,
    note,
    async made() {
      const names = new Set<string>();
      for await (const name of own.keys()) if (/^(frames|sound)-\d+$/.test(name)) names.add(name);
      return names;
    },
    put: (name, bytes) => writeFile(own, name, bytes),
    async get(name) {
      const file = await (await own.getFileHandle(name)).getFile();
      return new Uint8Array(await file.arrayBuffer());
    },
    async write(use) {
      const handle = await own.getFileHandle(WHOLE, { create: true });
      const writable = await handle.createWritable();
      try {
        await use((position, data) =>
          writable.write({ type: "write", position, data: data as Uint8Array<ArrayBuffer> }),
        );
        await writable.close();
      } catch (error) {
        await writable.abort().catch(() => {});
        throw error;
      }
      return handle.getFile();
    },
    remove: () => folder.removeEntry(id, { recursive: true }).catch(() => {}),
  };
}

/** A file is there whole or not at all: it is written aside by the browser and takes its place when it is closed. */
async function writeFile(folder: FileSystemDirectoryHandle, name: string, bytes: Uint8Array): Promise<void> {
  const writable = await (await folder.getFileHandle(name, { create: true })).createWritable();
  await writable.write(bytes as Uint8Array<ArrayBuffer>);
  await writable.close();
}
