import { FILM_FORMATS } from "@bumbrel/core/document/film/film";
import {
  assembleFilm,
  type FilmLengths,
  type FilmOrder,
  piecesOf,
} from "@bumbrel/core/document/film/filmPieces";
import { FilmTimeLeft } from "@bumbrel/core/document/film/filmTimeLeft";
import type { Scene } from "@bumbrel/core/document/scene";
import { plainFileName } from "@bumbrel/core/format/bytes/fileName";
import type { FilmProgress } from "@bumbrel/player/film/makePieces";
import { create } from "zustand";
import { type FilmNote, keptFilms, newFilm, type StoredFilm } from "../../../library/filmStore";
import { fetchTake, takesOf } from "../../../session/edits/takes";
import type { Session } from "../../../session/session";
import { Cancelled, Pace } from "../pace";

/** A film that is being made, or has been. */
export interface Making {
  order: FilmOrder;
  state: "making" | "paused" | "joining" | "recording" | "whole" | "failed";
  progress: FilmProgress;
  /** Seconds until it is whole, once that can be told. */
  leftS: number | undefined;
  canvas: HTMLCanvasElement | undefined;
  /** The film, once it is whole: its name, and an address that it can be saved from. */
  saved: { name: string; url: string; bytes: number; lengths: FilmLengths | undefined } | undefined;
  /** Seconds and frames of what is being recorded. */
  recorded?: { seconds: number; frames: number };
  failure: string | undefined;
}

interface FilmState {
  making: Making | undefined;
  /** Films that were begun and are not whole: the page was closed, or the browser ended. */
  begun: { film: StoredFilm; made: number; of: number; isOfThisScene: boolean }[];
}

export const useFilms = create<FilmState>(() => ({ making: undefined, begun: [] }));
/** State of the film that is being made, or was made last. */
let kept: StoredFilm | undefined;

/** Controls of the film that is being made. */
let control: { pause(): void; goOn(): void; cancel(): void } | undefined;
export const pauseFilm = (): void => control?.pause();
export const goOnWithFilm = (): void => control?.goOn();
export const cancelFilm = (): void => control?.cancel();

