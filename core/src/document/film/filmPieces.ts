import { SAMPLE_RATE_HZ } from "../../constants";
import { FilmFileError, type FilmPiece, type WriteAt, writeFilm } from "../../format/film/filmFile";
import { framesIn, writeFrames } from "../../format/film/framesFile";
import { wavHeader } from "../../format/samples/wav";
import type { Scene } from "../scene";
import {
  FILM_FORMATS,
  FilmPlan,
  type FilmSettings,
  type FilmStretch,
  type FrameRange,
  rateOf,
  stretchOf,
} from "./film";

/** Samples of the sound that are mixed at once: a long film is never held whole. */
export const SOUND_PIECE = 10 * SAMPLE_RATE_HZ;
/** How the sound beside frames is written. */
export const FILM_WAV = "pcm24";

/** A film as it is asked for, before it is known how long the tape is. */
export interface FilmRequest {
  settings: FilmSettings;
  title: string;
  /** Seconds that take the place of the stretch in the settings. */
  fromS?: number;
  toS?: number;
  /** The share of the work that is asked for, counted from 1; without one, all of it. */
  part?: { part: number; parts: number };
}

/** A film that is ordered: with the scene and a take, it determines every frame and every sample. */
export interface FilmOrder extends Pick<FilmRequest, "settings" | "title" | "part"> {
  stretch: FilmStretch;
}

/**
 * The film that is asked for, on the tape of a scene or over a take.
 *
 * @param lengthS  of the tape, or of the take that the film shows
 * @returns in words why there can be none
 */
export function orderOf(
  { settings, title, part, fromS, toS }: FilmRequest,
  scene: Pick<Scene, "marks" | "stretch">,
  lengthS: number,
): FilmOrder | string {
  const chosen =
    fromS === undefined && toS === undefined
      ? stretchOf(settings, scene, lengthS)
      : { fromS: Math.max(0, fromS ?? 0), toS: Math.min(lengthS, toS ?? lengthS) };
  if (typeof chosen === "string") return chosen;
  if (!(chosen.toS > chosen.fromS))
    return `There is nothing between ${chosen.fromS} and ${chosen.toS} s: it is ${lengthS} s long.`;
  const order: FilmOrder = { settings, title, stretch: chosen, ...(part && { part }) };
  const { plan, segments } = piecesOf(order);
  if (part && segments.to === segments.from)
    return `Part ${part.part} of ${part.parts} has no frames: this film can be cut into ${plan.segments} parts at most.`;
  return order;
}

/** A film that a page is to make. */
export interface FilmTask {
  request: FilmRequest;
  /** Names of the pieces that are there already. */
  made: string[];
}

/** The pieces that a film is put together from: they can be made anywhere, in any order. */
export interface FilmPieces {
  plan: FilmPlan;
  /** Segments of frames, the last one not included. */
  segments: FrameRange;
  /** True when the sound is among them: it goes with the first part. */
  hasSound: boolean;
  /** Names of all pieces. */
  names: string[];
}

const framesName = (segment: number) => `frames-${segment}`;
const soundName = (piece: number) => `sound-${piece}`;

/** The number of the segment that a piece holds; `undefined` for pieces of the sound. */
export const segmentOf = (name: string): number | undefined =>
  name.startsWith("frames-") ? Number(name.slice("frames-".length)) : undefined;

/** The pieces of a film, or of a part of it. */
export function piecesOf({ settings, stretch, part }: FilmOrder): FilmPieces {
  const plan = new FilmPlan(stretch, rateOf(settings), settings.subFrames);
  const segments = part ? plan.part(part.part, part.parts) : { from: 0, to: plan.segments };
  const hasSound = !part || part.part === 1;
  const { sound } = FILM_FORMATS[settings.format];
  const sounds = sound === "wav" ? Math.ceil(plan.samples / SOUND_PIECE) : 1;
  const names = [
    ...Array.from({ length: hasSound ? sounds : 0 }, (_none, i) => soundName(i)),
    ...Array.from({ length: segments.to - segments.from }, (_none, i) => framesName(segments.from + i)),
  ];
  return { plan, segments, hasSound, names };
}

/** Frames and samples of a film as it has been put together. */
export interface FilmLengths {
  frames: number;
  /** Samples of the sound at 48 kHz; 0 for parts without sound. */
  samples: number;
}

/**
 * Puts the pieces of a film together, without encoding them again.
 *
 * @param get  reads a piece by its name; only what is being written is held
 * @param writeAt  called one call after the other
 * @throws FilmFileError when pieces do not fit together
 */
