import { FILM_FORMATS, type FrameRange, pictureBitsASecond, rateOf } from "@bumbrel/core/document/film/film";
import { FILM_WAV } from "@bumbrel/core/document/film/filmPieces";
import { containerFormat, type FilmContainer } from "@bumbrel/core/format/film/filmFile";
import { framesFile } from "@bumbrel/core/format/film/framesFile";
import { wavData } from "@bumbrel/core/format/samples/wav";
import { BufferTarget, canEncodeVideo, Output, VideoSample, VideoSampleSource } from "mediabunny";
import { NoEncoder, soundEncoder } from "../sound/encodeSound";
import type { FilmScene } from "./filmScene";
import { filmSound } from "./filmSound";

/** Lets others stop the work, or hold it for a while, between frames. */
export interface Pace {
  /** Resolves when the next frame may be made. @throws the reason why none may be made any more */
  next(): Promise<void>;
}

/**
 * Renders and encodes a run of frames by themselves: what comes out does not depend on what was rendered before.
 *
 * @param onFrame  called after each frame
 * @returns a film of these frames without sound, or images in a ZIP file
 * @throws NoEncoder when this browser cannot encode them
 */
export async function encodeFrames(
  film: FilmScene,
  range: FrameRange,
  pace: Pace,
  onFrame: () => void,
): Promise<Uint8Array> {
  const { picture } = FILM_FORMATS[film.settings.format];
  await film.begin(range.from);
  return "image" in picture
    ? imagesOf(film, range, picture.image, pace, onFrame)
    : videoOf(film, range, picture.codec, pace, onFrame);
}

async function videoOf(
  film: FilmScene,
  { from, to }: FrameRange,
  codec: "avc" | "vp9" | "av1",
  pace: Pace,
  onFrame: () => void,
): Promise<Uint8Array> {
  const { settings, canvas } = film;
  const { isClear, extension } = FILM_FORMATS[settings.format];
  const fps = rateOf(settings);
  const { width, height } = canvas;
  const bitrate = pictureBitsASecond(settings);
  if (!(await canEncodeVideo(codec, { width, height, bitrate }))) {
    throw new NoEncoder(
      `This browser cannot encode ${NAMES[codec]} at ${width} × ${height}. Choose another file or a smaller size.`,
    );
  }
  const target = new BufferTarget();
  const output = new Output({ format: containerFormat(extension as FilmContainer), target });
  const source = new VideoSampleSource({
    codec,
    bitrate,
    latencyMode: "quality",
    // The same on every machine: parts of a film may be encoded on several.
    hardwareAcceleration: "prefer-software",
    keyFrameInterval: Number.MAX_SAFE_INTEGER,
    alpha: isClear ? "keep" : "discard",
  });
  output.addVideoTrack(source, { frameRate: fps });
  await output.start();
  try {
    for (let frame = from; frame < to; frame++) {
      await pace.next();
      await film.draw(frame);
      const sample = new VideoSample(canvas, { timestamp: (frame - from) / fps, duration: 1 / fps });
      await source.add(sample);
      sample.close();
      onFrame();
    }
    await output.finalize();
  } catch (error) {
    await output.cancel();
    throw error;
  }
  return new Uint8Array(target.buffer!);
}

const NAMES = { avc: "H.264", vp9: "VP9", av1: "AV1" };

/** Share of an image's quality that is never gone below. */
const LEAST_IMAGE_QUALITY = 0.5;

async function imagesOf(
  film: FilmScene,
  { from, to }: FrameRange,
  image: "png" | "jpeg" | "webp",
  pace: Pace,
  onFrame: () => void,
): Promise<Uint8Array> {
  const images: Uint8Array[] = [];
  for (let frame = from; frame < to; frame++) {
    await pace.next();
    await film.draw(frame);
    images.push(await imageOf(film, image));
    onFrame();
  }
  return framesFile(images, from, image);
}

/** The frame that was drawn last, as a file. */
export async function imageOf(film: FilmScene, image: "png" | "jpeg" | "webp"): Promise<Uint8Array> {
  const { canvas, settings } = film;
  const quality = LEAST_IMAGE_QUALITY + (1 - LEAST_IMAGE_QUALITY) * settings.quality;
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, `image/${image}`, quality));
  if (blob?.type !== `image/${image}`) throw new NoEncoder(`This browser cannot write ${image} images.`);
  return new Uint8Array(await blob.arrayBuffer());
}

/**
 * Mixes and encodes the sound of a film.
 *
 * @param onShare  called with the share of it that is done
 * @returns the sound as a file of its own, whole; samples of a WAV file piece after piece, without its header
 */
export async function* encodeSound(
  film: FilmScene,
  pace: Pace,
  onShare: (share: number) => void,
): AsyncGenerator<Uint8Array> {
  const codec = FILM_FORMATS[film.settings.format].sound;
  let done = 0;
  const encoder = codec === "wav" ? undefined : await soundEncoder(codec, 2, film.plan.samples);
  try {
    for await (const piece of filmSound(film)) {
      await pace.next();
      if (encoder) await encoder.add(piece);
      else yield wavData(piece, FILM_WAV);
      done += piece[0].length;
      onShare(done / film.plan.samples);
    }
    if (encoder) yield await encoder.finish();
  } catch (error) {
    await encoder?.cancel();
    throw error;
  }
}