/** Tells scenes apart: pieces of a film show one scene. */
async function keyOf(scene: Scene): Promise<string> {
  const hash = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(JSON.stringify(scene)));
  return [...new Uint8Array(hash)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** Looks for films of a project that are not whole. */
export async function findBegunFilms({ projectId, document: { scene } }: Session): Promise<void> {
  const key = await keyOf(scene);
  const begun: FilmState["begun"] = [];
  for (const film of await keptFilms(projectId)) {
    const { order, sceneKey } = film.note;
    const made = (await film.made()).size;
    begun.push({ film, made, of: piecesOf(order).names.length, isOfThisScene: sceneKey === key });
  }
  useFilms.setState({ begun });
}

/** Removes a film that is not whole. */
export async function removeBegunFilm(session: Session, film: StoredFilm): Promise<void> {
  await film.remove();
  await findBegunFilms(session);
}

/** Forgets the film that has been made, or could not be; what is kept of one that could not stays, to go on with. */
export async function forgetFilm(session: Session): Promise<void> {
  const { making } = useFilms.getState();
  if (making?.saved) {
    URL.revokeObjectURL(making.saved.url);
    await kept?.remove();
  }
  kept = undefined;
  useFilms.setState({ making: undefined });
  await findBegunFilms(session);
}

/**
 * Makes a film in the browser, piece by piece. What is done is kept in the browser's files, so that it goes on from there
 * after a crash.
 *
 * @param begun  a film to go on with
 */
export async function makeFilm(session: Session, order: FilmOrder, begun?: StoredFilm): Promise<void> {
  const { projectId, player, playback } = session;
  const { scene } = session.document;
  const progress: FilmProgress = { frames: 0, ofFrames: piecesOf(order).plan.frames, sound: 0 };
  show({ order, state: "making", progress });
  useFilms.setState({ begun: useFilms.getState().begun.filter(({ film }) => film !== begun) });
  const pace = new Pace((isPaused) => change({ state: isPaused ? "paused" : "making" }));
  control = pace;
  let film = begun;
  try {
    const { makePieces } = await import("@bumbrel/player/film/makePieces");
    await player.whenLoaded();
    const asset = takesOf(scene).find(({ id }) => id === scene.takeId);
    const take = asset && (await fetchTake(asset));
    const note: FilmNote = { order, sceneKey: await keyOf(scene), startedAt: new Date().toISOString() };
    film ??= await newFilm(projectId, note);
    const pieces = film;
    kept = film;
    const clock = new FilmTimeLeft();
    await makePieces(playback.filmSource(take), order, {
      made: await pieces.made(),
      put: (name, bytes) => pieces.put(name, bytes),
      pace,
      onCanvas: (canvas) => change({ canvas }),
      onProgress: (now) => {
        const { frames, ofFrames, sound } = now;
        const workedMs = performance.now() - pace.pausedMs;
        change({ progress: now, leftS: sound < 1 ? undefined : clock.leftS(frames, ofFrames, workedMs) });
      },
    });
    change({ state: "joining" });
    let lengths: FilmLengths = { frames: 0, samples: 0 };
    const file = await pieces.write(async (writeAt) => {
      lengths = await assembleFilm(order, (name) => pieces.get(name), writeAt);
    });
    const name = `${plainFileName(order.title, "film")}.${FILM_FORMATS[order.settings.format].extension}`;
    change({
      state: "whole",
      canvas: undefined,
      saved: { name, url: URL.createObjectURL(file), bytes: file.size, lengths },
    });
  } catch (error) {
    if (error instanceof Cancelled) {
      await film?.remove();
      useFilms.setState({ making: undefined });
      return;
    }
    change({ state: "failed", canvas: undefined, failure: (error as Error).message });
  } finally {
    control = undefined;
  }
}

/** Shows a film whose making begins. */
function show(begins: Pick<Making, "order" | "state" | "progress">): void {
  const nothingYet = { leftS: undefined, canvas: undefined, saved: undefined, failure: undefined };
  useFilms.setState({ making: { ...nothingYet, ...begins } });
}

/** Changes parts of the film that is shown, if there is one. */
const change = (part: Partial<Making>): void =>
  useFilms.setState(({ making }) => (making ? { making: { ...making, ...part } } : {}));

/** How often it is told how long a recording is, ms. */
const TELL_MS = 500;

/** Records what happens, by the clock, until it is stopped. */
export async function recordFilm(session: Session, order: FilmOrder): Promise<void> {
  const { projectId, player, playback } = session;
  const { scene } = session.document;
  const progress: FilmProgress = { frames: 0, ofFrames: 0, sound: 0 };
  show({ order, state: "recording", progress });
  const note: FilmNote = { order, sceneKey: await keyOf(scene), startedAt: new Date().toISOString() };
  const film = await newFilm(projectId, note);
  kept = film;
  let isCancelled = false;
  try {
    const { recordLive } = await import("@bumbrel/player/film/recordLive");
    const file = await film.write(async (writeAt) => {
      const recording = await recordLive(player, order.settings, playback.filmSource(undefined), writeAt);
      change({ canvas: recording.canvas });
      const telling = setInterval(() => change({ recorded: recording.now() }), TELL_MS);
      await new Promise<void>((resolve) => {
        control = {
          pause: () => {},
          goOn: resolve,
          cancel: () => {
            isCancelled = true;
            resolve();
          },
        };
      });
      clearInterval(telling);
      await recording.stop();
    });
    if (isCancelled) {
      await film.remove();
      useFilms.setState({ making: undefined });
      return;
    }
    const name = `${plainFileName(order.title, "film")}.${FILM_FORMATS[order.settings.format].extension}`;
    const saved = { name, url: URL.createObjectURL(file), bytes: file.size, lengths: undefined };
    change({ state: "whole", canvas: undefined, saved });
  } catch (error) {
    await film.remove();
    change({ state: "failed", canvas: undefined, failure: (error as Error).message });
  } finally {
    control = undefined;
  }
}

/** A still of the scene at a time on the tape, as large as the film would be. */
export async function makeStill({ player, playback }: Session, order: FilmOrder): Promise<File> {
  const [{ FilmScene }, { imageOf }] = await Promise.all([
    import("@bumbrel/player/film/filmScene"),
    import("@bumbrel/player/film/encode"),
  ]);
  await player.whenLoaded();
  const film = await FilmScene.open(playback.filmSource(undefined), order);
  try {
    await film.draw(0);
    const { picture } = FILM_FORMATS[order.settings.format];
    const image = "image" in picture ? picture.image : "png";
    const bytes = await imageOf(film, image);
    return new File([bytes as Uint8Array<ArrayBuffer>], `${plainFileName(order.title, "film")}.${image}`, {
      type: `image/${image}`,
    });
  } finally {
    film.dispose();
  }
}