export async function assembleFilm(
  order: FilmOrder,
  get: (name: string) => Promise<Uint8Array>,
  writeAt: WriteAt,
): Promise<FilmLengths> {
  const { settings, title } = order;
  const { plan, segments, hasSound, names } = piecesOf(order);
  const { extension } = FILM_FORMATS[settings.format];
  const segmentNumbers = Array.from({ length: segments.to - segments.from }, (_none, i) => segments.from + i);
  const samples = hasSound ? plan.samples : 0;
  if (extension === "zip") {
    async function* images() {
      for (const segment of segmentNumbers) yield* framesIn(await get(framesName(segment)));
    }
    async function* wav() {
      yield wavHeader(2, plan.samples, SAMPLE_RATE_HZ, FILM_WAV);
      for (const name of names) if (segmentOf(name) === undefined) yield await get(name);
    }
    const others = {
      ...(hasSound && { [FILM_SOUND_FILE]: wav() }),
      ...(order.part && { [PART_FILE]: textFile(partComment(order)) }),
    };
    return { frames: await writeFrames(images(), others, inOrder(writeAt)), samples };
  }
  async function* pieces(): AsyncGenerator<FilmPiece> {
    for (const segment of segmentNumbers)
      yield { file: await get(framesName(segment)), fromFrame: plan.segment(segment).from };
  }
  const frames = await writeFilm(
    {
      container: extension,
      framesPerSecond: plan.framesPerSecond,
      title,
      comment: order.part && partComment(order),
      pieces: pieces(),
      sound: hasSound ? await get(soundName(0)) : undefined,
      samples: plan.samples,
    },
    writeAt,
  );
  return { frames, samples };
}

/** Names of the files beside frames: their sound, and what a part says about itself. */
export const FILM_SOUND_FILE = "sound.wav";
export const PART_FILE = "part.json";

/** Writes one thing after the other. */
export function inOrder(writeAt: WriteAt): (bytes: Uint8Array) => Promise<void> {
  let position = 0;
  return async (bytes) => {
    await writeAt(position, bytes);
    position += bytes.length;
  };
}

async function* textFile(text: string): AsyncGenerator<Uint8Array> {
  yield Uint8Array.from(unescape(encodeURIComponent(text)), (letter) => letter.charCodeAt(0));
}

/**
 * Joins the parts of a film, without encoding them again: frame for frame what one run gives.
 *
 * @param parts  every part once, by its order and the path of its file
 * @param writeAt  called one call after the other
 * @throws FilmFileError when a part is missing, or parts belong to different films
 */
export async function joinFilm(parts: readonly FilmPart[], writeAt: WriteAt): Promise<FilmLengths> {
  const all = inOrderOfParts(parts);
  const [{ order }] = all;
  const { settings, title } = order;
  const { extension } = FILM_FORMATS[settings.format];
  if (extension === "zip") throw new FilmFileError("These parts hold frames, no film.");
  const { plan } = piecesOf({ ...order, part: undefined });
  async function* pieces(): AsyncGenerator<FilmPiece> {
    for (const { order: own, path } of all) {
      const { segments } = piecesOf(own);
      if (segments.to > segments.from) yield { file: { path }, fromFrame: plan.segment(segments.from).from };
    }
  }
  const frames = await writeFilm(
    {
      container: extension,
      framesPerSecond: plan.framesPerSecond,
      title,
      pieces: pieces(),
      sound: { path: all[0].path },
      samples: plan.samples,
    },
    writeAt,
  );
  return { frames, samples: plan.samples };
}

/** A part of a film in a file. */
export interface FilmPart {
  path: string;
  order: FilmOrder;
}

/**
 * Parts in the order in which they follow each other.
 *
 * @throws FilmFileError when one is missing or there twice, or parts belong to different films
 */
export function inOrderOfParts(parts: readonly FilmPart[]): FilmPart[] {
  const filmOf = ({ order }: FilmPart) =>
    JSON.stringify([order.settings, order.stretch, order.title, order.part!.parts]);
  const stranger = parts.find((one) => filmOf(one) !== filmOf(parts[0]));
  if (stranger) throw new FilmFileError(`${stranger.path} is a part of another film than ${parts[0].path}.`);
  const { parts: count } = parts[0].order.part!;
  return Array.from({ length: count }, (_none, i) => {
    const found = parts.filter(({ order }) => order.part!.part === i + 1);
    if (found.length === 1) return found[0];
    throw new FilmFileError(
      found.length === 0
        ? `Part ${i + 1} of ${count} is missing.`
        : `${found.map(({ path }) => path).join(" and ")} are the same part, ${i + 1} of ${count}.`,
    );
  });
}

/** The comment in a part's file: the order it was made for. */
const partComment = ({ part, stretch, settings, title }: FilmOrder): string =>
  JSON.stringify({ bumbrelPart: part, settings, stretch, title });

/** The order that a part of a film was made for, from its comment; `undefined` for other films. */
export function orderOfPart(comment: string | undefined): FilmOrder | undefined {
  try {
    const { bumbrelPart: part, settings, stretch, title } = JSON.parse(comment ?? "");
    return part ? { part, settings, stretch, title } : undefined;
  } catch {
    return undefined;
  }
}
