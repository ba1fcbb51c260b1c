import type { FilmOrder } from "@bumbrel/core/document/film/filmPieces";
import { piecesOf, segmentOf } from "@bumbrel/core/document/film/filmPieces";
import { encodeFrames, encodeSound, type Pace } from "./encode";
import { FilmScene, type FilmSource } from "./filmScene";

/** How far the making of a film is. */
export interface FilmProgress {
  /** Frames that are done, and how many there are to be done in all. */
  frames: number;
  ofFrames: number;
  /** Share of the sound that is done. */
  sound: number;
}

export interface PieceRoom {
  /** Names of the pieces that have been made before. */
  made: ReadonlySet<string>;
  /** Takes a piece; the next one is made once it is kept. */
  put(name: string, bytes: Uint8Array): Promise<void>;
  pace: Pace;
  onProgress(progress: FilmProgress): void;
  /** Called once with the canvas that shows each frame. */
  onCanvas?(canvas: HTMLCanvasElement): void;
}

/**
 * Makes the pieces of a film that have not been made yet.
 *
 * @throws NoEncoder when this browser cannot encode it; whatever the pace throws when it is stopped
 */
export async function makePieces(source: FilmSource, order: FilmOrder, room: PieceRoom): Promise<void> {
  const { plan, names } = piecesOf(order);
  const missing = names.filter((name) => !room.made.has(name));
  const framesIn = (name: string) => {
    const { from, to } = plan.segment(segmentOf(name)!);
    return to - from;
  };
  const isSound = (name: string) => segmentOf(name) === undefined;
  const segments = names.filter((name) => !isSound(name));
  const progress: FilmProgress = {
    frames: segments.filter((name) => room.made.has(name)).reduce((sum, name) => sum + framesIn(name), 0),
    ofFrames: segments.reduce((sum, name) => sum + framesIn(name), 0),
    sound: missing.some(isSound) ? 0 : 1,
  };
  const tell = () => room.onProgress({ ...progress });
  tell();
  if (missing.length === 0) return;
  const film = await FilmScene.open(source, order);
  room.onCanvas?.(film.canvas);
  try {
    if (missing.some(isSound)) {
      let piece = 0;
      const sounds = names.filter(isSound);
      const share = (done: number) => {
        progress.sound = done;
        tell();
      };
      for await (const bytes of encodeSound(film, room.pace, share)) await room.put(sounds[piece++], bytes);
    }
    for (const name of missing) {
      if (isSound(name)) continue;
      const bytes = await encodeFrames(film, plan.segment(segmentOf(name)!), room.pace, () => {
        progress.frames++;
        tell();
      });
      await room.put(name, bytes);
    }
  } finally {
    film.dispose();
  }
}
